package wording

import (
	"cmp"
	"encoding/json"
	"slices"
	"strconv"

	"ambrosa/core/catalogue"
	"ambrosa/core/change"

	"golang.org/x/text/language"
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

// Written is a text that a person wrote for a place: clean, and no longer than a text may be; a file name in the form of one. nil where
// nothing is left of it.
func Written(at Place, text string) *Text {
	if text = catalogue.CleanText(text); at.Field == FileName {
		text = Slug(text, language.Make(at.Language), MostText)
	}
	if runes := []rune(text); len(runes) > MostText {
		text = string(runes[:MostText])
	}
	if text == "" {
		return nil
	}
	return &Text{Text: text, Hand: true}
}

// OwnerTexts are texts of one owner's pictures; nil for one that is not there.
type OwnerTexts map[Place]*Text

// JSON is how texts stand in a change: by asset, field and language. It is written by hand, as plans have a hundred thousand of them.
func (o OwnerTexts) JSON() json.RawMessage {
	places := make([]Place, 0, len(o))
	for at := range o {
		places = append(places, at)
	}
	slices.SortFunc(places, func(a, b Place) int {
		return cmp.Or(cmp.Compare(a.Asset, b.Asset), cmp.Compare(a.Field, b.Field), cmp.Compare(a.Language, b.Language))
	})
	b := append(make([]byte, 0, 64+96*len(places)), '{')
	for i, at := range places {
		fresh := i == 0 || places[i-1].Asset != at.Asset
		if fresh {
			if i > 0 {
				b = append(b, "}},"...)
			}
			b = append(strconv.AppendInt(append(b, '"'), at.Asset, 10), `":{`...)
		}
		if fresh || places[i-1].Field != at.Field {
			if !fresh {
				b = append(b, "},"...)
			}
			b = append(append(b, quoted(string(at.Field))...), ":{"...)
		} else {
			b = append(b, ',')
		}
		b = append(append(b, quoted(at.Language)...), ':')
		if text := o[at]; text == nil {
			b = append(b, "null"...)
		} else {
			b = append(append(b, `{"text":`...), quoted(text.Text)...)
			b = append(strconv.AppendBool(append(b, `,"hand":`...), text.Hand), '}')
		}
	}
	if len(places) > 0 {
		b = append(b, "}}"...)
	}
	return append(b, '}')
}

// quoted is a text as JSON.
func quoted(text string) []byte {
	b, err := json.Marshal(text)
	if err != nil {
		panic(err) // a text always encodes
	}
	return b
}

// AssetsOf are the pictures whose texts stand in a change; nil where it can't be read.
func AssetsOf(fields json.RawMessage) (assets []int64) {
	var all map[int64]json.RawMessage
	if json.Unmarshal(fields, &all) != nil {
		return nil
	}
	for asset := range all {
		assets = append(assets, asset)
	}
	return assets
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

// Change is what leads from some texts of an owner to others, and n how many of them change; places that stay as they are are left out.
func Change(owner int64, before, after OwnerTexts) (c change.Change, n int) {
	was, will := OwnerTexts{}, OwnerTexts{}
	for at, text := range after {
		stands := before[at]
		if text == nil && stands == nil || text != nil && stands != nil && *text == *stands {
			continue
		}
		was[at], will[at] = stands, text
	}
	if len(will) == 0 {
		return c, 0
	}
	return change.Change{Subject: Subject, ID: owner, Before: was.JSON(), After: will.JSON()}, len(will)
}
