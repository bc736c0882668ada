package publish

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"ambrosa/core/channel"
	"ambrosa/internal/assets"
	"ambrosa/internal/store/query"
)

// packed is the time that all files of a package have, so that the same state makes the same bytes: the first that a zip can say.
// Source: APPNOTE.TXT 6.3.10 (PKWARE), 4.4.6.
var packed = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

const (
	readme = "README.txt"
	// utf8Names says that names are UTF-8. Source: APPNOTE.TXT 6.3.10, 4.4.4, bit 11.
	utf8Names = 0x800
	// versionNeeded is 2.0. Source: APPNOTE.TXT 6.3.10, 4.4.3.
	versionNeeded = 20
)

// Package writes what stands in a channel as a zip: nothing is packed anew, as pictures are already, so their bytes are copied. The same state
// makes the same bytes. It streams: memory does not grow with it. Errors: ErrNoPackage, pgx.ErrNoRows.
func (p *Publish) Package(ctx context.Context, id int64, to io.Writer) error {
	c, err := p.ByID(ctx, id)
	if err != nil {
		return err
	}
	row, err := p.Store.ChannelByID(ctx, id)
	if err != nil {
		return err
	}
	if !c.IsPackage() || row.Files == 0 {
		return ErrNoPackage
	}
	w := zip.NewWriter(to)
	head := &zip.FileHeader{Name: readme, Method: zip.Store, Modified: packed}
	out, err := w.CreateHeader(head)
	if err != nil {
		return err
	}
	if _, err := io.WriteString(out, c.readme(row.Files, row.Bytes)); err != nil {
		return err
	}
	buffer := make([]byte, 256<<10)
	at := query.PackagedFilesParams{Channel: id, Most: page}
	for {
		rows, err := p.Store.PackagedFiles(ctx, at)
		if err != nil {
			return err
		}
		for _, r := range rows {
			if err := p.pack(ctx, c, w, r, buffer); err != nil {
				return fmt.Errorf("%s: %w", r.Path, err)
			}
			at.After = r.Path
		}
		if len(rows) < page {
			return w.Close()
		}
	}
}

// pack copies one file into the package. What was lost of what was made is made again.
func (p *Publish) pack(ctx context.Context, c Channel, w *zip.Writer, r query.PackagedFilesRow, buffer []byte) error {
	in, size, err := p.Vault.Open(ctx, assets.RenditionKey(r.Key))
	if assets.IsMissing(err) {
		trouble, err := p.made(ctx, c, []string{r.Key})
		if err != nil {
			return err
		}
		if why, is := trouble[r.Key]; is {
			return fmt.Errorf("it was lost: %s", why.Text())
		}
		in, size, err = p.Vault.Open(ctx, assets.RenditionKey(r.Key))
		if err != nil {
			return err
		}
	} else if err != nil {
		return err
	}
	defer in.Close()
	if size != r.Bytes {
		return fmt.Errorf("it has %d bytes and was made with %d", size, r.Bytes)
	}
	h := &zip.FileHeader{Name: r.Path, Method: zip.Store, CRC32: uint32(r.Crc), CompressedSize64: uint64(size), UncompressedSize64: uint64(size), Flags: utf8Names,
		CreatorVersion: versionNeeded, ReaderVersion: versionNeeded}
	//lint:ignore SA1019 what is copied raw gets its date from these two alone
	h.ModifiedDate, h.ModifiedTime = dosDate, 0
	out, err := w.CreateRaw(h)
	if err != nil {
		return err
	}
	_, err = io.CopyBuffer(struct{ io.Writer }{out}, struct{ io.Reader }{in}, buffer)
	return err
}

// dosDate is packed as a zip says it: day 1 of month 1 of the first year.
const dosDate = 1<<5 | 1

// readme says what is in the package, in plain English. It holds no date, as the same state makes the same bytes.
func (c Channel) readme(files, bytes int64) string {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\r\n", args...) }
	line("%s", c.Name)
	line("")
	line("%d files, %d bytes, beside this one.", files, bytes)
	line("")
	line("Sizes of each picture:")
	for _, r := range c.Renditions {
		line("  %s: %s, %s, %s", r.Name, r.Size, r.Fit, r.Format)
	}
	line("A picture that has fewer pixels is not enlarged: it has its own size.")
	line("Names: %s", c.Path)
	if l := c.List; l != nil {
		line("")
		each := "one row a picture"
		if l.PerOwner {
			each = "one row a product, variant or category"
		}
		line("List: %s, %s. Columns:", l.Name, each)
		for _, column := range l.Columns {
			line("  %s: %s", column.Header, says(column))
		}
	}
	return b.String()
}

func says(c channel.Column) string {
	switch {
	case c.Text != "":
		return fmt.Sprintf("always %q", c.Text)
	case c.Field == "" || c.Field == "text":
		return "empty"
	case c.Size != "":
		return c.Field + ", size " + c.Size
	}
	return c.Field
}
