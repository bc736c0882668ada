package pairing

import (
	"ambrosa/core/message"
	"ambrosa/core/names"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/antzucaro/matchr"
	"github.com/mtibben/confusables"
)

func owners(skus ...string) []Owner {
	var all []Owner
	for i, sku := range skus {
		all = append(all, Owner{ID: int64(i + 1), Kind: Variant, Keys: []Key{{SKU, sku}}})
	}
	return all
}

// at shows a claim as grade, fit, owner's SKU, number and what of the path was met.
func at(owners []Owner, path string, c Claim) string {
	if c.Reading == nil {
		return string(c.Grade)
	}
	number := "-"
	if c.Reading.Number != nil {
		number = fmt.Sprint(*c.Reading.Number)
	}
	return fmt.Sprintf("%s %s %s %s %q", c.Grade, c.Reading.Fit, owners[c.Reading.Owner-1].Keys[0].Text, number,
		path[c.Reading.NameSpan.Start:c.Reading.NameSpan.End])
}

func TestPair(t *testing.T) {
	all := owners("PK-DLT-140-AMB", "PK-10", "PK-100", "T-100", "T-100-2", "AB-123", "AB-1232", "00451", "twice", "TWICE", "7A", "-", "X", "Grün 5", "CD-772", "S/4/19", "12.345.678", "4471")
	for _, c := range []struct {
		path string
		with string // another file of the delivery
		want string
	}{
		{"PK-DLT-140-AMB.jpg", "", `sure whole PK-DLT-140-AMB - "PK-DLT-140-AMB"`},
		{"in/a folder/tarn_pk dlt 140 amb 01.jpg", "", `likely within PK-DLT-140-AMB 1 "pk dlt 140 amb"`},
		{"PKDLT140AMB(2).jpg", "", `sure whole PK-DLT-140-AMB 2 "PKDLT140AMB"`},
		{"PK-100.jpg", "", `sure whole PK-100 - "PK-100"`},
		{"PK-1000.jpg", "", `unclaimed`},
		{"T-100_3.jpg", "", `sure whole T-100 3 "T-100"`},
		{"T-100-2.jpg", "", `likely whole T-100-2 - "T-100-2"`}, // it could be number 2 of T-100
		{"T-100@2x.jpg", "", `sure whole T-100 - "T-100"`},
		{"T-100_IMG_4471.jpg", "", `sure whole T-100 - "T-100"`},
		{"T-100_2 (1).jpg", "T-100-1.jpg", `contested`},
		{"CD-77_2.jpg", "", `unclaimed`}, // never CD-772
		{"S/4/19.jpg", "", `sure folder S/4/19 - "S/4/19"`},
		{"12345678.jpg", "", `likely whole 12.345.678 - "12345678"`},
		{"PK-DLT-140-AMB/PK-100.jpg", "", `contested`},
		{"PK-100.pdf", "", `ignored`},
		{"IMG_4471.jpg", "", `unclaimed`},
		{"T-100-2.jpg", "T-100-1.jpg", `contested`},
		{"AB-123_2.jpg", "", `sure whole AB-123 2 "AB-123"`},
		{"AB-1232.jpg", "", `sure whole AB-1232 - "AB-1232"`},
		{"00451-3.jpg", "", `sure whole 00451 3 "00451"`},
		{"451.jpg", "", `likely near 00451 - "451"`},
		{"tarn_pk dtl 140 amb 2.jpg", "", `likely near PK-DLT-140-AMB 2 "pk dtl 140 amb"`},
		{"PK-DLT-14O-AMB.jpg", "", `likely near PK-DLT-140-AMB - "PK-DLT-14O-AMB"`},
		{"PK-DLT-150-AMB.jpg", "", `unclaimed`},
		{"DLT-140-AMB_3.jpg", "", `likely part PK-DLT-140-AMB 3 "DLT-140-AMB"`},
		{"pk-dlt-140-amb/3.jpg", "", `sure folder PK-DLT-140-AMB 3 "pk-dlt-140-amb"`},
		{"PK-DLT-140-AMB/a kite.jpg", "", `likely folder PK-DLT-140-AMB - "PK-DLT-140-AMB"`},
		{"Twice.jpg", "", `contested`},
		{"PK-10 + PK-100.jpg", "", `contested`},
		{"old 7a kite.jpg", "", `likely within 7A - "7a"`},
		{"x.jpg", "", `unclaimed`},
		{"gru\u0308n_5-2.jpg", "", "sure whole Grün 5 2 \"gru\u0308n_5\""},
		{"__MACOSX/._PK-100.jpg", "", `ignored`},
	} {
		files := []File{{Path: c.path}}
		if c.with != "" {
			files = append(files, File{Path: c.with})
		}
		claim := Pair(NewIndex(all), files, nil)[0]
		if got := at(all, c.path, claim); got != c.want {
			t.Errorf("%s (with %q): %s, want %s", c.path, c.with, got, c.want)
		}
		if why(claim) == "" {
			t.Errorf("%s: the claim does not say why", c.path)
		}
		if claim.Grade == Contested && len(claim.Candidates) < 2 {
			t.Errorf("%s is contested by %v", c.path, claim.Candidates)
		}
	}
	unfit := NewIndex(all).Unfit
	if len(unfit) != 2 || unfit[0].Key.Text != "-" || unfit[1].Key.Text != "X" {
		t.Errorf("unfit keys: %v", unfit)
	}
}

// A slip is one also where many keys end in the same word; where the word itself differs, another key is meant. Six digits
// behind a date are a time of day, or may be a counter.
func TestSlipsAmongSiblings(t *testing.T) {
	all := owners("PK-104-IVY", "PK-105-IVY", "PK-106-IVY", "PK-104-XL", "PK-105-XL", "PK-106-XL", "PK-107-S", "PK-108-S", "PK-109-S", "NS176S", "PK-110-XXL", "442891", "142859")
	for _, c := range []struct{ path, want string }{
		{"PK-1O4-IVY.jpg", `likely near PK-104-IVY - "PK-1O4-IVY"`},
		{"PK-104-IYV.jpg", `likely near PK-104-IVY - "PK-104-IYV"`},
		{"PK-110-XL.jpg", `unclaimed`}, // no slip of XXL, as others end in XL
		{"NS176S-S_2.jpg", `unclaimed`},
		{"20240726_442891.jpg", `likely whole 442891 - "442891"`}, // no time of day, but perhaps a counter
		{"20240726_142859.jpg", `unclaimed`},
	} {
		if got := at(all, c.path, Pair(NewIndex(all), paths(c.path), nil)[0]); got != c.want {
			t.Errorf("%s: %s, want %s", c.path, got, c.want)
		}
	}
}

func TestTrialAndLadder(t *testing.T) {
	all := []Owner{
		{ID: 1, Kind: Product, Keys: []Key{{SKU, "PK-140"}, {Title, "Drift Delta"}}},
		{ID: 2, Kind: Variant, Parent: 1, Keys: []Key{{SKU, "PK-140-AMB"}, {Barcode, "6291041500213"}}, Also: []string{"amber"}},
		{ID: 3, Kind: Variant, Parent: 1, Keys: []Key{{SKU, "PK-140-PLM"}, {Barcode, "9.5E+12"}}, Also: []string{"plum"}},
	}
	ix := NewIndex(all)
	files := []File{{Path: "PK-140-AMB_1.jpg"}, {Path: "tarn PK-140-PLM.jpg"}, {Path: "06291041500213.jpg"}, {Path: "drift delta plum.jpg"},
		{Path: "PK-140-ABM.jpg"}, {Path: "pk-140-plm/2.jpg"}, {Path: "mystery.jpg"}, {Path: ".DS_Store"}}
	wants := []string{"sure whole 2", "likely within 3", "sure whole 2", "likely within 3", "likely near 2", "sure folder 3", "unclaimed", "ignored"}
	show := func(c Claim) string {
		if c.Reading == nil {
			return string(c.Grade)
		}
		return fmt.Sprintf("%s %s %d", c.Grade, c.Reading.Fit, c.Reading.Owner)
	}
	for i, c := range Pair(ix, files, nil) {
		if show(c) != wants[i] {
			t.Errorf("%s: %s, want %s", files[i].Path, show(c), wants[i])
		}
	}
	board := NewStudy(ix, files).Trial(nil)
	counts := map[Cell][2]int{}
	for _, c := range board.Cells {
		counts[c.Cell] = [2]int{c.Sure, c.Likely}
		if sum := c.Sure + c.Likely + c.Contested + c.Unclaimed; sum > 7 {
			t.Errorf("%v counts %d of 7 files", c.Cell, sum)
		}
	}
	for cell, want := range map[Cell][2]int{{SKU, Whole}: {1, 0}, {SKU, Within}: {1, 1}, {SKU, Folder}: {1, 0}, {SKU, Near}: {0, 1}, {Barcode, Whole}: {1, 0}, {Title, Words}: {0, 1}} {
		if counts[cell] != want {
			t.Errorf("%v: %v sure and likely, want %v", cell, counts[cell], want)
		}
	}
	// The proposed ladder claims what every cell together claims; a shorter one leaves the others unclaimed.
	for i, c := range Pair(ix, files, board.Ladder) {
		if show(c) != wants[i] {
			t.Errorf("by the ladder %v, %s: %s, want %s", board.Ladder, files[i].Path, show(c), wants[i])
		}
	}
	for i, c := range Pair(ix, files, Ladder{{Barcode, Whole}}) {
		if claimed := c.Grade == Sure; claimed != (i == 2) {
			t.Errorf("by barcode alone, %s is %s", files[i].Path, c.Grade)
		}
	}
	if len(ix.Unfit) != 1 || ix.Unfit[0].Key.Text != "9.5E+12" {
		t.Errorf("unfit: %v", ix.Unfit)
	}
}

// Published examples: kitten and sitting are 3 apart (as every handbook has it); "ca" and "abc" are 2 apart in this, the
// unrestricted distance, and 3 in the restricted one (L. Boytsov, ACM JEA 16, 2011, section 2). Checked against
// github.com/antzucaro/matchr.
func TestDistance(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{{"kitten", "sitting", 3}, {"ca", "abc", 2}, {"", "abc", 3}, {"abc", "abc", 0}, {"abcd", "acbd", 1}, {"pk140amb", "pk140abm", 1}, {"saturday", "sunday", 3}} {
		if got := distance(c.a, c.b, 9); got != c.want || distance(c.b, c.a, 9) != c.want {
			t.Errorf("distance(%q, %q) = %d, want %d", c.a, c.b, got, c.want)
		}
	}
	r := rand.New(rand.NewPCG(9, 9))
	text := func() string {
		b := make([]byte, r.IntN(9))
		for i := range b {
			b[i] = byte('a' + r.IntN(4))
		}
		return string(b)
	}
	for range 20_000 {
		a, b := text(), text()
		want := matchr.DamerauLevenshtein(a, b)
		if got := distance(a, b, 99); got != want {
			t.Fatalf("distance(%q, %q) = %d, the reference says %d", a, b, got, want)
		}
		if got := distance(a, b, 2); got != min(want, 3) {
			t.Fatalf("distance(%q, %q) of at most 2 = %d, the reference says %d", a, b, got, want)
		}
	}
}

// What the eye confuses is checked against the skeletons of UTS #39, as github.com/mtibben/confusables carries them: two
// letters that fold to one here have one skeleton there, once case is folded too.
func TestAlike(t *testing.T) {
	for _, pair := range []string{"0O", "1l", "1I", "аa", "еe", "оo", "рp", "сc", "хx", "уy", "ѕs", "іi", "αa", "οo", "ρp", "νv"} {
		r := []rune(pair)
		a, b := string(r[0]), string(r[1])
		if x, y := alike.Replace(strings.ToLower(a)), alike.Replace(strings.ToLower(b)); x != y {
			t.Errorf("%s and %s fold to %s and %s", a, b, x, y)
		}
		if !confusables.Confusable(a, b) {
			t.Errorf("%s and %s are not confusable by UTS #39", a, b)
		}
	}
}

// Any two lists: no panic, every span inside its text, every claim with its sentence.
func FuzzPair(f *testing.F) {
	f.Add("PK-100", "tarn/pk 100_2.jpg", "12.345")
	f.Add("ﬁ-٣", "\xff/(3)\u202e%20%zz.jpg.jpg", "-")
	f.Add("ﬁ-٣", "/(3).jpg", "-")
	f.Add("AB-123-2", "AB1232@2x (1).png", strings.Repeat("a1", 40))
	f.Add("KK674-GRY-36", "KK674-GRY-36-44 + 40.jpg", "KK674-GRY-44")
	f.Add("M6×134-A2", "2024/05/M6x134-A2½㎥_14. Januar 2025.jpg", "2024")
	for i, kind := range suppliers {
		s := newShop(keyStyles[i%len(keyStyles)], uint64(i))
		for range 3 {
			kind.write(s)
		}
		for n, name := range s.names {
			f.Add(s.owners[n%len(s.owners)].Keys[0].Text, name.path, s.owners[0].Keys[0].Text)
		}
	}
	f.Fuzz(func(t *testing.T, sku, path, other string) {
		owners := []Owner{{ID: 1, Kind: Product, Keys: []Key{{SKU, sku}, {Title, other}}}, {ID: 2, Kind: Variant, Parent: 1, Keys: []Key{{SKU, other}, {Barcode, sku}}, Also: []string{path}}}
		files := []File{{Path: path}, {Path: sku + "_1.jpg"}, {Path: other + "/" + path}}
		for i, c := range Pair(NewIndex(owners), files, nil) {
			if why(c) == "" || (c.Reading == nil) != (c.Grade != Sure && c.Grade != Likely) {
				t.Fatalf("%q: %+v", files[i].Path, c)
			}
			all := c.Candidates
			if c.Reading != nil {
				all = append(all, *c.Reading)
			}
			for _, r := range all {
				if r.NameSpan.Start < 0 || r.NameSpan.End < r.NameSpan.Start || r.NameSpan.End > len(files[i].Path) || r.KeySpan.Start < 0 || r.KeySpan.End > len(r.Key) {
					t.Fatalf("%q: spans %v and %v of %q", files[i].Path, r.NameSpan, r.KeySpan, r.Key)
				}
			}
		}
	})
}

func TestOrder(t *testing.T) {
	number := func(n int) *int { return &n }
	files := []Placed{
		{Owner: 1, Path: "k packed.jpg", Role: "packed"},
		{Owner: 1, Path: "k10.jpg", Number: number(10)},
		{Owner: 1, Path: "k2.jpg", Number: number(2)},
		{Owner: 1, Path: "k.jpg"},
		{Owner: 1, Path: "k2 back.jpg", Number: number(2), Role: "back"},
		{Owner: 2, Path: "a10.jpg", Number: number(1)},
		{Owner: 2, Path: "a9.jpg", Number: number(1)},
		{Owner: 2, Path: "z.jpg", Rank: 1},
	}
	for i := range files {
		files[i].File = i
	}
	paths := map[string]int{}
	place := Places(files)
	for i, f := range files {
		paths[f.Path] = place[i]
	}
	for path, want := range map[string]int{"k.jpg": 1, "k2.jpg": 2, "k2 back.jpg": 3, "k10.jpg": 4, "k packed.jpg": 5, "a9.jpg": 1, "a10.jpg": 2, "z.jpg": 3} {
		if paths[path] != want {
			t.Errorf("%s is at %d, want %d", path, paths[path], want)
		}
	}
}

// Every role that a name can say has its place, and capitals decide nothing that anything else could.
func TestOrderOfRoles(t *testing.T) {
	for word, is := range names.Trade {
		if is.Role == "" {
			continue
		}
		role := is.Role
		if _, ok := roleOrder[role]; !ok {
			t.Errorf("the role %q (%s) has no place in the order", role, word)
		}
	}
	one := 1
	for _, c := range []struct{ names, roles []string }{
		{[]string{"k_1a.jpg", "K_1B.jpg", "k_1c.JPG"}, []string{"", "", ""}},
		{[]string{"b.jpg", "inside.jpg", "detail.jpg"}, []string{"front", "inside", "detail"}},
		{[]string{"A.jpg", "a.jpg"}, []string{"", ""}}, // the bytes decide last
	} {
		for shift := range c.names {
			var placed []Placed
			for i := range c.names {
				at := (i + shift) % len(c.names)
				placed = append(placed, Placed{File: i, Owner: 1, Number: &one, Role: c.roles[at], Path: c.names[at]})
			}
			for i, place := range Places(placed) {
				if want := (i+shift)%len(c.names) + 1; place != want {
					t.Errorf("%s of %v stands at %d, want %d", placed[i].Path, c.names, place, want)
				}
			}
		}
	}
}

// why is what a claim says, as one text.
func why(c Claim) string { return message.Texts(c.Why()) }
