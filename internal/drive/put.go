package drive

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"time"

	"github.com/rclone/rclone/fs"
	"github.com/rclone/rclone/fs/object"
)

var (
	// ErrFull is returned where a drive has no room left.
	ErrFull = errors.New("the drive is full")
	// ErrDenied is returned where a drive does not let one write or remove.
	ErrDenied = errors.New("the drive does not let one write there")
)

// besideMark begins the name under which a file is written before it gets its own. It is made of its own name: what a killed process left
// there is written over by the next.
const besideMark = ".ambrosa-"

// IsBeside reports whether a file is one that was being written, or was left half written.
func IsBeside(file string) bool { return strings.HasPrefix(path.Base(file), besideMark) }

func beside(file string) string {
	sum := sha256.Sum256([]byte(file))
	return path.Join(path.Dir(file), besideMark+hex.EncodeToString(sum[:8])+".part")
}

// atOnce are the kinds that show a file only once all of it has come.
var atOnce = map[string]bool{"s3": true, "drive": true, "onedrive": true, "dropbox": true}

// Put writes a file of so many bytes below the drive's folder, over one that is there, and makes the folders above it. Where the drive can
// rename, it is written beside and then renamed, so that no half of one ever stands there. Errors: those of Open, ErrFull, ErrDenied.
func (d *Drive) Put(ctx context.Context, file string, bytes int64, in io.Reader) (File, error) {
	ctx = d.settings(ctx)
	move := d.fs.Features().Move
	at := file
	if move != nil && !atOnce[d.Spec.Kind] {
		at = beside(file)
	}
	o, err := d.fs.Put(ctx, in, object.NewStaticObjectInfo(at, time.Now(), bytes, true, nil, d.fs))
	if err != nil {
		return File{}, d.refused(err)
	}
	if o.Size() >= 0 && o.Size() != bytes {
		return File{}, fmt.Errorf("%w: of %d bytes %d came", ErrDrive, bytes, o.Size())
	}
	if at != file {
		if o, err = d.moved(ctx, o, file); err != nil {
			return File{}, d.refused(err)
		}
	}
	return d.file(ctx, o), nil
}

// refused is Plain of an error of writing: a server that lets one read and says no here does not let one write.
func (d *Drive) refused(err error) error {
	if err != nil && holds(strings.ToLower(err.Error()), "403 ", "405 ") {
		return fmt.Errorf("%w: %s", ErrDenied, d.told(err))
	}
	return d.Plain(err)
}

// moved gives a file another name, over one that is there: some servers do not rename onto a file.
func (d *Drive) moved(ctx context.Context, o fs.Object, to string) (fs.Object, error) {
	moved, err := d.fs.Features().Move(ctx, o, to)
	if err == nil {
		return moved, nil
	}
	there, missing := d.fs.NewObject(ctx, to)
	if missing != nil {
		return nil, err
	}
	if removed := there.Remove(ctx); removed != nil {
		return nil, err
	}
	return d.fs.Features().Move(ctx, o, to)
}

// Rename gives a file another name below the drive's folder. Where the drive can't, ok is false and nothing was done. Errors: those of Open,
// ErrNoFolder where it is not there, ErrDenied.
func (d *Drive) Rename(ctx context.Context, from, to string) (ok bool, err error) {
	ctx = d.settings(ctx)
	if d.fs.Features().Move == nil {
		return false, nil
	}
	o, err := d.fs.NewObject(ctx, from)
	if err != nil {
		return false, d.Plain(err)
	}
	_, err = d.moved(ctx, o, to)
	return err == nil, d.refused(err)
}

// Remove removes a file; one that is gone already is no trouble. Errors: those of Open, ErrDenied.
func (d *Drive) Remove(ctx context.Context, file string) error {
	ctx = d.settings(ctx)
	o, err := d.fs.NewObject(ctx, file)
	if err == nil {
		err = o.Remove(ctx)
	}
	if err = d.refused(err); errors.Is(err, ErrNoFolder) {
		return nil
	}
	return err
}
