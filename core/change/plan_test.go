package change

import (
	"math/rand/v2"
	"slices"
	"testing"
)

func at1(n int) *int { return &n }

func wish(asset int64, number *int) Wish {
	return Wish{Picture{asset, "new"}, number}
}

func assets(pictures []Picture) []int64 {
	out := []int64{}
	for _, p := range pictures {
		out = append(out, p.Asset)
	}
	return out
}

func TestRules(t *testing.T) {
	stands := []Picture{{1, "one"}, {2, "two"}, {3, "three"}}
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
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 9}, SamePlace: {3, 9}, WholeSet: {3, 9}}},
		{"two want one place", stands, []Wish{wish(8, at1(2)), wish(9, at1(2))}, map[Rule][]int64{
			OnlyWhereEmpty: {1, 2, 3}, AddAfter: {1, 2, 3, 8, 9}, SamePlace: {1, 8, 9}, WholeSet: {8, 9}}},
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
	if kept := Apply(stands, []Wish{wish(3, at1(1))}, WholeSet)[0].Alt; kept != "three" {
		t.Errorf("the wording of a picture that stands became %q", kept)
	}
}

// Whatever stands and is wished: no asset twice, every wished one there where the rule takes it, a plan of a
// plan's result is empty, and the inverse leads back.
func TestPlanProperties(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 5000 {
		var before []Picture
		for _, a := range r.Perm(6)[:r.IntN(6)] {
			before = append(before, Picture{int64(a), "old"})
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
				after = changes[0].After
				if back := Inverse(changes); !slices.Equal(back[0].After, before) || !slices.Equal(back[0].Before, after) {
					t.Fatalf("the inverse of %+v is %+v", changes, back)
				}
			}
			seen := map[int64]bool{}
			for _, p := range after {
				if seen[p.Asset] {
					t.Fatalf("%s of %v on %v puts %d twice: %v", rule, wishes, before, p.Asset, after)
				}
				seen[p.Asset] = true
			}
			for _, w := range wishes {
				if (rule != OnlyWhereEmpty || len(before) == 0) && !seen[w.Asset] {
					t.Fatalf("%s of %v on %v loses %d: %v", rule, wishes, before, w.Asset, after)
				}
			}
			if again := Apply(after, wishes, rule); rule != SamePlace && !slices.Equal(again, after) {
				t.Fatalf("%s of %v on %v is %v and then %v", rule, wishes, before, after, again)
			}
		}
	}
}
