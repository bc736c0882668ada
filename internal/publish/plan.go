package publish

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"errors"
	"sync"
	"time"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"
	"ambrosa/core/channel"
	"ambrosa/core/message"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"
)

// What a plan counts beside its states.
const (
	countHeld    = "held"          // files that do not go unless somebody lets them
	countSame    = "same_path"     // files left out, as another has their path
	countLeft    = "left_there"    // files that stand there and are not wanted any more
	countNoAlt   = "no_alt"        // files of pictures without alt text
	countSmaller = "smaller"       // files that are smaller than wished
	countOver    = "held_standing" // files that stand there and may not go any more
)

// standsThere holds what would replace a file that this channel did not put there.
var standsThere = message.New("publish_stands_there")

// mostProblems is how many files that are left out a plan names.
const mostProblems = 1000

func today() string { return time.Now().Format(time.DateOnly) }

// planning is a plan on its way. Memory grows with its lines, and with the channel's files: a few tens of bytes each.
type planning struct {
	*Publish
	channel  Channel
	wanter   *channel.Wanter
	listing  *listing // nil where no list goes with the pictures
	seen     map[int64]bool
	changes  []change.Change
	removals []change.Change
	held     []ledger.Hold // Seq is the place in changes, from 1
	counts   map[string]int
	problems []catalogue.Problem
	left     []catalogue.Problem // files whose path another has, as many as twice says or the first of them
	twice    int
	mu       sync.Mutex // over done
	done     int64
}

// work says what would go: it looks into the channel's folder, compares what stands with what is wanted, and keeps that as a plan, which it runs
// where that was asked for.
func (p *Publish) work(ctx context.Context, id int64) error {
	row, err := p.Store.ChannelByID(ctx, id)
	if err != nil {
		return err
	}
	c, err := read(row)
	if err != nil {
		return err
	}
	job, err := p.Store.JobOf(ctx, query.JobOfParams{Kind: Work, Subject: id})
	if err != nil {
		return err
	}
	person := row.CreatedBy
	if job.AskedBy != nil {
		person = *job.AskedBy
	}
	plan := &planning{Publish: p, channel: c, seen: map[int64]bool{}, counts: map[string]int{}}
	if plan.wanter, err = channel.NewWanter(c.Channel, today()); err != nil {
		return err
	}
	if c.List != nil {
		plan.listing, err = plan.newListing(ctx, c)
		if plan.listing != nil {
			defer plan.listing.end()
		}
		if err != nil {
			return err
		}
	}
	// The catalogue is read, and the list written, while the folder is listed.
	group, inner := errgroup.WithContext(ctx)
	listed, read := make(chan struct{}), make(chan wants, ahead)
	group.Go(func() error {
		defer close(listed)
		return plan.lookThere(inner)
	})
	group.Go(func() error {
		defer close(read)
		return plan.read(inner, read)
	})
	group.Go(func() error {
		<-listed
		return plan.compare(inner, read)
	})
	if err := group.Wait(); err != nil {
		return err
	}
	return plan.keep(ctx, person, row.Runs)
}

// ahead is how many times some owners are read before they are compared.
const ahead = 12

// read reads the owners of the channel, and the next of them while the files of the last are found.
func (pl *planning) read(ctx context.Context, into chan<- wants) error {
	group, ctx := errgroup.WithContext(ctx)
	walked := make(chan []channel.Owner, 1)
	group.Go(func() error {
		defer close(walked)
		return pl.walk(ctx, pl.channel, func(owners []channel.Owner) error { return send(ctx, walked, owners) })
	})
	group.Go(func() error {
		for owners := range walked {
			wants, err := pl.wants(ctx, pl.channel, pl.wanter, owners, pl.same)
			if err != nil {
				return err
			}
			for i := 0; i < len(owners) && pl.listing != nil; i++ {
				if err := pl.listing.add(owners[i], wants.going(i)); err != nil {
					return err
				}
			}
			if err := send(ctx, into, wants); err != nil {
				return err
			}
		}
		return nil
	})
	return group.Wait()
}

func send[T any](ctx context.Context, into chan<- T, what T) error {
	select {
	case into <- what:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// step tells how far it is. jobs.ErrStopped where somebody asked it to stop.
func (pl *planning) step(ctx context.Context, more int64) error {
	pl.mu.Lock() // the folder is listed at the same time
	defer pl.mu.Unlock()
	pl.done += more
	return pl.Jobs.StepWith(ctx, Work, pl.channel.ID, pl.done, 0, nil)
}

// beside says what becomes of the files of some owners. What is to be made is said before it is, so that nothing clears it meanwhile.
func (pl *planning) beside(ctx context.Context, some wants) error {
	there, err := pl.thereAt(ctx, some)
	if err != nil {
		return err
	}
	n := int64(0)
	fresh := make(wants, 1)
	for _, files := range some {
		for _, w := range files {
			if state := pl.one(w, there); state == channel.New || state == channel.Changed {
				fresh[0] = append(fresh[0], w)
			}
			n++
		}
	}
	return errors.Join(pl.wantRenditions(ctx, fresh), pl.step(ctx, n))
}

// compare puts what is wanted beside what stands.
func (pl *planning) compare(ctx context.Context, read <-chan wants) error {
	for some := range read {
		if err := pl.beside(ctx, some); err != nil {
			return err
		}
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	if err := pl.unwanted(ctx); err != nil || pl.listing == nil {
		return err
	}
	return pl.list(ctx, pl.listing)
}

// same notes a file that is left out, as another has its path. It is called by who reads.
func (pl *planning) same(f channel.File) {
	if pl.twice++; len(pl.left) < mostProblems {
		pl.left = append(pl.left, catalogue.Problem{Message: message.New("publish_same_path", "path", f.Path)})
	}
}

// one says what becomes of a file that is wanted.
func (pl *planning) one(w want, there map[string]int64) channel.State {
	pl.seen[w.stands.ID] = true
	stands := channel.Stands{Path: w.stands.Path, Key: w.stands.Key, Bytes: w.stands.Bytes}
	held := w.file.Held
	if w.let() {
		held = message.Message{}
	}
	for _, s := range w.file.Says {
		switch s.Code {
		case "publish_no_alt":
			pl.counts[countNoAlt]++
		case "publish_own_size":
			pl.counts[countSmaller]++
		}
	}
	if held.Code != "" && stands.Path != "" && w.file.Held.Code != "publish_other_case" {
		pl.over(w, held)
		return channel.Unchanged
	}
	state := channel.Become(stands, w.file, pl.thereOf(stands, there))
	after := channel.Filed{Path: w.file.Path, Key: w.file.Key, Owner: w.file.Owner, Asset: w.file.Asset, Size: w.file.Size, Says: w.file.Says}
	if w.let() {
		after.Let = w.stands.Let
	}
	if state != channel.Unchanged && held.Code == "" && w.foreign(there) {
		held = standsThere
	}
	pl.become(state, w, after, held)
	return state
}

// over says what becomes of a file that stands there and may not any more.
func (pl *planning) over(w want, why message.Message) {
	if !pl.channel.Removes {
		pl.counts[countOver]++
		if len(pl.problems) < mostProblems {
			pl.problems = append(pl.problems, catalogue.Problem{Kept: true, Message: message.New("publish_stands_held", "path", w.stands.Path, "why", why.Text())})
		}
		return
	}
	pl.remove(w.stands.ID, w.filed())
}

func (pl *planning) remove(id int64, stands channel.Filed) {
	pl.counts[string(channel.Removed)]++
	pl.removals = append(pl.removals, change.Change{Subject: subjectOf(stands), ID: id, Before: stands.JSON()})
}

// become counts what becomes of a file, and notes the change where it is one, and by what that is held.
func (pl *planning) become(state channel.State, w want, after channel.Filed, held message.Message) {
	pl.counts[string(state)]++
	if state == channel.Unchanged {
		return
	}
	after.Again = state == channel.Changed && w.stands.Key == after.Key
	if held.Code != "" {
		after.Let = held.Code
		pl.counts[countHeld]++
		pl.held = append(pl.held, ledger.Hold{Seq: int32(len(pl.changes) + 1), Message: held})
	}
	pl.changes = append(pl.changes, change.Change{Subject: subjectOf(after), ID: w.stands.ID, Before: w.filed().JSON(), After: after.JSON()})
}

// foreign reports whether a file would be put where one stands that this channel did not put there.
func (w want) foreign(there map[string]int64) bool {
	_, is := there[w.file.Path]
	return is && w.file.Path != w.stands.Path && !w.ours
}

// subjectOf is the subject of a file's change: the list's has no owner.
func subjectOf(f channel.Filed) string {
	if f.Owner == 0 {
		return channel.ListSubject
	}
	return channel.Subject
}

// unwanted says what becomes of files that stand and that nothing wants any more.
func (pl *planning) unwanted(ctx context.Context) error {
	at := query.ChannelFilesStandingParams{Channel: pl.channel.ID, Most: page}
	for {
		rows, err := pl.Store.ChannelFilesStanding(ctx, at)
		if err != nil {
			return err
		}
		for _, r := range rows {
			at.After = r.ID
			switch {
			case pl.seen[r.ID], r.OwnerID == 0 && pl.channel.List != nil:
			case pl.channel.Removes:
				pl.remove(r.ID, channel.Filed{Path: r.Path, Key: r.Key, Let: r.Let, Owner: r.OwnerID, Asset: r.AssetID, Size: r.Size})
			default:
				pl.counts[countLeft]++
			}
		}
		if len(rows) < page {
			return nil
		}
	}
}

// list says what becomes of the list. What it will hold is decided when it is its turn: what stands then. So it comes behind the pictures.
func (pl *planning) list(ctx context.Context, l *listing) error {
	sum, err := l.close()
	if err != nil {
		return err
	}
	slot := query.EnsureChannelFilesParams{Channel: pl.channel.ID, Owners: []int64{0}, Assets: []int64{0}, Sizes: []string{""}}
	rows, err := pl.Store.EnsureChannelFiles(ctx, slot)
	if err != nil {
		return err
	}
	r := rows[0]
	if l.n == 0 && r.Path == "" {
		return nil
	}
	has := ""
	if r.Path != "" {
		if has, err = pl.Store.RenditionSum(ctx, r.Key); err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
	}
	asked := wants{{{stands: r, file: channel.File{Path: l.channel.List.Name}}}}
	there, err := pl.thereAt(ctx, asked)
	if err != nil {
		return err
	}
	after := channel.Filed{Path: l.channel.List.Name, Key: r.Key}
	if has != sum {
		b := make([]byte, sha256Size)
		_, _ = rand.Read(b) // it never fails
		after.Key = hex.EncodeToString(b)
		if err := pl.Store.WantRenditions(ctx, query.WantRenditionsParams{Keys: []string{after.Key}, Recipes: []string{"null"}, Assets: []int64{0}}); err != nil {
			return err
		}
	}
	stands := channel.Stands{Path: r.Path, Key: r.Key, Bytes: r.Bytes}
	held := message.Message{}
	if asked[0][0].foreign(there) {
		held = standsThere
	}
	pl.become(channel.Become(stands, channel.File{Path: after.Path, Key: after.Key}, pl.thereOf(stands, there)), asked[0][0], after, held)
	return nil
}

const (
	page       = 2000
	sha256Size = 32
)

// keep keeps the plan, and runs it where that was asked for. What is removed there goes last, when the list does not name it any more.
func (pl *planning) keep(ctx context.Context, person int64, run bool) error {
	pl.changes = append(pl.changes, pl.removals...)
	if pl.twice > 0 {
		pl.counts[countSame] = pl.twice
		pl.problems = append(pl.left, pl.problems...)
	}
	draft := ledger.Draft{Kind: PlanKind, Title: pl.channel.Name, Source: map[string]any{"channel": pl.channel.ID}, Counts: pl.counts, Held: pl.held, Person: person}
	if len(pl.problems) > 0 {
		draft.Problems = pl.problems
	}
	counts, err := json.Marshal(pl.counts)
	if err != nil {
		return err
	}
	var plan *int64
	err = pl.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		id, err := pl.Ledger.KeepIn(ctx, q, draft, pl.changes)
		if err == nil {
			plan = &id
		} else if !errors.Is(err, ledger.ErrNothingToDo) {
			return err
		}
		if err := q.SetPlanned(ctx, query.SetPlannedParams{ID: pl.channel.ID, Plan: plan, Counts: counts}); err != nil {
			return err
		}
		if run && plan != nil && len(pl.changes) > 0 {
			if _, err := pl.Ledger.ApplyIn(ctx, q, tx, *plan, person); err != nil {
				return err
			}
		}
		return pl.Jobs.Finish(ctx, q, tx, Work, pl.channel.ID)
	})
	return err
}
