package page_test

import (
	"errors"
	"strings"
	"testing"

	"ambrosa/core/page"
)

// The ways in which shops write a size into an address are common practice, no source.
func TestLarger(t *testing.T) {
	for _, c := range []struct{ name, examples, small, want string }{
		{"another folder", "http://h/s/1.jpg http://h/l/1.jpg\nhttp://h/s/2.jpg http://h/l/2.jpg", "http://h/s/3.jpg", "http://h/l/3.jpg"},
		{"another folder, one example", "http://h/thumb/kite-1.jpg http://h/full/kite-1.jpg", "http://h/thumb/reel.jpg", "http://h/full/reel.jpg"},
		{"a size at the end of the name", "http://h/p/kite-150x150.jpg http://h/p/kite.jpg\nhttp://h/p/reel-150x150.jpg http://h/p/reel.jpg", "http://h/p/tail-300x200.jpg", "http://h/p/tail.jpg"},
		{"a size that is another", "http://h/p/kite_300x300.jpg http://h/p/kite_1200x1200.jpg\nhttp://h/p/reel_300x300.jpg http://h/p/reel_1200x1200.jpg", "http://h/p/tail_300x300.jpg", "http://h/p/tail_1200x1200.jpg"},
		{"a letter behind the name", "http://h/p/kite_s.jpg http://h/p/kite_l.jpg\nhttp://h/p/reel_s.jpg http://h/p/reel_l.jpg", "http://h/p/tail_s.jpg", "http://h/p/tail_l.jpg"},
		{"a size in the query", "http://h/p.jpg?w=200 http://h/p.jpg\nhttp://h/q.jpg?w=200 http://h/q.jpg", "http://h/r.jpg?w=400", "http://h/r.jpg"},
		{"a size in the query among others", "http://h/p.jpg?v=7&w=200 http://h/p.jpg?v=7&w=1600\nhttp://h/q.jpg?v=8&w=200 http://h/q.jpg?v=8&w=1600", "http://h/r.jpg?v=9&w=200", "http://h/r.jpg?v=9&w=1600"},
		{"another host", "http://thumbs.h.example/a/1.jpg http://img.h.example/a/1.jpg\nhttp://thumbs.h.example/b/2.jpg http://img.h.example/b/2.jpg", "http://thumbs.h.example/c/3.jpg", "http://img.h.example/c/3.jpg"},
		{"another extension", "http://h/1.webp http://h/1.jpg\nhttp://h/2.webp http://h/2.jpg", "http://h/3.webp", "http://h/3.jpg"},
		{"folder and name at once", "http://h/thumbs/kite_t.jpg http://h/images/kite.jpg\nhttp://h/thumbs/reel_t.jpg http://h/images/reel.jpg", "http://h/thumbs/tail_t.jpg", "http://h/images/tail.jpg"},
		{"a folder that goes", "http://h/c/200x200/kite.jpg http://h/c/kite.jpg\nhttp://h/c/200x200/reel.jpg http://h/c/reel.jpg", "http://h/c/150x150/tail.jpg", "http://h/c/tail.jpg"},
		{"a folder that comes", "http://h/c/kite.jpg http://h/c/large/kite.jpg\nhttp://h/c/reel.jpg http://h/c/large/reel.jpg", "http://h/c/tail.jpg", "http://h/c/large/tail.jpg"},
		{"something behind the name", "http://h/kite.jpg http://h/kite@2x.jpg\nhttp://h/reel.jpg http://h/reel@2x.jpg", "http://h/tail.jpg", "http://h/tail@2x.jpg"},
		{"the word stands in the host, too", "http://small.h/small/1.jpg http://small.h/large/1.jpg\nhttp://small.h/small/2.jpg http://small.h/large/2.jpg", "http://small.h/small/3.jpg", "http://small.h/large/3.jpg"},
		{"numbers of pictures stay", "http://h/100/100_small.jpg http://h/100/100_big.jpg\nhttp://h/200/200_small.jpg http://h/200/200_big.jpg", "http://h/300/300_small.jpg", "http://h/300/300_big.jpg"},
		{"sizes that differ", "http://h/a-100x80.jpg http://h/a.jpg\nhttp://h/b-90x100.jpg http://h/b.jpg", "http://h/c-70x70.jpg", "http://h/c.jpg"},
		{"a parameter in the path", "http://h/w_200,h_200/a.jpg http://h/w_1000,h_1000/a.jpg\nhttp://h/w_200,h_200/b.jpg http://h/w_1000,h_1000/b.jpg", "http://h/w_200,h_200/c.jpg", "http://h/w_1000,h_1000/c.jpg"},
		{"another size of the same kind", "http://h/w_200,h_200/a.jpg http://h/w_1000,h_1000/a.jpg\nhttp://h/w_200,h_200/b.jpg http://h/w_1000,h_1000/b.jpg", "http://h/w_90,h_60/c.jpg", "http://h/w_1000,h_1000/c.jpg"},
		{"a folder of a size and a name of one", "http://h/i/400/kite_400px.jpg http://h/i/2000/kite_2000px.jpg\nhttp://h/i/400/reel_400px.jpg http://h/i/2000/reel_2000px.jpg", "http://h/i/400/tail_400px.jpg", "http://h/i/2000/tail_2000px.jpg"},
		{"letters of other scripts", "http://h/s/Drachen-grün.jpg http://h/l/Drachen-grün.jpg\nhttp://h/s/凧.jpg http://h/l/凧.jpg", "http://h/s/%E5%87%A7-2.jpg", "http://h/l/%E5%87%A7-2.jpg"},
		{"nothing in common", "http://h/a.jpg http://h/q7.jpg\nhttp://h/b.jpg http://h/zz.jpg", "", ""},
		{"two different ways", "http://h/s/a.jpg http://h/l/a.jpg\nhttp://h/b_t.jpg http://h/b.jpg", "", ""},
		{"no change", "http://h/a.jpg http://h/a.jpg", "", ""},
		{"none", "", "", ""},
	} {
		var examples []page.Example
		for line := range strings.Lines(c.examples) {
			small, large, _ := strings.Cut(strings.TrimSpace(line), " ")
			examples = append(examples, page.Example{Small: small, Large: large})
		}
		rule, err := page.Infer(examples)
		if c.want == "" {
			if !errors.Is(err, page.ErrNoRule) {
				t.Errorf("%s: %v is inferred", c.name, rule)
			}
			continue
		}
		if got, ok := rule.Apply(c.small); err != nil || got != c.want || !ok {
			t.Errorf("%s: %s leads to %q by %+v (%s), %v; want %s", c.name, c.small, got, rule, rule, err, c.want)
		}
	}
	rule, err := page.Infer([]page.Example{{Small: "http://h/s/1.jpg", Large: "http://h/l/1.jpg"}})
	if err != nil {
		t.Fatal(err)
	}
	for _, other := range []string{"http://h/x/1.jpg", "http://h/news/1.jpg", "", "javascript:alert(1)", "data:image/gif;base64,R0lGOD"} {
		if got, ok := rule.Apply(other); ok {
			t.Errorf("%s leads to %s", other, got)
		}
	}
}
