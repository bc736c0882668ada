package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

// BenchmarkImport brings a table of 300,000 owners in: sent, planned in the background, applied. It reports the seconds of each part
// and the server's memory at its end.
func BenchmarkImport(b *testing.B) {
	var table strings.Builder
	table.WriteString("sku;product;title;barcode;category;colour\n")
	for n := range 100_000 {
		fmt.Fprintf(&table, "PK-%06d;;Drift kite %d;;Kites > Range %d;\n", n, n, n%200)
		for _, colour := range []string{"amber", "plum"} {
			fmt.Fprintf(&table, "PK-%06d-%s;PK-%06d;;;;%s\n", n, strings.ToUpper(colour[:3]), n, colour)
		}
	}
	for b.Loop() {
		p := serve(b)
		begun := time.Now()
		plan := p.me.plan(table.String())
		planned := time.Since(begun)
		if r := p.me.apply(plan); r.Applied != 300_201 {
			b.Fatalf("%+v", r)
		}
		b.ReportMetric(planned.Seconds(), "s-planned")
		b.ReportMetric(time.Since(begun).Seconds(), "s-in-all")
		b.ReportMetric(float64(p.memory())/(1<<20), "MiB")
		p.stop()
	}
}
