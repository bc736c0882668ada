// Package rendition says how a picture is made for one use: how large it becomes, what is cut off or added, and at which quality.
package rendition

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Fit says how a picture comes into a box of another shape.
type Fit string

const (
	Inside Fit = "inside" // all of it, and no more of the box than it takes
	Crop   Fit = "crop"   // all of the box, from the middle; what stands over is cut off
	Pad    Fit = "pad"    // all of both: the rest of the box is of the background's colour
)

// Fits are all of them.
var Fits = []Fit{Inside, Crop, Pad}

// Format is how a rendition is stored.
type Format string

const (
	JPEG Format = "jpeg"
	WebP Format = "webp"
	AVIF Format = "avif"
	PNG  Format = "png"
)

// Formats are all of them.
var Formats = []Format{JPEG, WebP, AVIF, PNG}

// Keep says which metadata of a picture stay in its renditions.
type Keep string

const (
	KeepNone   Keep = ""       // none
	KeepRights Keep = "rights" // copyright and creator
	KeepAll    Keep = "all"    // what its EXIF says: place and device, too
)

// Keeps are all of them.
var Keeps = []Keep{KeepNone, KeepRights, KeepAll}

// HasQuality reports whether less quality makes fewer bytes of it.
func (f Format) HasQuality() bool { return f != PNG }

// HasAlpha reports whether it can be transparent.
func (f Format) HasAlpha() bool { return f != JPEG }

const (
	// MostSide is how many pixels a side may have: what JPEG and WebP can hold is 65,535 and 16,383. Source: ISO/IEC 10918-1, B.2.2; RFC 9649, 2.6.
	MostSide = 16383
	// UsualQuality is that of a rendition for which none is said. Common practice, no source.
	UsualQuality = 82
	// LeastQuality is down to which quality is tried where a rendition has too many bytes.
	LeastQuality = 20
)

var (
	// ErrSize is returned for a size that says nothing.
	ErrSize = errors.New("a size is the longest side in pixels, such as 1200, or a box, such as 1200x800; up to 16383")
	// ErrWish is returned for a wish that can't be.
	ErrWish = errors.New("this can't be made")
)

// Wish is a rendition as it is wanted. Width and Height are the box; a longest side alone is a square one.
type Wish struct {
	Width, Height int
	Fit           Fit
	Format        Format
	Quality       int      // 1 to 100; 0 for what is usual, or for the best that MostBytes allows
	MostBytes     int64    // 0 for any
	Background    [3]uint8 // red, green, blue: behind what is transparent where the format is not, and of what is padded
	Keep          Keep
}

// ReadSize reads a longest side or a box. ErrSize.
func ReadSize(text string) (width, height int, err error) {
	side := func(s string) int {
		n, err := strconv.Atoi(s)
		if err != nil || n < 1 || n > MostSide {
			return 0
		}
		return n
	}
	w, h, box := strings.Cut(strings.ToLower(text), "x")
	width, height = side(w), side(w)
	if box {
		height = side(h)
	}
	if width == 0 || height == 0 {
		return 0, 0, fmt.Errorf("%w: %q", ErrSize, text)
	}
	return width, height, nil
}

// Check says whether a wish can be. ErrWish with what is wrong, ErrSize.
func (w Wish) Check() error {
	switch {
	case w.Width < 1 || w.Height < 1 || w.Width > MostSide || w.Height > MostSide:
		return ErrSize
	case !slices.Contains(Fits, w.Fit):
		return fmt.Errorf("%w: there is no fit %q; there are inside, crop, pad", ErrWish, w.Fit)
	case !slices.Contains(Formats, w.Format):
		return fmt.Errorf("%w: there is no format %q; there are jpeg, webp, avif, png", ErrWish, w.Format)
	case !slices.Contains(Keeps, w.Keep):
		return fmt.Errorf("%w: metadata are kept as rights, all, or not", ErrWish)
	case w.Quality < 0 || w.Quality > 100:
		return fmt.Errorf("%w: a quality is 1 to 100", ErrWish)
	case w.MostBytes < 0:
		return fmt.Errorf("%w: a rendition has at least one byte", ErrWish)
	case w.Quality > 0 && !w.Format.HasQuality():
		return fmt.Errorf("%w: %s has no quality; it is kept as it is", ErrWish, w.Format)
	case w.Quality > 0 && w.MostBytes > 0:
		return fmt.Errorf("%w: a quality or the greatest bytes, not both", ErrWish)
	}
	return nil
}

// Frame is how a picture's pixels become a rendition's: scaled to a size, then cut to the rendition or put on it.
type Frame struct {
	Width, Height             int // of the rendition
	ScaledWidth, ScaledHeight int // of the picture in it
	Left, Top                 int // where the rendition begins in the scaled picture; less than 0 where the picture begins in the rendition
	// Smaller says that the picture has fewer pixels than are wished; it is never enlarged.
	Smaller bool
}

// Frame lays out a picture of so many pixels, as it is seen.
func (w Wish) Frame(width, height int) Frame {
	across, down := float64(w.Width)/float64(width), float64(w.Height)/float64(height)
	scaled := func(scale float64) (int, int) {
		return max(1, int(math.Round(float64(width)*scale))), max(1, int(math.Round(float64(height)*scale)))
	}
	f := Frame{Smaller: min(across, down) > 1}
	switch w.Fit {
	case Crop:
		scale := max(across, down)
		f.Smaller = scale > 1
		f.Width, f.Height = w.Width, w.Height
		if f.Smaller { // the largest part of the box's shape
			scale = 1
			shrink := min(float64(width)/float64(w.Width), float64(height)/float64(w.Height))
			f.Width, f.Height = max(1, int(math.Round(float64(w.Width)*shrink))), max(1, int(math.Round(float64(w.Height)*shrink)))
		}
		f.ScaledWidth, f.ScaledHeight = scaled(scale)
		f.ScaledWidth, f.ScaledHeight = max(f.ScaledWidth, f.Width), max(f.ScaledHeight, f.Height)
	case Pad:
		f.Width, f.Height = w.Width, w.Height
		f.ScaledWidth, f.ScaledHeight = scaled(min(1, across, down))
	default:
		f.ScaledWidth, f.ScaledHeight = scaled(min(1, across, down))
		f.Width, f.Height = f.ScaledWidth, f.ScaledHeight
	}
	f.Left, f.Top = half(f.ScaledWidth-f.Width), half(f.ScaledHeight-f.Height)
	return f
}

// Size is one in pixels.
type Size struct {
	Width  int `json:"width"`
	Height int `json:"height"`
}

// From is the size that a picture is scaled to, of which all frames come: at least so large, and as the largest of them.
func From(least Size, frames []Frame) Size {
	for _, f := range frames {
		least.Width, least.Height = max(least.Width, f.ScaledWidth), max(least.Height, f.ScaledHeight)
	}
	return least
}

// half is the half of a number, rounded down.
func half(n int) int { return int(math.Floor(float64(n) / 2)) }

// BestQuality searches the best quality at which a rendition has at most so many bytes, in as few tries as halving takes; encode makes it and says how
// many it has. ok is false where it has more even at LeastQuality.
func BestQuality(most int64, encode func(quality int) (int64, error)) (quality int, ok bool, err error) {
	low, high := LeastQuality-1, 96 // low fits, where it is a quality; high does not
	for high-low > 1 {
		try := (low + high + 1) / 2
		n, err := encode(try)
		if err != nil {
			return 0, false, err
		}
		if n <= most {
			low = try
		} else {
			high = try
		}
	}
	return low, low >= LeastQuality, nil
}
