package wording

import (
	"context"
	"maps"

	"ambrosa/core/wording"
)

// Described is an owner with what can be said of each of its pictures, for who names files by it.
type Described struct {
	ID                              int64
	Kind, SKU, Barcode, Code, Title string
	Parent                          string // the SKU of a variant's product
	Pictures                        []DescribedPicture
}

// DescribedPicture is one of its pictures, in their order.
type DescribedPicture struct {
	Asset     int64
	Sha, Name string // of the file that brought it last
	Alt       string
	Record    wording.Record
}

// Describe returns owners in the order given, with their texts in a language; those that are gone are missing. Cost: by the owners.
func (w *Wording) Describe(ctx context.Context, ids []int64, lang string) ([]Described, error) {
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
	all := make([]Described, 0, len(ids))
	for _, id := range ids {
		o := f.owners[id]
		if o == nil {
			continue
		}
		one := Described{ID: id, Kind: o.Kind, SKU: o.SKU, Barcode: o.Barcode, Code: o.Code, Title: o.record["label"]}
		if o.Kind == "variant" {
			one.Parent = o.product.SKU
		}
		for i, asset := range read.placed[id] {
			f.describe(o, i+1, asset)
			f.say(o, asset, lang)
			of := f.pictures[asset]
			one.Pictures = append(one.Pictures, DescribedPicture{Asset: asset, Sha: of.sha, Name: of.path, Alt: o.record[string(wording.Alt)], Record: maps.Clone(o.record)})
		}
		all = append(all, one)
	}
	return all, nil
}
