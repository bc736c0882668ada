package gtin

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/boombuler/barcode/ean"
)

func TestCheckDigit(t *testing.T) {
	// The worked example of GS1's check digit calculation: 629104150021 gives 3 (from memory of the General
	// Specifications, section 7.9.1).
	if got := CheckDigit("629104150021"); got != '3' {
		t.Errorf("the worked example gives %c, not 3", got)
	}
	// Checked against github.com/boombuler/barcode, which computes the digit of EAN-8 and EAN-13.
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		for _, length := range []int{7, 12} {
			digits := ""
			for range length {
				digits += fmt.Sprint(r.IntN(10))
			}
			code, err := ean.Encode(digits)
			if err != nil {
				t.Fatal(err)
			}
			if want := code.Content(); digits+string(CheckDigit(digits)) != want {
				t.Fatalf("%s ends in %c, the reference gives %s", digits, CheckDigit(digits), want)
			}
		}
	}
}

func TestParse(t *testing.T) {
	for _, c := range []struct {
		text, want string
		err        error
	}{
		{"6291041500213", "06291041500213", nil},
		{" 629-1041 500213 ", "06291041500213", nil},
		{"96385074", "00000096385074", nil},
		{"6291041500214", "", ErrCheck},
		{"6.29E+12", "", ErrDamaged},
		{"6,29104E+12", "", ErrDamaged},
		{"629104150021", "", ErrCheck},
		{"12345", "", ErrForm},
		{"62910415O0213", "", ErrForm},
		{"", "", ErrForm},
	} {
		got, err := Parse(c.text)
		if got != c.want || !errors.Is(err, c.err) {
			t.Errorf("Parse(%q) = %q, %v; want %q, %v", c.text, got, err, c.want, c.err)
		}
	}
}

// Source: GS1 General Specifications, 3.3.2: how GTINs stand in 14 digits.
func TestPrinted(t *testing.T) {
	for form, want := range map[string]string{"09520123456788": "9520123456788", "00012345678905": "012345678905", "00000095201238": "95201238", "19520123456785": "19520123456785"} {
		if got := Printed(form); got != want || OfItem(form) != (form[0] == '0') {
			t.Errorf("%s: %s, %v", form, got, OfItem(form))
		}
	}
}
