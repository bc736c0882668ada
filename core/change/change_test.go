package change

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
)

// The examples of RFC 7396, appendix A, as far as both sides are objects.
func TestMergeOfStandard(t *testing.T) {
	for _, c := range []struct{ standing, patch, want string }{
		{`{"a":"b"}`, `{"a":"c"}`, `{"a":"c"}`},
		{`{"a":"b"}`, `{"b":"c"}`, `{"a":"b","b":"c"}`},
		{`{"a":"b"}`, `{"a":null}`, `{}`},
		{`{"a":"b","b":"c"}`, `{"a":null}`, `{"b":"c"}`},
		{`{"a":["b"]}`, `{"a":"c"}`, `{"a":"c"}`},
		{`{"a":"c"}`, `{"a":["b"]}`, `{"a":["b"]}`},
		{`{"a":{"b":"c"}}`, `{"a":{"b":"d","c":null}}`, `{"a":{"b":"d"}}`},
		{`{"a":[{"b":"c"}]}`, `{"a":[1]}`, `{"a":[1]}`},
		{`{"e":null}`, `{"a":1}`, `{"a":1,"e":null}`},
		{`{}`, `{"a":{"bb":{"ccc":null}}}`, `{"a":{"bb":{}}}`},
	} {
		got, err := Merge(json.RawMessage(c.standing), json.RawMessage(c.patch))
		if err != nil || string(got) != c.want {
			t.Errorf("%s with %s gives %s, %v; want %s", c.standing, c.patch, got, err, c.want)
		}
	}
}

// Whatever stands and is wanted: Before holds, After leads there, the inverse leads back, and a change of other fields in
// between is neither a conflict nor lost.
func TestBetween(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	thing := func() map[string]any {
		in := map[string]any{}
		for _, name := range []string{"red", "blue"} {
			if r.IntN(2) > 0 {
				in[name] = fmt.Sprint(r.IntN(3))
			}
		}
		o := map[string]any{"in": in, "list": []int{r.IntN(2)}}
		for _, name := range []string{"a", "b", "c"} {
			if r.IntN(3) > 0 {
				o[name] = r.IntN(3)
			}
		}
		return o
	}
	raw := func(v any) json.RawMessage { b, _ := json.Marshal(v); return b }
	equal := func(a, b json.RawMessage) bool { return Same(a, b) && Same(b, a) }
	for range 20000 {
		was, will := raw(thing()), raw(thing())
		before, after, err := Between(was, will)
		if err != nil {
			t.Fatal(err)
		}
		if before == nil {
			if !equal(was, will) {
				t.Fatalf("%s and %s are said to be the same", was, will)
			}
			continue
		}
		c := Change{Seq: 1, ID: 7, Before: before, After: after}
		if code := c.Conflict(was, Same); code != "" {
			t.Fatalf("%s against %s: %s", was, before, code)
		}
		if code := c.Conflict(will, Same); code != Changed {
			t.Fatalf("%s does not stand against %s", will, before)
		}
		made, _ := Merge(was, after)
		if !equal(made, will) {
			t.Fatalf("%s with %s gives %s, want %s", was, after, made, will)
		}
		other, _ := Merge(made, json.RawMessage(`{"new":"field","in":{"green":"1"}}`))
		back := Inverse([]Change{c})[0]
		if code := back.Conflict(other, Same); code != "" {
			t.Fatalf("undoing %s against %s: %s", after, other, code)
		}
		undone, _ := Merge(other, back.After)
		if want, _ := Merge(was, json.RawMessage(`{"new":"field","in":{"green":"1"}}`)); !equal(undone, want) {
			t.Fatalf("%s undone is %s, want %s", made, undone, want)
		}
	}
}

func TestConflict(t *testing.T) {
	for _, c := range []struct {
		before, after, standing string
		want                    Code
	}{
		{"", `{"a":1}`, "", ""},
		{"", `{"a":1}`, `{"a":1}`, There},
		{`{"a":1}`, `{"a":2}`, "", Gone},
		{`{"a":1}`, "", `{"a":1}`, ""},
		{`{"a":1}`, "", `{"a":1,"b":2}`, Changed}, // what is taken out has more by now
		{`{"a":1}`, `{"a":2}`, `{"a":1,"b":2}`, ""},
		{`{"a":null}`, `{"a":2}`, `{"b":2}`, ""},
		{`{"a":1}`, `{"a":2}`, `nonsense`, Changed},
	} {
		change := Change{Before: json.RawMessage(c.before), After: json.RawMessage(c.after)}
		if got := change.Conflict(json.RawMessage(c.standing), Same); got != c.want {
			t.Errorf("%s → %s on %s: %q, want %q", c.before, c.after, c.standing, got, c.want)
		}
	}
}
