package page

import "slices"

// mostExamples is how many examples of a page a rule is inferred from.
const mostExamples = 30

// pageRules are the rules that a page shows by itself: where it says for some of its pictures what the large one is, the address of the small
// one leads there in a way that holds for others.
func pageRules(pictures []Picture) (rules []Rule) {
	for _, from := range []From{Link, Data, JSONLD, Microdata, Srcset, Script} {
		var examples []Example
		for _, p := range pictures {
			for _, c := range p.Candidates {
				if c.From == from && p.Shown != "" && p.Shown != c.Address && len(examples) < mostExamples {
					examples = append(examples, Example{p.Shown, c.Address})
				}
			}
		}
		if len(examples) < 2 {
			continue
		}
		if r, err := Infer(examples); err == nil && !slices.ContainsFunc(rules, func(o Rule) bool { return slices.Equal(o.Steps, r.Steps) }) {
			rules = append(rules, r)
		}
	}
	return rules
}

// addRules gives the pictures the addresses that rules lead to. One that has a larger one already gets none by what the page shows by itself.
func addRules(pictures []Picture, guided, shown []Rule) {
	for i := range pictures {
		p := &pictures[i]
		p.lead(guided)
		if !slices.ContainsFunc(p.Candidates, func(c Candidate) bool {
			return c.From != Img && c.From != Noscript && c.From != Style && c.From != OpenGraph
		}) {
			p.lead(shown)
		}
	}
}

// lead adds where rules lead from the address that the page shows.
func (p *Picture) lead(rules []Rule) {
	for _, r := range rules {
		large, ok := r.Apply(p.Shown)
		if !ok || len(large) > maxAddress {
			continue
		}
		if at := slices.IndexFunc(p.Candidates, func(c Candidate) bool { return c.Address == large }); at >= 0 {
			continue
		}
		p.Candidates = append(p.Candidates, Candidate{Address: large, From: ByRule})
	}
}
