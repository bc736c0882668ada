// Package tidy says what nothing uses, what is there twice, what is unfit and what is missing, and what a plan does about it.
package tidy

import (
	"encoding/json"
	"slices"

	"ambrosa/core/change"
)

// Subject is what changes of assets are kept under.
const Subject = "asset"

// Keep is the tag of pictures that are not proposed for the bin.
const Keep = "keep"

// Asset is what plans change of a picture.
type Asset struct {
	Binned      bool     `json:"binned,omitempty"`
	Placeholder bool     `json:"placeholder,omitempty"`
	Tags        []string `json:"tags,omitempty"` // in order, each once
	Note        string   `json:"note,omitempty"`
	Rights      *Rights  `json:"rights,omitempty"` // that an admin set
}

// Rights are those of a picture, whatever it came by.
type Rights struct {
	May    string `json:"may"`
	Until  string `json:"until,omitempty"`
	Holder string `json:"holder,omitempty"`
	Proof  string `json:"proof,omitempty"`
}

// JSON is an asset as changes hold it.
func (a Asset) JSON() json.RawMessage {
	b, err := json.Marshal(a)
	if err != nil {
		panic(err) // texts and truth values always go
	}
	return b
}

// ReadAsset reads what JSON wrote.
func ReadAsset(fields json.RawMessage) (a Asset, err error) {
	err = json.Unmarshal(fields, &a)
	return a, err
}

// IsKept reports whether a picture is tagged to be kept.
func (a Asset) IsKept() bool { return slices.Contains(a.Tags, Keep) }

// Tagged is an asset with one more tag, or without it.
func (a Asset) Tagged(tag string, on bool) Asset {
	tags := slices.DeleteFunc(slices.Clone(a.Tags), func(t string) bool { return t == tag })
	if on {
		tags = append(tags, tag)
		slices.Sort(tags)
	}
	a.Tags = tags
	return a
}

// Changes are those that make of each asset what it shall be; none where it stands so. ids gives their order; one that does not stand is left
// out.
func Changes(ids []int64, standing map[int64]Asset, becomes func(Asset) Asset) ([]change.Change, error) {
	var changes []change.Change
	for _, id := range ids {
		was, there := standing[id]
		if !there {
			continue
		}
		before, after, err := change.Between(was.JSON(), becomes(was).JSON())
		if err != nil {
			return nil, err
		}
		if before != nil || after != nil {
			changes = append(changes, change.Change{Subject: Subject, ID: id, Before: before, After: after})
		}
	}
	return changes, nil
}

// Deletions are the changes that delete assets for good. No other takes them back.
func Deletions(ids []int64, standing map[int64]Asset) []change.Change {
	var changes []change.Change
	for _, id := range ids {
		if was, there := standing[id]; there && was.Binned {
			changes = append(changes, change.Change{Subject: Subject, ID: id, Before: was.JSON()})
		}
	}
	return changes
}
