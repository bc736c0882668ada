package pairing

import (
	"fmt"
	"strings"
	"testing"
	"time"
	"unicode/utf8"
)

// Names that no honest supplier writes are read as far as they say something, and take no longer than others.
func TestHostileNames(t *testing.T) {
	all := owners("PK-100", "PK-DLT-140-AMB", "", "-", " . ", "X", "７", strings.Repeat("K9-", 40), strings.Repeat("Z", 5000), "ÄÖ-12", "a\x00b-77", "1234567890123456789012345678")
	ix := NewIndex(all)
	unfit := map[string]string{}
	for _, u := range ix.Unfit {
		unfit[u.Key.Text[:min(3, len(u.Key.Text))]] = u.Why
	}
	for key, why := range map[string]string{"-": "separators", " . ": "separators", "X": "short", "７": "short", "K9-": "long", "ZZZ": "long"} {
		if !strings.Contains(unfit[key], why) {
			t.Errorf("the key %q is unfit because %q, want %q", key, unfit[key], why)
		}
	}
	if len(unfit) != 6 {
		t.Errorf("unfit are %v", unfit)
	}
	for _, c := range []struct{ path, want string }{
		// Control characters and marks that are not seen.
		{"PK-100\x00.jpg", `sure whole PK-100 - "PK-100"`},
		{"\x1b[31mPK-100.jpg", `likely near PK-100 - "mPK-100"`}, // the end of the sequence reads as a letter too many
		{"PK\t100\n_2.jpg", `sure whole PK-100 2 "PK\t100"`},
		{"\u202ePK-100.jpg", `sure whole PK-100 - "PK-100"`},
		{"PK\u200b-100\ufeff.jpg", `sure whole PK-100 - "PK\u200b-100"`},
		{"PK-\u2066100\u2069-3.jpg", `sure whole PK-100 3 "PK-\u2066100"`},
		{"a\x00b-77.jpg", "sure whole a\x00b-77 - \"a\\x00b-77\""},
		// Bytes that are no text.
		{"\xff\xfePK-100.jpg", `sure whole PK-100 - "PK-100"`},
		{"PK-1\xc300.jpg", `unclaimed`},
		{"\xc3\x84\xc3\x96-12\xff.jpg", "sure whole ÄÖ-12 - \"ÄÖ-12\""},
		// Nothing but what separates, and what keys unfit to pair by would be.
		{"", `unclaimed`}, {"-.jpg", `unclaimed`}, {" . .jpg", `unclaimed`}, {"x.jpg", `unclaimed`}, {"7.jpg", `unclaimed`}, {"///", `unclaimed`}, {`\\\`, `unclaimed`}, {"..", `ignored`},
		{"../../etc/PK-100.jpg", `sure whole PK-100 - "PK-100"`},
		// Percent-encoding of nothing, halves and more than once.
		{"PK%2D100.jpg", `sure whole PK-100 - "PK%2D100"`},
		{"PK%252D100.jpg", `sure whole PK-100 - "PK%252D100"`},
		{"PK-100%.jpg", `sure whole PK-100 - "PK-100"`},
		{"%00PK-100%0A.jpg", `sure whole PK-100 - "PK-100"`},
		// 4,000 characters, of letters, of tokens, of folders, of accents on one letter, and beyond any number.
		{strings.Repeat("a", 4000) + ".jpg", `unclaimed`},
		{strings.Repeat("a1", 2000) + ".jpg", `unclaimed`},
		{strings.Repeat("x/", 2000) + "PK-100.jpg", `sure whole PK-100 - "PK-100"`},
		{"PK-100" + strings.Repeat("\u0301", 4000) + ".jpg", `likely within PK-100 - "PK-100`},
		{"PK-100_" + strings.Repeat("9", 4000) + ".jpg", `likely within PK-100 - "PK-100"`},
		{"PK-100" + strings.Repeat(".jpg", 1000), `sure whole PK-100 - "PK-100"`},
		{strings.Repeat("Z", 5000) + ".jpg", `unclaimed`},
		{"1234567890123456789012345678_4.jpg", `sure whole 1234567890123456789012345678 4 "1234567890123456789012345678"`},
	} {
		start := time.Now()
		claim := Pair(ix, []File{{Path: c.path}}, nil)[0]
		if got := at(all, c.path, claim); !strings.HasPrefix(got, c.want) {
			t.Errorf("%.60q: %s, want %s", c.path, got, c.want)
		}
		if took := time.Since(start); took > 2*time.Second {
			t.Errorf("%.60q took %s", c.path, took)
		}
		if why(claim) == "" || !utf8.ValidString(why(claim)) {
			t.Errorf("%.60q: the claim says %q", c.path, why(claim))
		}
	}
}

// A key that many owners have, as a table with the same word in every row gives, is contested by a few of them, and says
// how many there are; another field's key of the same text is told all the same.
func TestSharedKey(t *testing.T) {
	var all []Owner
	for i := range 40 {
		all = append(all, Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, fmt.Sprintf("PK-%d", 500+i)}, {Code, "N/A-100"}}})
	}
	all = append(all, Owner{ID: 41, Kind: Product, Keys: []Key{{SKU, "NA100"}}})
	for _, c := range []struct {
		ladder     Ladder
		grade      Grade
		candidates int
		says       string
	}{
		{nil, Contested, maxSame + 1, "41 owners have this key."},
		{Ladder{{Code, Whole}}, Contested, maxSame, "40 owners have this key."},
		{Ladder{{SKU, Whole}}, Sure, 0, "The name is the SKU. Separators differ. Capital letters differ."},
	} {
		claim := Pair(NewIndex(all), paths("n_a 100.jpg"), c.ladder)[0]
		if claim.Grade != c.grade || len(claim.Candidates) != c.candidates || why(claim) != c.says {
			t.Errorf("by %v: %s with %d candidates, %q; want %+v", c.ladder, claim.Grade, len(claim.Candidates), why(claim), c)
		}
	}
}

// A delivery that is nearly all alike, or a catalogue whose keys are, costs no more than one that is not: no step grows
// with names times keys.
func TestNoProductOfNamesAndKeys(t *testing.T) {
	measure := func(n int, key func(i int) string, name func(i int) string) time.Duration {
		skus, list := make([]string, n), make([]string, n)
		for i := range n {
			skus[i], list[i] = key(i), name(i)
		}
		all, files := owners(skus...), paths(list...)
		start := time.Now()
		Pair(NewIndex(all), files, nil)
		return time.Since(start)
	}
	for _, c := range []struct {
		what      string
		key, name func(i int) string
	}{
		{"one name again and again", func(i int) string { return fmt.Sprintf("PK-%06d", i) }, func(int) string { return "PK-9999999.jpg" }},
		{"all keys the same", func(int) string { return "PK-100" }, func(i int) string { return fmt.Sprintf("PK-100_%d.jpg", i%1000) }},
		{"keys of one long beginning", func(i int) string { return fmt.Sprintf("ABCDEFGH-IJKL-%06d", i) }, func(i int) string { return fmt.Sprintf("ABCDEFGH-IJKM-%06d.jpg", i) }},
		{"names of parts that all keys share", func(i int) string { return fmt.Sprintf("ABC-DEF-%06d", i) }, func(int) string { return "abc def.jpg" }},
		{"numbers one behind the other", func(i int) string { return fmt.Sprintf("%06d", 2*i) }, func(i int) string { return fmt.Sprintf("%06d.jpg", 2*i+1) }},
		{"folders that all are keys", func(i int) string { return fmt.Sprintf("K-%05d", i) }, func(i int) string { return fmt.Sprintf("K-%05d/K-%05d/K-%05d/%d.jpg", i/100, i/10, i, i%7) }},
	} {
		// The smaller is measured thrice, as a short time is easily off.
		small := measure(2000, c.key, c.name)
		for range 2 {
			small = min(small, measure(2000, c.key, c.name))
		}
		if large := measure(16_000, c.key, c.name); large > 32*small+500*time.Millisecond {
			t.Errorf("%s: 2,000 take %s, 16,000 take %s", c.what, small, large)
		}
	}
}

// Lists made to be slow are not: many variants of one product, names of hundreds of tokens, keys nested in each other, names
// that are all near to each other. Ten seconds is what each may take at most.
func TestHostileListsAreRead(t *testing.T) {
	for _, c := range []struct {
		what string
		make func() ([]Owner, []File)
	}{
		{"names and variants of one product", func() (all []Owner, files []File) {
			all = []Owner{{ID: 1, Kind: Product, Keys: []Key{{SKU, "PK-140"}, {Title, "Drift Delta"}}}}
			for i := range 16_000 {
				all = append(all, Owner{ID: int64(i + 2), Kind: Variant, Parent: 1, Keys: []Key{{SKU, fmt.Sprintf("PK-140-%05d", i)}}, Also: []string{"c" + word(i%130), "s" + word(i/130)}})
				files = append(files, File{Path: "PK-140 c" + word(i%130) + " s" + word(i/130) + ".jpg"})
			}
			return all, files
		}},
		{"names of 250 tokens", func() (all []Owner, files []File) {
			for i := range 4000 {
				all = append(all, Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, fmt.Sprintf("A%d-B", i)}}})
				files = append(files, File{Path: strings.Repeat(fmt.Sprintf("a%d ", i), 125) + ".jpg"})
			}
			return all, files
		}},
		{"keys nested in keys", func() (all []Owner, files []File) {
			for i := range 30 {
				all = append(all, Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, strings.Repeat("A1", i+1)}, {Code, strings.Repeat("1A", i+1)}}})
			}
			for i := range 2000 {
				files = append(files, File{Path: strings.Repeat("a1", 120) + fmt.Sprintf("x%d/", i) + strings.Repeat("a1-", 120) + fmt.Sprintf("%d.jpg", i)})
			}
			return all, files
		}},
		{"one key again and again", func() (all []Owner, files []File) {
			all = owners("PK-100", "PK-101", "100", "PK")
			for i := range 4000 {
				files = append(files, File{Path: strings.Repeat("PK-100 ", 80) + fmt.Sprintf("%d.jpg", i)})
			}
			return all, files
		}},
		{"names near to one key", func() (all []Owner, files []File) {
			for i := range 16_000 {
				all = append(all, Owner{ID: int64(i + 1), Kind: Product, Keys: []Key{{SKU, fmt.Sprintf("ABCDEFGHJKL%sX%s", word(i%130), word(i/130))}}})
				files = append(files, File{Path: fmt.Sprintf("ABCDEFGHJKL%sY%s.jpg", word(i%130), word(i/130))})
			}
			return all, files
		}},
		{"names joined by plus", func() (all []Owner, files []File) {
			all = owners("PK-100", "PK-101")
			for i := range 4000 {
				files = append(files, File{Path: strings.Repeat("PK-100+", 60) + fmt.Sprintf("%d.jpg", i)})
			}
			return all, files
		}},
	} {
		all, files := c.make()
		start := time.Now()
		claims := Pair(NewIndex(all), files, nil)
		took := time.Since(start)
		t.Logf("%s: %s, the first is %s (%s)", c.what, took, claims[0].Grade, why(claims[0]))
		if took > 10*time.Second {
			t.Errorf("%s took %s", c.what, took)
		}
	}
}

// word writes a number in letters.
func word(n int) string { return string(rune('A'+n/26%26)) + string(rune('A'+n%26)) }
