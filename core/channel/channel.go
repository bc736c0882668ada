// Package channel says what leaves the house: which files a channel shall have, how they are called and made, what changes there, and what
// the list beside them says.
package channel

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ambrosa/core/colour"
	"ambrosa/core/rendition"
	"ambrosa/core/wording"
)

// Subject is what changes of a channel's files are kept under, ListSubject those of its list: what the list says is decided when the files before it
// stand.
const (
	Subject     = "channel"
	ListSubject = "channel_list"
)

// ErrChannel is returned for a channel that can't be; the error says why.
var ErrChannel = errors.New("the channel can't be kept so")

// Rendition is one size of each picture.
type Rendition struct {
	Name       string           `json:"name" maxLength:"40"`
	Size       string           `json:"size" maxLength:"11"` // the longest side, or a box: 1200, 800x800
	Fit        rendition.Fit    `json:"fit" maxLength:"10"`
	Format     rendition.Format `json:"format" maxLength:"10"`
	Quality    int              `json:"quality,omitempty"`
	MostBytes  int64            `json:"mostBytes,omitempty"`
	Background string           `json:"background,omitempty" maxLength:"7"` // #rrggbb; white where none is said
	Keep       rendition.Keep   `json:"keep,omitempty" maxLength:"10"`
}

// Channel is where pictures and lists are published to, and how they are named and made for it.
type Channel struct {
	Source     int64       `json:"source,omitempty"`                 // the drive; 0 for a package to download
	Folder     string      `json:"folder,omitempty" maxLength:"500"` // on the drive
	Path       string      `json:"path" maxLength:"1000"`            // a pattern of folders and name, without extension
	Language   string      `json:"language,omitempty" maxLength:"40"`
	Renditions []Rendition `json:"renditions" maxItems:"12"`
	List       *List       `json:"list,omitempty"`
	Least      int         `json:"least,omitempty"`                      // pixels of the longer side below which a picture is held
	Categories []int64     `json:"categories,omitempty" maxItems:"1000"` // with all below them; none for all
	// ClearedOnly holds pictures of which nobody said that they may be used, too.
	ClearedOnly bool `json:"clearedOnly,omitempty"`
	// Removes says that files which this channel put there, and which it shall not have any more, are removed there.
	Removes bool `json:"removes,omitempty"`
	// NeedsAlt has pictures without alt text told.
	NeedsAlt bool `json:"needsAlt,omitempty"`
	// DifferByCase says that the place tells a.jpg from A.jpg.
	DifferByCase bool `json:"differByCase,omitempty"`
}

// IsPackage reports whether it is downloaded, and not sent to a drive.
func (c Channel) IsPackage() bool { return c.Source == 0 }

const (
	mostRenditions = 12
	mostRendition  = 40 // characters of a rendition's name
	mostFolder     = 500
)

// Check says whether a channel can be. ErrChannel with what is wrong.
func (c Channel) Check() error {
	_, err := c.ready()
	return err
}

// made is a channel whose patterns and wishes are read.
type made struct {
	path   *wording.Pattern
	wishes []rendition.Wish
}

func (c Channel) ready() (m made, err error) {
	wrong := func(format string, args ...any) (made, error) {
		return m, fmt.Errorf("%w: %s", ErrChannel, fmt.Sprintf(format, args...))
	}
	if m.path, err = wording.Parse(c.Path, wording.Caption, c.Language); err != nil {
		return wrong("the names: %v", err)
	}
	switch {
	case len(c.Renditions) == 0 || len(c.Renditions) > mostRenditions:
		return wrong("it needs one to %d sizes", mostRenditions)
	case len(c.Renditions) > 1 && !slices.Contains(m.path.Names(), "size"):
		return wrong("with several sizes the names must hold {size}, else they are the same")
	case c.Least < 0 || len(c.Folder) > mostFolder:
		return wrong("the least size or the folder can't be")
	}
	seen := map[string]bool{}
	for _, r := range c.Renditions {
		name := strings.TrimSpace(r.Name)
		if name == "" || len(name) > mostRendition || seen[strings.ToLower(name)] {
			return wrong("each size needs a name of its own; %q is none", r.Name)
		}
		seen[strings.ToLower(name)] = true
		w, err := r.Wish()
		if err != nil {
			return wrong("the size %s: %v", name, err)
		}
		m.wishes = append(m.wishes, w)
	}
	if c.List != nil {
		if err := errors.Join(c.List.Check(), c.List.sized(c)); err != nil {
			return m, err
		}
	}
	return m, nil
}

// Wish is how the rendition is made. Errors: rendition.ErrSize, rendition.ErrWish, ErrChannel for a colour or metadata that can't be.
func (r Rendition) Wish() (w rendition.Wish, err error) {
	w = rendition.Wish{Fit: r.Fit, Format: r.Format, Quality: r.Quality, MostBytes: r.MostBytes, Keep: r.Keep, Background: [3]uint8{255, 255, 255}}
	if w.Width, w.Height, err = rendition.ReadSize(r.Size); err != nil {
		return w, err
	}
	if r.Background != "" {
		c, ok := colour.ReadHex(r.Background)
		if !ok {
			return w, fmt.Errorf("%w: a colour is written as #ffffff", ErrChannel)
		}
		w.Background = [3]uint8{c.R, c.G, c.B}
	}
	return w, w.Check()
}

// Extension is the end of a rendition's file name.
func Extension(f rendition.Format) string {
	if f == rendition.JPEG {
		return ".jpg"
	}
	return "." + string(f)
}
