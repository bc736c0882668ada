// Package drop is a folder that others copy files into, over WebDAV (RFC 4918, class 1 and 2).
package drop

import (
	"context"
	"encoding/xml"
	"errors"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"golang.org/x/net/webdav"
)

// ErrQuota is returned where more would lie in a folder than may.
var ErrQuota = errors.New("the drop folder is full")

// Names within a drop folder's own: what came, what comes, and when something came last.
const (
	In    = "in"
	parts = "parts"
	last  = "last"
)

// Folder is one drop folder, in a directory of its own.
type Folder struct {
	Dir   string
	Quota int64        // bytes it holds
	Room  func() error // whether the disk has room; asked now and then
	mu    sync.Mutex
	props map[string]map[xml.Name]webdav.Property // by path; what clients say of files is kept while the server runs
	touch time.Time
	used  int64     // bytes when they were counted last, and all that was written since
	count time.Time // when that was
}

var _ webdav.FileSystem = (*Folder)(nil)

// NewFolder readies a directory.
func NewFolder(dir string, quota int64, room func() error) (*Folder, error) {
	for _, name := range []string{In, parts} {
		if err := os.MkdirAll(filepath.Join(dir, name), 0o755); err != nil {
			return nil, err
		}
	}
	return &Folder{Dir: dir, Quota: quota, Room: room, props: map[string]map[xml.Name]webdav.Property{}}, nil
}

func (f *Folder) in() webdav.Dir { return webdav.Dir(filepath.Join(f.Dir, In)) }

// Came notes that something came just now; more often than once a second that says nothing.
func (f *Folder) Came() {
	f.mu.Lock()
	soon := time.Since(f.touch) < time.Second
	if !soon {
		f.touch = time.Now()
	}
	f.mu.Unlock()
	if soon {
		return
	}
	name, now := filepath.Join(f.Dir, last), time.Now()
	if os.Chtimes(name, now, now) != nil {
		_ = os.WriteFile(name, nil, 0o644) // else the folder's own time tells
	}
}

// LastCame is when something came last; the zero time where nobody knows.
func LastCame(dir string) time.Time {
	info, err := os.Stat(filepath.Join(dir, last))
	if err != nil {
		return time.Time{}
	}
	return info.ModTime()
}

// Coming reports whether a file is being sent: what a killed server left is none after a while.
func Coming(dir string) bool {
	entries, err := os.ReadDir(filepath.Join(dir, parts))
	if err != nil {
		return false
	}
	for _, e := range entries {
		if info, err := e.Info(); err == nil && time.Since(info.ModTime()) < partLasts {
			return true
		}
		_ = os.Remove(filepath.Join(dir, parts, e.Name()))
	}
	return false
}

// partLasts is how long a part of a file is waited for that nothing is added to.
const partLasts = 10 * time.Minute

// countedFor is how long a count of the bytes holds, with what was written since added: other instances write, too, and files go.
const countedFor = 5 * time.Second

// room is how many bytes more the folder may hold. Only where the last count is old, or leaves too little for what is wanted, is it counted
// anew: that takes a walk through all that lies there.
func (f *Folder) room(wanted int64) int64 {
	f.mu.Lock()
	defer f.mu.Unlock()
	if time.Since(f.count) > countedFor || f.used+wanted > f.Quota {
		f.used, f.count = f.size(), time.Now()
	}
	return f.Quota - f.used
}

// wrote notes bytes that were written.
func (f *Folder) wrote(bytes int) {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.used += int64(bytes)
}

// size is how many bytes lie in the folder, those that come included.
func (f *Folder) size() (total int64) {
	for _, name := range []string{In, parts} {
		_ = filepath.WalkDir(filepath.Join(f.Dir, name), func(_ string, d fs.DirEntry, err error) error {
			if err == nil && !d.IsDir() {
				if info, err := d.Info(); err == nil {
					total += info.Size()
				}
			}
			return nil
		})
	}
	return total
}

// Mkdir makes a folder.
func (f *Folder) Mkdir(ctx context.Context, name string, perm os.FileMode) error {
	f.Came()
	return f.in().Mkdir(ctx, name, perm)
}

// RemoveAll removes a file, or a folder with all that is below.
func (f *Folder) RemoveAll(ctx context.Context, name string) error {
	f.Came()
	f.forget(name)
	return f.in().RemoveAll(ctx, name)
}

// Rename gives a file or folder another name.
func (f *Folder) Rename(ctx context.Context, from, to string) error {
	f.Came()
	err := f.in().Rename(ctx, from, to)
	if err == nil {
		f.move(from, to)
	}
	return err
}

// Stat tells of a file.
func (f *Folder) Stat(ctx context.Context, name string) (os.FileInfo, error) {
	return f.in().Stat(ctx, name)
}

// OpenFile opens a file. One that is written comes beside its place first: what stands there is whole.
func (f *Folder) OpenFile(ctx context.Context, name string, flag int, perm os.FileMode) (webdav.File, error) {
	if flag&(os.O_CREATE|os.O_WRONLY) == 0 {
		opened, err := f.in().OpenFile(ctx, name, os.O_RDONLY, perm)
		if err != nil {
			return nil, err
		}
		return &read{opened, f, name}, nil
	}
	place, err := f.place(ctx, name)
	if err != nil {
		return nil, err
	}
	part, err := os.CreateTemp(filepath.Join(f.Dir, parts), "part-*")
	if err != nil {
		return nil, err
	}
	return &written{part: part, folder: f, name: name, place: place, left: f.room(0), state: stateOf(ctx)}, nil
}

// place is where a file of a name goes. Errors: fs.ErrNotExist where its folder is not there, fs.ErrExist where a folder stands there.
func (f *Folder) place(ctx context.Context, name string) (string, error) {
	if strings.ContainsRune(name, 0) || len(filepath.Base(name)) > 255 {
		return "", fs.ErrInvalid
	}
	place := filepath.Join(f.Dir, In, filepath.FromSlash(clean(name)))
	if above, err := os.Stat(filepath.Dir(place)); err != nil || !above.IsDir() {
		return "", fs.ErrNotExist
	}
	if there, err := f.Stat(ctx, name); err == nil && there.IsDir() {
		return "", fs.ErrExist
	}
	return place, nil
}

// state is what is known of the request that writes.
type state struct {
	whole bool  // its body came to its end, or it has none
	err   error // why not all could be kept
}

type stateKey struct{}

func stateOf(ctx context.Context) *state {
	if s, ok := ctx.Value(stateKey{}).(*state); ok {
		return s
	}
	return &state{whole: true}
}

// written is a file that is written: each piece passes Write.
type written struct {
	part   *os.File
	folder *Folder
	name   string
	place  string
	left   int64
	since  int64 // bytes since the room was looked at
	state  *state
}

func (w *written) Read(p []byte) (int, error)              { return w.part.Read(p) }
func (w *written) Seek(at int64, from int) (int64, error)  { return w.part.Seek(at, from) }
func (w *written) Stat() (os.FileInfo, error)              { return w.part.Stat() }
func (w *written) Readdir(most int) ([]os.FileInfo, error) { return w.part.Readdir(most) }

// roomEvery is how many bytes are written between two looks at the room on the disk.
const roomEvery = 32 << 20

func (w *written) Write(p []byte) (int, error) {
	if w.since -= int64(len(p)); w.since <= 0 {
		w.since = roomEvery
		if w.state.err = w.folder.Room(); w.state.err != nil {
			return 0, w.state.err
		}
	}
	if w.left -= int64(len(p)); w.left < 0 {
		if w.left = w.folder.room(int64(len(p))) - int64(len(p)); w.left < 0 { // what was written over, or taken away, is room again
			w.state.err = ErrQuota
			return 0, ErrQuota
		}
	}
	w.folder.Came()
	n, err := w.part.Write(p)
	w.folder.wrote(n)
	return n, err
}

// Close puts the file in its place, where all of it came.
func (w *written) Close() error {
	err := w.part.Close()
	if err != nil || !w.state.whole || w.state.err != nil {
		return errors.Join(err, w.state.err, os.Remove(w.part.Name()))
	}
	w.folder.Came()
	return os.Rename(w.part.Name(), w.place)
}

// DeadProps and Patch keep what clients say of the file beside its bytes.
func (w *written) DeadProps() (map[xml.Name]webdav.Property, error) {
	return w.folder.said(w.name), nil
}
func (w *written) Patch(patches []webdav.Proppatch) ([]webdav.Propstat, error) {
	return w.folder.patch(w.name, patches), nil
}

// read is a file or folder that is read.
type read struct {
	webdav.File
	folder *Folder
	name   string
}

func (r *read) DeadProps() (map[xml.Name]webdav.Property, error) { return r.folder.said(r.name), nil }
func (r *read) Patch(patches []webdav.Proppatch) ([]webdav.Propstat, error) {
	return r.folder.patch(r.name, patches), nil
}

// mostSaid is of how many files it is kept what clients say of them.
const mostSaid = 10_000

func (f *Folder) said(name string) map[xml.Name]webdav.Property {
	f.mu.Lock()
	defer f.mu.Unlock()
	said := map[xml.Name]webdav.Property{}
	for n, p := range f.props[clean(name)] {
		said[n] = p
	}
	return said
}

func (f *Folder) patch(name string, patches []webdav.Proppatch) []webdav.Propstat {
	f.mu.Lock()
	defer f.mu.Unlock()
	stat := webdav.Propstat{Status: http.StatusOK}
	key := clean(name)
	if f.props[key] == nil && len(f.props) < mostSaid {
		f.props[key] = map[xml.Name]webdav.Property{}
	}
	for _, p := range patches {
		for _, prop := range p.Props {
			stat.Props = append(stat.Props, webdav.Property{XMLName: prop.XMLName})
			switch of := f.props[key]; {
			case p.Remove:
				delete(of, prop.XMLName)
			case of != nil:
				of[prop.XMLName] = prop
			}
		}
	}
	return []webdav.Propstat{stat}
}

func (f *Folder) forget(name string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for key := range f.props {
		if key == clean(name) || strings.HasPrefix(key, clean(name)+"/") {
			delete(f.props, key)
		}
	}
}

func (f *Folder) move(from, to string) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for key, said := range f.props {
		if behind, ok := strings.CutPrefix(key, clean(from)); ok && (behind == "" || behind[0] == '/') {
			f.props[clean(to)+behind] = said
			delete(f.props, key)
		}
	}
}

func clean(name string) string { return filepath.Clean("/" + name) }
