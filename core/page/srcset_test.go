package page_test

import (
	"fmt"
	"testing"

	"ambrosa/core/page"
)

// The cases are those of the standard's own text (WHATWG HTML, 4.8.4.2.2 and 4.8.4.3.10) and of the hints it gives; from memory.
func TestSrcset(t *testing.T) {
	for text, want := range map[string]string{
		"": "[]",
		"pear-mobile.jpeg 720w, pear-tablet.jpeg 1280w, pear-desktop.jpeg 1x": "[{pear-mobile.jpeg 720 0} {pear-tablet.jpeg 1280 0} {pear-desktop.jpeg 0 1}]",
		"a.jpg,  b.jpg 2x":                 "[{a.jpg 0 0} {b.jpg 0 2}]",
		"a,b.jpg 1x":                       "[{a,b.jpg 0 1}]",
		",,a.jpg,,":                        "[{a.jpg 0 0}]",
		"data:,a 1x":                       "[{data:,a 0 1}]",
		"a.jpg 0w, b.jpg -1x, c.jpg 1w 1x": "[]",
		"a.jpg 100w 50h, b.jpg 50h":        "[{a.jpg 100 0}]",
		"a.jpg (x,y) 1x, b.jpg 1x":         "[{b.jpg 0 1}]",
		"\n a.jpg\t1.5x \n":                "[{a.jpg 0 1.5}]",
	} {
		if got := fmt.Sprint(page.ReadSrcset(text)); got != want && !(want == "[]" && got == "[]") {
			t.Errorf("%q is %s, want %s", text, got, want)
		}
	}
	if best, ok := page.Largest(page.ReadSrcset("a.jpg 1x, b.jpg 3x, c.jpg 2x")); !ok || best.Address != "b.jpg" {
		t.Errorf("the largest is %+v", best)
	}
	if best, _ := page.Largest(page.ReadSrcset("a.jpg 100w, b.jpg 900w, c.jpg")); best.Address != "b.jpg" {
		t.Errorf("the largest is %+v", best)
	}
}
