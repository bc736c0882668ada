package ledger

import (
	"context"
	"encoding/json"
	"fmt"

	"ambrosa/core/change"
	"ambrosa/core/message"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Lock is a row that a change writes or relies on; Share where it only must stay as it is. ID 0 is the class as a whole: who
// holds it alone takes turns with all who do.
type Lock struct {
	Class string
	ID    int64
	Share bool
}

// Classes of locks, in the order in which everybody takes them. A class is the table of its rows.
const (
	Owner   = "owner"
	Asset   = "asset"
	Channel = "channel"
	Wording = "wording" // only as a whole: it has no numbers

	Delivery = "delivery"
)

var classes = []string{Owner, Asset, Channel, Wording, Delivery}

// Left is a line that is left alone, and why.
type Left struct {
	Seq int32
	message.Message
}

// Ref is an owner or an asset that a change touches.
type Ref struct {
	Class string // Owner or Asset
	ID    int64
}

// Subject is a kind of thing that plans change.
type Subject interface {
	// Name is what changes of the subject are kept under.
	Name() string
	// Locks are all rows that the changes write or rely on, parents and assets too.
	Locks([]change.Change) []Lock
	// Standing returns all fields of things as a JSON object, as they stand; those that are not there are missing.
	Standing(context.Context, pgx.Tx, []int64) (map[int64]json.RawMessage, error)
	// Same reports whether what stands has the fields as given, by what they mean and not by their bytes.
	Same(standing, fields json.RawMessage) bool
	// Write makes changes of which nothing stands in the way, each of another thing, all together. Data at fault leaves its
	// line alone and never fails the others.
	Write(context.Context, pgx.Tx, []change.Change) ([]Left, error)
	// Refs are the owners and assets that a change touches, for searching the ledger and for knowing what is used.
	Refs(change.Change) []Ref
	// Topics are what screens that listen fetch again after the changes.
	Topics([]change.Change) []string
}

// Holder is what a subject is besides, where some of its changes may not be made until somebody lets them through.
type Holder interface {
	// Holds are the changes of a plan that are held, by their numbers, and why.
	Holds(context.Context, *query.Queries, []change.Change) ([]Hold, error)
}

// Outside is what a subject is besides, where changes of it do work that no transaction holds: files sent, bytes deleted.
type Outside interface {
	// Batch is how many lines are done at a time.
	Batch() int
	// Do does the work of changes of which nothing stands in the way. It may be asked twice for one, and does the second time
	// what is left to do. It comes before Write, while no transaction is open.
	Do(context.Context, []change.Change) ([]Left, error)
}

// Register makes subjects known. Two of one name are a fault of the program.
func (l *Ledger) Register(subjects ...Subject) {
	for _, s := range subjects {
		if _, twice := l.subjects[s.Name()]; twice {
			panic("the subject " + s.Name() + " is registered twice")
		}
		l.subjects[s.Name()] = s
		if _, is := s.(Outside); is {
			l.hasOutside = true
		}
	}
}

func (l *Ledger) subject(name string) (Subject, error) {
	s, known := l.subjects[name]
	if !known {
		return nil, fmt.Errorf("there is no subject %q", name)
	}
	return s, nil
}
