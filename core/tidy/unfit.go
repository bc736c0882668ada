package tidy

import (
	"math"
	"strings"

	"ambrosa/core/checks"
)

// Fault is a way in which a picture is unfit.
type Fault string

const (
	TooSmall     Fault = "too_small"
	Enlarged     Fault = "enlarged"
	Padded       Fault = "padded"
	NotSquare    Fault = "not_square"
	Sideways     Fault = "sideways"
	OtherColours Fault = "other_colours"
	Transparent  Fault = "transparent"
	NotWhite     Fault = "not_white"
)

// Faults are all of them, in the order in which they are shown.
var Faults = []Fault{TooSmall, Enlarged, Padded, NotSquare, Sideways, OtherColours, Transparent, NotWhite}

// Limits are from which figure on a picture is unfit, and for how long things are kept. All can be set.
type Limits struct {
	LongerSide      int  `json:"longerSide" minimum:"1" maximum:"20000" doc:"Pixels that the longer side has at least. 1000: common practice."`
	EnlargedPercent int  `json:"enlargedPercent" minimum:"30" maximum:"1000" doc:"By how much larger than it truly is a picture was made. Less than 30 can not be told."`
	PaddedPercent   int  `json:"paddedPercent" minimum:"1" maximum:"90" doc:"How wide a border may be, of the side that it takes from."`
	Untagged        bool `json:"untagged" doc:"Whether a picture without an ICC profile is unfit, too. Browsers take it for sRGB."`
	UsualPercent    int  `json:"usualPercent" minimum:"50" maximum:"100" doc:"How many of a category's main pictures make a shape, or a white ground, the usual one there."`
	LeastPictures   int  `json:"leastPictures" minimum:"1" maximum:"20" doc:"How many pictures an owner has at least."`
	YoungDays       int  `json:"youngDays" minimum:"0" maximum:"3650" doc:"For how long a picture that no owner shows is too young to be proposed for the bin."`
	UndoDays        int  `json:"undoDays" minimum:"0" maximum:"3650" doc:"For how long a run is kept within reach: pictures that taking it back would need are not proposed."`
	BinDays         int  `json:"binDays" minimum:"1" maximum:"3650" doc:"For how long the bin keeps bytes."`
	StalePlanDays   int  `json:"stalePlanDays" minimum:"1" maximum:"3650" doc:"After how long a plan that nobody applied is removed."`
	EmptiesByClock  bool `json:"emptiesByClock" doc:"Whether the clock deletes what lies in the bin for longer."`
}

// Usual are the limits where nobody set any.
var Usual = Limits{LongerSide: 1000, EnlargedPercent: 30, PaddedPercent: 10, UsualPercent: 80, LeastPictures: 2, YoungDays: 30, UndoDays: 30, BinDays: 30, StalePlanDays: 90}

// Custom is what is usual in a category: whether its main pictures are square, or stand before white.
type Custom struct {
	Square, White bool
}

// CustomOf is what is usual where so many of so many pictures are square, and so many stand before white. Fewer than five make no custom.
func (l Limits) CustomOf(pictures, square, white int) Custom {
	if pictures < 5 {
		return Custom{}
	}
	return Custom{Square: square*100 >= pictures*l.UsualPercent, White: white*100 >= pictures*l.UsualPercent}
}

// Finding is a fault with its figure.
type Finding struct {
	Fault
	Figure float64 // pixels; how many times larger; per cent of a side; width by height; degrees; 0 where there is none
}

// Unfit says what is wrong with a picture.
func (l Limits) Unfit(f checks.Facts, of Custom) (found []Finding) {
	add := func(is bool, fault Fault, figure float64) {
		if is {
			found = append(found, Finding{fault, figure})
		}
	}
	longer := max(f.Width, f.Height)
	add(longer < l.LongerSide, TooSmall, float64(longer))
	times := float64(f.Width) / float64(max(1, f.TrueWidth))
	add(f.IsEnlarged() && math.Round((times-1)*100) >= float64(l.EnlargedPercent), Enlarged, times)
	add(f.PaddedShare()*100 >= float64(l.PaddedPercent), Padded, f.PaddedShare()*100)
	add(of.Square && !checks.IsSquare(f.Width, f.Height), NotSquare, float64(f.Width)/float64(max(1, f.Height)))
	add(f.Sideways != 0, Sideways, float64(f.Sideways))
	add(f.Model == checks.CMYK || f.Profile != nil && !IsSRGB(*f.Profile) || f.Profile == nil && l.Untagged, OtherColours, 0)
	add(f.Transparent, Transparent, 0)
	add(of.White && !f.Ground.IsWhite(), NotWhite, f.Ground.Share*100)
	return found
}

// IsSRGB reports whether a profile is one of sRGB by its name. Common practice, no source: "sRGB IEC61966-2.1", "sRGB", "c2".
func IsSRGB(profile string) bool {
	return strings.Contains(strings.ToLower(profile), "srgb") || profile == "c2"
}

// FaultMask is findings as bits, in the order of Faults, as they are kept.
func FaultMask(found []Finding) (mask int) {
	for _, f := range found {
		mask |= BitOf(Faults, f.Fault)
	}
	return mask
}

// BitOf is the bit of one of some names; 0 where it is none of them.
func BitOf[T comparable](all []T, one T) int {
	for i, a := range all {
		if a == one {
			return 1 << i
		}
	}
	return 0
}

// Named are those of some names whose bits are set.
func Named[T any](all []T, mask int) []T {
	some := []T{}
	for i, a := range all {
		if mask&(1<<i) != 0 {
			some = append(some, a)
		}
	}
	return some
}

// Valid reports whether all limits lie in their ranges.
func (l Limits) Valid() bool {
	in := func(n, from, to int) bool { return n >= from && n <= to }
	const years = 3650
	return in(l.LongerSide, 1, 20000) && in(l.EnlargedPercent, 30, 1000) && in(l.PaddedPercent, 1, 90) && in(l.UsualPercent, 50, 100) && in(l.LeastPictures, 1, 20) && in(l.YoungDays, 0, years) &&
		in(l.UndoDays, 0, years) && in(l.BinDays, 1, years) && in(l.StalePlanDays, 1, years)
}
