package pairing

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
)

// worlds are small catalogues and deliveries of every kind that the truth is tested with.
func worlds(yield func(what string, owners []Owner, files []File)) {
	give := func(what string, w *writer) {
		files := make([]File, len(w.names))
		for i, n := range w.names {
			files[i].Path = n.path
		}
		yield(what, w.owners, files)
	}
	for seed, style := range []string{"lettered", "digits", "dots", "slashes", "spaces", "compact", "beginnings"} {
		w := &writer{Rand: rand.New(rand.NewPCG(3, uint64(seed))), style: style, seen: map[string]bool{}}
		w.write(60)
		give(style, w)
	}
	for i, style := range keyStyles {
		mixed := newShop(style, uint64(50+i))
		for _, kind := range suppliers {
			s := newShop(style, uint64(i))
			for range 25 {
				kind.write(s)
			}
			give(kind.kind+", "+style, &s.writer)
			for range 6 {
				kind.write(mixed)
			}
		}
		give("all together, "+style, &mixed.writer)
	}
	// Keys that many share, and names that are near to many.
	crowd := &writer{Rand: rand.New(rand.NewPCG(3, 99)), seen: map[string]bool{}}
	for i := range 120 {
		crowd.owners = append(crowd.owners, Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, fmt.Sprintf("QRS-%d", 4000+i)}, {Code, "N/A-100"},
			{Title, crowd.pick("Drift", "Lark") + " Kite " + crowd.pick("red", "blue", "green")}}})
		crowd.add("near", fmt.Sprintf("QRS-%d%s.jpg", 5000+i, crowd.pick("", "x", "-1")), 0, -1)
	}
	for i := range 8 {
		crowd.owners = append(crowd.owners, Owner{ID: int64(200 + i), Kind: Product, Keys: []Key{{SKU, []string{"1-002-3", "100-23", "10-023", "1002-3", "1-00-23", "10-02-3", "10023", "1-0-023"}[i]}}})
	}
	for _, path := range []string{"n a 100.jpg", "kite lark.jpg", "red kite.jpg", "QRS-4xx0.jpg", "10023.jpg", "100-23.jpg", "1 0 0 2 3.jpg", "10-023_2.jpg"} {
		crowd.add("shared", path, 0, -1)
	}
	give("a crowd", crowd)
}

// The order of owners and of files decides nothing: neither a tie, nor which candidates are told, nor what is said.
func TestOrderDecidesNothing(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	worlds(func(what string, owners []Owner, files []File) {
		claims := Pair(NewIndex(owners), files, nil)
		for range 2 {
			mixed, names := slices.Clone(owners), slices.Clone(files)
			r.Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
			r.Shuffle(len(names), func(i, j int) { names[i], names[j] = names[j], names[i] })
			got := map[string]Claim{}
			for i, c := range Pair(NewIndex(mixed), names, nil) {
				got[names[i].Path] = c
			}
			for i, want := range claims {
				if c := got[files[i].Path]; !reflect.DeepEqual(c, want) {
					t.Fatalf("%s: %s: shuffled it is\n%+v, want\n%+v", what, files[i].Path, said(c), said(want))
				}
			}
		}
	})
}

func said(c Claim) string {
	s := fmt.Sprintf("%s %q", c.Grade, why(c))
	if c.Reading != nil {
		s += fmt.Sprintf(" %+v", *c.Reading)
	}
	for _, r := range c.Candidates {
		s += fmt.Sprintf("\n  %+v", r)
	}
	return s
}

// An owner that has nothing to do with a name takes no sure claim away, not even one that is called like the year, the number
// or the role that the name says besides.
func TestUnrelatedOwner(t *testing.T) {
	worlds(func(what string, owners []Owner, files []File) {
		claims := Pair(NewIndex(owners), files, nil)
		all := slices.Clone(owners)
		for i, keys := range [][]Key{{{Title, "2001"}}, {{Title, "2023"}}, {{SKU, "2021"}}, {{Title, "Front"}}, {{SKU, "COPY"}}, {{SKU, "02"}}, {{SKU, "~QQQQQ-98765-ZZZZZZZZ"}, {Title, "Unrelated thing"}},
			{{Code, "1200"}}, {{Title, "IMG 4711"}}, {{SKU, "20240131"}}, {{Barcode, "2001"}}, {{SKU, "x"}, {Code, "web"}}} {
			if !slices.ContainsFunc(owners, func(o Owner) bool {
				return slices.ContainsFunc(keys, func(k Key) bool { return strings.EqualFold(o.Keys[0].Text, k.Text) })
			}) { // there it would be related
				all = append(all, Owner{ID: 1_000_000 + int64(i), Kind: Product, Keys: keys})
			}
		}
		for i, c := range Pair(NewIndex(all), files, nil) {
			if was := claims[i]; was.Grade == Sure && (c.Grade != Sure || c.Reading.Owner != was.Reading.Owner) {
				t.Errorf("%s: %s was sure, %s; beside owners that have nothing to do with it it is %s", what, files[i].Path, said(was), said(c))
			}
		}
	})
	// The example that showed it.
	all := []Owner{{ID: 1, Keys: []Key{{SKU, "B7"}}}, {ID: 2, Keys: []Key{{Title, "2001"}}}}
	if c := Pair(NewIndex(all), paths("B7_2001.jpg"), nil)[0]; c.Grade != Sure || c.Reading.Owner != 1 {
		t.Errorf("B7_2001.jpg is %s", said(c))
	}
}

// Keys that are alike but for what parts their digits are told apart, however many there are.
func TestDigitsParted(t *testing.T) {
	var all []Owner
	for i := range 1 << 7 { // every way to part eight digits
		key := ""
		for d := range 8 {
			key += fmt.Sprint(d + 1)
			if d < 7 && i>>d&1 == 1 {
				key += "-"
			}
		}
		all = append(all, Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, key}}})
	}
	files := make([]File, len(all))
	for i, o := range all {
		files[i].Path = o.Keys[0].Text + ".jpg"
	}
	for i, c := range Pair(NewIndex(all), files, nil) {
		if r := c.Reading; r == nil && !slices.ContainsFunc(c.Candidates, func(r Reading) bool { return r.Owner == all[i].ID }) || r != nil && r.Owner != all[i].ID {
			t.Errorf("%s: %s", files[i].Path, said(c))
		}
	}
}

// One name or owner that can't be read costs that line only: characters that fold to several tokens, parents in a circle.
func TestNothingStopsARun(t *testing.T) {
	all := owners("PK-100", "PK-200", "PK-300")
	all[0].Parent, all[1].Parent, all[2].Parent = 2, 3, 1
	files := paths("a12½34.jpg", "PK-100 PK-200/1.jpg", "㎥12㏠3x4.jpg", "⑴⒈½⅓×¾.jpg", "PK-100_2.jpg", "1½x2½.jpg", "㍘12:30.jpg")
	claims := Pair(NewIndex(all), files, nil)
	for i, c := range claims {
		if why(c) == "" {
			t.Errorf("%s: %+v", files[i].Path, c)
		}
	}
	if c := claims[4]; c.Grade != Sure || c.Reading.Owner != 1 {
		t.Errorf("PK-100_2.jpg is %s", said(c))
	}
	if c := claims[1]; c.Grade != Contested || len(c.Candidates) < 2 {
		t.Errorf("a folder of two keys is %s", said(c))
	}
}
