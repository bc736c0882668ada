// Package publish brings pictures and lists to where they are seen: it says what would go to a channel, makes it, sends it, and writes packages.
package publish

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"ambrosa/core/channel"
	"ambrosa/core/message"
	"ambrosa/core/schedule"
	"ambrosa/internal/assets"
	"ambrosa/internal/drive"
	"ambrosa/internal/due"
	"ambrosa/internal/fetch"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/sources"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/wording"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

var (
	// ErrName is returned for a name that another channel has, or for none.
	ErrName = errors.New("a channel needs a name that no other has")
	// ErrBusy is returned where it is being looked at already.
	ErrBusy = errors.New("what would go is being looked at already")
	// ErrNoPackage is returned for the package of a channel that has none: it goes to a drive, or nothing was published.
	ErrNoPackage = errors.New("the channel has no package; publish to it first")
)

// Work is the kind of job that says what would go; its subject is the channel. PlanKind is the kind of its plans.
const (
	Work     = "publishing"
	PlanKind = "publishing"
)

// scheduled is what the clock calls a publication.
const scheduled = "channel"

// Drives are those that sources name.
type Drives interface {
	OpenDrive(ctx context.Context, source int64) (*drive.Drive, error)
}

// Publish keeps channels.
type Publish struct {
	Store     *store.Store
	Jobs      *jobs.Jobs
	Ledger    *ledger.Ledger
	Vault     *assets.Vault
	Wording   *wording.Wording
	Drives    Drives
	MaxPixels int64
	Usual     string // the address of this house, where no admin says another
	// Keeps is for how many days what stood before is kept.
	Keeps func(context.Context) (int, error)
}

// Register registers its work.
func (p *Publish) Register() {
	p.Jobs.Register(jobs.Kind{Name: Work, Unit: "files", Workers: 2, Topic: "channel", Work: p.work})
	p.Jobs.Register(jobs.Kind{Name: "publications_due", Every: 20 * time.Second, Work: func(ctx context.Context, _ int64) error { return p.due(ctx) }})
	p.Jobs.Register(jobs.Kind{Name: "clear_renditions", Every: 24 * time.Hour, Work: func(ctx context.Context, _ int64) error { return p.Clear(ctx) }})
}

// Channel is a channel as it is kept.
type Channel struct {
	ID   int64
	Name string
	channel.Channel
}

func read(c query.Channel) (Channel, error) {
	of := Channel{ID: c.ID, Name: c.Name}
	return of, json.Unmarshal(c.Says, &of.Channel)
}

// ByID is a channel. pgx.ErrNoRows.
func (p *Publish) ByID(ctx context.Context, id int64) (Channel, error) {
	c, err := p.Store.ChannelByID(ctx, id)
	if err != nil {
		return Channel{}, err
	}
	return read(c)
}

// Called is a channel by its name. pgx.ErrNoRows.
func (p *Publish) Called(ctx context.Context, name string) (Channel, error) {
	c, err := p.Store.ChannelCalled(ctx, strings.TrimSpace(name))
	if err != nil {
		return Channel{}, err
	}
	return read(c)
}

// Add adds a channel and returns its number. Errors: ErrName, channel.ErrChannel, sources.ErrNotCollected where its source is no drive.
func (p *Publish) Add(ctx context.Context, person int64, c Channel) (id int64, err error) {
	says, source, err := p.check(ctx, &c)
	if err != nil {
		return 0, err
	}
	id, err = p.Store.AddChannel(ctx, query.AddChannelParams{Name: c.Name, Says: says, Source: source, Person: person})
	return id, taken(err)
}

// Set changes a channel. What stands there stays as it is until it is published to again. Errors: those of Add, pgx.ErrNoRows.
func (p *Publish) Set(ctx context.Context, c Channel) error {
	says, source, err := p.check(ctx, &c)
	if err != nil {
		return err
	}
	n, err := p.Store.SetChannel(ctx, query.SetChannelParams{ID: c.ID, Name: c.Name, Says: says, Source: source})
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return taken(err)
}

const mostName = 200

// cleanName is a name as it is kept; not ok where it is none.
func cleanName(name string) (clean string, ok bool) {
	clean = strings.TrimSpace(name)
	return clean, clean != "" && len(clean) <= mostName && !strings.ContainsAny(clean, "\r\n\x00")
}

func (p *Publish) check(ctx context.Context, c *Channel) (says json.RawMessage, source *int64, err error) {
	ok := false
	if c.Name, ok = cleanName(c.Name); !ok {
		return nil, nil, ErrName
	}
	if err := c.Channel.Check(); err != nil {
		return nil, nil, err
	}
	if c.Source != 0 {
		of, err := p.Store.SourceByID(ctx, c.Source)
		if err != nil {
			return nil, nil, err
		}
		if of.Kind != string(sources.Drive) || of.RemovedAt != nil {
			return nil, nil, fmt.Errorf("%w: files are sent to drives", channel.ErrChannel)
		}
		source = &c.Source
	}
	says, err = json.Marshal(c.Channel)
	return says, source, err
}

func taken(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		return ErrName
	}
	return err
}

// Remove ends a channel, and its public addresses. What it sent stays where it is. pgx.ErrNoRows.
func (p *Publish) Remove(ctx context.Context, id int64) error {
	return p.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		n, err := q.RemoveChannel(ctx, id)
		if err == nil && n == 0 {
			err = pgx.ErrNoRows
		}
		if err != nil {
			return err
		}
		return q.DropSchedule(ctx, query.DropScheduleParams{What: scheduled, Subject: id})
	})
}

// Look asks for a plan of what would go; run has it run at once. Errors: ErrBusy, pgx.ErrNoRows.
func (p *Publish) Look(ctx context.Context, person, id int64, run bool) error {
	return p.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error { return p.look(ctx, q, tx, person, id, run) })
}

func (p *Publish) look(ctx context.Context, q *query.Queries, tx pgx.Tx, person, id int64, run bool) error {
	c, err := q.ChannelByID(ctx, id)
	if err != nil {
		return err
	}
	job, err := q.LockJob(ctx, query.LockJobParams{Kind: Work, Subject: id})
	if err == nil && !jobs.State(job.State).Over() {
		return ErrBusy
	}
	if err != nil && !errors.Is(err, pgx.ErrNoRows) {
		return err
	}
	if err := q.AskPublishing(ctx, query.AskPublishingParams{ID: id, Runs: run}); err != nil {
		return err
	}
	return p.Jobs.Ask(ctx, q, tx, jobs.Job{Kind: Work, Subject: id, Title: c.Name, Person: person})
}

// Schedule has a channel published to by the clock, or no more where each is empty. schedule.ErrSchedule, pgx.ErrNoRows.
func (p *Publish) Schedule(ctx context.Context, id int64, when schedule.Schedule) error {
	if _, err := p.Store.ChannelByID(ctx, id); err != nil {
		return err
	}
	if when.Each == "" {
		return p.Store.DropSchedule(ctx, query.DropScheduleParams{What: scheduled, Subject: id})
	}
	return due.Set(ctx, p.Store.Queries, scheduled, id, when)
}

// due publishes to the channels that are due, in the name of who made each. What is held stays held.
func (p *Publish) due(ctx context.Context) error {
	return p.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		return due.Each(ctx, q, scheduled, func(id int64) error {
			c, err := q.ChannelByID(ctx, id)
			if err == nil {
				err = p.look(ctx, q, tx, c.CreatedBy, id, true)
			}
			if errors.Is(err, ErrBusy) || errors.Is(err, pgx.ErrNoRows) {
				return nil
			}
			return err
		})
	})
}

// open opens a channel's drive. Errors are for people.
func (p *Publish) open(ctx context.Context, c Channel) (*drive.Drive, error) {
	d, err := p.Drives.OpenDrive(ctx, c.Source)
	return d, told(err, c.Name)
}

// told is why a drive can't be written to, for people.
func told(err error, name string) error {
	for _, of := range []struct {
		err  error
		code string
	}{
		{drive.ErrFull, "publish_full"}, {drive.ErrDenied, "publish_denied"}, {sources.ErrNotCollected, "publish_no_drive"}, {sources.ErrHost, "drive_host"},
		{sources.ErrFolder, "drive_folder_refused"}, {fetch.ErrRefused, "drive_refused"}, {drive.ErrSignIn, "drive_sign_in"}, {drive.ErrHostKey, "drive_host_key"},
		{drive.ErrCertificate, "drive_certificate"}, {drive.ErrNoFolder, "drive_no_folder"}, {drive.ErrNoAnswer, "drive_no_answer"},
	} {
		if errors.Is(err, of.err) {
			return &message.Error{Message: message.New(of.code, "source", name, "why", err.Error()), Of: err}
		}
	}
	return err
}

// stale is how many renditions are cleared in one transaction.
const stale = 200

// Clear deletes what was made for channels, which nothing shows any more and no undo reaches.
func (p *Publish) Clear(ctx context.Context) error {
	days, err := p.Keeps(ctx)
	if err != nil {
		return err
	}
	for {
		n := 0
		err := p.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
			keys, err := q.StaleRenditions(ctx, query.StaleRenditionsParams{Days: int32(days), Most: stale})
			if err != nil {
				return err
			}
			for _, k := range keys { // their rows are locked meanwhile: who wants one waits, and has it made again
				if err := p.Vault.DeleteKey(ctx, assets.RenditionKey(fmt.Sprintf("%x", k))); err != nil {
					return err
				}
			}
			n = len(keys)
			return q.DropRenditions(ctx, keys)
		})
		if err != nil || n < stale {
			return err
		}
	}
}
