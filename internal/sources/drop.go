package sources

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"ambrosa/core/names"
	"ambrosa/internal/drop"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive"
	"ambrosa/internal/people"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Usual settings of a drop folder.
const (
	quiet    = 30
	quota    = 50 << 30
	doneFile = "done.txt" // says that all has come
)

var login = regexp.MustCompile(`^[a-z0-9][a-z0-9-]{0,62}$`)

func (s Settings) checkDrop() error {
	if !login.MatchString(s.Login) || s.Quiet < 0 || s.Quota < 0 {
		return fmt.Errorf("%w: a drop folder's name is of small letters, digits and hyphens", ErrSettings)
	}
	return nil
}

// MakeDoor makes a new password for a drop folder; the one before opens it no more. It is told once.
func (s *Sources) MakeDoor(ctx context.Context, by Asker, id int64) (password string, err error) {
	if _, err := s.mine(ctx, by, id); err != nil {
		return "", err
	}
	password = rand.Text()
	hash, err := people.Hash(password)
	if err != nil {
		return "", err
	}
	return password, s.setDoor(ctx, id, hash)
}

// CloseDoor takes a drop folder's password back.
func (s *Sources) CloseDoor(ctx context.Context, by Asker, id int64) error {
	if _, err := s.mine(ctx, by, id); err != nil {
		return err
	}
	return s.setDoor(ctx, id, "")
}

func (s *Sources) setDoor(ctx context.Context, id int64, hash string) error {
	n, err := s.Store.SetSourceDoor(ctx, query.SetSourceDoorParams{ID: id, Door: hash})
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}

// DropFolder is a drop folder that somebody opened.
type DropFolder struct {
	ID    int64
	Dir   string
	Quota int64
}

// EnterDrop opens a drop folder by its name and password. people.ErrSignIn where one is wrong.
func (s *Sources) EnterDrop(ctx context.Context, name, password string) (DropFolder, error) {
	of, err := s.Store.DropSource(ctx, name)
	if errors.Is(err, pgx.ErrNoRows) || err == nil && of.Door == "" {
		return DropFolder{}, people.ErrSignIn
	}
	if err != nil {
		return DropFolder{}, err
	}
	if err := s.doors.right(ctx, password, of.Door); err != nil {
		return DropFolder{}, err
	}
	var set Settings
	if err := json.Unmarshal(of.Settings, &set); err != nil {
		return DropFolder{}, err
	}
	if set.Quota == 0 {
		set.Quota = quota
	}
	return DropFolder{of.ID, s.dropDir(of.ID), set.Quota}, nil
}

func (s *Sources) dropDir(id int64) string { return filepath.Join(s.Drops, strconv.FormatInt(id, 10)) }

// taking begins the name of a folder whose files are a delivery.
const taking = "taking-"

// TakeDrops makes deliveries of what lies in drop folders into which nothing has come for a while, or that are said to be done.
func (s *Sources) TakeDrops(ctx context.Context) error {
	all, err := s.Store.DropSources(ctx)
	if err != nil {
		return err
	}
	for _, of := range all {
		var set Settings
		if err := json.Unmarshal(of.Settings, &set); err != nil {
			return err
		}
		if set.Quiet == 0 {
			set.Quiet = quiet
		}
		dir := s.dropDir(of.ID)
		if err := s.tidyDrop(ctx, of.ID, dir); err != nil {
			return err
		}
		files, done, err := lies(filepath.Join(dir, drop.In))
		if err != nil || len(files) == 0 || drop.Coming(dir) || !done && time.Since(drop.LastCame(dir)) < time.Duration(set.Quiet)*time.Second {
			if err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
			continue
		}
		if err := s.takeDrop(ctx, of, dir); err != nil {
			return err
		}
	}
	return nil
}

// lies tells the files below a folder, and whether one says that all has come. Litter of desktops is none.
func lies(dir string) (files []string, done bool, err error) {
	err = filepath.WalkDir(dir, func(at string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		path, err := filepath.Rel(dir, at)
		switch {
		case err != nil:
			return err
		case !d.Type().IsRegular():
		case strings.EqualFold(path, doneFile):
			done = true
		case names.Read(filepath.ToSlash(path)).Litter == "":
			files = append(files, filepath.ToSlash(path))
		}
		return nil
	})
	slices.Sort(files)
	return files, done, err
}

// takeDrop makes a delivery of what lies in a drop folder: the folder is put aside under the delivery's eyes, and an empty one takes its place.
func (s *Sources) takeDrop(ctx context.Context, of query.DropSourcesRow, dir string) error {
	aside := taking + strconv.FormatInt(time.Now().UnixNano(), 36)
	return s.Store.Tx(ctx, func(q *query.Queries, tx pgx.Tx) error {
		if _, err := q.LockSource(ctx, of.ID); err != nil {
			return err
		}
		says, err := json.Marshal(collected{Kind: string(Drop), Source: of.ID, Folder: aside})
		if err != nil {
			return err
		}
		delivery, err := s.Gatherer.CollectIn(ctx, q, tx, of.Name+", "+time.Now().Format(time.DateOnly), says, of.CreatedBy)
		if err != nil {
			return err
		}
		if err := q.BindDelivery(ctx, query.BindDeliveryParams{Delivery: delivery, Source: of.ID}); err != nil {
			return err
		}
		if err := os.Rename(filepath.Join(dir, drop.In), filepath.Join(dir, aside)); err != nil {
			return err
		}
		return os.MkdirAll(filepath.Join(dir, drop.In), 0o755)
	})
}

// tidyDrop removes what was taken in, and puts back what was put aside for a delivery that never came to be.
func (s *Sources) tidyDrop(ctx context.Context, id int64, dir string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return ignoreMissing(err)
	}
	for _, e := range entries {
		if !strings.HasPrefix(e.Name(), taking) {
			continue
		}
		state, err := s.Store.DropTaken(ctx, query.DropTakenParams{Source: id, Folder: e.Name()})
		aside := filepath.Join(dir, e.Name())
		switch {
		case errors.Is(err, pgx.ErrNoRows):
			if info, err := e.Info(); err != nil || time.Since(info.ModTime()) < time.Minute {
				continue // its delivery may be about to be
			}
			if err := putBack(aside, filepath.Join(dir, drop.In)); err != nil {
				return err
			}
		case err != nil:
			return err
		case state == "ready":
			if err := os.RemoveAll(aside); err != nil {
				return err
			}
		}
	}
	return nil
}

// putBack moves files back to where they came; what came there since stays.
func putBack(from, to string) error {
	files, _, err := lies(from)
	if err != nil {
		return err
	}
	for _, path := range files {
		at := filepath.Join(to, filepath.FromSlash(path))
		if _, err := os.Lstat(at); err == nil {
			continue
		}
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			return err
		}
		if err := os.Rename(filepath.Join(from, filepath.FromSlash(path)), at); err != nil {
			return err
		}
	}
	return os.RemoveAll(from)
}

func ignoreMissing(err error) error {
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// dropped is the source of a delivery out of a drop folder.
type dropped struct {
	dir    string
	limits source.Limits
}

var _ source.Source = (*dropped)(nil)

func (s *Sources) openDrop(_ int64, of json.RawMessage) (source.Source, error) {
	var says collected
	if err := json.Unmarshal(of, &says); err != nil {
		return nil, err
	}
	if !strings.HasPrefix(says.Folder, taking) || says.Folder != filepath.Base(says.Folder) {
		return nil, fmt.Errorf("%w: no folder of a drop folder", source.ErrGone)
	}
	return &dropped{filepath.Join(s.dropDir(says.Source), says.Folder), s.Gatherer.Limits}, nil
}

// Check tells whether the files are there.
func (d *dropped) Check(context.Context) error {
	_, err := os.Stat(d.dir)
	return err
}

// Walk shows the files, and those in archives, by their paths.
func (d *dropped) Walk(ctx context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	files, _, err := lies(d.dir)
	if errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%w: what came into the drop folder is not there any more", source.ErrGone)
	}
	if err != nil {
		return err
	}
	for _, path := range files {
		if err := d.file(ctx, path, from, visit); err != nil {
			return err
		}
	}
	return tell(source.Progress{Items: int64(len(files))})
}

func (d *dropped) file(ctx context.Context, path string, from source.Cursor, visit func(source.Item) error) error {
	f, err := os.Open(filepath.Join(d.dir, filepath.FromSlash(path)))
	if err != nil {
		return err
	}
	defer f.Close()
	name, raw := archive.EntryName(path, nil)
	return (&archive.Source{File: f, Name: name, Limits: d.limits}).Walk(ctx, from, func(source.Progress) error { return nil }, func(it source.Item) error {
		if it.Path == name {
			it.Raw = raw
		}
		if it.ID = itemOf(path) + "/" + it.ID; !archive.IsName(path) {
			it.ID = itemOf(path)
		}
		it.Next = from
		return visit(it)
	})
}

// compareDrop looks up what came into a drop folder among what came there before.
func (s *Sources) compareDrop(ctx context.Context, q *query.Queries, delivery, id int64) error {
	if err := q.AddDropVisit(ctx, query.AddDropVisitParams{DeliveryID: delivery, SourceID: id}); err != nil {
		return err
	}
	if err := q.FindDropped(ctx, query.FindDroppedParams{Delivery: delivery, Source: id}); err != nil {
		return err
	}
	return q.SetDropFound(ctx, delivery)
}
