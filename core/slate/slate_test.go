package slate

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"ambrosa/core/colour"
)

var noon = time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)

// told are groups in a short writing: why, the owner, the slate's name, and the pictures.
func told(pictures []Picture, groups []Group) (text string) {
	for _, g := range groups {
		text += fmt.Sprintf("%s %d", g.Why, g.Owner)
		if g.Slate >= 0 {
			text += fmt.Sprintf(" (%s)", pictures[g.Slate].Path)
		}
		for _, i := range g.Pictures {
			text += " " + pictures[i].Path
		}
		text += "; "
	}
	return text
}

// paint is a palette of one colour.
func paint(r, g, b uint8) []colour.Swatch {
	return []colour.Swatch{{Lab: colour.RGB{R: r, G: g, B: b}.Lab(), Share: 1}}
}

// What cameras do: no times, one time for all, counters that start again, clocks apart, slates of nobody, packs with their own codes. Common
// practice, no source.
func TestGroups(t *testing.T) {
	at := func(seconds float64) time.Time { return noon.Add(time.Duration(seconds * float64(time.Second))) }
	card, kite, reel := uint64(0xffff0000ffff0000), uint64(0x123456789abcdef0), uint64(0xf0f0a5a500ff3c3c)
	slate := func(path string, taken time.Time, owner int64) Picture {
		return Picture{Path: path, Taken: taken, Code: fmt.Sprint("code ", owner), Owner: owner, Likeness: &card}
	}
	photo := func(path string, taken time.Time) Picture { return Picture{Path: path, Taken: taken, Likeness: &kite} }
	for name, c := range map[string]struct {
		pictures []Picture
		want     string
	}{
		"by time": {[]Picture{slate("s1", at(0), 1), photo("b", at(6)), photo("a", at(3)), slate("s2", at(40), 2), photo("c", at(44)), photo("d", at(47))},
			"slate 1 (s1) a b; slate 2 (s2) c d; "},
		"by sub-seconds": {[]Picture{slate("s1", at(0), 1), photo("z", at(.25)), photo("y", at(.5)), photo("x", at(.75))}, "slate 1 (s1) z y x; "},
		"by counter": {[]Picture{slate("IMG_0001.jpg", time.Time{}, 1), photo("IMG_0002.jpg", time.Time{}), photo("IMG_0010.jpg", time.Time{}),
			slate("IMG_0011.jpg", time.Time{}, 2), photo("IMG_0012.jpg", time.Time{})}, "slate 1 (IMG_0001.jpg) IMG_0002.jpg IMG_0010.jpg; slate 2 (IMG_0011.jpg) IMG_0012.jpg; "},
		"all of one time": {[]Picture{slate("IMG_0001.jpg", noon, 1), photo("IMG_0003.jpg", noon), photo("IMG_0002.jpg", noon), slate("IMG_0004.jpg", noon, 2),
			photo("IMG_0005.jpg", noon)}, "slate 1 (IMG_0001.jpg) IMG_0002.jpg IMG_0003.jpg; slate 2 (IMG_0004.jpg) IMG_0005.jpg; "},
		"counter starts again": {[]Picture{slate("DSC09998.jpg", time.Time{}, 1), photo("DSC09999.jpg", time.Time{}), photo("DSC00001.jpg", time.Time{}),
			slate("DSC00002.jpg", time.Time{}, 2), photo("DSC00003.jpg", time.Time{})},
			"slate 1 (DSC09998.jpg) DSC09999.jpg DSC00001.jpg; slate 2 (DSC00002.jpg) DSC00003.jpg; "},
		"two cameras, clocks apart": {[]Picture{slate("s1", at(0), 1), {Path: "x", Camera: "B", Taken: at(4), Likeness: &kite}, photo("a", at(3)), {Path: "y", Camera: "B", Taken: at(8), Likeness: &kite}},
			"slate 1 (s1) a; first 0 x y; "},
		"a code of nobody ends a group": {[]Picture{slate("s1", at(0), 1), photo("a", at(3)), slate("s2", at(30), 0), photo("b", at(33))},
			"slate 1 (s1) a; slate_nobody 0 (s2) b; "},
		"one that can't be read": {[]Picture{slate("s1", at(0), 1), photo("a", at(3)), slate("s2", at(30), 2), photo("b", at(33)), {Path: "s3", Taken: at(60), Likeness: &card},
			photo("c", at(63))}, "slate 1 (s1) a; slate 2 (s2) b; slate_unread 0 (s3) c; "},
		"one is missing": {[]Picture{slate("s1", at(0), 1), photo("a", at(3)), photo("b", at(6)), photo("c", at(60)), photo("d", at(63)), photo("e", at(66))},
			"slate 1 (s1) a b; gap 0 c d e; "},
		"none": {[]Picture{photo("a", at(0)), photo("b", at(3)), photo("c", at(6)), {Path: "d", Taken: at(13), Likeness: &reel}, {Path: "e", Taken: at(16), Likeness: &reel}, photo("f", at(90))},
			"first 0 a b c; gap 0 d e; "},
		"the back shows the code again": {[]Picture{slate("s1", at(0), 1), photo("a", at(3)), {Path: "b", Taken: at(6), Code: "code 1", Owner: 1, Likeness: &kite}, photo("c", at(9))},
			"slate 1 (s1) a b c; "},
		"sisters of another colour": {[]Picture{{Path: "a", Taken: at(0), Likeness: &kite, Palette: paint(200, 40, 40)}, {Path: "b", Taken: at(3), Likeness: &kite, Palette: paint(200, 40, 40)},
			{Path: "c", Taken: at(23), Likeness: &kite, Palette: paint(200, 40, 40)}, {Path: "d", Taken: at(26), Likeness: &kite, Palette: paint(200, 40, 40)},
			{Path: "e", Taken: at(46), Likeness: &kite, Palette: paint(30, 60, 200)}, {Path: "f", Taken: at(49), Likeness: &kite, Palette: paint(30, 60, 200)}},
			"first 0 a b c d; gap 0 e f; "},
		"packs": {[]Picture{{Path: "a", Taken: at(0), Code: "code 1", Owner: 1, Likeness: &kite}, photo("b", at(3)), {Path: "c", Taken: at(8), Code: "code 2", Owner: 2, Likeness: &reel},
			photo("d", at(11))}, "slate 1 (a) a b; slate 2 (c) c d; "},
		"known by name": {[]Picture{slate("s1", at(0), 1), {Path: "PK-1.jpg", Taken: at(3), Known: true}, photo("a", at(5))}, "slate 1 (s1) a; "},
		"one":           {[]Picture{photo("a", at(0))}, ""},
		"nothing":       {nil, ""},
	} {
		if got := told(c.pictures, Groups(c.pictures)); got != c.want {
			t.Errorf("%s:\n got %s\nwant %s", name, got, c.want)
		}
		turned := slices.Clone(c.pictures)
		slices.Reverse(turned)
		if got := told(turned, Groups(turned)); got != c.want && name != "two cameras, clocks apart" {
			t.Errorf("%s, in another order:\n got %s\nwant %s", name, got, c.want)
		}
	}
}

// session is a made photo session: 12 to 30 products, a slate and three to six pictures of each; in a third of the sessions a slate is missing,
// in a third one can't be read. Between pictures of one product lie 2 to 9 seconds, now and then 15 to 25; a slate comes 12 to 90 seconds later.
func session(r *rand.Rand) (pictures []Picture, of []int) {
	now, n := noon, 0
	missing, unread := -1, -1
	products := 12 + r.IntN(19)
	switch r.IntN(3) {
	case 0:
		missing = 1 + r.IntN(products-1)
	case 1:
		unread = 1 + r.IntN(products-1)
	}
	add := func(product int, p Picture) {
		n++
		p.Path, p.Taken, p.Camera = fmt.Sprintf("DSC_%04d.JPG", n), now, "2041885"
		pictures, of = append(pictures, p), append(of, product)
	}
	for product := range products {
		now = now.Add(time.Duration((12 + 78*r.Float64()) * float64(time.Second)))
		like := uint64(0xffff0000ffff0000) ^ 1<<r.IntN(64) ^ 1<<r.IntN(64) ^ 1<<r.IntN(64)
		switch product {
		case missing:
		case unread:
			add(product, Picture{Likeness: &like})
		default:
			add(product, Picture{Code: fmt.Sprint(product), Owner: int64(product + 1), Likeness: &like})
		}
		shape := r.Uint64()
		for range 3 + r.IntN(4) {
			pause := 2 + 7*r.Float64()
			if r.IntN(25) == 0 {
				pause = 15 + 10*r.Float64()
			}
			now = now.Add(time.Duration(pause * float64(time.Second)))
			own := shape ^ 1<<r.IntN(64) ^ 1<<r.IntN(64)
			if r.IntN(5) < 2 { // from another side
				own = r.Uint64()
			}
			add(product, Picture{Likeness: &own})
		}
	}
	return pictures, of
}

// Of 100 made sessions 99 % of the borders are right. Who comes by a group is likely at best, so that none is wrong and sure.
func TestSessions(t *testing.T) {
	borders, right, extra, foreign := 0, 0, 0, 0
	for seed := range 100 {
		pictures, of := session(rand.New(rand.NewPCG(uint64(seed), 3)))
		opened := map[int]bool{}
		for _, g := range Groups(pictures) {
			first := g.Slate
			if first < 0 {
				first = g.Pictures[0]
			}
			opened[first] = true
			for _, i := range g.Pictures {
				if g.Owner != 0 && g.Owner != int64(of[i]+1) {
					foreign++
				}
			}
		}
		for i := range pictures {
			border := i == 0 || of[i] != of[i-1]
			switch {
			case border && opened[i]:
				borders, right = borders+1, right+1
			case border:
				borders++
			case opened[i]:
				extra++
			}
		}
	}
	t.Logf("of %d borders %d are right, %d more were seen; %d pictures at a wrong owner", borders, right, extra, foreign)
	if float64(right-extra) < .99*float64(borders) || foreign > 20 {
		t.Errorf("of %d borders %d are right, %d more were seen; %d pictures at a wrong owner", borders, right, extra, foreign)
	}
}
