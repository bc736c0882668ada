package gather

import (
	"archive/zip"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"

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
	arrivals []int64
	g        *Gatherer
}

// Download finds an archive by its ticket; pgx.ErrNoRows where it is somebody else's, or too old.
func (g *Gatherer) Download(ctx context.Context, ticket string, person int64) (Download, error) {
	row, err := g.Store.Download(ctx, query.DownloadParams{Ticket: ticket, PersonID: person})
	return Download{Title: row.Title, arrivals: row.Arrivals, g: g}, err
}

// WriteTo writes the archive while it reads the pictures, one after the other: none is kept in memory. A picture whose bytes are gone
// is named in a file of the archive.
func (d Download) WriteTo(ctx context.Context, w io.Writer) error {
	z := zip.NewWriter(w)
	var distinct names.Distinct
	var gone []string
	for arrivals := d.arrivals; len(arrivals) > 0; {
		n := min(filesAtOnce, len(arrivals))
		files, err := d.g.Store.DownloadFiles(ctx, arrivals[:n])
		if err != nil {
			return err
		}
		for _, f := range files {
			name := distinct.Name(names.Portable(f.Path))
			if err := d.g.pack(ctx, z, name, f.Sha); assets.IsMissing(err) {
				gone = append(gone, name)
			} else if err != nil {
				return err
			}
		}
		arrivals = arrivals[n:]
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
