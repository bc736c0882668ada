package colour

import (
	"fmt"
	"math"
	"slices"
)

// Words are what colours a catalogue's words stand for: its own, learnt from pictures, before those of CSS.
type Words map[string]Lab

// Learn takes for each word the middle colour of the pictures that carry it, where there are at least three.
func Learn(seen map[string][]Lab) Words {
	words := Words{}
	for word, labs := range seen {
		if len(labs) >= 3 {
			words[word] = Lab{middle(labs, func(c Lab) float64 { return c.L }), middle(labs, func(c Lab) float64 { return c.A }), middle(labs, func(c Lab) float64 { return c.B })}
		}
	}
	return words
}

func middle(labs []Lab, of func(Lab) float64) float64 {
	values := make([]float64, len(labs))
	for i, c := range labs {
		values[i] = of(c)
	}
	slices.Sort(values)
	return values[len(values)/2]
}

// Of returns what colour a word stands for.
func (w Words) Of(word string) (Lab, bool) {
	if lab, ok := w[word]; ok {
		return lab, true
	}
	rgb, ok := Named(word)
	return rgb.Lab(), ok
}

const (
	minShare    = .12 // share of a picture below which a colour says nothing
	clearlyOff  = 22. // CIEDE2000 beyond which a picture doesn't show a colour
	otherHue    = 50. // degrees beyond which two hues have different names
	neutral     = 14. // chroma below which a colour has no hue worth a name
	fitsAnother = 14. // within which it shows another
)

// otherName reports whether nobody would call two colours by one word: their hues are far apart, or one is coloured and
// the other grey. How light they are says little, as a dark plum is plum.
func otherName(a, b Lab) bool {
	if a.Chroma() < neutral || b.Chroma() < neutral {
		return max(a.Chroma(), b.Chroma()) > 2*neutral
	}
	apart := math.Abs(hue(a.A, a.B) - hue(b.A, b.B))
	return min(apart, 360-apart) > otherHue
}

// Mismatch says in a few words what a picture shows that is meant for a colour, where it shows another; others are the
// words of the owner's siblings. Empty where the picture fits, or the word is no known colour. It is a hint, never a
// proof: light and cloth change colours.
func (w Words) Mismatch(picture []Swatch, word string, others []string) string {
	want, known := w.Of(word)
	if !known || len(picture) == 0 {
		return ""
	}
	off, main := 1e9, picture[0]
	for _, s := range picture {
		if s.Share >= minShare {
			off = min(off, Difference(s.Lab, want))
		}
	}
	if off < clearlyOff {
		return ""
	}
	best, least := "", fitsAnother
	for _, other := range others {
		lab, known := w.Of(other)
		if !known || other == word {
			continue
		}
		if d := Difference(main.Lab, lab); d < least {
			best, least = other, d
		}
	}
	switch {
	case best != "":
		return fmt.Sprintf("It looks %s, not %s.", best, word)
	case otherName(main.Lab, want):
		return fmt.Sprintf("It looks mostly %s, not %s.", Nearest(main.Lab), word)
	}
	return ""
}

// Alike reports whether two pictures have one main colour, for the eye: variants of one product differ in nothing else.
func Alike(a, b []Swatch) bool {
	const same = 6 // by CIEDE2000
	return len(a) > 0 && len(b) > 0 && Difference(a[0].Lab, b[0].Lab) < same
}
