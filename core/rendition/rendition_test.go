package rendition

import (
	"errors"
	"fmt"
	"testing"
)

func TestFrame(t *testing.T) {
	for _, c := range []struct {
		size          string
		fit           Fit
		width, height int
		want          string // rendition, scaled picture, where, whether it is smaller
	}{
		{"300", Inside, 900, 600, "300x200 300x200 +0+0"},
		{"300", Inside, 600, 900, "200x300 200x300 +0+0"},
		{"5000", Inside, 900, 600, "900x600 900x600 +0+0 smaller"},
		{"900", Inside, 900, 600, "900x600 900x600 +0+0"},
		{"400x100", Inside, 900, 600, "150x100 150x100 +0+0"},
		{"10", Inside, 10000, 3, "10x1 10x1 +0+0"},
		{"300", Crop, 900, 600, "300x300 450x300 +75+0"},
		{"300x100", Crop, 600, 900, "300x100 300x450 +0+175"},
		{"1200x1200", Crop, 900, 600, "600x600 900x600 +150+0 smaller"},
		{"1200x300", Crop, 900, 600, "900x225 900x600 +0+187 smaller"},
		{"333x333", Crop, 1000, 999, "333x333 333x333 +0+0"},
		{"300", Pad, 900, 600, "300x300 300x200 +0-50"},
		{"1000x700", Pad, 900, 600, "1000x700 900x600 -50-50 smaller"},
		{"301x200", Pad, 900, 600, "301x200 300x200 -1+0"},
	} {
		w, h, err := ReadSize(c.size)
		if err != nil {
			t.Fatal(err)
		}
		f := Wish{Width: w, Height: h, Fit: c.fit}.Frame(c.width, c.height)
		got := fmt.Sprintf("%dx%d %dx%d %+d%+d", f.Width, f.Height, f.ScaledWidth, f.ScaledHeight, f.Left, f.Top)
		if f.Smaller {
			got += " smaller"
		}
		if got != c.want {
			t.Errorf("%d × %d, %s %s: %s, want %s", c.width, c.height, c.fit, c.size, got, c.want)
		}
	}
}

// Of all sizes and boxes: nothing is enlarged, nothing of a cut picture lies outside, and the picture keeps its shape.
func TestFrameOfAll(t *testing.T) {
	sides := []int{1, 2, 3, 7, 50, 99, 100, 101, 333, 1000, 16383}
	for _, w := range sides {
		for _, h := range sides {
			for _, bw := range sides {
				for _, bh := range sides {
					for _, fit := range Fits {
						f := Wish{Width: bw, Height: bh, Fit: fit}.Frame(w, h)
						fail := f.ScaledWidth > max(w, 1) || f.ScaledHeight > max(h, 1) || f.Width < 1 || f.Height < 1 || f.Width > bw && fit != Pad || f.Height > bh && fit != Pad
						switch fit {
						case Crop:
							fail = fail || f.Left < 0 || f.Top < 0 || f.Left+f.Width > f.ScaledWidth || f.Top+f.Height > f.ScaledHeight
						case Pad:
							fail = fail || f.Width != bw || f.Height != bh || f.Left > 0 || f.Top > 0 || f.ScaledWidth-f.Left > bw || f.ScaledHeight-f.Top > bh
						}
						if fail {
							t.Fatalf("%d × %d, %s %d × %d: %+v", w, h, fit, bw, bh, f)
						}
					}
				}
			}
		}
	}
}

func TestWishes(t *testing.T) {
	for text, want := range map[string]string{"1200": "1200 1200", "1200x800": "1200 800", "1200X800": "1200 800", "": "", "0": "", "-1": "", "12x": "", "x12": "", "16384": "", "1e3": "", "12x12x12": ""} {
		w, h, err := ReadSize(text)
		got := ""
		if err == nil {
			got = fmt.Sprint(w, h)
		}
		if got != want || (want == "") != errors.Is(err, ErrSize) {
			t.Errorf("%q: %s, %v", text, got, err)
		}
	}
	good := Wish{Width: 100, Height: 100, Fit: Inside, Format: JPEG}
	for name, change := range map[string]func(*Wish){
		"no width": func(w *Wish) { w.Width = 0 }, "no fit": func(w *Wish) { w.Fit = "stretch" }, "no format": func(w *Wish) { w.Format = "gif" }, "quality": func(w *Wish) { w.Quality = 101 },
		"bytes": func(w *Wish) { w.MostBytes = -1 }, "both": func(w *Wish) { w.Quality, w.MostBytes = 80, 1000 }, "quality of PNG": func(w *Wish) { w.Format, w.Quality = PNG, 80 },
	} {
		w := good
		if change(&w); w.Check() == nil {
			t.Errorf("%s: nothing is wrong", name)
		}
	}
	if err := good.Check(); err != nil {
		t.Error(err)
	}
}

func TestBestQuality(t *testing.T) {
	for most, want := range map[int64]int{0: 0, 199: 0, 200: 20, 555: 55, 950: 95, 100000: 95} {
		tries := 0
		got, ok, err := BestQuality(most, func(q int) (int64, error) { tries++; return int64(10 * q), nil })
		if err != nil || ok != (want > 0) || ok && got != want || tries > 7 {
			t.Errorf("at most %d: %d, %v, %v, %d tries", most, got, ok, err, tries)
		}
	}
}
