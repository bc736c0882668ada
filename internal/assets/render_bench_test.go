package assets

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"sync"
	"testing"
	"time"

	"image/jpeg"

	"ambrosa/core/rendition"
)

// BenchmarkRender makes three sizes of 1,000 photographs of 4 megapixels and writes them, and divides by the time of libvips' own vips thumbnail for the same,
// one process a core.
func BenchmarkRender(b *testing.B) {
	if _, err := exec.LookPath("vips"); err != nil {
		b.Skip("vips is not installed")
	}
	const count = 1000
	folder := b.TempDir()
	first := filepath.Join(folder, "0000.jpg")
	f, err := os.Create(first)
	if err != nil {
		b.Fatal(err)
	}
	if err := jpeg.Encode(f, madePicture(rand.New(rand.NewPCG(3, 4)), 2000), &jpeg.Options{Quality: 88}); err != nil || f.Close() != nil {
		b.Fatal(err)
	}
	for n := 1; n < count; n++ {
		if err := os.Link(first, filepath.Join(folder, fmt.Sprintf("%04d.jpg", n))); err != nil {
			b.Fatal(err)
		}
	}
	sizes := []int{1200, 600, 200}
	var wishes []rendition.Wish
	for _, s := range sizes {
		wishes = append(wishes, rendition.Wish{Width: s, Height: s, Fit: rendition.Inside, Format: rendition.JPEG, Quality: 82})
	}
	for b.Loop() {
		into := b.TempDir()
		began := time.Now()
		work := make(chan int)
		var group sync.WaitGroup
		for range runtime.NumCPU() {
			group.Go(func() {
				for n := range work {
					made, err := Render(context.Background(), Source{File: filepath.Join(folder, fmt.Sprintf("%04d.jpg", n))}, rendition.Size{}, wishes, 1e8)
					if err != nil {
						b.Error(err)
						continue
					}
					for i, m := range made {
						if err := os.WriteFile(filepath.Join(into, fmt.Sprintf("%04d-%d.jpg", n, sizes[i])), m.Bytes, 0o644); err != nil {
							b.Error(err)
						}
					}
				}
			})
		}
		for n := range count {
			work <- n
		}
		close(work)
		group.Wait()
		ours := time.Since(began)
		began = time.Now()
		for _, s := range sizes {
			script := fmt.Sprintf("mkdir -p %[1]s/v%[2]d; ls *.jpg | VIPS_CONCURRENCY=1 xargs -P %[3]d -I{} vips thumbnail {} '%[1]s/v%[2]d/{}[Q=82,optimize-coding,strip]' %[2]d", into, s, runtime.NumCPU())
			run := exec.Command("sh", "-c", script)
			run.Dir = folder
			if out, err := run.CombinedOutput(); err != nil {
				b.Fatal(err, string(out))
			}
		}
		theirs := time.Since(began)
		b.ReportMetric(ours.Seconds(), "s")
		b.ReportMetric(theirs.Seconds(), "s-vips")
		b.ReportMetric(ours.Seconds()/theirs.Seconds(), "ratio")
	}
}
