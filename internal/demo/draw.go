package demo

import (
	"image"
	"image/color"
	"image/draw"
	"math"

	"golang.org/x/image/vector"
)

// view is what a picture shows.
type view string

const (
	front  view = "front"
	back   view = "back"
	detail view = "detail"
	packed view = "packed"
)

// shape draws a thing in its colour into a canvas of 100 × 100 units.
type shape func(*canvas, color.RGBA, view)

type point struct{ x, y float64 }

// canvas draws polygons in units of a hundredth of its side, moved and scaled for the view.
type canvas struct {
	img      *image.RGBA
	raster   *vector.Rasterizer
	scale    float64
	cx, cy   float64 // the unit point at the middle
	mirrored bool
	side     float64
}

var paper = color.RGBA{0xf3, 0xee, 0xe4, 255}

// drawing returns a picture of an article as JPEG, side × side pixels.
func drawing(a article, v view, side int) []byte { return asJPEG(painted(a, v, side, paper), 88) }

// painted is an article before a ground of one colour, side × side pixels.
func painted(a article, v view, side int, ground color.RGBA) *image.RGBA {
	c := &canvas{img: image.NewRGBA(image.Rect(0, 0, side, side)), raster: vector.NewRasterizer(side, side),
		side: float64(side), scale: float64(side) / 100, cx: 50, cy: 50, mirrored: v == back}
	draw.Draw(c.img, c.img.Bounds(), image.NewUniform(ground), image.Point{}, draw.Src)
	c.scale *= .84 + .008*float64(a.model) // so that no two models' pictures are the same
	tone := a.hue.rgb
	switch v {
	case detail:
		c.scale *= 2.4
		c.cx, c.cy = 42, 40
	case back:
		tone = shade(tone, .72)
	}
	if v == packed {
		bag(c, tone)
	} else {
		a.family.shape(c, tone, v)
		// Models of one family differ by their number of stitched stripes.
		for i := range a.model % 5 {
			y := 44 + float64(i)*3
			c.fill(color.RGBA{0xff, 0xfd, 0xf8, 200}, point{46, y}, point{54, y}, point{54, y + 1.2}, point{46, y + 1.2})
		}
	}
	return c.img
}

func (c *canvas) fill(tone color.RGBA, points ...point) {
	c.raster.Reset(int(c.side), int(c.side))
	for i, p := range points {
		x, y := (p.x-c.cx)*c.scale+c.side/2, (p.y-c.cy)*c.scale+c.side/2
		if c.mirrored {
			x = c.side - x
		}
		if i == 0 {
			c.raster.MoveTo(float32(x), float32(y))
		} else {
			c.raster.LineTo(float32(x), float32(y))
		}
	}
	c.raster.ClosePath()
	c.raster.Draw(c.img, c.img.Bounds(), image.NewUniform(tone), image.Point{})
}

func (c *canvas) stroke(tone color.RGBA, width float64, points ...point) {
	for i := 1; i < len(points); i++ {
		a, b := points[i-1], points[i]
		length := math.Hypot(b.x-a.x, b.y-a.y)
		if length == 0 {
			continue
		}
		dx, dy := (b.y-a.y)/length*width/2, (a.x-b.x)/length*width/2
		c.fill(tone, point{a.x + dx, a.y + dy}, point{b.x + dx, b.y + dy}, point{b.x - dx, b.y - dy}, point{a.x - dx, a.y - dy})
	}
}

func (c *canvas) disc(tone color.RGBA, x, y, r float64) {
	points := make([]point, 64)
	for i := range points {
		t := float64(i) / 64 * 2 * math.Pi
		points[i] = point{x + r*math.Cos(t), y + r*math.Sin(t)}
	}
	c.fill(tone, points...)
}

func shade(c color.RGBA, by float64) color.RGBA {
	f := func(v uint8) uint8 { return uint8(math.Min(255, float64(v)*by)) }
	return color.RGBA{f(c.R), f(c.G), f(c.B), 255}
}

var spar = color.RGBA{0x33, 0x2c, 0x26, 255}

func wave(x, y, length, swing float64) []point {
	var points []point
	for i := range 25 {
		t := float64(i) / 24
		points = append(points, point{x + math.Sin(t*7)*swing*t, y + t*length})
	}
	return points
}

func delta(c *canvas, tone color.RGBA, v view) {
	c.stroke(tone, 1.6, wave(50, 62, 30, 4)...)
	c.fill(tone, point{50, 18}, point{10, 62}, point{50, 54})
	c.fill(shade(tone, .78), point{50, 18}, point{90, 62}, point{50, 54})
	c.fill(shade(tone, .6), point{44, 56}, point{50, 70}, point{56, 56}, point{50, 53})
	c.stroke(spar, 1.1, point{50, 16}, point{50, 66})
	if v == back {
		c.stroke(spar, .8, point{24, 47}, point{76, 47})
	}
}

func diamond(c *canvas, tone color.RGBA, v view) {
	c.stroke(tone, 1.4, wave(50, 74, 20, 5)...)
	c.fill(tone, point{50, 10}, point{24, 38}, point{50, 76})
	c.fill(shade(tone, .75), point{50, 10}, point{76, 38}, point{50, 76})
	c.fill(shade(tone, 1.25), point{24, 38}, point{76, 38}, point{50, 76})
	c.stroke(spar, .9, point{50, 9}, point{50, 77})
	if v == back {
		c.stroke(spar, .9, point{24, 38}, point{76, 38})
	}
}

func box(c *canvas, tone color.RGBA, v view) {
	for _, y := range []float64{16, 58} {
		c.fill(tone, point{22, y}, point{50, y + 5}, point{50, y + 27}, point{22, y + 22})
		c.fill(shade(tone, .7), point{50, y + 5}, point{78, y}, point{78, y + 22}, point{50, y + 27})
		c.fill(shade(tone, 1.3), point{22, y}, point{50, y - 5}, point{78, y}, point{50, y + 5})
	}
	for _, x := range []float64{22, 50, 78} {
		d := 0.0
		if x == 50 {
			d = 5
		}
		c.stroke(spar, 1, point{x, 14 + d}, point{x, 82 + d})
	}
	if v == back {
		c.stroke(spar, .8, point{22, 38}, point{78, 62})
	}
}

func sled(c *canvas, tone color.RGBA, v view) {
	c.fill(tone, point{32, 18}, point{68, 18}, point{86, 44}, point{66, 84}, point{34, 84}, point{14, 44})
	c.fill(shade(tone, .7), point{32, 18}, point{14, 44}, point{34, 84})
	c.fill(shade(tone, .7), point{68, 18}, point{86, 44}, point{66, 84})
	c.fill(paper, point{44, 62}, point{56, 62}, point{53, 76}, point{47, 76})
	for _, x := range []float64{33, 67} {
		c.stroke(spar, 1, point{x, 16}, point{x + (50-x)*-.02, 86})
	}
	if v == back {
		c.stroke(shade(tone, 1.4), 1.5, point{33, 50}, point{67, 50})
	}
}

func parafoil(c *canvas, tone color.RGBA, v view) {
	for i := range 6 {
		x, t := 14+float64(i)*12, tone
		if i%2 == 1 {
			t = shade(tone, .75)
		}
		rise := func(x float64) float64 { return math.Pow((x-50)/36, 2) * 14 }
		c.fill(t, point{x, 20 + rise(x)}, point{x + 12, 20 + rise(x+12)}, point{x + 12, 48 + rise(x+12)}, point{x, 48 + rise(x)})
		c.stroke(spar, .4, point{x + 6, 48 + rise(x+6)}, point{50, 90})
	}
	if v == back {
		c.stroke(shade(tone, 1.4), 2, point{20, 42}, point{80, 42})
	}
}

func spool(c *canvas, tone color.RGBA, v view) {
	c.fill(spar, point{26, 16}, point{74, 16}, point{74, 23}, point{26, 23})
	c.fill(spar, point{26, 77}, point{74, 77}, point{74, 84}, point{26, 84})
	for i := range 18 {
		y, t := 23+float64(i)*3, tone
		if i%2 == 1 {
			t = shade(tone, .82)
		}
		c.fill(t, point{32, y + 1}, point{68, y}, point{68, y + 3}, point{32, y + 4})
	}
	if v == back {
		c.disc(paper, 50, 50, 7)
	}
}

func reel(c *canvas, tone color.RGBA, v view) {
	c.disc(tone, 50, 50, 38)
	c.disc(shade(tone, .7), 50, 50, 30)
	c.disc(paper, 50, 50, 18)
	c.disc(tone, 50, 50, 9)
	for i := range 6 {
		t := float64(i) / 6 * 2 * math.Pi
		c.stroke(tone, 2.4, point{50, 50}, point{50 + 20*math.Cos(t), 50 + 20*math.Sin(t)})
	}
	c.disc(spar, 50, 50, 3)
	if v == front {
		c.disc(spar, 72, 30, 5)
	}
}

func tail(c *canvas, tone color.RGBA, v view) {
	path := wave(50, 10, 80, 16)
	c.stroke(spar, .8, path...)
	for i := 2; i < len(path); i += 3 {
		p, t := path[i], tone
		if i%2 == 0 {
			t = shade(tone, .75)
		}
		c.fill(t, point{p.x - 9, p.y - 4}, point{p.x, p.y}, point{p.x - 9, p.y + 4})
		c.fill(t, point{p.x + 9, p.y - 4}, point{p.x, p.y}, point{p.x + 9, p.y + 4})
	}
	if v == back {
		c.disc(spar, 50, 12, 3)
	}
}

func bag(c *canvas, tone color.RGBA) {
	c.fill(shade(tone, .8), point{24, 78}, point{62, 12}, point{76, 20}, point{38, 86})
	c.fill(tone, point{24, 78}, point{62, 12}, point{68, 15.5}, point{30, 81.5})
	c.stroke(spar, 1.5, point{34, 60}, point{49, 69})
	c.stroke(spar, 1.5, point{51, 31}, point{66, 39})
	c.fill(color.RGBA{0xff, 0xfd, 0xf8, 255}, point{42, 48}, point{50, 34}, point{58, 39}, point{50, 53})
}
