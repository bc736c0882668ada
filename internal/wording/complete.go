package wording

import (
	"context"
	"maps"
	"slices"
	"strconv"

	"ambrosa/core/change"
	"ambrosa/core/placement"
	"ambrosa/core/wording"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/query"
	texts "ambrosa/internal/subject/wording"
)

// made counts the texts that rules gave to the pictures of a plan.
const made = "texts"

// Complete gives the pictures that are new on their owners their texts: those of the picture whose place they take, else by the rules.
// Texts that a line says already stay. It counts those by rules in the draft. Cost: by the pictures that are new.
func (w *Wording) Complete(ctx context.Context, q *query.Queries, changes []change.Change, d *ledger.Draft) error {
	lines, err := freshOf(changes)
	if err != nil || len(lines) == 0 {
		return err
	}
	filler, err := w.filler(ctx, q, lines, changes)
	if err != nil {
		return err
	}
	for _, l := range lines {
		for n := range l.after {
			if p := &l.after[n]; l.fresh[p.Asset] {
				filler.inherit(l.owner, p)
				made := filler.fill(l.owner, n+1, p, filler.standing[l.owner])
				filler.made += len(made)
				filler.name(l.owner, p, made)
			}
		}
	}
	if err := filler.number(ctx, q); err != nil {
		return err
	}
	for _, l := range lines {
		changes[l.at].After = placement.JSON(l.after)
	}
	if filler.made > 0 {
		counts := maps.Clone(d.Counts)
		if counts == nil {
			counts = map[string]int{}
		}
		counts[made] = filler.made
		d.Counts = counts
	}
	return nil
}

// line is a change of an owner's pictures of which some are new on it.
type line struct {
	at    int // among the changes
	owner int64
	after []placement.Picture
	fresh map[int64]bool
}

// freshOf are the lines with pictures that are new on their owners.
func freshOf(changes []change.Change) (lines []line, err error) {
	for i, c := range changes {
		if c.Subject != placement.Subject || change.None(c.After) {
			continue
		}
		l := line{at: i, owner: c.ID}
		if l.after, err = placement.Read(c.After); err != nil {
			return nil, err
		}
		var before []placement.Picture
		if !change.None(c.Before) {
			if before, err = placement.Read(c.Before); err != nil {
				return nil, err
			}
		}
		for _, p := range placement.Gone(l.after, before) {
			if l.fresh == nil {
				l.fresh = map[int64]bool{}
			}
			l.fresh[p.Asset] = true
		}
		if l.fresh != nil {
			lines = append(lines, l)
		}
	}
	return lines, nil
}

// filler makes texts by the rules.
type filler struct {
	rules    []wording.Rule
	owners   map[int64]*owner
	pictures map[int64]picture
	standing map[int64]wording.OwnerTexts
	names    []fileName              // those that were made
	taken    map[string]texts.Holder // file names, and who has them
	chosen   map[shelfKind]ruleSet
	made     int
}

// shelfKind is what decides which rules apply.
type shelfKind struct {
	kind  string
	shelf int64
}

// ruleSet are the rules that apply, each behind those that it names.
type ruleSet []*wording.Rule

func (w *Wording) filler(ctx context.Context, q *query.Queries, lines []line, changes []change.Change) (*filler, error) {
	var ids, assets []int64
	for _, l := range lines {
		ids = append(ids, l.owner)
		for a := range l.fresh {
			assets = append(assets, a)
		}
	}
	return w.fillerOf(ctx, q, ids, assets, changes)
}

// fillerOf reads what the texts of some pictures on some owners are made of.
func (w *Wording) fillerOf(ctx context.Context, q *query.Queries, owners, assets []int64, changes []change.Change) (f *filler, err error) {
	f = &filler{chosen: map[shelfKind]ruleSet{}}
	if f.rules, err = w.rules(ctx, q); err != nil {
		return nil, err
	}
	if f.owners, err = w.owners(ctx, q, owners, changes); err != nil {
		return nil, err
	}
	slices.Sort(assets)
	if f.pictures, err = w.pictures(ctx, q, slices.Compact(assets)); err != nil {
		return nil, err
	}
	f.standing, err = texts.Texts(ctx, q, owners)
	return f, err
}

// inherit gives a picture the texts of the one whose place it takes. A file name stays with the one that was published under it.
func (f *filler) inherit(owner int64, p *placement.Picture) {
	if p.Instead == 0 {
		return
	}
	for at, text := range f.standing[owner] {
		if at.Asset == p.Instead && at.Field != wording.FileName && p.Texts[at.Field][at.Language].Text == "" {
			p.Texts.Set(at.Field, at.Language, *text)
		}
	}
}

// set returns the rules that apply to an owner.
func (f *filler) set(o *owner) ruleSet {
	key := shelfKind{kind: o.Kind}
	if len(o.path) > 0 {
		key.shelf = o.path[0]
	}
	set, known := f.chosen[key]
	if known {
		return set
	}
	languages := map[string]bool{}
	for _, r := range f.rules {
		languages[r.Pattern.Language.String()] = true
	}
	for _, lang := range slices.Sorted(maps.Keys(languages)) {
		set = append(set, inOrder(f.rules, lang, o)...)
	}
	f.chosen[key] = set
	return set
}

// inOrder are the rules of a language that apply to an owner, each behind those that it names.
func inOrder(rules []wording.Rule, lang string, o *owner) (set ruleSet) {
	of, patterns := map[wording.Field]*wording.Rule{}, map[wording.Field]*wording.Pattern{}
	for _, field := range wording.Fields {
		if r := wording.Choose(rules, field, lang, o.Kind, o.path); r != nil {
			of[field], patterns[field] = r, r.Pattern
		}
	}
	order, err := wording.InOrder(patterns)
	if err != nil {
		return nil // rules for different branches name each other in a circle: nothing is made of them
	}
	for _, field := range order {
		set = append(set, of[field])
	}
	return set
}

// fill gives a picture at a position of an owner the texts of the rules, where it has none and those that stand, none by hand and no file
// name, may go. It returns where it made some.
func (f *filler) fill(of int64, position int, p *placement.Picture, standing wording.OwnerTexts) (made []wording.Place) {
	o := f.owners[of]
	if o == nil {
		return nil
	}
	f.describe(o, position, p.Asset)
	for _, rule := range f.set(o) {
		field, lang := rule.Pattern.Field, rule.Pattern.Language.String()
		if have := p.Texts[field][lang].Text; have != "" {
			o.record[string(field)] = have
			continue
		}
		at := wording.Place{Asset: p.Asset, Field: field, Language: lang}
		if stands := standing[at]; stands != nil && (stands.Hand || field == wording.FileName) {
			o.record[string(field)] = stands.Text
			continue
		}
		text, _ := rule.Pattern.Fill(o.record)
		o.record[string(field)] = text
		if text != "" {
			p.Texts.Set(field, lang, wording.Text{Text: text})
			made = append(made, at)
		}
	}
	return made
}

// name notes the file names among the texts that were made for a picture, to be numbered.
func (f *filler) name(of int64, p *placement.Picture, made []wording.Place) {
	into := p.Texts[wording.FileName]
	for _, at := range made {
		if at.Field == wording.FileName {
			f.names = append(f.names, fileName{of, at, into[at.Language].Text, func(name string) { into[at.Language] = wording.Text{Text: name} }})
		}
	}
}

// fileName is a file name that was made: whose, and where it is written.
type fileName struct {
	owner int64
	wording.Place
	text string
	put  func(string)
}

// number gives file names that other pictures have, or that were made before them, the first free number.
func (f *filler) number(ctx context.Context, q *query.Queries) error {
	if len(f.names) == 0 {
		return nil
	}
	wanted := make([]string, len(f.names))
	for i, n := range f.names {
		wanted[i] = n.text
	}
	stand, err := texts.Holders(ctx, q, wanted)
	if err != nil {
		return err
	}
	if f.taken == nil {
		f.taken = make(map[string]texts.Holder, len(stand)+len(wanted))
	}
	for name, by := range stand {
		if _, given := f.taken[name]; !given {
			f.taken[name] = by
		}
	}
	next := map[string]int{}
	for _, n := range f.names {
		me, free := texts.Holder{Owner: n.owner, Asset: n.Asset, Language: n.Language}, n.text
		for {
			if by, is := f.taken[free]; !is || by == me {
				break
			}
			next[n.text] = max(next[n.text], 1) + 1
			free = wording.Numbered(n.text, next[n.text])
		}
		f.taken[free] = me
		n.put(free)
	}
	return nil
}

// describe writes down what patterns can say of one picture on an owner.
func (f *filler) describe(o *owner, position int, asset int64) {
	picture := f.pictures[asset]
	o.record.SetRole(o.roleOf(picture.path))
	o.record["number"], o.record["supplier"] = strconv.Itoa(position), picture.supplier
	for _, field := range wording.Fields {
		o.record[string(field)] = ""
	}
}
