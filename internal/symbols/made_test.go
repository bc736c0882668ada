package symbols

import (
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/gtin"
	"ambrosa/core/symbol"
)

// label is a bar code as zint (Debian) draws it, one pixel a module.
type label struct {
	symbol.Symbol
	bars grey
}

// kindsOfLabel are what is drawn: zint's name, and the data in zint's writing and as they are read.
var kindsOfLabel = []struct {
	format symbol.Format
	zint   string
	data   func(r *rand.Rand) (given, read string, gs1 bool)
}{
	{symbol.EAN13, "EANX", func(r *rand.Rand) (string, string, bool) {
		d := "952" + digits(r, 9)
		return d, d + string(gtin.CheckDigit(d)), false
	}},
	{symbol.EAN8, "EANX", func(r *rand.Rand) (string, string, bool) {
		d := "952" + digits(r, 4)
		return d, d + string(gtin.CheckDigit(d)), false
	}},
	{symbol.UPCA, "UPCA", func(r *rand.Rand) (string, string, bool) {
		d := "0" + digits(r, 10)
		return d, d + string(gtin.CheckDigit(d)), false
	}},
	{symbol.UPCE, "UPCE", func(r *rand.Rand) (string, string, bool) {
		d := "0" + strings.Map(func(c rune) rune { return '3' + (c-'0')%7 }, digits(r, 6)) // not all may stand for twelve
		long := symbol.Expand(d + "0")
		return d, d + string(gtin.CheckDigit(long[:11])), false
	}},
	{symbol.ITF14, "ITF14", func(r *rand.Rand) (string, string, bool) {
		d := "1952" + digits(r, 9)
		return d, d + string(gtin.CheckDigit(d)), false
	}},
	{symbol.Code128, "CODE128", func(r *rand.Rand) (string, string, bool) {
		d := "PK-" + digits(r, 5) + "-A"
		return d, d, false
	}},
	{symbol.Code128, "GS1_128", func(r *rand.Rand) (string, string, bool) {
		d, lot := "0952"+digits(r, 9), "L"+digits(r, 4)
		d += string(gtin.CheckDigit(d))
		return "[10]" + lot + "[01]" + d, "10" + lot + symbol.FNC1 + "01" + d, true
	}},
	{symbol.QR, "QRCODE", func(r *rand.Rand) (string, string, bool) {
		d := "0952" + digits(r, 9)
		d = "https://shop.example/01/" + d + string(gtin.CheckDigit(d))
		return d, d, false
	}},
	{symbol.DataMatrix, "DATAMATRIX", func(r *rand.Rand) (string, string, bool) {
		d := "PK-" + digits(r, 6)
		return d, d, false
	}},
	{symbol.DataMatrix, "DATAMATRIX", func(r *rand.Rand) (string, string, bool) {
		d := "0952" + digits(r, 9)
		d += string(gtin.CheckDigit(d))
		return "[01]" + d + "[21]7", "01" + d + "217", true
	}},
}

func digits(r *rand.Rand, n int) string {
	b := make([]byte, n)
	for i := range b {
		b[i] = byte('0' + r.IntN(10))
	}
	return string(b)
}

// newLabel draws a label of a kind.
func newLabel(t testing.TB, r *rand.Rand, kind int) label {
	t.Helper()
	k := kindsOfLabel[kind]
	given, reads, gs1 := k.data(r)
	file := filepath.Join(t.TempDir(), "label.png")
	args := []string{"-b", k.zint, "-d", given, "--scale", "0.5", "--height", "45", "--quietzones", "--notext", "-o", file}
	if k.format == symbol.QR || k.format == symbol.DataMatrix {
		args = []string{"-b", k.zint, "-d", given, "--scale", "0.5", "--quietzones", "-o", file}
	}
	if gs1 {
		args = append(args, "--gs1")
	}
	if out, err := exec.Command("zint", args...).CombinedOutput(); err != nil {
		t.Fatalf("zint: %v: %s", err, out)
	}
	return label{symbol.Symbol{Format: k.format, Text: reads, GS1: gs1}, readGrey(t, file)}
}

// readGrey reads a picture of PNG or JPEG.
func readGrey(t testing.TB, file string) grey {
	t.Helper()
	f, err := os.Open(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	m, _, err := image.Decode(f)
	if err != nil {
		t.Fatal(file, err)
	}
	return greyOf(m)
}

func greyOf(m image.Image) grey {
	b := m.Bounds()
	g := newGrey(b.Dx(), b.Dy())
	for y := range g.height {
		for x := range g.width {
			g.row(y)[x] = color.GrayModel.Convert(m.At(b.Min.X+x, b.Min.Y+y)).(color.Gray).Y
		}
	}
	return g
}

// stuck is a label on a photograph: pixels a module, and how it is turned.
type stuck struct {
	label
	x, y, module, angle, contrast float64
}

// stick draws a label onto a picture, each pixel the mean of nine places within it.
func (g grey) stick(s stuck) {
	sin, cos := math.Sincos(s.angle)
	w, h := float64(s.bars.width)*s.module, float64(s.bars.height)*s.module
	reach := math.Hypot(w, h) / 2
	for y := max(0, int(s.y-reach)); y < min(g.height, int(s.y+reach)+1); y++ {
		for x := max(0, int(s.x-reach)); x < min(g.width, int(s.x+reach)+1); x++ {
			sum, inside := 0., 0
			for i := range 9 {
				dx, dy := float64(x)+float64(i%3-1)/3-s.x, float64(y)+float64(i/3-1)/3-s.y
				bx, by := (dx*cos+dy*sin+w/2)/s.module, (-dx*sin+dy*cos+h/2)/s.module
				if bx >= 0 && by >= 0 && bx < float64(s.bars.width) && by < float64(s.bars.height) {
					sum += float64(s.bars.row(int(by))[int(bx)])
					inside++
				}
			}
			if inside > 0 {
				level := 20 + (sum/float64(inside))*s.contrast
				part := float64(inside) / 9
				g.row(y)[x] = byte(float64(g.row(y)[x])*(1-part) + min(255, level)*part)
			}
		}
	}
}

// corners are where the label's own pixels lie, without the quiet zone on the left and right.
func (s stuck) box() image.Rectangle {
	sin, cos := math.Sincos(s.angle)
	w, h := float64(s.bars.width)*s.module/2, float64(s.bars.height)*s.module/2
	dx, dy := math.Abs(w*cos)+math.Abs(h*sin), math.Abs(w*sin)+math.Abs(h*cos)
	return image.Rect(int(s.x-dx), int(s.y-dy), int(s.x+dx)+1, int(s.y+dy)+1)
}

// blurred is a picture seen through a Gaussian of a deviation in pixels.
func (g grey) blurred(deviation float64) grey {
	if deviation < .1 {
		return g
	}
	n := int(3*deviation) + 1
	kernel := make([]float64, 2*n+1)
	sum := 0.
	for i := range kernel {
		d := float64(i - n)
		kernel[i] = math.Exp(-d * d / (2 * deviation * deviation))
		sum += kernel[i]
	}
	pass := func(from grey, dx, dy int) grey {
		to := newGrey(from.width, from.height)
		for y := range to.height {
			for x := range to.width {
				v := 0.
				for i, k := range kernel {
					px, py := min(max(0, x+dx*(i-n)), from.width-1), min(max(0, y+dy*(i-n)), from.height-1)
					v += k * float64(from.levels[py*from.stride+px])
				}
				to.row(y)[x] = byte(v/sum + .5)
			}
		}
		return to
	}
	return pass(pass(g, 1, 0), 0, 1)
}

func (g grey) noised(r *rand.Rand, deviation float64) {
	for i, l := range g.levels {
		g.levels[i] = byte(min(255, max(0, float64(l)+r.NormFloat64()*deviation)))
	}
}

// photographs are grey pictures of 1600 × 1200 to stick labels on: those of Debian's packages of backgrounds where they are there, else made
// of waves and noise.
func photographs(t testing.TB) (all []grey) {
	t.Helper()
	const width, height = 1600, 1200
	files, _ := filepath.Glob("/usr/share/backgrounds/mate/*/*.jpg")
	more, _ := filepath.Glob("/usr/share/wallpapers/*/contents/images/*.jpg")
	for _, f := range append(files, more...) {
		if len(all) == 12 {
			break
		}
		if g := readGrey(t, f); g.width >= width && g.height >= height {
			all = append(all, g.part(image.Rect((g.width-width)/2, (g.height-height)/2, (g.width+width)/2, (g.height+height)/2)).packed())
		}
	}
	for i := len(all); i < 3; i++ {
		r := rand.New(rand.NewPCG(7, uint64(i)))
		g := newGrey(width, height)
		for y := range height {
			for x := range width {
				v := 128 + 50*math.Sin(float64(x*(i+1))/170)*math.Cos(float64(y)/140) + 30*math.Sin(float64(x+2*y)/23) + r.NormFloat64()*6
				g.row(y)[x] = byte(min(255, max(0, v)))
			}
		}
		all = append(all, g)
	}
	return all
}

// scene is a made photograph with labels on it.
type scene struct {
	labels []stuck
	seen   grey
	note   string
}

// newScene makes the n-th of many.
func newScene(t testing.TB, photos []grey, n int) scene {
	r := rand.New(rand.NewPCG(uint64(n), 17))
	photo := photos[n%len(photos)]
	g := newGrey(photo.width, photo.height)
	copy(g.levels, photo.levels)
	var s scene
	count, least := 1, math.MaxFloat64
	if n%8 == 7 {
		count = 2
	}
	for range 40 {
		if len(s.labels) == count {
			break
		}
		kind := (n + 3*len(s.labels)) % len(kindsOfLabel)
		l := stuck{label: newLabel(t, r, kind), module: 1.4 + 1.8*r.Float64(), contrast: .5 + .45*r.Float64()}
		if !l.Format.Linear() {
			l.module *= 1.6
		}
		switch r.IntN(5) {
		case 0, 1:
			l.angle = r.NormFloat64() * .05
		case 2:
			l.angle = float64(r.IntN(4))*math.Pi/2 + r.NormFloat64()*.05
		default:
			l.angle = r.Float64() * 2 * math.Pi
		}
		reach := math.Hypot(float64(l.bars.width), float64(l.bars.height)) * l.module / 2
		l.x, l.y = reach+r.Float64()*(float64(g.width)-2*reach), reach+r.Float64()*(float64(g.height)-2*reach)
		if reach*2 > float64(g.height) || slices.ContainsFunc(s.labels, func(o stuck) bool { return o.box().Overlaps(l.box()) }) {
			continue
		}
		g.stick(l)
		least = min(least, l.module)
		s.labels = append(s.labels, l)
	}
	blur, noise := r.Float64()*.45*least, r.Float64()*r.Float64()*24
	g = g.blurred(blur)
	g.noised(r, noise)
	s.seen = g
	for _, l := range s.labels {
		s.note += fmt.Sprintf("%s module %.1f angle %.0f contrast %.2f; ", l.Format, l.module, l.angle*180/math.Pi, l.contrast)
	}
	s.note += fmt.Sprintf("blur %.1f noise %.0f", blur, noise)
	return s
}

// jpeg writes the scene and reads it again, as cameras do.
func (s *scene) jpeg(t testing.TB, file string) {
	t.Helper()
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	g := s.seen
	if err := jpeg.Encode(f, &image.Gray{Pix: g.levels, Stride: g.stride, Rect: image.Rect(0, 0, g.width, g.height)}, &jpeg.Options{Quality: 82}); err != nil {
		t.Fatal(err)
	}
	s.seen = readGrey(t, file)
}

func writePNG(t testing.TB, file string, g grey) {
	t.Helper()
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if err := png.Encode(f, &image.Gray{Pix: g.levels, Stride: g.stride, Rect: image.Rect(0, 0, g.width, g.height)}); err != nil {
		t.Fatal(err)
	}
}

// tally counts of what was read what is there, and what is not.
func (s *scene) tally(texts []string) (right, wrong int) {
	want := map[string]bool{}
	for _, l := range s.labels {
		want[l.Text] = true
	}
	got := map[string]bool{}
	for _, text := range texts {
		switch {
		case got[text]:
		case want[text]:
			right++
		default:
			wrong++
		}
		got[text] = true
	}
	return right, wrong
}

// zbarimg is what that program reads in a file: Debian's package zbar-tools.
func zbarimg(t testing.TB, file string) (texts []string) {
	t.Helper()
	out, err := exec.Command("zbarimg", "-q", "--raw", "-Sdisable", "-Sean13.enable", "-Sean8.enable", "-Supca.enable", "-Supce.enable", "-Si25.enable", "-Scode128.enable",
		"-Sqrcode.enable", file).Output()
	if err != nil && len(out) > 0 {
		t.Fatal(err)
	}
	for _, line := range strings.Split(string(out), "\n") {
		if line != "" {
			texts = append(texts, line)
		}
	}
	return texts
}
