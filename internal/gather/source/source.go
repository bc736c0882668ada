// Package source says what files come from: each kind, in a folder below, walks what it has and shows the files one by one.
package source

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"time"

	"ambrosa/core/message"
)

// ErrGone is returned where bytes that should be there are gone for good: trying again would not help.
var ErrGone = errors.New("the bytes are gone")

// ErrUnchanged is returned by an item's Open where its bytes are those that came before: it is left out.
var ErrUnchanged = errors.New("it is as it was")

// Origin is what opened bytes may tell besides: where they come from, as it is known once they are asked for. It comes in the place of Item.From.
type Origin interface{ Origin() json.RawMessage }

// Trouble is what keeps a source from being walked, for people. Final is whether trying again would not help.
type Trouble struct {
	Says  message.Message
	Final bool
	Of    error
}

func (t *Trouble) Error() string { return t.Says.Text() }
func (t *Trouble) Unwrap() error { return t.Of }

// Cursor is a place from which a source can walk on; only the source can read it. The empty one is the beginning.
type Cursor string

// Said is what a source says of a file beside its name: which SKU, title or role a list, a page or a code in the photo gives it.
type Said struct {
	Field string `json:"field"` // "sku", "barcode", "title", "role", "number"
	Text  string `json:"text"`
	By    string `json:"by,omitempty"`   // what says so: a list's name and line, a page's address
	Weak  bool   `json:"weak,omitempty"` // it is worth a look: what it names is likely at best
}

// Item is one file that a source has.
type Item struct {
	ID       string // its name within the source, for good
	Path     string // UTF-8, with forward slashes
	Raw      []byte // the path's bytes, where they were no UTF-8
	Bytes    int64  // as the source claims; -1 where it does not know
	Modified time.Time
	Version  string // an etag or checksum, as the source has it; it changes with the bytes
	Said     []Said
	From     json.RawMessage                              // where it lies, in the source's own words; nil for nothing to say
	Least    int                                          // pixels of its longer side, below which a picture is refused
	Problem  *Problem                                     // why it can't be read; nil where it can
	Next     Cursor                                       // a walk from here shows all that comes behind this item, and perhaps some before it again
	Open     func(context.Context) (io.ReadCloser, error) // valid until visit returns
}

// Progress is what a source knows of what is to come.
type Progress struct {
	Items int64 // how many there are in all; 0 where nobody knows
}

// Source is where files come from.
type Source interface {
	// Check tells whether the source can be walked, without walking it.
	Check(context.Context) error
	// Walk shows the items from a place on, in an order that stays while they do. What is wrong with one is its Problem; an
	// error ends the walk, and it is walked again later from where it was. An error of tell, as where somebody asked to stop, ends it too.
	Walk(ctx context.Context, from Cursor, tell func(Progress) error, visit func(Item) error) error
}

// Reopener is what a source is besides, where one file can be asked for later.
type Reopener interface {
	Open(context.Context, Item) (io.ReadCloser, error)
}

// Limits bound what one archive or picture may ask for.
type Limits struct {
	Entries    int   // files in an archive
	Bytes      int64 // bytes of an archive, unpacked
	Ratio      int64 // bytes unpacked for each byte packed
	EntryBytes int64 // bytes of one file
	Pixels     int64 // width × height of a picture
	Upload     int64 // bytes of one upload
	Reserve    int64 // bytes of the disk that are kept free
}

// DefaultLimits leave room for any honest delivery.
var DefaultLimits = Limits{Entries: 500_000, Bytes: 256 << 30, Ratio: 200, EntryBytes: 2 << 30, Pixels: 300_000_000, Upload: 256 << 30, Reserve: 1 << 30}
