package pairing

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/gtin"
)

// truth is a name whose owner and number are known. Owner 0: nobody in the catalogue is meant.
type truth struct {
	path   string
	owner  int64
	number int // -1 for none
	slip   bool
	what   string
}

// corpus makes a catalogue in one style of SKU and names that mean its owners in every way that suppliers
// write them.
func corpus(style string, r *rand.Rand) (owners []Owner, names []truth) {
	pick := func(words ...string) string { return words[r.IntN(len(words))] }
	letters := func(n int) string {
		b := make([]byte, n)
		for i := range b {
			b[i] = "ABCDEFGHJKMNPQRSTUVWXYZ"[r.IntN(23)]
		}
		return string(b)
	}
	sku := func(i int) string {
		n := 10_007*(i+1)%899_981 + 100_000
		switch style {
		case "lettered":
			return fmt.Sprintf("%s-%s-%04d-%s", letters(2), letters(3), n%10_000, letters(3))
		case "digits":
			return fmt.Sprintf("%08d", n*7)
		case "dots":
			return fmt.Sprintf("%02d.%03d.%02d", n%90+10, n%997, n%89+10)
		case "slashes":
			return fmt.Sprintf("%s/%d/%s", letters(3), n, letters(1))
		case "spaces":
			return fmt.Sprintf("%s %d %s", letters(2), n, letters(2))
		}
		return fmt.Sprintf("T-%d%s", n/2, pick("", "", "-2", "-B")) // beginnings of each other
	}
	adjectives, nouns := []string{"Drift", "Hearth", "Lark", "Fell", "Gorse", "Heron", "Moss", "Nettle"}, []string{"Delta", "Diamond", "Box", "Sled", "Parafoil", "Reel"}
	seen := map[string]bool{}
	for i := range 3000 {
		s := sku(i)
		if seen[strings.ToLower(s)] {
			continue
		}
		seen[strings.ToLower(s)] = true
		digits := fmt.Sprintf("952%09d", i*7+1)
		title := fmt.Sprintf("%s %s %d", pick(adjectives...), pick(nouns...), 10_000+i)
		owners = append(owners, Owner{ID: int64(len(owners) + 1), Kind: Product, Keys: []Key{{SKU, s}, {Barcode, digits + string(gtin.CheckDigit(digits))}, {Title, title}}})
	}
	for _, o := range owners {
		s, barcode, title := o.Keys[0].Text, o.Keys[1].Text, o.Keys[2].Text
		plain := strings.ReplaceAll(s, "/", "-")
		n := r.IntN(8) + 1
		add := func(what, path string, number int) {
			names = append(names, truth{path: path, owner: o.ID, number: number, what: what})
		}
		add("SKU", plain+".jpg", -1)
		add("notation", plain+pick(fmt.Sprintf("_%d", n), fmt.Sprintf("_%02d", n), fmt.Sprintf(" (%d)", n), fmt.Sprintf("_alt%d", n))+pick(".jpg", ".JPG", ".png", ".jpg.jpg"), n)
		add("prefix", "in/tarn_"+strings.ToLower(plain)+fmt.Sprintf("_%02d.jpg", n), n)
		add("separators", strings.NewReplacer("-", "_", ".", "_", " ", "_").Replace(plain)+"_front.jpg", -1)
		add("marks", plain+pick(" - Copy", "_final", "_v2", "@2x", "_1200x1200", "_300dpi")+".jpg", -1)
		add("encoding", strings.NewReplacer(" ", "%20", "-", "–").Replace(plain)+".jpg", -1)
		add("folder", plain+"/"+fmt.Sprintf("%d.jpg", n), n)
		add("barcode", pick(barcode, "0"+barcode)+fmt.Sprintf("_%d.jpg", n), n)
		add("title", strings.ReplaceAll(title, " ", pick(" ", "-", "_"))+".jpg", -1)
		if compact := strings.ReplaceAll(plain, "-", ""); style == "lettered" {
			add("compact", strings.ToLower(compact)+".jpg", -1)
		}
		if trimmed := strings.TrimLeft(plain, "0"); trimmed != plain {
			add("eaten zeros", trimmed+".jpg", -1)
		}
		names = append(names, truth{path: slip(plain, r) + ".jpg", owner: o.ID, number: -1, slip: true, what: "slip"})
	}
	for i := range 1500 {
		if s := sku(5_000 + i); !seen[strings.ToLower(s)] {
			names = append(names, truth{path: strings.ReplaceAll(s, "/", "-") + ".jpg", what: "not in the catalogue"})
		}
		names = append(names, truth{path: fmt.Sprintf("IMG_%04d.JPG", i), what: "camera"}, truth{path: fmt.Sprintf("__MACOSX/._%d.jpg", i), what: "litter"})
	}
	return owners, names
}

// slip swaps, drops, doubles or exchanges one character.
func slip(s string, r *rand.Rand) string {
	b := []byte(s)
	i := r.IntN(len(b)-2) + 1
	switch r.IntN(4) {
	case 0:
		b[i], b[i+1] = b[i+1], b[i]
	case 1:
		b = slices.Delete(b, i, i+1)
	case 2:
		b = slices.Insert(b, i, b[i])
	default:
		if at := strings.IndexAny(s, "01"); at >= 0 {
			b[at] = map[byte]byte{'0': 'O', '1': 'l'}[b[at]]
		} else {
			b[i] = 'x'
		}
	}
	return string(b)
}

// The goals are those the product is held to: of the sure 99.95 % right, of sure and likely 99.8 %, numbers
// 99.5 %, 99.5 % of what can be known paired, the owner meant by a slip among the first three in 97 %.
func TestTruth(t *testing.T) {
	var sure, sureRight, likely, likelyRight, known, paired, numbered, numberRight, slips, slipsRight, contested int
	wrong := map[string]int{}
	for _, style := range []string{"lettered", "digits", "dots", "slashes", "spaces", "beginnings"} {
		owners, names := corpus(style, rand.New(rand.NewPCG(7, 8)))
		files := make([]File, len(names))
		for i, n := range names {
			files[i].Path = n.path
		}
		exists := map[string]bool{}
		for _, o := range owners {
			exists[o.Keys[0].Text] = true
		}
		for i, c := range Pair(NewIndex(owners), files, nil) {
			n := names[i]
			right := c.Reading != nil && c.Reading.Owner == n.owner
			say := func(format string, args ...any) {
				key := style + ", " + n.what
				if wrong[key]++; wrong[key] <= 2 {
					t.Logf("%s: %s: "+format, append([]any{key, n.path}, args...)...)
				}
			}
			if n.slip {
				slips++
				among := right || slices.ContainsFunc(c.Candidates[:min(3, len(c.Candidates))], func(r Reading) bool { return r.Owner == n.owner })
				if among || exists[strings.TrimSuffix(n.path, ".jpg")] {
					slipsRight++
				} else {
					say("the owner meant is not among %d candidates, grade %s", len(c.Candidates), c.Grade)
				}
				if exists[strings.TrimSuffix(n.path, ".jpg")] {
					continue // the slip made another key: nobody could know
				}
			}
			switch c.Grade {
			case Sure:
				sure++
				if right {
					sureRight++
				} else {
					say("sure, and wrong: %s", c.Why)
				}
			case Likely:
				likely++
				if right {
					likelyRight++
				} else {
					say("likely, and wrong: %s", c.Why)
				}
			}
			if n.owner != 0 && !n.slip {
				// Where both T-100 and T-100-2 are sold, T-100-2 with a number may be either: nobody can know.
				if c.Grade == Contested && style == "beginnings" {
					contested++
					continue
				}
				known++
				if right {
					paired++
				} else {
					say("%s: %s", c.Grade, c.Why)
				}
			}
			if right && !n.slip {
				numbered++
				got := -1
				if c.Reading.Number != nil {
					got = *c.Reading.Number
				}
				if got == n.number {
					numberRight++
				} else {
					say("number %d, want %d", got, n.number)
				}
			}
		}
	}
	t.Logf("contested, as two owners may be meant: %d", contested)
	for _, goal := range []struct {
		what       string
		right, all int
		want       float64
	}{
		{"of the sure, right", sureRight, sure, .9995}, {"of sure and likely, right", sureRight + likelyRight, sure + likely, .998},
		{"of what can be known, paired", paired, known, .995}, {"numbers right", numberRight, numbered, .995},
		{"slips with their owner among three", slipsRight, slips, .97},
	} {
		got := float64(goal.right) / float64(goal.all)
		t.Logf("%s: %.3f %% of %d", goal.what, 100*got, goal.all)
		if got < goal.want {
			t.Errorf("%s: %.3f %%, the goal is %.2f %%", goal.what, 100*got, 100*goal.want)
		}
	}
}
