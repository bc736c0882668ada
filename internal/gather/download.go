package gather

import (
	"archive/zip"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"slices"

	"ambrosa/core/names"
	"ambrosa/internal/assets"
	"ambrosa/internal/store/query"
)

// filesAtOnce is how many of an archive's files are looked up at a time.
const filesAtOnce = 500

// Ticket is what an archive of lines' pictures is fetched by, within an hour. ErrNothing where none of the lines has a picture.
func (g *Gatherer) Ticket(ctx context.Context, delivery, person int64, arrivals []int64) (ticket string, err error) {
	ticket = rand.Text()
	n, err := g.Store.AddDownload(ctx, query.AddDownloadParams{Ticket: ticket, PersonID: person, DeliveryID: delivery, Arrivals: arrivals})
	if err == nil && n == 0 {
		err = ErrNothing
	}
	return ticket, err
}

// PictureTicket is Ticket for pictures, whatever brought them. ErrNothing where none is here.
func (g *Gatherer) PictureTicket(ctx context.Context, person int64, title string, pictures []int64) (ticket string, err error) {
	ticket = rand.Text()
	n, err := g.Store.AddPictureDownload(ctx, query.AddPictureDownloadParams{Ticket: ticket, PersonID: person, Title: title, Assets: pictures})
	if err == nil && n == 0 {
		err = ErrNothing
	}
	return ticket, err
}

// Download is an archive that waits to be fetched.
type Download struct {
	Title    string
	Pictures []int64 // that were asked for, where they were and not lines
	arrivals []int64
	g        *Gatherer
}

// Download finds an archive by its ticket; pgx.ErrNoRows where it is somebody else's, or too old.
func (g *Gatherer) Download(ctx context.Context, ticket string, person int64) (Download, error) {
	row, err := g.Store.Download(ctx, query.DownloadParams{Ticket: ticket, PersonID: person})
	return Download{Title: row.Title, Pictures: row.Assets, arrivals: row.Arrivals, g: g}, err
}

// WriteTo writes the archive while it reads the pictures, one after the other: none is kept in memory. A picture whose bytes are gone
// is named in a file of the archive.
func (d Download) WriteTo(ctx context.Context, w io.Writer) error {
	z := zip.NewWriter(w)
	var distinct names.Distinct
	var gone []string
	err := d.eachFile(ctx, func(path, sha string) error {
		name := distinct.Name(names.Portable(path))
		err := d.g.pack(ctx, z, name, sha)
		if assets.IsMissing(err) {
			gone, err = append(gone, name), nil
		}
		return err
	})
	if err != nil {
		return err
	}
	if len(gone) > 0 {
		list, err := z.Create(distinct.Name("missing.txt"))
		if err != nil {
			return err
		}
		for _, name := range gone {
			if _, err := fmt.Fprintln(list, name); err != nil {
				return err
			}
		}
	}
	return z.Close()
}

// eachFile tells what the archive holds, some at a time.
func (d Download) eachFile(ctx context.Context, use func(path, sha string) error) error {
	for some := range slices.Chunk(d.arrivals, filesAtOnce) {
		files, err := d.g.Store.DownloadFiles(ctx, some)
		if err != nil {
			return err
		}
		for _, f := range files {
			if err := use(f.Path, f.Sha); err != nil {
				return err
			}
		}
	}
	for some := range slices.Chunk(d.Pictures, filesAtOnce) {
		files, err := d.g.Store.DownloadPictures(ctx, some)
		if err != nil {
			return err
		}
		for _, f := range files {
			if err := use(f.Path, f.Sha); err != nil {
				return err
			}
		}
	}
	return nil
}

// pack stores one picture as it is: pictures are packed already.
func (g *Gatherer) pack(ctx context.Context, z *zip.Writer, name, sha string) error {
	r, _, err := g.Vault.Open(ctx, assets.OriginalKey(sha))
	if err != nil {
		return err
	}
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store})
	if err == nil {
		_, err = io.Copy(w, r)
	}
	return errors.Join(err, r.Close())
}

// ClearDownloads removes tickets that nobody can use any more.
func (g *Gatherer) ClearDownloads(ctx context.Context) error { return g.Store.ClearDownloads(ctx) }
