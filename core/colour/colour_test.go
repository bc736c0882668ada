package colour

import (
	"math"
	"strings"
	"testing"

	"golang.org/x/image/colornames"
)

// Values published by B. J. Lindbloom's calculator for sRGB primaries under D65, from memory, to two places.
func TestLab(t *testing.T) {
	for _, c := range []struct {
		rgb  RGB
		want Lab
	}{
		{RGB{255, 255, 255}, Lab{100, 0, 0}}, {RGB{0, 0, 0}, Lab{0, 0, 0}}, {RGB{255, 0, 0}, Lab{53.24, 80.09, 67.20}},
		{RGB{0, 255, 0}, Lab{87.73, -86.18, 83.18}}, {RGB{0, 0, 255}, Lab{32.30, 79.19, -107.86}}, {RGB{128, 128, 128}, Lab{53.59, 0, 0}},
	} {
		got := c.rgb.Lab()
		if math.Abs(got.L-c.want.L) > .02 || math.Abs(got.A-c.want.A) > .02 || math.Abs(got.B-c.want.B) > .02 {
			t.Errorf("%v is %.2f, want %.2f", c.rgb, got, c.want)
		}
	}
}

// The test data of G. Sharma, W. Wu and E. N. Dalal (Color Research and Application 30, 2005), table 1, written down
// from memory: the pairs that try the branches of the hue, and the four decimals of the difference.
func TestDifference(t *testing.T) {
	for i, c := range []struct {
		x, y Lab
		want float64
	}{
		{Lab{50, 2.6772, -79.7751}, Lab{50, 0, -82.7485}, 2.0425}, {Lab{50, 3.1571, -77.2803}, Lab{50, 0, -82.7485}, 2.8615},
		{Lab{50, 2.8361, -74.0200}, Lab{50, 0, -82.7485}, 3.4412}, {Lab{50, -1.3802, -84.2814}, Lab{50, 0, -82.7485}, 1.0000},
		{Lab{50, -1.1848, -84.8006}, Lab{50, 0, -82.7485}, 1.0000}, {Lab{50, -0.9009, -85.5211}, Lab{50, 0, -82.7485}, 1.0000},
		{Lab{50, 0, 0}, Lab{50, -1, 2}, 2.3669}, {Lab{50, -1, 2}, Lab{50, 0, 0}, 2.3669},
		{Lab{50, 2.4900, -0.0010}, Lab{50, -2.4900, 0.0009}, 7.1792}, {Lab{50, 2.4900, -0.0010}, Lab{50, -2.4900, 0.0011}, 7.2195},
		{Lab{50, -0.0010, 2.4900}, Lab{50, 0.0009, -2.4900}, 4.8045}, {Lab{50, -0.0010, 2.4900}, Lab{50, 0.0011, -2.4900}, 4.7461},
		{Lab{50, 2.5, 0}, Lab{50, 0, -2.5}, 4.3065}, {Lab{50, 2.5, 0}, Lab{73, 25, -18}, 27.1492}, {Lab{50, 2.5, 0}, Lab{61, -5, 29}, 22.8977},
		{Lab{50, 2.5, 0}, Lab{56, -27, -3}, 31.9030}, {Lab{50, 2.5, 0}, Lab{58, 24, 15}, 19.4535}, {Lab{50, 2.5, 0}, Lab{50, 3.1736, 0.5854}, 1.0000},
		{Lab{60.2574, -34.0099, 36.2677}, Lab{60.4626, -34.1751, 39.4387}, 1.2644}, {Lab{63.0109, -31.0961, -5.8663}, Lab{62.8187, -29.7946, -4.0864}, 1.2630},
		{Lab{2.0776, 0.0795, -1.1350}, Lab{0.9033, -0.0636, -0.5514}, 0.9082},
	} {
		if got := Difference(c.x, c.y); math.Abs(got-c.want) > 5e-5 {
			t.Errorf("pair %d: %.4f, the paper says %.4f", i+1, got, c.want)
		}
		if a, b := Difference(c.x, c.y), Difference(c.y, c.x); math.Abs(a-b) > 1e-9 {
			t.Errorf("pair %d: not the same both ways", i+1)
		}
	}
}

// Checked against golang.org/x/image/colornames, which has the names of SVG 1.1; CSS has one more.
func TestNamed(t *testing.T) {
	for name, want := range colornames.Map {
		got, ok := Named(strings.ToUpper(name[:1]) + name[1:])
		if !ok || got != (RGB{want.R, want.G, want.B}) {
			t.Errorf("%s is %v, the reference says %v", name, got, want)
		}
	}
	if len(named) != len(colornames.Map)+1 {
		t.Errorf("%d names, the reference has %d and CSS one more", len(named), len(colornames.Map))
	}
}

func TestMismatch(t *testing.T) {
	const side = 40
	kite := func(c RGB) []Swatch {
		pixels := make([]RGB, side*side)
		for i := range pixels {
			pixels[i] = RGB{0xf3, 0xee, 0xe4} // paper
			if x, y := i%side, i/side; x > 8 && x < 30 && y > 8 && y < 30 {
				pixels[i] = c
			}
		}
		return Palette(pixels, side)
	}
	amber, plum := RGB{0xd9, 0x8a, 0x1f}, RGB{0x7a, 0x2e, 0x5d}
	words := Learn(map[string][]Lab{"amber": {amber.Lab(), amber.Lab(), amber.Lab()}, "twice": {plum.Lab(), plum.Lab()}})
	if len(words) != 1 {
		t.Fatalf("two pictures are too few to learn from: %v", words)
	}
	for _, c := range []struct {
		picture RGB
		word    string
		others  []string
		want    string
	}{
		{amber, "amber", []string{"teal"}, ""},
		{RGB{0x1f, 0x78, 0x80}, "amber", []string{"teal"}, "It looks teal, not amber."},
		{plum, "teal", nil, "It looks mostly purple, not teal."},
		{plum, "plum", nil, ""},                // darker than what CSS calls plum
		{plum, "twice", []string{"amber"}, ""}, // no known colour
		{RGB{250, 245, 235}, "white", nil, ""}, // white on paper
	} {
		if got := words.Mismatch(kite(c.picture), c.word, c.others); got != c.want {
			t.Errorf("%v for %s: %q, want %q", c.picture, c.word, got, c.want)
		}
	}
}

// A palette is what stands out: the background goes, unless it is coloured, shades of one colour are one, and what is
// packed comes back nearly as it was.
func TestPalette(t *testing.T) {
	const side = 30
	fill := func(ground RGB, parts ...RGB) []RGB {
		pixels := make([]RGB, side*side)
		for i := range pixels {
			pixels[i] = ground
			if x, y := i%side, i/side; len(parts) > 0 && x >= 5 && x < 25 && y >= 5 && y < 25 {
				pixels[i] = parts[(x-5)*len(parts)/20]
			}
		}
		return pixels
	}
	paper, teal, darkTeal, red := RGB{0xf3, 0xee, 0xe4}, RGB{0x1f, 0x78, 0x80}, RGB{0x1b, 0x70, 0x77}, RGB{0xc0, 0x20, 0x30}
	for _, c := range []struct {
		what   string
		pixels []RGB
		want   []RGB
		shares []float64
	}{
		{"a kite on paper", fill(paper, teal), []RGB{teal}, []float64{1}},
		{"two shades", fill(paper, teal, darkTeal), []RGB{teal}, []float64{1}},
		{"two colours", fill(paper, teal, teal, red), []RGB{teal, red}, []float64{.65, .35}},
		{"a close-up, coloured to its border", fill(red), []RGB{red}, []float64{1}},
		{"nothing but paper", fill(paper), nil, nil},
	} {
		got := Palette(c.pixels, side)
		if len(got) != len(c.want) {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
			continue
		}
		again := Unpack(Pack(got))
		for i, s := range got {
			if d := Difference(s.Lab, c.want[i].Lab()); d > 5 || math.Abs(s.Share-c.shares[i]) > .06 {
				t.Errorf("%s: swatch %d is %v, %.1f from %v, want a share of %.2f", c.what, i, s, d, c.want[i], c.shares[i])
			}
			if Difference(again[i].Lab, s.Lab) > 1 || math.Abs(again[i].Share-s.Share) > .01 {
				t.Errorf("%s: packed %v comes back as %v", c.what, s, again[i])
			}
		}
	}
	if Palette(nil, 10) != nil || Palette(fill(red), 0) != nil || len(Unpack([]byte{1, 2, 3})) != 0 {
		t.Error("nothing has no colours")
	}
	for name, want := range map[string]RGB{"navy": {10, 10, 120}, "yellow": {250, 240, 20}, "grey": {130, 130, 130}} {
		if got := Nearest(want.Lab()); got != name {
			t.Errorf("%v is called %s, want %s", want, got, name)
		}
	}
}
