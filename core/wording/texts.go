package wording

import (
	"encoding/json"

	"ambrosa/core/change"
)

// Text is what is said of a picture on an owner. Hand tells that a person wrote it: a pattern leaves it alone unless one says otherwise.
type Text struct {
	Text string `json:"text"`
	Hand bool   `json:"hand"`
}

// Texts are those of one picture on one owner, by field and language.
type Texts map[Field]map[string]Text

// Set adds a text.
func (t *Texts) Set(field Field, lang string, text Text) {
	if *t == nil {
		*t = Texts{}
	}
	if (*t)[field] == nil {
		(*t)[field] = map[string]Text{}
	}
	(*t)[field][lang] = text
}

// Subject is the name under which changes of texts are kept. Its things are the owners.
const Subject = "wording"

// Place is where one text stands: on a picture (an asset), in a field and a language.
type Place struct {
	Asset    int64
	Field    Field
	Language string
}

// OwnerTexts are texts of one owner's pictures; nil for one that is not there.
type OwnerTexts map[Place]*Text

// JSON is how texts stand in a change: by asset, field and language.
func (o OwnerTexts) JSON() json.RawMessage {
	all := map[int64]map[Field]map[string]*Text{}
	for at, text := range o {
		if all[at.Asset] == nil {
			all[at.Asset] = map[Field]map[string]*Text{}
		}
		if all[at.Asset][at.Field] == nil {
			all[at.Asset][at.Field] = map[string]*Text{}
		}
		all[at.Asset][at.Field][at.Language] = text
	}
	b, err := json.Marshal(all)
	if err != nil {
		panic(err) // plain values always encode
	}
	return b
}

// ReadTexts is the inverse of JSON.
func ReadTexts(fields json.RawMessage) (OwnerTexts, error) {
	var all map[int64]map[Field]map[string]*Text
	if err := json.Unmarshal(fields, &all); err != nil {
		return nil, err
	}
	o := OwnerTexts{}
	for asset, of := range all {
		for field, texts := range of {
			for lang, text := range texts {
				o[Place{asset, field, lang}] = text
			}
		}
	}
	return o, nil
}

// Change is what leads from some texts of an owner to others; places that stay as they are left out. ok is false where nothing changes.
func Change(owner int64, before, after OwnerTexts) (c change.Change, ok bool) {
	was, will := OwnerTexts{}, OwnerTexts{}
	for at, text := range after {
		stands := before[at]
		if text == nil && stands == nil || text != nil && stands != nil && *text == *stands {
			continue
		}
		was[at], will[at] = stands, text
	}
	if len(will) == 0 {
		return c, false
	}
	return change.Change{Subject: Subject, ID: owner, Before: was.JSON(), After: will.JSON()}, true
}
