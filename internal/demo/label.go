package demo

import (
	"image"
	"image/color"
	"image/draw"
)

// The bars of EAN-13: digits left of the middle of odd and even parity and right of it, as widths of seven modules each, and which parity the
// first digit gives to the six left ones. Source: GS1 General Specifications, 5.2.1.2 and 5.2.2.
var (
	leftOdd  = [10]string{"0001101", "0011001", "0010011", "0111101", "0100011", "0110001", "0101111", "0111011", "0110111", "0001011"}
	parities = [10]string{"LLLLLL", "LLGLGG", "LLGGLG", "LLGGGL", "LGLLGG", "LGGLLG", "LGGGLL", "LGLGLG", "LGLGGL", "LGGLGL"}
)

// bars are the 95 modules of an EAN-13 symbol, dark ones as 1.
func bars(digits string) string {
	turned := func(code string, even bool) string { // the right ones are the left ones turned dark to light; the even ones those from behind
		b := []byte(code)
		for i := range b {
			b[i] ^= 1
		}
		for i := 0; even && i < len(b)/2; i++ {
			b[i], b[len(b)-1-i] = b[len(b)-1-i], b[i]
		}
		return string(b)
	}
	out := "101"
	for i := 1; i <= 6; i++ {
		code := leftOdd[digits[i]-'0']
		if parities[digits[0]-'0'][i-1] == 'G' {
			code = turned(code, true)
		}
		out += code
	}
	out += "01010"
	for i := 7; i <= 12; i++ {
		out += turned(leftOdd[digits[i]-'0'], false)
	}
	return out + "101"
}

// segments of a digit, of seven: top, upper left, upper right, middle, lower left, lower right, bottom.
var segments = [10]string{"1110111", "0010010", "1011101", "1011011", "0111010", "1101011", "1101111", "1010010", "1111111", "1111011"}

// label draws a bar code with its digits below onto a picture, module pixels to a module.
func label(img *image.RGBA, x, y, module, height int, digits string) {
	ink := image.NewUniform(color.RGBA{0x1d, 0x1a, 0x16, 255})
	fill := func(x0, y0, x1, y1 int) { draw.Draw(img, image.Rect(x0, y0, x1, y1), ink, image.Point{}, draw.Src) }
	draw.Draw(img, image.Rect(x-11*module, y-6*module, x+(95+11)*module, y+height+18*module), image.White, image.Point{}, draw.Src)
	for i, bar := range bars(digits) {
		if bar == '1' {
			fill(x+i*module, y, x+(i+1)*module, y+height)
		}
	}
	wide, tall, thick := 4*module, 9*module, max(1, module)
	for i, digit := range digits {
		left, top := x+i*7*module+module, y+height+4*module
		for n, on := range segments[digit-'0'] {
			if on != '1' {
				continue
			}
			switch n {
			case 0, 3, 6:
				at := top + n/3*tall/2
				fill(left, at, left+wide, at+thick)
			case 1, 4:
				fill(left, top+n/4*tall/2, left+thick, top+n/4*tall/2+tall/2+thick)
			default:
				fill(left+wide-thick, top+n/5*tall/2, left+wide, top+n/5*tall/2+tall/2+thick)
			}
		}
	}
}
