// Package photo reads what photos say of themselves: the bar codes that stand in them, and when and by which camera they were taken.
package photo

import (
	"context"
	"errors"
	"math"
	"strings"
	"time"

	"ambrosa/core/symbol"
	"ambrosa/internal/assets"
	"ambrosa/internal/behind"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/symbols"

	"github.com/jackc/pgx/v5"
)

// Work is the kind of job that reads.
const Work = "photos"

// version is that of what is read: a photo that an older one read is read again.
const version = 1

const (
	// beside is how many are read, each time the clock asks, while pictures come in.
	beside = 2
	// mostText is how many bytes of a code's text are kept.
	mostText = 4096
)

// Photos does it.
type Photos struct {
	Store     *store.Store
	Jobs      *jobs.Jobs
	Vault     *assets.Vault
	Reader    *symbols.Reader
	MaxPixels int64
}

// Register makes its work known.
func (p *Photos) Register() {
	p.Jobs.Register(jobs.Kind{Name: Work, Unit: "pictures", Every: 15 * time.Second, Work: func(ctx context.Context, _ int64) error { return p.Read(ctx) }})
}

// Arrived asks for the photos of a delivery that was taken in, in its transaction.
func (p *Photos) Arrived(ctx context.Context, q *query.Queries, tx pgx.Tx) error {
	return p.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work})
}

// Read reads the photos that this version did not read yet, the newest first. One that can't be read keeps why. Cost: some 0.2 s of one core for four
// million pixels.
func (p *Photos) Read(ctx context.Context) error {
	return behind.Work[seen]{Jobs: p.Jobs, Kind: Work, Beside: beside, One: p.look, Keep: keep,
		Left: func(ctx context.Context) (int64, error) { return p.Store.CountUnreadPhotos(ctx, version) },
		Next: func(ctx context.Context, done int64, most int32) ([]behind.Picture, error) {
			if done == 0 {
				done = math.MaxInt64
			}
			rows, err := p.Store.UnreadPhotos(ctx, query.UnreadPhotosParams{Version: version, Before: done, Most: most})
			all := make([]behind.Picture, len(rows))
			for i, r := range rows {
				all[i] = behind.Picture{ID: r.ID, Sha: r.Sha}
			}
			return all, err
		}}.Do(ctx)
}

// seen is what one photo says.
type seen struct {
	id      int64
	codes   []symbol.Symbol
	taken   string // as the database writes it; empty where nobody says
	camera  string
	trouble string
}

func (p *Photos) look(ctx context.Context, of behind.Picture) (s seen, err error) {
	s.id = of.ID
	s.trouble, err = behind.Open(ctx, p.Vault, of.Sha, func(src assets.Source) (err error) {
		taking := assets.ReadMetadata(src).Taking()
		s.camera = taking.Camera
		if !taking.At.IsZero() {
			s.taken = taking.At.Format("2006-01-02 15:04:05.999999")
		}
		s.codes, err = symbols.InPicture(ctx, p.Reader, src, p.MaxPixels)
		return err
	})
	if errors.Is(err, symbols.ErrReader) {
		s.trouble, err = "unreadable", nil
	}
	return s, err
}

// keep keeps what photos say, and tells the deliveries that they came with, where that is more than before: those with codes, and, behind the last
// ones, all.
func keep(ctx context.Context, q *query.Queries, tx pgx.Tx, all []seen, last bool) error {
	photos := query.PutPhotosParams{Version: version}
	var codes query.AddPhotoCodesParams
	var tell []int64
	for _, s := range all {
		photos.Ids, photos.Taken, photos.Cameras, photos.Troubles = append(photos.Ids, s.id), append(photos.Taken, s.taken), append(photos.Cameras, s.camera), append(photos.Troubles, s.trouble)
		if len(s.codes) > 0 || last {
			tell = append(tell, s.id)
		}
		for n, c := range s.codes {
			codes.Ids, codes.Ns, codes.Formats, codes.Texts = append(codes.Ids, s.id), append(codes.Ns, int32(n)), append(codes.Formats, string(c.Format)), append(codes.Texts, kept(c.Text))
			codes.Gtins = append(codes.Gtins, c.GTIN())
			codes.Xs, codes.Ys = append(codes.Xs, int32(c.Box.X)), append(codes.Ys, int32(c.Box.Y))
			codes.Widths, codes.Heights = append(codes.Widths, int32(c.Box.Width)), append(codes.Heights, int32(c.Box.Height))
		}
	}
	if err := q.PutPhotos(ctx, photos); err != nil {
		return err
	}
	if err := q.DropPhotoCodes(ctx, photos.Ids); err != nil {
		return err
	}
	if err := q.AddPhotoCodes(ctx, codes); err != nil {
		return err
	}
	if len(tell) == 0 {
		return nil
	}
	deliveries, err := q.TouchPhotographed(ctx, tell)
	if err != nil {
		return err
	}
	for _, d := range deliveries {
		if err := store.Notify(ctx, tx, store.Topic("bench", d)); err != nil {
			return err
		}
	}
	return nil
}

// kept is a code's text as a database can keep it.
func kept(text string) string {
	text = strings.ReplaceAll(text, "\x00", "\uFFFD")
	if len(text) > mostText {
		text = strings.ToValidUTF8(text[:mostText], "")
	}
	return text
}
