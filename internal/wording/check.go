package wording

import (
	"context"
	"sync"

	"ambrosa/core/colour"
	"ambrosa/core/wording"
	"ambrosa/internal/catalogue"
)

// hues are the catalogue's own colour words, as they stood at one version of its pictures.
type hues struct {
	mu      sync.Mutex
	version int64
	words   colour.Words
}

// colours are what colours the catalogue's words stand for.
func (w *Wording) colours(ctx context.Context) (colour.Words, error) {
	w.hues.mu.Lock()
	defer w.hues.mu.Unlock()
	version, err := w.Store.PicturesVersion(ctx)
	if err != nil || w.hues.words != nil && version == w.hues.version {
		return w.hues.words, err
	}
	seen, err := catalogue.PlacedColours(ctx, w.Store)
	if err != nil {
		return nil, err
	}
	w.hues.words, w.hues.version = colour.Learn(seen), version
	return w.hues.words, nil
}

// Owner is one owner with its pictures, in their order, and what is said of them in one field and language.
type Owner struct {
	ID       int64
	Kind     string
	Parent   int64
	SKU      string
	Code     string
	Label    string
	Path     string // of its category
	Retired  bool
	Pictures []Picture
}

// Picture is one picture on an owner, its text, and what is wrong with that. Then is what the text would be; nil where none is asked for.
type Picture struct {
	Asset    int64
	Sha      string
	Name     string // what its file is called
	Text     string
	Hand     bool
	Then     *string
	Problems []wording.Problem // of what it would be, else of what it is
}

// Show returns owners in the order given, with what is said of their pictures; those that are gone are missing. act is what would be
// done; nil for nothing. Cost: by the owners.
func (w *Wording) Show(ctx context.Context, ids []int64, field wording.Field, lang string, act *Act) ([]Owner, error) {
	tag, err := wording.Language(lang)
	if err != nil {
		return nil, err
	}
	lang = tag.String()
	read := w.piece(ctx, ids)
	if read.err != nil {
		return nil, read.err
	}
	f := read.filler
	words, err := w.colours(ctx)
	if err != nil {
		return nil, err
	}
	do, err := act.ready()
	if err != nil {
		return nil, err
	}
	all := make([]Owner, 0, len(ids))
	for _, id := range ids {
		o := f.owners[id]
		if o == nil {
			continue
		}
		one := Owner{ID: id, Kind: o.Kind, Parent: o.Parent, SKU: o.SKU, Code: o.Code, Label: o.record["label"], Path: o.record["category.path"], Retired: o.Retired}
		for i, asset := range read.placed[id] {
			of := f.pictures[asset]
			p := Picture{Asset: asset, Sha: of.sha, Name: of.path}
			if text := f.standing[id][wording.Place{Asset: asset, Field: field, Language: lang}]; text != nil {
				p.Text, p.Hand = text.Text, text.Hand
			}
			says := p.Text
			if act != nil {
				if then, changes := do.text(f, o, i+1, asset, field, lang); changes {
					p.Then, says = &then, then
				}
			}
			p.Problems = wording.Check(wording.Said{Field: field, Text: says, Keys: o.keys(), File: of.path, Colour: o.colourWord(), Shows: colour.Unpack(of.shows)}, words)
			if do.unknown {
				p.Problems, do.unknown = wording.Add(p.Problems, wording.FieldUnknown), false
			}
			one.Pictures = append(one.Pictures, p)
		}
		all = append(all, one)
	}
	same(all)
	return all, nil
}

// same finds texts that several pictures of a product have, on itself or on its variants.
func same(all []Owner) {
	type said struct {
		product int64
		text    string
	}
	says := func(o *Owner, p *Picture) said {
		at, text := o.ID, p.Text
		if o.Kind == "variant" {
			at = o.Parent
		}
		if p.Then != nil {
			text = *p.Then
		}
		return said{at, wording.Same(text)}
	}
	shown := map[said]map[int64]bool{}
	for i := range all {
		for n := range all[i].Pictures {
			p := &all[i].Pictures[n]
			s := says(&all[i], p)
			if shown[s] == nil {
				shown[s] = map[int64]bool{}
			}
			shown[s][p.Asset] = true
		}
	}
	for i := range all {
		for n := range all[i].Pictures {
			p := &all[i].Pictures[n]
			if s := says(&all[i], p); s.text != "" && len(shown[s]) > 1 {
				p.Problems = wording.Add(p.Problems, wording.SameOnOwner)
			}
		}
	}
}
