// Package symbol knows the bar codes that stand in a picture: their formats, what their data say of a trade item, and where in the
// picture they are.
package symbol

import (
	"strings"

	"ambrosa/core/gtin"
)

// Format is a kind of bar code.
type Format string

const (
	EAN13      Format = "EAN-13"
	EAN8       Format = "EAN-8"
	UPCA       Format = "UPC-A"
	UPCE       Format = "UPC-E"
	ITF14      Format = "ITF-14"
	Code128    Format = "Code-128"
	QR         Format = "QR"
	DataMatrix Format = "DataMatrix"
)

// Formats are all that are read.
var Formats = []Format{EAN13, EAN8, UPCA, UPCE, ITF14, Code128, QR, DataMatrix}

// Linear reports whether it is made of bars.
func (f Format) Linear() bool { return f != QR && f != DataMatrix }

// Box is where something stands in a picture, in pixels as it is seen.
type Box struct{ X, Y, Width, Height int }

// Overlaps reports whether two boxes have a pixel in common.
func (b Box) Overlaps(o Box) bool {
	return b.X < o.X+o.Width && o.X < b.X+b.Width && b.Y < o.Y+o.Height && o.Y < b.Y+b.Height
}

// Symbol is a bar code in a picture.
type Symbol struct {
	Format Format
	Text   string // as encoded: GS1 data without brackets, FNC1 between them as U+001D
	GS1    bool   // the data begin with FNC1: they are element strings
	Box    Box
}

// GTIN is the trade item that a symbol names, in 14 digits; empty where it names none. An element string (01) names one, (02) does not:
// that is what a pallet holds. Source: GS1 General Specifications, 3.3.2, 3.3.3; GS1 Digital Link: URI Syntax, 4.
func (s Symbol) GTIN() string {
	switch s.Format {
	case EAN13, EAN8, UPCA, ITF14:
		return gtin.Of(s.Text)
	case UPCE:
		return gtin.Of(Expand(s.Text))
	}
	if s.GS1 {
		elements, err := Elements(s.Text)
		if err != nil {
			return ""
		}
		for _, e := range elements {
			if e.AI == "01" {
				return gtin.Of(e.Value)
			}
		}
		return ""
	}
	if strings.Contains(s.Text, "://") {
		return Linked(s.Text)
	}
	return ""
}

// Expand writes the eight digits of a UPC-E symbol in the twelve digits for which they stand; empty where they can't be.
// Source: GS1 General Specifications, 5.2.1.4, "UPC-E zero-suppression", from memory.
func Expand(text string) string {
	if len(text) != 8 || strings.Trim(text, "0123456789") != "" || text[0] > '1' {
		return ""
	}
	d, last := text[1:7], text[6]
	var item string
	switch {
	case last <= '2':
		item = d[:2] + string(last) + "0000" + d[2:5]
	case last == '3':
		item = d[:3] + "00000" + d[3:5]
	case last == '4':
		item = d[:4] + "00000" + d[4:5]
	default:
		item = d[:5] + "0000" + string(last)
	}
	return text[:1] + item + text[7:]
}

// Sound reports whether what was read can be: of symbols with a check digit that is right, and of ITF that it has 14 digits.
func (s Symbol) Sound() bool {
	want := map[Format]int{EAN13: 13, EAN8: 8, UPCA: 12, UPCE: 8, ITF14: 14}
	if n := want[s.Format]; n > 0 {
		return s.GTIN() != "" && len(s.Text) == n
	}
	return s.Text != ""
}
