package checks

import (
	"image"
	"image/color"
	"math/rand/v2"
	"testing"

	"golang.org/x/image/draw"
)

// texture is a made-up picture with edges everywhere.
func texture(r *rand.Rand, side int) *image.RGBA {
	m := image.NewRGBA(image.Rect(0, 0, side, side))
	draw.Draw(m, m.Bounds(), image.NewUniform(color.RGBA{uint8(120 + r.IntN(120)), uint8(120 + r.IntN(120)), 180, 255}), image.Point{}, draw.Src)
	for range side / 2 {
		x, y := r.IntN(side), r.IntN(side)
		c := color.RGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255}
		draw.Draw(m, image.Rect(x, y, x+2+r.IntN(side/8), y+2+r.IntN(side/8)), image.NewUniform(c), image.Point{}, draw.Src)
	}
	return m
}

func colours(m *image.RGBA) Colours {
	b := m.Bounds()
	c := Colours{Width: b.Dx(), Height: b.Dy(), Levels: make([]uint8, 0, 3*b.Dx()*b.Dy())}
	for i := 0; i < len(m.Pix); i += 4 {
		c.Levels = append(c.Levels, m.Pix[i:i+3]...)
	}
	return c
}

// A border of one colour is measured to the pixel; a thing before a plain ground has none, nor has a picture of one colour.
func TestPadding(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 5))
	for range 25 {
		inner := texture(r, 120+r.IntN(200))
		want := Sides{Left: r.IntN(60), Top: r.IntN(60), Right: r.IntN(60), Bottom: r.IntN(60)}
		for _, side := range []*int{&want.Left, &want.Top, &want.Right, &want.Bottom} {
			if *side < 8 {
				*side = 0
			}
		}
		size := inner.Bounds().Dx()
		m := image.NewRGBA(image.Rect(0, 0, size+want.Left+want.Right, size+want.Top+want.Bottom))
		draw.Draw(m, m.Bounds(), image.NewUniform(color.RGBA{12, 12, 12, 255}), image.Point{}, draw.Src)
		draw.Draw(m, inner.Bounds().Add(image.Pt(want.Left, want.Top)), inner, image.Point{}, draw.Src)
		if got := Padding(colours(m)); got != want {
			t.Errorf("%+v, want %+v", got, want)
		}
	}
	thing := image.NewRGBA(image.Rect(0, 0, 400, 400))
	draw.Draw(thing, thing.Bounds(), image.White, image.Point{}, draw.Src)
	if got := Padding(colours(thing)); got != (Sides{}) {
		t.Errorf("a white plate has a border: %+v", got)
	}
	for y := range 200 { // a kite
		draw.Draw(thing, image.Rect(200-y/2, 100+y, 200+y/2, 101+y), image.Black, image.Point{}, draw.Src)
	}
	draw.Draw(thing, image.Rect(20, 40, 30, 380), image.Black, image.Point{}, draw.Src) // and a pole beside it
	if got := Padding(colours(thing)); got != (Sides{}) {
		t.Errorf("a thing on white has a border: %+v", got)
	}
	if got := GroundOf(colours(thing)); !got.IsWhite() || got.Share < .99 {
		t.Errorf("its ground: %+v", got)
	}
	if got := GroundOf(colours(texture(r, 300))); got.IsWhite() {
		t.Errorf("a texture stands on white: %+v", got)
	}
}

// What was made larger is told, and what was not is left alone; also within a border.
func TestEnlarged(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for n := range 3 {
		m := texture(r, 500)
		if w, h := Enlarged(colours(m).Grey()); w != 500 || h != 500 {
			t.Errorf("picture %d, as it is: %d × %d", n, w, h)
		}
		large := image.NewRGBA(image.Rect(0, 0, 1250, 1250))
		draw.CatmullRom.Scale(large, large.Bounds(), m, m.Bounds(), draw.Src, nil)
		if f := Look(colours(large)); f.TrueWidth < 400 || f.TrueWidth > 625 || f.TrueHeight != f.TrueWidth {
			t.Errorf("picture %d, 2.5 times larger: %d × %d", n, f.TrueWidth, f.TrueHeight)
		}
		framed := image.NewRGBA(image.Rect(0, 0, 1450, 1450))
		draw.Draw(framed, framed.Bounds(), image.White, image.Point{}, draw.Src)
		draw.Draw(framed, large.Bounds().Add(image.Pt(100, 100)), large, image.Point{}, draw.Src)
		if f := Look(colours(framed)); !f.IsEnlarged() || f.PaddedShare() < .06 {
			t.Errorf("picture %d, larger in a border: %+v", n, f)
		}
	}
	for _, tiny := range []Colours{{}, {Width: 1, Height: 1, Levels: []uint8{1, 2, 3}}, {Width: 3, Height: 70, Levels: make([]uint8, 630)}} {
		if tiny.Width > 0 {
			if f := Look(tiny); f.IsEnlarged() {
				t.Error("a tiny picture was enlarged")
			}
		}
	}
}

// Source: CIPA DC-008, orientation 1 to 8, from memory.
func TestTurns(t *testing.T) {
	for orientation, want := range []int{0, 0, 0, 180, 180, 270, 90, 90, 270, 0} {
		if got := Turns(orientation); got != want {
			t.Errorf("orientation %d: %d, want %d", orientation, got, want)
		}
	}
}

func FuzzProfileName(f *testing.F) {
	f.Add([]byte("short"))
	f.Add(append(make([]byte, 128), 0, 0, 0, 1, 'd', 'e', 's', 'c', 0, 0, 0, 144, 0, 0, 0, 20))
	f.Fuzz(func(_ *testing.T, icc []byte) { ProfileName(icc) })
}
