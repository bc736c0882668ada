package page_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"golang.org/x/net/html"

	"ambrosa/core/page"
)

// BenchmarkRead reads an item's page of 1 MB, by a guide and without one, against parsing it alone. Goal: no more than 2 times.
func BenchmarkRead(b *testing.B) {
	var text strings.Builder
	text.WriteString(`<html><body><header><img src=/logo.png></header><h1 class=title>Kite</h1><b class=code>K-1</b><div class=shots>`)
	for i := range 40 {
		fmt.Fprintf(&text, `<a class=shot href="/l/%d.jpg"><img src="/s/%d.jpg" alt="kite %d" data-zoom="/z/%d.jpg"></a>`, i, i, i, i)
	}
	text.WriteString("</div>")
	for i := 0; text.Len() < 1<<20; i++ {
		fmt.Fprintf(&text, `<div class="row row-%d"><p class="text lead">A paragraph of the page, with <b>some</b> words and <a href="/p/%d">a link</a>.</p><ul class="list"><li class="item">one</li><li>two</li></ul></div>`, i, i)
	}
	page1 := []byte(text.String())
	guide := page.Guide{Form: 1, Title: page.Field{Selector: "h1.title"}, SKU: page.Field{Selector: "b.code"}, Pictures: page.Pictures{Selector: "a.shot img"}}
	for name, g := range map[string]page.Guide{"guide": guide, "without": {}} {
		b.Run(name, func(b *testing.B) {
			var parsed, read time.Duration
			for range b.N {
				begun := time.Now()
				if _, err := html.Parse(bytes.NewReader(page1)); err != nil {
					b.Fatal(err)
				}
				parsed += time.Since(begun)
				begun = time.Now()
				p, err := page.Parse(page1, "text/html; charset=utf-8", "https://shop.example/p/1")
				if err != nil || len(g.Item(p).Pictures) < 40 {
					b.Fatal(err)
				}
				read += time.Since(begun)
			}
			b.ReportMetric(float64(read)/float64(parsed), "times-parsing")
			b.ReportMetric(float64(read.Milliseconds())/float64(b.N), "ms/page")
		})
	}
}
