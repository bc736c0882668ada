package channel

import (
	"encoding/json"

	"ambrosa/core/message"
)

// State is what becomes of a file of a channel.
type State string

const (
	New       State = "new"
	Changed   State = "changed"
	Renamed   State = "renamed"
	Removed   State = "removed"
	Unchanged State = "unchanged"
)

// States are all of them, in the order in which they are shown.
var States = []State{New, Changed, Renamed, Removed, Unchanged}

// Stands is what a channel has: the path and the key of what it holds; nothing without a path.
type Stands struct {
	Path, Key string
	Bytes     int64
}

// There is what a drive says of what stands.
type There uint8

const (
	AsSent  There = iota // it is there, or nobody asked
	Missing              // it is not there any more
	Differs              // it is there in another size
)

// Become says what becomes of a file that stands, or does not, and is wanted, or is not (a zero File).
func Become(stands Stands, wants File, there There) State {
	switch {
	case stands.Path == "" && wants.Path == "":
		return Unchanged
	case wants.Path == "":
		return Removed
	case stands.Path == "":
		return New
	case stands.Key != wants.Key || there != AsSent:
		return Changed
	case stands.Path != wants.Path:
		return Renamed
	}
	return Unchanged
}

// Filed is a file of a channel as changes hold it: what stands, or shall stand, in a slot.
type Filed struct {
	Path  string            `json:"path"`
	Key   string            `json:"key"`
	Let   string            `json:"let,omitempty"` // why it was held, where it stands because somebody let it go
	Owner int64             `json:"owner,omitempty"`
	Asset int64             `json:"asset,omitempty"`
	Size  string            `json:"size,omitempty"`
	Says  []message.Message `json:"says,omitempty"`  // what there is to know of it; it changes nothing
	Again bool              `json:"again,omitempty"` // it is sent again, as it is not there as it was sent
}

// JSON is what stands as changes hold it; nil for nothing.
func (f Filed) JSON() json.RawMessage {
	if f.Path == "" {
		return nil
	}
	b, err := json.Marshal(f)
	if err != nil {
		panic(err) // texts and numbers can be written
	}
	return b
}

// ReadFiled reads it; nothing, null and what can't be read stand for nothing.
func ReadFiled(j json.RawMessage) (f Filed) {
	if json.Unmarshal(j, &f) != nil {
		return Filed{}
	}
	return f
}

// Same reports whether the same stands there.
func (f Filed) Same(o Filed) bool { return f.Path == o.Path && f.Key == o.Key && f.Let == o.Let }
