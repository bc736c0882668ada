package catalogue

import (
	"context"
	"encoding/json"

	"ambrosa/core/colour"
	"ambrosa/internal/store"
)

// PlacedColours returns the main colours of the main pictures of variants, by their colour words.
func PlacedColours(ctx context.Context, s *store.Store) (map[string][]colour.Lab, error) {
	rows, err := s.ColouredPictures(ctx)
	if err != nil {
		return nil, err
	}
	seen := map[string][]colour.Lab{}
	for _, r := range rows {
		palette := colour.Unpack(r.Palette)
		if len(palette) == 0 {
			continue
		}
		var options map[string]string
		_ = json.Unmarshal(r.Options, &options) // the column holds only what this program wrote
		for name, value := range options {
			if IsColour(name, value) {
				seen[value] = append(seen[value], palette[0].Lab)
			}
		}
	}
	return seen, nil
}
