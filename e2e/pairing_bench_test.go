package e2e

import (
	"bufio"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"
	"time"
)

// BenchmarkPairCommand pairs lists by the command line, and looks for the same keys in the same names with Debian's
// ripgrep (rg -oF -f), which only finds what is written exactly. One name in six means no key of the catalogue. The large
// lists are measured against ripgrep's time for the small ones.
func BenchmarkPairCommand(b *testing.B) {
	if _, err := exec.LookPath("rg"); err != nil {
		b.Skip("make bench installs ripgrep")
	}
	for _, style := range []string{"lettered", "digits"} {
		folder := b.TempDir()
		small := writeLists(b, folder, style, 100_000)
		rg := fastest(b, 3, "rg", "-oF", "-f", small.skus, small.names)
		for _, of := range []lists{small, writeLists(b, folder, style, 1_000_000)} {
			b.Run(fmt.Sprintf("%s/%d", style, of.lines), func(b *testing.B) {
				for b.Loop() {
					tries := 3
					if of.lines > small.lines {
						tries = 1
					}
					took := fastest(b, tries, "../bin/ambrosa", "pair", "--owners", of.owners, "--files", of.names)
					b.ReportMetric(took.wall.Seconds(), "s")
					b.ReportMetric(rg.wall.Seconds(), "s-rg-100000")
					b.ReportMetric(took.wall.Seconds()/rg.wall.Seconds(), "÷rg")
					b.ReportMetric(float64(took.peak)/1024, "MiB-peak")
				}
			})
		}
	}
}

type lists struct {
	owners, skus, names string
	lines               int
}

func writeLists(b *testing.B, folder, style string, lines int) lists {
	b.Helper()
	r := rand.New(rand.NewPCG(1, 2))
	letters := func(n int) string {
		s := make([]byte, n)
		for i := range s {
			s[i] = "ABCDEFGHJKLMNPQRSTUVWXYZ"[r.IntN(24)]
		}
		return string(s)
	}
	sku := func() string {
		if style == "digits" {
			return fmt.Sprintf("%08d", r.IntN(100_000_000))
		}
		return fmt.Sprintf("%s-%s-%05d-%s", letters(2), letters(3), r.IntN(100_000), letters(2))
	}
	of := lists{filepath.Join(folder, fmt.Sprint("owners", lines)), filepath.Join(folder, fmt.Sprint("skus", lines)), filepath.Join(folder, fmt.Sprint("names", lines)), lines}
	write := func(path string, line func(w io.Writer, i int), head string) {
		f, err := os.Create(path)
		if err != nil {
			b.Fatal(err)
		}
		defer f.Close()
		w := bufio.NewWriter(f)
		defer w.Flush()
		fmt.Fprint(w, head)
		for i := range lines {
			line(w, i)
		}
	}
	skus := make([]string, lines)
	for i := range skus {
		skus[i] = sku()
	}
	write(of.owners, func(w io.Writer, i int) { fmt.Fprintf(w, "o%d,product,,%s,,\n", i, skus[i]) }, "id,kind,parent_id,sku,barcode,title\n")
	write(of.skus, func(w io.Writer, i int) { fmt.Fprintln(w, skus[i]) }, "")
	write(of.names, func(w io.Writer, i int) {
		key, n := skus[r.IntN(lines)], r.IntN(9)+1
		switch i % 6 {
		case 0:
			fmt.Fprintf(w, "%s.jpg\n", key)
		case 1:
			fmt.Fprintf(w, "%s_%d.jpg\n", key, n)
		case 2:
			fmt.Fprintf(w, "in/%s (%d).JPG\n", key, n)
		case 3:
			fmt.Fprintf(w, "tarn_%s_front.jpg\n", key)
		case 4:
			fmt.Fprintf(w, "%s/%d.png\n", key, n)
		default:
			fmt.Fprintf(w, "%s.jpg\n", sku())
		}
	}, "")
	return of
}

type measure struct {
	wall time.Duration
	peak int64 // KiB
}

// fastest runs a command so many times and gives the run that took least.
func fastest(b *testing.B, times int, name string, args ...string) (best measure) {
	b.Helper()
	for range times {
		cmd := exec.Command(name, args...)
		cmd.Stderr = os.Stderr
		out, err := os.Create(filepath.Join(b.TempDir(), "out"))
		if err != nil {
			b.Fatal(err)
		}
		cmd.Stdout = out
		start := time.Now()
		if err := cmd.Run(); err != nil {
			b.Fatal(err)
		}
		took := measure{time.Since(start), cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss}
		out.Close()
		if best.wall == 0 || took.wall < best.wall {
			best = took
		}
	}
	return best
}
