package publish

import (
	"context"
	"errors"
	"sync"

	"ambrosa/core/change"
	"ambrosa/core/channel"
	"ambrosa/core/message"
	"ambrosa/internal/assets"
	"ambrosa/internal/drive"
	"ambrosa/internal/killpoint"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"
)

const (
	// sendLock is the first number of the advisory locks under which files are sent to a channel, one run at a time.
	sendLock = 954
	// connections is how many files are sent at once.
	connections = 4
)

// line is a change of a channel's file.
type line struct {
	change.Change
	slot          query.ChannelFilesRow
	before, after channel.Filed
}

// Send makes files and brings them to where their channels have them. Files of one channel are sent by one run at a time.
func (p *Publish) Send(ctx context.Context, changes []change.Change) (left []ledger.Left, err error) {
	rows, err := p.Store.ChannelFiles(ctx, change.IDs(changes))
	if err != nil {
		return nil, err
	}
	slot := make(map[int64]query.ChannelFilesRow, len(rows))
	for _, r := range rows {
		slot[r.ID] = r
	}
	of := map[int64][]line{}
	for _, c := range changes {
		l := line{Change: c, slot: slot[c.ID], before: channel.ReadFiled(c.Before), after: channel.ReadFiled(c.After)}
		of[l.slot.ChannelID] = append(of[l.slot.ChannelID], l)
	}
	for id, lines := range of {
		c, err := p.ByID(ctx, id)
		if errors.Is(err, pgx.ErrNoRows) {
			left = append(left, leave(lines, message.New("publish_channel_gone"))...)
			continue
		}
		if err != nil {
			return nil, err
		}
		err = p.Store.Tx(ctx, func(_ *query.Queries, tx pgx.Tx) error {
			if _, err := tx.Exec(ctx, "SELECT pg_advisory_xact_lock($1, $2)", sendLock, int32(id)); err != nil {
				return err
			}
			some, err := p.send(ctx, c, lines)
			left = append(left, some...)
			return err
		})
		if err != nil {
			return nil, err
		}
	}
	return left, nil
}

func leave(lines []line, why message.Message) (left []ledger.Left) {
	for _, l := range lines {
		left = append(left, ledger.Left{Seq: l.Seq, Message: why})
	}
	return left
}

// send does the lines of one channel: what may not go any more is left alone, the rest is made and sent.
func (p *Publish) send(ctx context.Context, c Channel, lines []line) (left []ledger.Left, err error) {
	lines, left, err = p.allowed(ctx, c, lines)
	if err != nil {
		return nil, err
	}
	var keys []string
	for _, l := range lines {
		if l.after.Path != "" {
			keys = append(keys, l.after.Key)
		}
	}
	trouble, err := p.made(ctx, c, keys)
	if err != nil {
		return nil, err
	}
	killpoint.Pass(killpoint.RenditionsMade)
	var can []line
	for _, l := range lines {
		if why, is := trouble[l.after.Key]; is && l.after.Path != "" {
			left = append(left, ledger.Left{Seq: l.Seq, Message: why})
		} else {
			can = append(can, l)
		}
	}
	if c.IsPackage() || len(can) == 0 {
		return left, nil
	}
	more, err := p.transfer(ctx, c, can)
	return append(left, more...), err
}

// allowed leaves alone what may not be published any more: rights may have ended since the plan was made. Who let a line go let it go.
func (p *Publish) allowed(ctx context.Context, c Channel, lines []line) (can []line, left []ledger.Left, err error) {
	var ids []int64
	for _, l := range lines {
		if l.after.Asset != 0 {
			ids = append(ids, l.after.Asset)
		}
	}
	may, err := pictures.Rights(ctx, p.Store.Queries, ids)
	if err != nil {
		return nil, nil, err
	}
	for _, l := range lines {
		why, holds := channel.Publishes(may[l.after.Asset], today(), c.ClearedOnly)
		if l.after.Asset != 0 && holds && l.after.Let != why.Code {
			left = append(left, ledger.Left{Seq: l.Seq, Message: why})
		} else {
			can = append(can, l)
		}
	}
	return can, left, nil
}

// transfer brings lines to a drive, several at once. A drive that is full, refuses or does not answer ends the run, which can go on later; what is
// wrong with one file leaves its line alone.
func (p *Publish) transfer(ctx context.Context, c Channel, lines []line) (left []ledger.Left, err error) {
	d, err := p.open(ctx, c)
	if err != nil {
		return nil, err
	}
	defer d.Close()
	var paths []string
	for _, l := range lines {
		paths = append(paths, l.before.Path, l.after.Path)
	}
	rows, err := p.Store.StandAt(ctx, query.StandAtParams{Channel: c.ID, Paths: paths})
	if err != nil {
		return nil, err
	}
	t := &transferring{Publish: p, channel: c, drive: d, stand: map[string][]int64{}}
	for _, r := range rows {
		t.stand[r.Path] = append(t.stand[r.Path], r.ID)
	}
	for _, l := range lines {
		t.stand[l.after.Path] = append(t.stand[l.after.Path], l.ID)
	}
	var mu sync.Mutex
	group, inner := errgroup.WithContext(ctx)
	group.SetLimit(connections)
	for _, l := range lines {
		group.Go(func() error {
			err := t.one(inner, l)
			var says *message.Error
			switch {
			case err == nil, inner.Err() != nil:
				return err
			case stops(err):
				return told(err, c.Name)
			case !errors.As(err, &says):
				says = &message.Error{Message: message.New("publish_failed", "why", err.Error())}
			}
			mu.Lock()
			defer mu.Unlock()
			left = append(left, ledger.Left{Seq: l.Seq, Message: says.Message})
			return nil
		})
	}
	return left, group.Wait()
}

// stops reports whether an error is of the drive, or of this house, and not of one file.
func stops(err error) bool {
	for _, of := range []error{drive.ErrFull, drive.ErrDenied, drive.ErrNoAnswer, drive.ErrSignIn, drive.ErrHostKey, drive.ErrCertificate, assets.ErrVault} {
		if errors.Is(err, of) {
			return true
		}
	}
	return false
}

type transferring struct {
	*Publish
	channel Channel
	drive   *drive.Drive
	stand   map[string][]int64 // by path: which slots stand there, or will
}

// others reports whether another slot stands at a path.
func (t *transferring) others(path string, slot int64) bool {
	for _, id := range t.stand[path] {
		if id != slot {
			return true
		}
	}
	return false
}

// one does one line. Doing it twice does no harm. Nothing is renamed from or to, and nothing removed, where another file of the channel stands:
// files may exchange their names.
func (t *transferring) one(ctx context.Context, l line) error {
	from, to := l.before, l.after
	switch {
	case to.Path == "":
		return t.remove(ctx, l, from.Path)
	case from.Path != "" && from.Path != to.Path && from.Key == to.Key && !to.Again && !t.others(from.Path, l.ID) && !t.others(to.Path, l.ID):
		renamed, err := t.drive.Rename(ctx, t.channel.at(from.Path), t.channel.at(to.Path))
		if renamed || err != nil && !errors.Is(err, drive.ErrNoFolder) {
			return err
		}
	}
	if err := t.put(ctx, to); err != nil {
		return err
	}
	if from.Path != "" && from.Path != to.Path {
		return t.remove(ctx, l, from.Path)
	}
	return nil
}

func (t *transferring) put(ctx context.Context, f channel.Filed) error {
	r, size, err := t.Vault.Open(ctx, assets.RenditionKey(f.Key))
	if err != nil {
		return err
	}
	defer r.Close()
	_, err = t.drive.Put(ctx, t.channel.at(f.Path), size, r)
	killpoint.Pass(killpoint.FileSent)
	return err
}

// remove removes what this channel put there: what has another size by now somebody else did.
func (t *transferring) remove(ctx context.Context, l line, path string) error {
	if t.others(path, l.ID) {
		return nil
	}
	f, err := t.drive.Find(ctx, t.channel.at(path))
	if errors.Is(err, drive.ErrNoFolder) {
		return nil
	}
	if err != nil {
		return err
	}
	if f.Bytes >= 0 && f.Bytes != l.slot.Bytes && l.slot.Path == path {
		return &message.Error{Message: message.New("publish_not_ours", "path", path)}
	}
	return t.drive.Remove(ctx, t.channel.at(path))
}
