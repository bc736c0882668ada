package tidy

import (
	"context"
	"encoding/json"
	"fmt"

	"ambrosa/core/colour"
	core "ambrosa/core/tidy"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/store/query"
)

// ownersPage is how many owners are read at once.
const ownersPage = 5000

// findGaps says of all owners what they miss. Those of which it says something else than before are written.
func (t *Tidy) findGaps(ctx context.Context, l core.Limits) error {
	err := t.eachGap(ctx, l, func(rows []query.OwnersShownRow, gaps [][]core.Gap) error {
		var set query.SetGapsParams
		for i, r := range rows {
			if mask := core.GapMask(gaps[i]); mask != int(r.Gaps) || r.CountedFor != r.Category {
				set.Ids, set.Categories, set.Masks = append(set.Ids, r.ID), append(set.Categories, r.Category), append(set.Masks, int32(mask))
			}
		}
		if len(set.Ids) == 0 {
			return nil
		}
		return t.Store.SetGaps(ctx, set)
	})
	if err != nil {
		return err
	}
	return t.Store.DropRetiredGaps(ctx)
}

// eachGap calls use for all owners, some at a time, with what each of them misses.
func (t *Tidy) eachGap(ctx context.Context, l core.Limits, use func([]query.OwnersShownRow, [][]core.Gap) error) error {
	words, err := t.colourWords(ctx)
	if err != nil {
		return err
	}
	for after := int64(0); ; {
		rows, err := t.Store.OwnersShown(ctx, query.OwnersShownParams{After: after, Most: ownersPage, Language: "en"})
		if err != nil || len(rows) == 0 {
			return err
		}
		after = rows[len(rows)-1].ID
		gaps := make([][]core.Gap, len(rows))
		for i, r := range rows {
			o := core.Owner{Kind: r.Kind, Pictures: int(r.Pictures), Variants: int(r.Variants), OfProduct: int(r.OfProduct), Wordless: int(r.Wordless), Texts: int(r.Texts)}
			if o.Kind == "variant" && len(r.Palette) > 0 {
				if o.Colour, err = mismatched(words, r.Options, r.Palette); err != nil {
					return err
				}
			}
			gaps[i] = l.Missing(o)
		}
		if err := use(rows, gaps); err != nil {
			return err
		}
	}
}

// colourWords are what the catalogue's colour words stand for, learnt from its main pictures.
func (t *Tidy) colourWords(ctx context.Context) (colour.Words, error) {
	rows, err := t.Store.ColouredPictures(ctx)
	if err != nil {
		return nil, err
	}
	seen := map[string][]colour.Lab{}
	for _, r := range rows {
		word, err := colourOf(r.Options)
		if err != nil {
			return nil, err
		}
		if palette := colour.Unpack(r.Palette); word != "" && len(palette) > 0 {
			seen[word] = append(seen[word], palette[0].Lab)
		}
	}
	return colour.Learn(seen), nil
}

// colourOf is the word for a variant's colour; empty where it has none.
func colourOf(options json.RawMessage) (string, error) {
	if string(options) == "{}" {
		return "", nil
	}
	of := map[string]string{}
	if err := json.Unmarshal(options, &of); err != nil {
		return "", fmt.Errorf("options of an owner: %w", err)
	}
	for name, value := range of {
		if catalogue.IsColour(name, value) {
			return value, nil
		}
	}
	return "", nil
}

// mismatched reports whether a picture shows another colour than a variant's.
func mismatched(words colour.Words, options json.RawMessage, palette []byte) (bool, error) {
	word, err := colourOf(options)
	if err != nil || word == "" {
		return false, err
	}
	return words.Mismatch(colour.Unpack(palette), word, nil) != "", nil
}
