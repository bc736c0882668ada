package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"testing"
	"time"
)

// BenchmarkTakeInBeside takes in 200 photographs of four million pixels while the codes in 200 others are read, and divides by the time of
// the first 200, beside which nothing was to be read.
func BenchmarkTakeInBeside(b *testing.B) {
	const count = 200
	r := rand.New(rand.NewPCG(1, 2))
	m := image.NewGray(image.Rect(0, 0, 2312, 1734))
	for i := range m.Pix {
		m.Pix[i] = byte(128 + 60*(i/400%2) + r.IntN(50))
	}
	var photo bytes.Buffer
	if err := jpeg.Encode(&photo, m, &jpeg.Options{Quality: 80}); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		p := serve(b)
		var took [2]time.Duration
		for n := range took {
			files := map[string][]byte{}
			for i := range count {
				files[fmt.Sprintf("IMG_%04d.jpg", i)] = numbered(photo.Bytes(), n*count+i)
			}
			archive := map[string][]byte{"photos.zip": zipOf(b, files)}
			began := time.Now()
			p.me.deliver(fmt.Sprint("photos ", n), archive)
			took[n] = time.Since(began)
		}
		b.ReportMetric(took[0].Seconds(), "s-alone")
		b.ReportMetric(took[1].Seconds(), "s-beside")
		b.ReportMetric(took[1].Seconds()/took[0].Seconds(), "ratio")
	}
}
