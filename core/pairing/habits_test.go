package pairing

import (
	"ambrosa/core/message"
	"ambrosa/core/names"
	"fmt"
	"slices"
	"strings"
	"testing"
)

func paths(list ...string) []File {
	files := make([]File, len(list))
	for i, p := range list {
		files[i].Path = p
	}
	return files
}

// series writes a pattern for each of some SKUs.
func series(pattern string, skus ...string) (list []string) {
	for _, s := range skus {
		list = append(list, strings.ReplaceAll(pattern, "{}", s))
	}
	return list
}

var sixSKUs = []string{"PK-141", "PK-152", "PK-163", "PK-174", "PK-185", "PK-196"}

// What a delivery does is stated in words with counts; switched off, it doesn't count any more.
func TestHabits(t *testing.T) {
	all := owners(sixSKUs...)
	for _, c := range []struct {
		what  string
		files []string
		says  []string // of the habits stated, in their order
		off   HabitKind
		on    Grade // of the first file
		then  Grade // of the first file with the habit off
	}{
		{"a shared prefix", series("tarn_{}.jpg", sixSKUs...), []string{"“tarn_” stands before the key.", "The name contains the SKU."}, SharedPrefix, Sure, Likely},
		{"a prefix of a few is none", append(series("tarn_{}.jpg", sixSKUs[:3]...), series("{}.jpg", sixSKUs[3:]...)...), []string{"The name "}, SharedPrefix, Likely, Likely},
		{"a shared suffix", series("{} kites.jpg", sixSKUs...), []string{"“ kites” stands after the key.", "The name contains the SKU."}, SharedSuffix, Sure, Likely},
		{"numbers from 0", append(series("{}_00.jpg", sixSKUs...), series("{}_01.jpg", sixSKUs...)...), []string{"Pictures are numbered with zeros (_01), from 0.", "The name is the SKU."}, NumberStart, Sure, Sure},
		{"numbers in brackets", series("{} (1).jpg", sixSKUs...), []string{"Pictures are numbered in brackets (1), from 1.", "The name is the SKU."}, NumberStart, Sure, Sure},
		{"letters", append(series("{}a.jpg", sixSKUs...), series("{}b.jpg", sixSKUs...)...), []string{"Pictures are numbered by letters (a), from 1.", "The name is the SKU."}, NumberStart, Sure, Sure},
		{"folders", series("{}/1.jpg", sixSKUs...), []string{"Pictures are numbered", "The folder of a file is the key.", "The folder is the SKU."}, FolderLevel, Sure, Unclaimed},
		{"the folder above", series("{}/big/1.jpg", sixSKUs...), []string{"Pictures are numbered", "The folder above a file’s own folder is the key.", "The folder is the SKU."}, FolderLevel, Sure, Unclaimed},
	} {
		s := NewStudy(NewIndex(all), paths(c.files...))
		var said []string
		for _, h := range s.Habits() {
			said = append(said, h.Says.Text())
			if h.Count == 0 || h.Of != len(c.files) {
				t.Errorf("%s: %q is said of %d of %d", c.what, h.Says, h.Count, h.Of)
			}
		}
		if !slices.EqualFunc(said, c.says, strings.HasPrefix) {
			t.Errorf("%s: it is said that %q, want %q", c.what, said, c.says)
		}
		if got := s.Claims(Choice{})[0].Grade; got != c.on {
			t.Errorf("%s: %s is %s, want %s", c.what, c.files[0], got, c.on)
		}
		if got := s.Claims(Choice{Off: []HabitKind{c.off}})[0].Grade; got != c.then {
			t.Errorf("%s, %s off: %s is %s, want %s", c.what, c.off, c.files[0], got, c.then)
		}
		if want := c.what == "numbers from 0"; s.StartsAtZero() != want {
			t.Errorf("%s: starting at zero is %v", c.what, !want)
		}
	}
}

// A word of another title beside a code says nothing, unless the habit is switched off; a whole title of several words
// contests it always.
func TestTitlesBesideCodes(t *testing.T) {
	all := []Owner{
		{ID: 1, Kind: Product, Keys: []Key{{SKU, "PK-141"}, {Title, "Drift Delta"}}},
		{ID: 2, Kind: Product, Keys: []Key{{SKU, "PK-152"}, {Title, "Storm"}}},
		{ID: 3, Kind: Product, Keys: []Key{{SKU, "PK-163"}, {Title, "Hearth Parafoil"}}},
	}
	s := NewStudy(NewIndex(all), paths("PK-141 storm.jpg", "PK-141 hearth parafoil.jpg", "PK-141 drift delta.jpg"))
	for _, c := range []struct {
		off  []HabitKind
		want []Grade
	}{{nil, []Grade{Likely, Contested, Likely}}, {[]HabitKind{LeadingKey}, []Grade{Contested, Contested, Likely}}} {
		for i, claim := range s.Claims(Choice{Off: c.off}) {
			if claim.Grade != c.want[i] {
				t.Errorf("%s with %v off: %s (%s), want %s", s.files[i].Path, c.off, claim.Grade, why(claim), c.want[i])
			}
		}
	}
}

// Each claim carries its evidence: key, fit, spans, what was folded, what differs, and a sentence.
func TestEvidence(t *testing.T) {
	all := []Owner{
		{ID: 1, Kind: Product, Keys: []Key{{SKU, "PK-140"}, {Barcode, "9521234500018"}, {Title, "Drift Delta 140"}}},
		{ID: 2, Kind: Variant, Parent: 1, Keys: []Key{{SKU, "PK-140-AMB"}}, Also: []string{"amber"}},
		{ID: 3, Kind: Variant, Parent: 1, Keys: []Key{{SKU, "PK-140-PLM"}}, Also: []string{"plum"}},
		{ID: 4, Kind: Category, Keys: []Key{{Title, "Great deltas"}}},
		{ID: 5, Kind: Product, Keys: []Key{{SKU, "REL-0077-X"}, {"mpn", "ZZ-901"}}},
	}
	for _, c := range []struct{ path, want string }{
		{"PK-140-AMB.jpg", `sure 2 sku whole "PK-140-AMB"="PK-140-AMB" The name is the SKU.`},
		{"pk_140_amb_front_2.jpg", `sure 2 sku whole "pk_140_amb"="PK-140-AMB" The name is the SKU. Separators differ. Capital letters differ. Number 2. Shows the front.`},
		{"pk-140-amb.jpg", `sure 2 sku whole "pk-140-amb"="PK-140-AMB" The name is the SKU. Capital letters differ.`},
		{"0 9521234500018-3.png", `sure 1 barcode whole "0 9521234500018"="9521234500018" The name is the barcode. Leading zeros differ. Number 3.`},
		{"9 521234 500018.png", `sure 1 barcode whole "9 521234 500018"="9521234500018" The name is the barcode. Separators differ.`},
		{"PK-140 plum.jpg", `likely 3 sku within "PK-140"="PK-140" The name contains the SKU. The text beside it names this variant.`},
		{"Drift Delta 140/amber/1.jpg", `likely 2 title folder "Drift Delta 140"="Drift Delta 140" The folder is the title. Number 1. The text beside it names this variant.`},
		{"great-deltas.jpg", `sure 4 title whole "great-deltas"="Great deltas" The name is the title. Separators differ. Capital letters differ.`},
		{"PK-140-ABM.jpg", `likely 2 sku near "PK-140-ABM"="PK-140-AMB" The name is nearly the SKU. “BM” instead of “MB”: swapped.`},
		{"PK-14O-AMB.jpg", `likely 2 sku near "PK-14O-AMB"="PK-140-AMB" The name is nearly the SKU. “O” instead of “0”.`},
		{"РK-140-AMB.jpg", `likely 2 sku near "РK-140-AMB"="PK-140-AMB" The name is nearly the SKU. “Р” instead of “P”.`}, // a Cyrillic letter
		{"0077-X_2.jpg", `likely 5 sku part "0077-X"="0077-X" The name is part of the SKU. “REL-” is missing before it. Number 2.`},
		{"REL-77-X.jpg", `likely 5 sku near "REL-77-X"="REL-0077-X" The name is nearly the SKU. Leading zeros differ.`},
		{"ZZ 901.jpg", `sure 5 mpn whole "ZZ 901"="ZZ-901" The name is the attribute mpn. Separators differ.`},
		{"REL-0177-X.jpg", `unclaimed 5 “1” instead of “0”. No owner has this key. The name is nearly the SKU. “1” instead of “0”.`},
		{"REL-0077-Y.jpg", `unclaimed 5 “X” is missing. No owner has this key. The name is nearly the SKU. “X” is missing. Number 25.`},
		{"delta 140.jpg", `unclaimed 1 “drift” is missing. No owner has this key. The name has the words of the title. “drift” is missing.`},
	} {
		claim := Pair(NewIndex(all), paths(c.path), nil)[0]
		got := string(claim.Grade)
		if r := claim.Reading; r != nil {
			got += fmt.Sprintf(" %d %s %s %q=%q", r.Owner, r.Field, r.Fit, c.path[r.NameSpan.Start:r.NameSpan.End], r.Key[r.KeySpan.Start:r.KeySpan.End])
		} else if len(claim.Candidates) > 0 {
			got += fmt.Sprintf(" %d %s", claim.Candidates[0].Owner, claim.Candidates[0].Differs.Text())
		}
		if got += " " + why(claim); got != c.want {
			t.Errorf("%s:\n got %s\nwant %s", c.path, got, c.want)
		}
	}
}

// Codes that are made of values have a sentence each.
func TestSentences(t *testing.T) {
	var said []message.Message
	for _, fit := range Fits {
		for _, field := range []Field{SKU, Barcode, Code, Title, "mpn"} {
			said = append(said, keyMet(fit, field))
		}
	}
	for role := range roleOrder {
		if role != "" {
			said = append(said, explain(&Reading{Fit: Whole, Field: SKU, Role: role}, message.Message{})...)
		}
	}
	for sense := names.Date; sense <= names.View; sense++ {
		said = append(said, message.New(sense.Code()))
	}
	for _, m := range said {
		if text := m.Text(); !strings.HasSuffix(text, ".") {
			t.Errorf("%+v: %q", m, text)
		}
	}
}

// Keys that say too little are never paired by, and listed.
func TestUnfit(t *testing.T) {
	ix := NewIndex([]Owner{{ID: 7, Keys: []Key{{SKU, "-"}, {Code, "Q"}, {Barcode, "9521234500017"}, {Title, strings.Repeat("word ", 40)}, {"mpn", ""}}}})
	var why []string
	for _, u := range ix.Unfit {
		why = append(why, u.Why)
	}
	if want := []string{"unfit_separators", "unfit_short", "unfit_barcode", "unfit_long"}; !slices.Equal(why, want) {
		t.Errorf("unfit: %q, want %q", why, want)
	}
	for _, c := range Pair(ix, paths("-.jpg", "q.jpg", "9521234500017.jpg", "\x00\x1b[2J.jpg", strings.Repeat("\u202ex", 4000)+".jpg", ""), nil) {
		if c.Grade != Unclaimed {
			t.Errorf("claimed: %+v", c)
		}
	}
}

func TestTellsApart(t *testing.T) {
	for _, c := range []struct {
		values string
		want   bool
	}{{"X-9001 X-9002 X-9003", true}, {"X-9001 x9001 X-9002", false}, {"amber plum teal", false}, {"90 140 210", false}, {"X-9001 X-9002", false}, {"", false}} {
		if got := TellsApart(strings.Fields(c.values)); got != c.want {
			t.Errorf("%q: %v", c.values, got)
		}
	}
}

// What differs is said so that people see it at once, and lines that lack the same fall into one group.
func TestDifference(t *testing.T) {
	for _, c := range []struct{ name, key, want string }{
		{"pk140ab", "pk140amb", "“M” is missing."}, {"pk140ammb", "pk140amb", "“M” is extra."}, {"pk140abm", "pk140amb", "“BM” instead of “MB”: swapped."},
		{"pk14oamb", "pk140amb", "“O” instead of “0”."}, {"pk150amb", "pk140amb", "“5” instead of “4”."}, {"grn5", "grün5", "“Ü” is missing."}, {"a", "a", "“” is missing."},
	} {
		if got := difference(c.name, c.key).Text(); got != c.want {
			t.Errorf("%s for %s: %q, want %q", c.name, c.key, got, c.want)
		}
	}
	all := owners("PK-140-AMB", "PK-141-AMB", "PK-142-AMB", "PK-140-PLM", "PK-141-PLM", "PK-142-PLM")
	for i := range all {
		all[i].Kind = Product // of no family, so that nobody can know which is meant
	}
	for _, c := range Pair(NewIndex(all), paths("PK-140.jpg", "PK-141.jpg", "PK-142_1.jpg"), nil) {
		var lacks []string
		for _, r := range c.Candidates {
			lacks = append(lacks, r.Differs.Text())
		}
		if c.Grade != Unclaimed || !slices.Equal(lacks, []string{"“-AMB” is missing after it.", "“-PLM” is missing after it."}) {
			t.Errorf("%s, lacking %q", c.Grade, lacks)
		}
	}
	// Of one family, the product is meant.
	family := append([]Owner{{ID: 9, Kind: Product, Keys: []Key{{Title, "Drift"}}}}, owners("PK-140-AMB", "PK-140-PLM")...)
	family[1].Parent, family[2].Parent = 9, 9
	if c := Pair(NewIndex(family), paths("PK-140_2.jpg"), nil)[0]; c.Grade != Likely || c.Reading.Owner != 9 || *c.Reading.Number != 2 {
		t.Errorf("a part of both variants' keys: %+v", c)
	}
}
