package publish

import (
	"context"
	"encoding/json"

	"ambrosa/core/channel"
	"ambrosa/internal/store/query"
)

// want is a file that is wanted, and what stands in its slot.
type want struct {
	file   channel.File
	stands query.EnsureChannelFilesRow
	ours   bool // what stands at its path this channel put there
}

// let reports whether somebody let it go all the same, for what it is held now.
func (w want) let() bool {
	return w.file.Held.Code != "" && w.stands.Path != "" && w.stands.Let == w.file.Held.Code
}

func (w want) filed() channel.Filed {
	s := w.stands
	return channel.Filed{Path: s.Path, Key: s.Key, Let: s.Let, Owner: s.OwnerID, Asset: s.AssetID, Size: s.Size}
}

// wants are those of some owners, each owner's by itself.
type wants [][]want

// wants are the files that some owners' pictures shall have, with what stands. Slots that were not there are made.
func (p *Publish) wants(ctx context.Context, c Channel, w *channel.Wanter, owners []channel.Owner, same func(channel.File)) (wants, error) {
	if same == nil {
		same = func(channel.File) {}
	}
	all := make(wants, len(owners))
	slots := query.EnsureChannelFilesParams{Channel: c.ID}
	for i, o := range owners {
		for _, f := range w.Files(o, same) {
			all[i] = append(all[i], want{file: f})
			slots.Owners, slots.Assets, slots.Sizes = append(slots.Owners, f.Owner), append(slots.Assets, f.Asset), append(slots.Sizes, f.Size)
		}
	}
	rows, err := p.Store.EnsureChannelFiles(ctx, slots)
	if err != nil {
		return nil, err
	}
	of := make(map[channel.Slot]query.EnsureChannelFilesRow, len(rows))
	for _, r := range rows {
		of[channel.Slot{Owner: r.OwnerID, Asset: r.AssetID, Size: r.Size}] = r
	}
	for i := range all {
		for n := range all[i] {
			all[i][n].stands = of[all[i][n].file.Slot]
		}
	}
	return all, nil
}

// standing are the files of an owner that stand and are meant to, by picture and size.
func (all wants) standing(owner int) map[int64]map[string]standing {
	return all.of(owner, func(w want) (string, bool) {
		return w.stands.Path, w.stands.Path != "" && (w.file.Held.Code == "" || w.let())
	})
}

// going are those that will stand.
func (all wants) going(owner int) map[int64]map[string]standing {
	return all.of(owner, func(w want) (string, bool) { return w.file.Path, w.file.Held.Code == "" || w.let() })
}

func (all wants) of(owner int, where func(want) (string, bool)) map[int64]map[string]standing {
	files := map[int64]map[string]standing{}
	for _, w := range all[owner] {
		at, is := where(w)
		if !is {
			continue
		}
		if files[w.file.Asset] == nil {
			files[w.file.Asset] = map[string]standing{}
		}
		files[w.file.Asset][w.file.Size] = standing{slot: w.stands.ID, path: at, width: w.file.Width, height: w.file.Height}
	}
	return files
}

// wantRenditions says what is to be made: before it is, so that nothing is cleared meanwhile.
func (p *Publish) wantRenditions(ctx context.Context, all wants) error {
	var q query.WantRenditionsParams
	known := map[string]bool{}
	for _, some := range all {
		for _, w := range some {
			if known[w.file.Key] {
				continue
			}
			known[w.file.Key] = true
			recipe, err := json.Marshal(w.file.Recipe)
			if err != nil {
				return err
			}
			q.Keys, q.Recipes, q.Assets = append(q.Keys, w.file.Key), append(q.Recipes, string(recipe)), append(q.Assets, w.file.Asset)
		}
	}
	if len(q.Keys) == 0 {
		return nil
	}
	return p.Store.WantRenditions(ctx, q)
}
