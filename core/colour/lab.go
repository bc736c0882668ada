// Package colour knows how colours look: sRGB and CIELAB, how far two are apart, what they are called, and which stand
// out in a picture.
package colour

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// RGB is a colour in sRGB, 8 bits a channel.
type RGB struct{ R, G, B uint8 }

// Lab is a colour in CIELAB under D65: L from 0 to 100, a and b about -128 to 127.
type Lab struct{ L, A, B float64 }

// White point D65 for the 2° observer (CIE 15:2004; ASTM E308), Y scaled to 1.
const whiteX, whiteZ = 0.95047, 1.08883

// Lab converts. Source: sRGB by IEC 61966-2-1:1999, CIELAB by CIE 15:2004, section 8.2.1.
func (c RGB) Lab() Lab {
	r, g, b := linear[c.R], linear[c.G], linear[c.B]
	x := cubeRoot((0.4124564*r + 0.3575761*g + 0.1804375*b) / whiteX)
	y := cubeRoot(0.2126729*r + 0.7151522*g + 0.0721750*b)
	z := cubeRoot((0.0193339*r + 0.1191920*g + 0.9503041*b) / whiteZ)
	return Lab{116*y - 16, 500 * (x - y), 200 * (y - z)}
}

// Luma is how light a colour is, as television weighs it. Source: ITU-R BT.601, from memory.
func (c RGB) Luma() uint8 { return uint8((299*int(c.R) + 587*int(c.G) + 114*int(c.B)) / 1000) }

var linear = func() (of [256]float64) {
	for i := range of {
		v := float64(i) / 255
		if v <= 0.04045 {
			of[i] = v / 12.92
		} else {
			of[i] = math.Pow((v+0.055)/1.055, 2.4)
		}
	}
	return of
}()

// RGB converts back; what sRGB does not have is cut off. Source: as Lab, turned round.
func (c Lab) RGB() RGB {
	const delta = 6.0 / 29
	cube := func(t float64) float64 {
		if t > delta {
			return t * t * t
		}
		return 3 * delta * delta * (t - 4.0/29)
	}
	m := (c.L + 16) / 116
	x, y, z := whiteX*cube(m+c.A/500), cube(m), whiteZ*cube(m-c.B/200)
	channel := func(v float64) uint8 {
		if v <= 0.0031308 {
			v *= 12.92
		} else {
			v = 1.055*math.Pow(v, 1/2.4) - 0.055
		}
		return uint8(math.Round(255 * max(0, min(1, v))))
	}
	return RGB{channel(3.2404542*x - 1.5371385*y - 0.4985314*z), channel(-0.9692660*x + 1.8760108*y + 0.0415560*z), channel(0.0556434*x - 0.2040259*y + 1.0572252*z)}
}

// Hex is a colour as style sheets have it.
func (c RGB) Hex() string { return fmt.Sprintf("#%02x%02x%02x", c.R, c.G, c.B) }

// ReadHex reads what Hex writes, with the # or without; ok is false where it is no colour.
func ReadHex(text string) (c RGB, ok bool) {
	digits := strings.TrimPrefix(text, "#")
	n, err := strconv.ParseUint(digits, 16, 32)
	return RGB{R: uint8(n >> 16), G: uint8(n >> 8), B: uint8(n)}, err == nil && len(digits) == 6
}

func cubeRoot(t float64) float64 {
	const delta = 6.0 / 29
	if t > delta*delta*delta {
		return math.Cbrt(t)
	}
	return t/(3*delta*delta) + 4.0/29
}

// Chroma is how far a colour is from grey.
func (c Lab) Chroma() float64 { return math.Hypot(c.A, c.B) }

// Difference is CIEDE2000 with weights of one. Source: G. Sharma, W. Wu and E. N. Dalal, "The CIEDE2000
// color-difference formula: implementation notes, supplementary test data, and mathematical observations", Color
// Research and Application 30 (2005), equations 2 to 22.
func Difference(x, y Lab) float64 {
	meanC := (x.Chroma() + y.Chroma()) / 2
	c7 := math.Pow(meanC, 7)
	g := 0.5 * (1 - math.Sqrt(c7/(c7+math.Pow(25, 7))))
	a1, a2 := (1+g)*x.A, (1+g)*y.A
	c1, c2 := math.Hypot(a1, x.B), math.Hypot(a2, y.B)
	h1, h2 := hue(a1, x.B), hue(a2, y.B)

	dL, dC := y.L-x.L, c2-c1
	dh, meanH := h2-h1, h1+h2
	switch {
	case c1*c2 == 0:
		dh = 0
	case math.Abs(h1-h2) <= 180:
		meanH /= 2
	default:
		if dh > 180 {
			dh -= 360
		} else {
			dh += 360
		}
		if meanH < 360 {
			meanH = (meanH + 360) / 2
		} else {
			meanH = (meanH - 360) / 2
		}
	}
	dH := 2 * math.Sqrt(c1*c2) * sin(dh/2)
	meanL, meanC := (x.L+y.L)/2, (c1+c2)/2
	t := 1 - 0.17*cos(meanH-30) + 0.24*cos(2*meanH) + 0.32*cos(3*meanH+6) - 0.20*cos(4*meanH-63)
	turn := 30 * math.Exp(-math.Pow((meanH-275)/25, 2))
	c7 = math.Pow(meanC, 7)
	rC := 2 * math.Sqrt(c7/(c7+math.Pow(25, 7)))
	l50 := (meanL - 50) * (meanL - 50)
	sL, sC, sH := 1+0.015*l50/math.Sqrt(20+l50), 1+0.045*meanC, 1+0.015*meanC*t
	rT := -sin(2*turn) * rC
	return math.Sqrt(sq(dL/sL) + sq(dC/sC) + sq(dH/sH) + rT*(dC/sC)*(dH/sH))
}

func sq(v float64) float64  { return v * v }
func sin(d float64) float64 { return math.Sin(d * math.Pi / 180) }
func cos(d float64) float64 { return math.Cos(d * math.Pi / 180) }

// hue is in degrees from 0 to 360; 0 for grey.
func hue(a, b float64) float64 {
	if a == 0 && b == 0 {
		return 0
	}
	h := math.Atan2(b, a) * 180 / math.Pi
	if h < 0 {
		h += 360
	}
	return h
}
