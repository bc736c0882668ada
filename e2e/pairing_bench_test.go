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
// ripgrep (rg -oF -f), which only finds what is written exactly. One name in six means no key of the catalogue. A million
// names are measured against a look-up by hash that knows beforehand where in each name the key stands (mawk): names of one
// form, as that needs, and names of six.
func BenchmarkPairCommand(b *testing.B) {
	if _, err := exec.LookPath("rg"); err != nil {
		b.Skip("make bench installs ripgrep")
	}
	for _, style := range []string{"lettered", "digits"} {
		folder := b.TempDir()
		small := writeLists(b, folder, style, 100_000)
		rg := fastest(b, 3, "rg", "-oF", "-f", small.skus, small.names)
		large := writeLists(b, folder, style, 1_000_000)
		mawk := fastest(b, 3, "mawk", "-F_", "NR==FNR{k[$0]=NR;next} $3 in k{print $0, k[$3]}", large.skus, large.third)
		for _, c := range []struct {
			what, owners, names string
			than                measure
			yardstick           string
		}{
			{"100000", small.owners, small.names, rg, "rg"},
			{"1000000", large.owners, large.names, mawk, "mawk"},
			{"1000000 of one form", large.owners, large.third, mawk, "mawk"},
		} {
			b.Run(style+"/"+c.what, func(b *testing.B) {
				for b.Loop() {
					took := fastest(b, 3, "../bin/ambrosa", "pair", "--owners", c.owners, "--files", c.names)
					b.ReportMetric(took.wall.Seconds(), "s")
					b.ReportMetric(c.than.wall.Seconds(), "s-"+c.yardstick)
					b.ReportMetric(took.wall.Seconds()/c.than.wall.Seconds(), "÷"+c.yardstick)
					b.ReportMetric(float64(took.peak)/1024, "MiB-peak")
				}
			})
		}
	}
}

type lists struct {
	owners, skus, names string
	third               string // names whose third part between underscores is the key
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
	of := lists{filepath.Join(folder, fmt.Sprint("owners", lines)), filepath.Join(folder, fmt.Sprint("skus", lines)), filepath.Join(folder, fmt.Sprint("names", lines)), filepath.Join(folder, fmt.Sprint("third", lines)), lines}
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
	write(of.third, func(w io.Writer, i int) {
		key := skus[r.IntN(lines)]
		if i%6 == 5 {
			key = sku()
		}
		fmt.Fprintf(w, "tarn_studio_%s_%d.jpg\n", key, r.IntN(9)+1)
	}, "")
	return of
}

type measure struct {
	wall time.Duration
	peak int64 // KiB
}

// fastest runs a command so many times and returns the run that took least.
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
