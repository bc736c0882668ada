package publish

import (
	"context"

	"ambrosa/core/channel"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
)

// ownersAtOnce is how many owners are read at once: each time costs a dozen questions.
const ownersAtOnce = 1000

// walk shows the owners of a channel that have pictures, in the order of the catalogue, some at a time.
func (p *Publish) walk(ctx context.Context, c Channel, use func([]channel.Owner) error) error {
	categories, err := p.below(ctx, c.Categories)
	if err != nil {
		return err
	}
	at := query.ChannelOwnersParams{Ordinal: -1 << 31, Categories: categories, Most: ownersAtOnce}
	for {
		rows, err := p.Store.ChannelOwners(ctx, at)
		if err != nil || len(rows) == 0 {
			return err
		}
		ids := make([]int64, len(rows))
		for i, r := range rows {
			ids[i], at.Ordinal, at.After = r.ID, r.Ordinal, r.ID
		}
		owners, err := p.owners(ctx, ids, c.Language)
		if err != nil {
			return err
		}
		if err := use(owners); err != nil {
			return err
		}
	}
}

// below are categories with all that stand in them; none for all.
func (p *Publish) below(ctx context.Context, categories []int64) ([]int64, error) {
	all := []int64{}
	for _, c := range categories {
		some, err := catalogue.Below(ctx, p.Store, c)
		if err != nil {
			return nil, err
		}
		all = append(all, some...)
	}
	return all, nil
}

// owners reads owners with what is known of their pictures: three questions more than what their texts take.
func (p *Publish) owners(ctx context.Context, ids []int64, lang string) ([]channel.Owner, error) {
	described, err := p.Wording.Describe(ctx, ids, lang)
	if err != nil {
		return nil, err
	}
	var all []int64
	for _, o := range described {
		for _, a := range o.Pictures {
			all = append(all, a.Asset)
		}
	}
	sizes, err := p.Store.PicturesToPublish(ctx, all)
	if err != nil {
		return nil, err
	}
	size := make(map[int64]query.PicturesToPublishRow, len(sizes))
	for _, s := range sizes {
		size[s.ID] = s
	}
	may, err := pictures.Rights(ctx, p.Store.Queries, all)
	if err != nil {
		return nil, err
	}
	owners := make([]channel.Owner, len(described))
	for i, o := range described {
		owners[i] = channel.Owner{ID: o.ID, Kind: o.Kind, SKU: o.SKU, Barcode: o.Barcode, Code: o.Code, Parent: o.Parent, Title: o.Title}
		for _, a := range o.Pictures {
			owners[i].Pictures = append(owners[i].Pictures, channel.Picture{Asset: a.Asset, SHA: a.Sha, Name: a.Name, Width: int(size[a.Asset].Width),
				Height: int(size[a.Asset].Height), Alt: a.Alt, Record: a.Record, Rights: may[a.Asset]})
		}
	}
	return owners, nil
}
