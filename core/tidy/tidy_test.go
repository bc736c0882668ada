package tidy

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/change"
	"ambrosa/core/checks"
	"ambrosa/core/colour"
	"ambrosa/core/likeness"
)

func TestUnfit(t *testing.T) {
	adobe, srgb := "Adobe RGB (1998)", "sRGB IEC61966-2.1"
	good := checks.Facts{Width: 1200, Height: 1200, TrueWidth: 1200, TrueHeight: 1200, Model: checks.RGB, Ground: checks.Ground{Colour: [3]uint8{255, 255, 255}, Share: 1}}
	for name, c := range map[string]struct {
		change func(f *checks.Facts)
		limits func(l *Limits)
		custom Custom
		want   string
	}{
		"good":              {nil, nil, Custom{Square: true, White: true}, "[]"},
		"small":             {func(f *checks.Facts) { f.Width, f.TrueWidth, f.Height, f.TrueHeight = 999, 999, 500, 500 }, nil, Custom{}, "[{too_small 999}]"},
		"large enough":      {func(f *checks.Facts) { f.Width, f.TrueWidth, f.Height, f.TrueHeight = 1000, 1000, 10, 10 }, nil, Custom{}, "[]"},
		"enlarged":          {func(f *checks.Facts) { f.TrueWidth, f.TrueHeight = 480, 480 }, nil, Custom{}, "[{enlarged 2.5}]"},
		"enlarged a little": {func(f *checks.Facts) { f.TrueWidth, f.TrueHeight = 924, 924 }, func(l *Limits) { l.EnlargedPercent = 31 }, Custom{}, "[]"},
		"padded":            {func(f *checks.Facts) { f.Padding.Top = 240 }, nil, Custom{}, "[{padded 20}]"},
		"a little padded":   {func(f *checks.Facts) { f.Padding.Top = 60 }, nil, Custom{}, "[]"},
		"other limit":       {func(f *checks.Facts) { f.Padding.Top = 60 }, func(l *Limits) { l.PaddedPercent = 5 }, Custom{}, "[{padded 5}]"},
		"wide":              {func(f *checks.Facts) { f.Height, f.TrueHeight = 800, 800 }, nil, Custom{Square: true}, "[{not_square 1.5}]"},
		"wide among wide":   {func(f *checks.Facts) { f.Height, f.TrueHeight = 800, 800 }, nil, Custom{}, "[]"},
		"sideways":          {func(f *checks.Facts) { f.Sideways = 90 }, nil, Custom{}, "[{sideways 90}]"},
		"adobe":             {func(f *checks.Facts) { f.Profile = &adobe }, nil, Custom{}, "[{other_colours 0}]"},
		"srgb":              {func(f *checks.Facts) { f.Profile = &srgb }, func(l *Limits) { l.Untagged = true }, Custom{}, "[]"},
		"untagged":          {nil, func(l *Limits) { l.Untagged = true }, Custom{}, "[{other_colours 0}]"},
		"cmyk":              {func(f *checks.Facts) { f.Model = checks.CMYK }, nil, Custom{}, "[{other_colours 0}]"},
		"transparent":       {func(f *checks.Facts) { f.Transparent = true }, nil, Custom{}, "[{transparent 0}]"},
		"grey among white":  {func(f *checks.Facts) { f.Ground.Colour = [3]uint8{200, 200, 200} }, nil, Custom{White: true}, "[{not_white 100}]"},
	} {
		f, l := good, Usual
		if c.change != nil {
			c.change(&f)
		}
		if c.limits != nil {
			c.limits(&l)
		}
		got := l.Unfit(f, c.custom)
		if fmt.Sprint(got) != c.want {
			t.Errorf("%s: %v, want %s", name, got, c.want)
		}
		if named := Named(Faults, FaultMask(got)); len(named) != len(got) || len(got) > 0 && named[0] != got[0].Fault {
			t.Errorf("%s: kept as %v", name, named)
		}
	}
	if c := Usual.CustomOf(10, 8, 7); !c.Square || c.White {
		t.Errorf("of ten, eight square and seven on white: %+v", c)
	}
	if c := Usual.CustomOf(4, 4, 4); c.Square || c.White {
		t.Error("four pictures make a custom")
	}
	if !Usual.Valid() || (Limits{}).Valid() {
		t.Error("limits are taken for what they are not")
	}
}

func TestMissing(t *testing.T) {
	for name, c := range map[string]struct {
		Owner
		want string
	}{
		"nothing at all":        {Owner{Kind: "product"}, "[no_main]"},
		"variants alone":        {Owner{Kind: "product", Variants: 3}, "[]"},
		"one":                   {Owner{Kind: "product", Pictures: 1, Texts: 1}, "[too_few]"},
		"variant of a product":  {Owner{Kind: "variant", OfProduct: 2}, "[products_only]"},
		"variant of none":       {Owner{Kind: "variant"}, "[no_main]"},
		"category":              {Owner{Kind: "category", Pictures: 1, Texts: 1}, "[]"},
		"without texts":         {Owner{Kind: "product", Pictures: 3, Wordless: 2, Texts: 1}, "[no_text]"},
		"all the same":          {Owner{Kind: "product", Pictures: 3, Texts: 1}, "[same_text]"},
		"another colour":        {Owner{Kind: "variant", Pictures: 2, Texts: 2, Colour: true}, "[other_colour]"},
		"good":                  {Owner{Kind: "variant", Pictures: 2, Texts: 2}, "[]"},
		"same text, one is new": {Owner{Kind: "product", Pictures: 2, Wordless: 1, Texts: 1}, "[no_text]"},
	} {
		if got := Usual.Missing(c.Owner); fmt.Sprint(got) != c.want {
			t.Errorf("%s: %v, want %s", name, got, c.want)
		}
	}
}

func TestBest(t *testing.T) {
	facts := func(w, h, pad int) *checks.Facts {
		return &checks.Facts{Width: w, Height: h, TrueWidth: w, TrueHeight: h, Padding: checks.Sides{Left: pad}}
	}
	soft := facts(2000, 2000, 0)
	soft.TrueWidth, soft.TrueHeight = 500, 500
	large := Copy{ID: 3, Width: 1200, Height: 1200, Bytes: 200_000, Format: "JPEG", Facts: facts(1200, 1200, 0)}
	for name, c := range map[string]struct {
		others []Copy
		best   int64
		why    Reason
	}{
		"largest":            {[]Copy{{ID: 1, Width: 600, Height: 600, Format: "PNG", Facts: facts(600, 600, 0)}}, 3, MostPixels},
		"truly largest":      {[]Copy{{ID: 1, Width: 2000, Height: 2000, Bytes: 9e6, Format: "PNG", Facts: soft}}, 3, MostPixels},
		"not padded":         {[]Copy{{ID: 1, Width: 1200, Height: 1200, Bytes: 900_000, Format: "JPEG", Facts: facts(1200, 1200, 90)}}, 3, NotPadded},
		"least compressed":   {[]Copy{{ID: 4, Width: 1200, Height: 1200, Bytes: 90_000, Format: "JPEG", Facts: facts(1200, 1200, 0)}}, 3, LeastCompressed},
		"without loss":       {[]Copy{{ID: 4, Width: 1200, Height: 1200, Bytes: 90_000, Format: "PNG", Facts: facts(1200, 1200, 0)}}, 4, LeastCompressed},
		"first of the same":  {[]Copy{{ID: 9, Width: 1200, Height: 1200, Bytes: 200_000, Format: "JPEG", Facts: facts(1200, 1200, 0)}}, 3, CameFirst},
		"not looked at, too": {[]Copy{{ID: 9, Width: 300, Height: 300}}, 3, MostPixels},
	} {
		copies := append(slices.Clone(c.others), large)
		best, why := Best(copies)
		if copies[best].ID != c.best || why != c.why {
			t.Errorf("%s: %d, %s", name, copies[best].ID, why)
		}
	}
	palette := []colour.Swatch{{Lab: colour.Lab{L: 50, A: 40}, Share: 1}}
	small := make([]uint8, likeness.Side*likeness.Side)
	one := Copy{ID: 1, Width: 800, Height: 600, Likeness: 0b1111, Palette: palette, Small: small}
	near, far, other := one, one, one
	near.ID, near.Width, near.Height, near.Likeness = 2, 1600, 1200, 0b1100
	far.ID, far.Height = 3, 500
	other.ID, other.Small = 4, slices.Repeat([]uint8{99}, len(small))
	if groups := Groups([]Copy{one, near, far, other}); fmt.Sprint(groups) != "[[0 1]]" {
		t.Errorf("groups: %v", groups)
	}
	for want, titles := range map[Shared][]string{Meant: {"Drift Delta"}, Unclear: {"Drift Delta 140", "Drift Delta 210"}, Mistake: {"Drift Delta", "Hand reel"}} {
		if got := JudgeShared(titles); got != want {
			t.Errorf("%v: %s", titles, got)
		}
	}
}

// Whatever is made of assets, its inverse brings back what was.
func TestChanges(t *testing.T) {
	standing := map[int64]Asset{1: {}, 2: {Binned: true, Tags: []string{"keep"}, Note: "old"}, 3: {Rights: &Rights{May: "internal", Holder: "Wren"}}}
	for name, becomes := range map[string]func(Asset) Asset{
		"bin":    func(a Asset) Asset { a.Binned = true; return a },
		"tag":    func(a Asset) Asset { return a.Tagged("spring", true) },
		"untag":  func(a Asset) Asset { return a.Tagged("keep", false) },
		"rights": func(a Asset) Asset { a.Rights = &Rights{May: "cleared", Until: "2027-01-01"}; return a },
		"none":   func(a Asset) Asset { a.Rights, a.Note, a.Placeholder = nil, "", true; return a },
	} {
		changes, err := Changes([]int64{1, 2, 3, 4}, standing, becomes)
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range append(changes, change.Inverse(changes)...) {
			was := standing[c.ID].JSON()
			if c.Seq != 0 {
				was = becomes(standing[c.ID]).JSON()
			}
			if !change.Same(was, c.Before) {
				t.Errorf("%s: %s does not have %s", name, was, c.Before)
			}
			now, err := change.Merge(was, c.After)
			if err != nil {
				t.Fatal(err)
			}
			want := becomes(standing[c.ID]).JSON()
			if c.Seq != 0 {
				want = standing[c.ID].JSON()
			}
			if !change.Same(now, want) || !change.Same(want, now) {
				t.Errorf("%s: %s, want %s", name, now, want)
			}
		}
	}
	if got := Deletions([]int64{1, 2, 9}, standing); len(got) != 1 || got[0].ID != 2 || got[0].After != nil {
		t.Errorf("deletions: %+v", got)
	}
}

// The picture that most of an owner's keys speak for comes first; a word that all pictures have says little.
func TestBestOffers(t *testing.T) {
	keys := OfferKeys("PK-DLT-140", "9520000000017", "Drift Delta", []string{"amber"})
	found := map[string][]int64{"pk-dlt-140": {7}, "pk dlt 140": {7, 5}, "drift delta amber": {4}, "drift delta": {4, 6}, "drift": {4, 6, 8}, "delta": {4, 6, 8}}
	for n := range int64(2000) {
		found["amber"] = append(found["amber"], 100+n)
	}
	keys = append(append(keys, LookKeys([]uint64{9})...), CodeKey([]int64{10}))
	got := BestOffers(keys, 6, func(k OfferKey) []int64 {
		if k.Looks != nil {
			return []int64{8, 9}
		}
		if len(k.Words) == 0 {
			return k.Shown
		}
		return found[strings.Join(k.Words, " ")]
	})
	if !slices.Equal(got, []int64{7, 10, 4, 5, 6, 8}) {
		t.Errorf("%v", got)
	}
}
