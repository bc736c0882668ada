package gallery

import (
	"time"

	"ambrosa/core/checks"
)

// Facets are what a picture is, a bit each.
type Facets uint64

const (
	Placed Facets = 1 << iota // stands on an owner
	Unplaced
	Placeholder
	Binned
	Kept // tagged keep
	Square
	Wide
	Tall
	Small  // its longer side below 500 pixels
	Medium // below 1,000
	Large  // below 2,000
	Huge
	JPEG
	PNG
	WebP
	OtherFormat
	Cleared
	Internal
	NotCleared
	RightsUnsaid
	Enlarged
	Padded
	Sideways
	OtherColours // CMYK, or a profile that is not sRGB
	Transparent
	Unchecked
	Light // its main colour
	Dark
	Coloured
	ThisWeek // came within seven days
	ThisMonth
	Older
	looked  // its likeness is known
	present // stands on every line, so that none is nothing
)

// named is a facet and what it is called in addresses and answers.
type named struct {
	Facets
	Name string
}

var shapes = []named{{Square, "square"}, {Wide, "wide"}, {Tall, "tall"}}

// groups of facets: of one group any will do, of several all must.
var groups = [][]named{
	{{Placed, "placed"}, {Unplaced, "unplaced"}, {Placeholder, "placeholder"}, {Binned, "binned"}, {Kept, "kept"}},
	shapes,
	{{Small, "small"}, {Medium, "medium"}, {Large, "large"}, {Huge, "huge"}},
	{{JPEG, "jpeg"}, {PNG, "png"}, {WebP, "webp"}, {OtherFormat, "other_format"}},
	{{Coloured, "coloured"}, {Light, "light"}, {Dark, "dark"}},
	{{Cleared, "cleared"}, {Internal, "internal"}, {NotCleared, "not_cleared"}, {RightsUnsaid, "rights_unsaid"}},
	{{Enlarged, "enlarged"}, {Padded, "padded"}, {Sideways, "sideways"}, {OtherColours, "other_colours"}, {Transparent, "transparent"}, {Unchecked, "unchecked"}},
	{{ThisWeek, "this_week"}, {ThisMonth, "this_month"}, {Older, "older"}},
}

// Names are what all facets are called, group by group.
func Names() (all [][]string) {
	for _, g := range groups {
		var names []string
		for _, f := range g {
			names = append(names, f.Name)
		}
		all = append(all, names)
	}
	return all
}

// Masks are the facets that are named, as a search wants them: one a group. ok is false for a name that there is not.
func Masks(names []string) (masks []Facets, ok bool) {
	found := 0
	for _, g := range groups {
		var mask Facets
		for _, f := range g {
			for _, name := range names {
				if f.Name == name {
					mask |= f.Facets
					found++
				}
			}
		}
		if mask != 0 {
			masks = append(masks, mask)
		}
	}
	return masks, found == len(names)
}

// ShapeOf is what a picture of so many pixels is by its shape and size.
func ShapeOf(width, height int) Facets {
	var f Facets
	switch {
	case checks.IsSquare(width, height):
		f = Square
	case width > height:
		f = Wide
	default:
		f = Tall
	}
	switch longer := max(width, height); {
	case longer < 500:
		return f | Small
	case longer < 1000:
		return f | Medium
	case longer < 2000:
		return f | Large
	}
	return f | Huge
}

// ShapeName is what the shape of a picture of so many pixels is called, as its facet.
func ShapeName(width, height int) string {
	of := ShapeOf(width, height)
	for _, f := range shapes {
		if of&f.Facets != 0 {
			return f.Name
		}
	}
	return ""
}

// FormatOf is the facet of a format by its name.
func FormatOf(name string) Facets {
	switch name {
	case "JPEG":
		return JPEG
	case "PNG":
		return PNG
	case "WebP":
		return WebP
	}
	return OtherFormat
}

// AgeOf is the facet of when a picture came.
func AgeOf(came, now time.Time) Facets {
	switch days := now.Sub(came).Hours() / 24; {
	case days < 7:
		return ThisWeek
	case days < 31:
		return ThisMonth
	}
	return Older
}
