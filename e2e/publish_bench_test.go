package e2e

import (
	"fmt"
	"image/color"
	"slices"
	"strings"
	"testing"
	"time"
)

// BenchmarkPublishAgain looks what would go to a WebDAV drive of 5,000 files that stand as they should, on loopback, and divides by the time of rclone lsf -R of
// the same; of nine looks the middle one counts.
func BenchmarkPublishAgain(b *testing.B) {
	const count = 5000
	at := webdav(b, dataFolder(b))
	p := serve(b, onLoopback)
	var table strings.Builder
	table.WriteString("sku,title\n")
	files := map[string][]byte{}
	for i := range count {
		fmt.Fprintf(&table, "K-%05d,Kite %d\n", i, i)
	}
	p.me.load(table.String())
	picture := jpegOf(color.RGBA{90, 160, 60, 255}, 40)
	for i := range count {
		files[fmt.Sprintf("K-%05d.jpg", i)] = numbered(picture, i)
	}
	d := p.me.deliver("kites", map[string][]byte{"kites.zip": zipOf(b, files)})
	var plan id
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]string{"rule": "only_where_empty"}, &plan)
	p.me.apply(plan.ID)
	channel := p.channel("shop", p.source("webdav", "webdav://mo@"+at+"/"))
	began := time.Now()
	if r := p.me.apply(p.looked(channel).Plan); r.Applied != count+1 {
		b.Fatalf("%+v", r)
	}
	first := time.Since(began)
	rclone(b, at, "lsf", "-R", "REMOTE")
	for b.Loop() {
		var ratios []float64
		for range 9 {
			listed := rclone(b, at, "lsf", "-R", "REMOTE")
			began := time.Now()
			if c := p.looked(channel); c.Counts["unchanged"] != count+1 || c.Plan != 0 {
				b.Fatalf("%v", c.Counts)
			}
			took := time.Since(began)
			ratios = append(ratios, took.Seconds()/listed.Seconds())
			b.ReportMetric(took.Seconds(), "s")
			b.ReportMetric(listed.Seconds(), "s-rclone-lsf")
		}
		slices.Sort(ratios)
		b.ReportMetric(first.Seconds(), "s-first")
		b.ReportMetric(ratios[len(ratios)/2], "ratio")
	}
}
