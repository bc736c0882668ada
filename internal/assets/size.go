package assets

import (
	"bytes"
	"context"
	"fmt"
	"image"
	_ "image/gif"  // sizes of GIF
	_ "image/jpeg" // and of JPEG
	_ "image/png"  // and of PNG

	"github.com/davidbyttow/govips/v2/vips"
	_ "golang.org/x/image/webp" // and of WebP
)

// SizeOf tells how many pixels a picture has by its first bytes, as they lie. ErrDamaged where they do not say; of some formats they never do.
func SizeOf(head []byte) (width, height int, err error) {
	config, _, err := image.DecodeConfig(bytes.NewReader(head))
	if err == nil {
		return config.Width, config.Height, nil
	}
	if format := Detect(head); !format.Picture || format.Name == "JPEG" || format.Name == "PNG" {
		return 0, 0, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	start()
	header, err := vips.LoadImageFromBuffer(head, vips.NewImportParams())
	if err != nil {
		return 0, 0, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	defer header.Close()
	return header.Width(), header.PageHeight(), nil
}

// Looks is what can be seen of a whole picture without keeping it.
type Looks struct {
	*Picture
	Border int     // pixels of one colour around what it shows, at the narrowest side
	Sharp  float64 // how much of its edges' contrast lies between two neighbours, 0 to 1; 0 where it has no edges
}

// Look reads a picture as Probe does, and how it is framed. Memory grows with its pixels.
func Look(ctx context.Context, b []byte, maxPixels int64) (l Looks, err error) {
	if l.Picture, err = Probe(ctx, Source{Bytes: b}, maxPixels); err != nil {
		return l, err
	}
	done, err := decoding(ctx, int64(l.Width)*int64(l.Height)*4)
	if err != nil {
		return l, err
	}
	defer done()
	whole, err := vips.LoadImageFromBuffer(b, vips.NewImportParams())
	if err != nil {
		return l, failed(err)
	}
	defer whole.Close()
	if err := whole.ToColorSpace(vips.InterpretationBW); err != nil {
		return l, failed(err)
	}
	if whole.HasAlpha() {
		if err := whole.Flatten(&vips.Color{R: 255, G: 255, B: 255}); err != nil {
			return l, failed(err)
		}
	}
	grey, err := whole.ToBytes()
	if err != nil || len(grey) != whole.Width()*whole.Height() {
		return l, err // of more than eight bits: nobody looks
	}
	l.Border, l.Sharp = rim(grey, whole.Width()), sharpness(grey, whole.Width())
	return l, nil
}

// rim is how many rows and columns around a picture have one level, the same on all sides, at the narrowest side. Compression is let be.
func rim(grey []byte, width int) int {
	const same = 6
	height := len(grey) / width
	of := int(grey[0])
	plain := func(x, y int) bool { d := int(grey[y*width+x]) - of; return d <= same && d >= -same }
	for n := 0; n*2 < min(width, height); n++ {
		for x := n; x < width-n; x++ {
			if !plain(x, n) || !plain(x, height-1-n) {
				return n
			}
		}
		for y := n; y < height-n; y++ {
			if !plain(n, y) || !plain(width-1-n, y) {
				return n
			}
		}
	}
	return 0 // all of one colour: there is nothing that it is around
}

// sharpness looks at the edges along the rows: how much of the change within nine pixels lies between two that are neighbours, at the sharpest
// tenth of them. A picture that was made larger spreads each edge. Common practice, no source.
func sharpness(grey []byte, width int) float64 {
	const reach, strong = 9, 64
	var count [101]int
	edges := 0
	height := len(grey) / width
	step := max(1, height/400)
	for y := 0; y < height; y += step {
		row := grey[y*width : (y+1)*width]
		for x := 0; x+reach < width; x += reach / 2 {
			low, high, most := 255, 0, 0
			for i := x; i < x+reach; i++ {
				low, high = min(low, int(row[i])), max(high, int(row[i]))
				d := int(row[i+1]) - int(row[i])
				most = max(most, d, -d)
			}
			if high-low >= strong {
				count[min(100, most*100/(high-low))]++
				edges++
			}
		}
	}
	if edges < 20 {
		return 0
	}
	for share, above := 100, 0; share >= 0; share-- {
		if above += count[share]; above*10 >= edges {
			return float64(max(share, 1)) / 100
		}
	}
	return 0
}
