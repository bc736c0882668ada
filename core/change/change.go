// Package change is a change of anything: what it does to a thing's fields, how it is taken back, and what stands against it.
package change

import (
	"bytes"
	"encoding/json"
	"reflect"
)

// Change is one line of a plan: what becomes of one thing. Subject names its kind, ID the thing.
//
// Before and After are JSON objects that hold only the fields which change, each a merge patch (RFC 7396): null is a field
// that is not there, an object within holds only what changes in it. So two changes of different fields do not meet, and a
// field that is new to the program breaks no change that was kept before. Before is nil where the thing is made, After where
// it is taken out; the other then holds all its fields.
type Change struct {
	Seq     int32 // its place in the plan, from 1
	Subject string
	ID      int64
	Before  json.RawMessage
	After   json.RawMessage
}

// Code says what stands against a change; empty for nothing.
type Code string

const (
	Changed Code = "changed_since" // what stands is not what the plan found
	Gone    Code = "gone_since"    // the thing is not there any more
	There   Code = "there_already" // the thing that would be made is there
)

// Conflict says what stands against a change of a thing: standing holds all its fields, nil where it is not there. same is
// the subject's own Same. What would be taken out must stand in full as the plan found it.
func (c Change) Conflict(standing json.RawMessage, same func(standing, fields json.RawMessage) bool) Code {
	switch {
	case None(c.Before) && None(standing):
		return ""
	case None(c.Before):
		return There
	case None(standing):
		return Gone
	case !same(standing, c.Before), None(c.After) && !same(c.Before, standing):
		return Changed
	}
	return ""
}

// IDs are the numbers of what changes are of, one for each.
func IDs(changes []Change) []int64 {
	ids := make([]int64, len(changes))
	for i, c := range changes {
		ids[i] = c.ID
	}
	return ids
}

// Inverse takes changes back, last first, so that what was made on top of another is taken off first.
func Inverse(changes []Change) []Change {
	out := make([]Change, len(changes))
	for i, c := range changes {
		out[len(changes)-1-i] = Change{Seq: int32(len(changes) - i), Subject: c.Subject, ID: c.ID, Before: c.After, After: c.Before}
	}
	return out
}

// Between returns the fields in which two objects differ, as each has them, for a change's Before and After. Where one is nil
// the other stays whole; both are nil where nothing differs.
func Between(before, after json.RawMessage) (was, will json.RawMessage, err error) {
	if None(before) || None(after) {
		return nullAsNil(before), nullAsNil(after), nil
	}
	a, err := object(before)
	if err != nil {
		return nil, nil, err
	}
	b, err := object(after)
	if err != nil {
		return nil, nil, err
	}
	from, to := apart(a, b)
	if len(from) == 0 {
		return nil, nil, nil
	}
	if was, err = json.Marshal(from); err != nil {
		return nil, nil, err
	}
	will, err = json.Marshal(to)
	return was, will, err
}

// Merge returns an object after a merge patch, by RFC 7396. standing may be nil.
func Merge(standing, patch json.RawMessage) (json.RawMessage, error) {
	a := map[string]any{}
	if !None(standing) {
		var err error
		if a, err = object(standing); err != nil {
			return nil, err
		}
	}
	p, err := object(patch)
	if err != nil {
		return nil, err
	}
	return json.Marshal(merged(a, p))
}

// Same reports whether what stands has the fields as they are given: whether merging them would change nothing. What can't
// be read is not the same.
func Same(standing, fields json.RawMessage) bool {
	a, err := object(standing)
	if err != nil {
		return false
	}
	p, err := object(fields)
	return err == nil && holds(a, p)
}

// None reports whether JSON is missing or null.
func None(j json.RawMessage) bool { return len(j) == 0 || string(j) == "null" }

func nullAsNil(j json.RawMessage) json.RawMessage {
	if None(j) {
		return nil
	}
	return j
}

// object reads a JSON object; numbers stay as they are written.
func object(j json.RawMessage) (map[string]any, error) {
	d := json.NewDecoder(bytes.NewReader(j))
	d.UseNumber()
	o := map[string]any{}
	err := d.Decode(&o)
	return o, err
}

// apart returns the fields in which a and b differ, nil where one does not have it.
func apart(a, b map[string]any) (from, to map[string]any) {
	from, to = map[string]any{}, map[string]any{}
	for name, x := range a {
		y, there := b[name]
		inX, xIs := x.(map[string]any)
		inY, yIs := y.(map[string]any)
		switch {
		case xIs && (yIs || !there):
			if f, t := apart(inX, inY); len(f) > 0 {
				from[name], to[name] = f, t
			}
		case !reflect.DeepEqual(x, y):
			from[name], to[name] = x, y
		}
	}
	for name, y := range b {
		if _, there := a[name]; there {
			continue
		}
		if inY, is := y.(map[string]any); is {
			if f, t := apart(map[string]any{}, inY); len(f) > 0 {
				from[name], to[name] = f, t
			}
		} else if y != nil {
			from[name], to[name] = nil, y
		}
	}
	return from, to
}

func merged(a, patch map[string]any) map[string]any {
	for name, v := range patch {
		in, is := v.(map[string]any)
		if v == nil {
			delete(a, name)
		} else if is {
			of, _ := a[name].(map[string]any)
			if of == nil {
				of = map[string]any{}
			}
			a[name] = merged(of, in)
		} else {
			a[name] = v
		}
	}
	return a
}

// holds reports whether a has the fields; an object that is not there is an empty one.
func holds(a, fields map[string]any) bool {
	for name, v := range fields {
		if in, is := v.(map[string]any); is {
			of, isToo := a[name].(map[string]any)
			if a[name] != nil && !isToo || !holds(of, in) {
				return false
			}
		} else if !reflect.DeepEqual(a[name], v) {
			return false
		}
	}
	return true
}
