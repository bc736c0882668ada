package symbols

/*
#cgo CFLAGS: -O2
#cgo CXXFLAGS: -std=c++17 -O2
#cgo pkg-config: zxing zbar
#include "shim.h"
*/
import "C"

import (
	"image"
	"unicode/utf8"
	"unsafe"

	"ambrosa/core/symbol"
)

// found is a bar code as a library read it.
type found struct {
	symbol.Symbol
	corners [4]image.Point // clockwise, in pixels of the image that was given
	lines   int            // by how many lines bars were read
}

const allFormats = 1<<8 - 1

// formats are some of symbol.Formats, a bit each.
func formats(some ...symbol.Format) (bits int) {
	for i, f := range symbol.Formats {
		for _, s := range some {
			if s == f {
				bits |= 1 << i
			}
		}
	}
	return bits
}

// first is the first bar code that libzxing reads in a grey image. lines is by how many lines of pixels bars must be read alike; global
// has it take one threshold for the whole image.
func first(g grey, formats, lines int, global bool) (f found, ok bool) {
	var s C.symbol
	of := 0
	if global {
		of = 1
	}
	n := C.symbols_first((*C.uint8_t)(unsafe.Pointer(&g.levels[0])), C.int(g.width), C.int(g.height), C.int(g.stride), C.int(formats), C.int(of), C.int(lines), &s)
	if n <= 0 {
		return f, false
	}
	return taken(&s), true
}

// all are the bar codes that libzbar reads; it reads each line of pixels, or each so many.
func all(g grey, every int) (some []found) {
	const most = 64
	var s [most]C.symbol
	g = g.packed()
	n := C.symbols_all((*C.uint8_t)(unsafe.Pointer(&g.levels[0])), C.int(g.width), C.int(g.height), C.int(every), &s[0], most)
	for i := range max(0, int(n)) {
		some = append(some, taken(&s[i]))
	}
	return some
}

func taken(s *C.symbol) (f found) {
	f.Format = symbol.Formats[s.format]
	f.Text = asText(C.GoStringN(&s.text[0], s.bytes))
	f.GS1 = s.gs1 != 0
	f.lines = int(s.lines)
	for i := range f.corners {
		f.corners[i] = image.Pt(int(s.x[i]), int(s.y[i]))
	}
	return f
}

// asText is what was read as text: what is no UTF-8 is taken for ISO 8859-1, as codes are without a word on that.
func asText(read string) string {
	if utf8.ValidString(read) {
		return read
	}
	runes := make([]rune, len(read))
	for i := range len(read) {
		runes[i] = rune(read[i])
	}
	return string(runes)
}
