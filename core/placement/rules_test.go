package placement

import (
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"ambrosa/core/wording"
)

func at1(n int) *int { return &n }

// worded is a picture with an alt text.
func worded(asset int64, alt string) Picture {
	p := Picture{Asset: asset}
	p.Texts.Set(wording.Alt, "en", wording.Text{Text: alt})
	return p
}

func alike(a, b Picture) bool { return reflect.DeepEqual(a, b) }

func wish(asset int64, number *int) Wish {
	return Wish{worded(asset, "new"), number}
}

func assets(pictures []Picture) []int64 {
	out := []int64{}
	for _, p := range pictures {
		out = append(out, p.Asset)
	}
	return out
}

func TestRules(t *testing.T) {
	stands := []Picture{worded(1, "one"), worded(2, "two"), worded(3, "three")}
	for _, c := range []struct {
		name   string
		before []Picture
		wishes []Wish
		want   map[Rule][]int64
	}{
		{"nothing stands", nil, []Wish{wish(8, nil), wish(9, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {8, 9}, AddAfter: {8, 9}, SamePlace: {8, 9}, WholeSet: {8, 9}}},
		{"three stand, two come", stands, []Wish{wish(8, nil), wish(9, at1(3))}, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 8, 9}, SamePlace: {8, 2, 9}, WholeSet: {8, 9}}},
		{"one of them is there already", stands, []Wish{wish(3, at1(1)), wish(9, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 9}, SamePlace: {3, 9, 1}, WholeSet: {3, 9}}},
		{"one that stands moves", []Picture{worded(8, "eight"), worded(9, "nine")}, []Wish{wish(8, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {8, 9}, AddAfter: {8, 9}, SamePlace: {9, 8}, WholeSet: {8}}},
		{"what stands moves away from a new one", stands, []Wish{wish(2, at1(3)), wish(9, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 9}, SamePlace: {1, 9, 2, 3}, WholeSet: {2, 9}}},
		{"two want one place", stands, []Wish{wish(8, at1(2)), wish(9, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 8, 9}, SamePlace: {1, 8, 9, 3}, WholeSet: {8, 9}}},
		{"a place far behind the end leaves no hole", stands, []Wish{wish(8, at1(40))}, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 8}, SamePlace: {1, 2, 3, 8}, WholeSet: {8}}},
		{"the same twice", nil, []Wish{wish(8, at1(1)), wish(8, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {8}, AddAfter: {8}, SamePlace: {8}, WholeSet: {8}}},
		{"none come", stands, nil, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3}, SamePlace: {1, 2, 3}, WholeSet: {1, 2, 3}}},
	} {
		for _, rule := range Rules {
			if got := assets(Apply(c.before, c.wishes, rule)); !slices.Equal(got, c.want[rule]) {
				t.Errorf("%s, %s: %v, want %v", c.name, rule, got, c.want[rule])
			}
		}
	}
	if kept := Apply(stands, []Wish{wish(3, at1(1))}, WholeSet)[0].Texts[wording.Alt]["en"].Text; kept != "three" {
		t.Errorf("the wording of a picture that stands became %q", kept)
	}
}

// model says of each house rule what it promises, one promise after the other, without knowing how it is kept.
func model(before []Picture, wishes []Wish, rule Rule, after []Picture) string {
	wishes = distinct(wishes)
	stood, stands, wished := map[int64]int{}, map[int64]int{}, map[int64]bool{}
	for i, p := range before {
		stood[p.Asset] = i + 1
	}
	for i, p := range after {
		if stands[p.Asset] > 0 {
			return "an asset stands twice"
		}
		stands[p.Asset] = i + 1
		if at := stood[p.Asset]; at > 0 && !alike(before[at-1], p) {
			return "the wording of a picture that stands is lost"
		}
	}
	numbers := map[int]bool{} // places that new pictures ask for
	for _, w := range wishes {
		wished[w.Asset] = true
		if stood[w.Asset] == 0 {
			numbers[wanted(w)] = true
		}
	}
	for asset := range stands {
		if stood[asset] == 0 && !wished[asset] {
			return "a picture came that nobody wished"
		}
	}
	if len(wishes) == 0 || rule == OnlyWhereEmpty && len(before) > 0 {
		if !slices.EqualFunc(before, after, alike) {
			return "something changed"
		}
		return ""
	}
	for asset := range wished {
		if stands[asset] == 0 {
			return "a wish is not there"
		}
	}
	inOrder := func(of []Picture, in map[int64]int) bool {
		last := 0
		for _, p := range of {
			if at := in[p.Asset]; at > 0 && !wished[p.Asset] {
				if at < last {
					return false
				}
				last = at
			}
		}
		return true
	}
	switch rule {
	case AddAfter:
		if !slices.EqualFunc(before, after[:len(before)], alike) {
			return "what stood was touched"
		}
	case SamePlace:
		if !inOrder(after, stood) {
			return "the others lost their order"
		}
		for i, p := range before {
			if stands[p.Asset] == 0 && !numbers[i+1] {
				return "a picture is gone at whose place nothing new was wished"
			}
			if !wished[p.Asset] && numbers[i+1] && stands[p.Asset] > 0 {
				return "a picture stays whose place a new one took"
			}
		}
		if n := wanted(wishes[0]); len(wishes) == 1 && n <= len(after) && stands[wishes[0].Asset] != n {
			return "a wish does not stand at its number"
		}
	case WholeSet, OnlyWhereEmpty:
		if len(after) != len(wished) {
			return "more stands than was wished"
		}
	}
	return ""
}

// Whatever stands and is wished: every house rule keeps what it promises, a plan of a plan's result is empty.
func TestPlanProperties(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 20000 {
		var before []Picture
		for _, a := range r.Perm(6)[:r.IntN(6)] {
			before = append(before, worded(int64(a), "old"))
		}
		var wishes []Wish
		for range r.IntN(5) {
			w := wish(int64(r.IntN(9)), nil)
			if r.IntN(3) > 0 {
				w.Number = at1(r.IntN(7))
			}
			wishes = append(wishes, w)
		}
		for _, rule := range Rules {
			changes := Plan([]int64{7}, map[int64][]Picture{7: before}, map[int64][]Wish{7: wishes}, rule)
			after := before
			if len(changes) == 1 {
				was, errWas := Read(changes[0].Before)
				will, errWill := Read(changes[0].After)
				if errWas != nil || errWill != nil || !slices.EqualFunc(was, before, alike) || changes[0].ID != 7 || changes[0].Seq != 1 {
					t.Fatalf("%v is planned as %+v", before, changes)
				}
				after = will
			}
			if broken := model(before, wishes, rule, after); broken != "" {
				t.Fatalf("%s of %v on %v gives %v: %s", rule, wishes, before, after, broken)
			}
			for _, p := range Gone(before, after) {
				if has(after, p.Asset) || !has(before, p.Asset) {
					t.Fatalf("%v is said to be gone from %v to %v", p, before, after)
				}
			}
			if again := Apply(after, wishes, rule); !slices.EqualFunc(again, after, alike) {
				t.Fatalf("%s of %v on %v is %v and then %v", rule, wishes, before, after, again)
			}
		}
	}
}

// A placeholder counts as no picture: what comes takes its place.
func TestPlaceholder(t *testing.T) {
	wish := []Wish{{Picture: Picture{Asset: 5}}}
	for want, before := range map[int64][]Picture{5: {{Asset: 1, Placeholder: true}}, 2: {{Asset: 2}, {Asset: 1, Placeholder: true}}} {
		if after := Apply(before, wish, OnlyWhereEmpty); after[0].Asset != want {
			t.Errorf("%+v became %+v", before, after)
		}
	}
}
