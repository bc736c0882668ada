package wording

import (
	"fmt"
	"slices"
	"strings"
)

// Rule says where a pattern applies: to owners of a kind in and below a category. Kind is empty for all, Branch 0.
type Rule struct {
	ID      int64
	Kind    string
	Branch  int64
	Pattern *Pattern
}

// Choose returns the rule that applies to a text of an owner: of those for its kind and category, the one for the nearest category, then
// the one for its kind alone, then the newest. path is the owner's category and those above it, nearest first. nil where none applies.
// Rules of other fields and languages are not asked.
func Choose(rules []Rule, field Field, tag, kind string, path []int64) *Rule {
	var best *Rule
	bestNear := -1
	for i := range rules {
		r := &rules[i]
		if r.Pattern.Field != field || r.Pattern.Language.String() != tag || r.Kind != "" && r.Kind != kind {
			continue
		}
		near := 0
		if r.Branch != 0 {
			at := slices.Index(path, r.Branch)
			if at < 0 {
				continue
			}
			near = len(path) - at
		}
		if best == nil || near > bestNear || near == bestNear && (r.Kind != "" && best.Kind == "" || (r.Kind != "") == (best.Kind != "") && r.ID > best.ID) {
			best, bestNear = r, near
		}
	}
	return best
}

// InOrder returns the fields of patterns so that each comes behind those that it names, as a file name may be made of an alt text.
// ErrLoop where they name each other in a circle, and where one names itself.
func InOrder(patterns map[Field]*Pattern) (order []Field, err error) {
	state := map[Field]int{} // 1 is being asked, 2 is done
	var visit func(Field, []string) error
	visit = func(f Field, way []string) error {
		p := patterns[f]
		if p == nil || state[f] == 2 {
			return nil
		}
		way = append(way, string(f))
		if state[f] == 1 {
			return fmt.Errorf("%w: %s", ErrLoop, strings.Join(way, " → "))
		}
		state[f] = 1
		for _, name := range p.Names() {
			if slices.Contains(Fields, Field(name)) {
				if err := visit(Field(name), way); err != nil {
					return err
				}
			}
		}
		state[f] = 2
		order = append(order, f)
		return nil
	}
	for _, f := range Fields {
		if err := visit(f, nil); err != nil {
			return nil, err
		}
	}
	return order, nil
}
