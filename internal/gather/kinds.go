package gather

import (
	"encoding/json"
	"fmt"

	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/upload"
)

// Opener opens the source of a delivery: of is what the delivery says of it, beside its kind.
type Opener func(delivery int64, of json.RawMessage) (source.Source, error)

// kinds are the kinds of sources, each a folder under source and a line here.
func (g *Gatherer) kinds() map[string]Opener {
	return map[string]Opener{
		"upload": func(delivery int64, _ json.RawMessage) (source.Source, error) {
			sent := &upload.Source{Store: g.Store, Folder: g.Folder, Delivery: delivery, Limits: g.Limits}
			if g.Saved != nil {
				return g.Saved(sent), nil
			}
			return sent, nil
		},
	}
}

// open opens a delivery's source.
func (g *Gatherer) open(delivery int64, of json.RawMessage) (source.Source, error) {
	var says struct{ Kind string }
	if err := json.Unmarshal(of, &says); err != nil {
		return nil, err
	}
	opener, known := g.kinds()[says.Kind]
	if !known {
		opener, known = g.Kinds[says.Kind]
	}
	if !known {
		return nil, fmt.Errorf("there is no kind of source %q", says.Kind)
	}
	return opener(delivery, of)
}
