package table

import (
	"regexp"
	"strings"

	"ambrosa/core/gtin"
)

// exponent is a number as a spreadsheet writes a long one: 9.52E+12, also with a comma.
var exponent = regexp.MustCompile(`^[0-9]+([.,][0-9]+)?[eE]\+?[0-9]{1,2}$`)

func isExponent(s string) bool { return exponent.MatchString(s) && strings.ContainsAny(s, "+.,") }

// storedCode is a code from the stored value of its cell, where that is a whole number; nil where it is none.
func storedCode(at cellAt) *string {
	if at.Stored == "" || strings.Trim(at.Stored, "0123456789") != "" {
		return nil
	}
	return &at.Stored
}

// barcodeForm is a barcode's 14 digits, from the stored value where what is shown lost some; empty where it has none.
func barcodeForm(at cellAt) string {
	if form, err := gtin.Parse(at.Text); err == nil {
		return form
	}
	if stored := storedCode(at); stored != nil {
		if form, ok := gtin.Fourteen(*stored); ok {
			return form
		}
	}
	form, _ := gtin.Fourteen(strings.TrimSpace(at.Text))
	return form
}

// lengths are those of a GTIN. Source: GS1 General Specifications, section 2.1.
var lengths = []int{8, 12, 13, 14}

// padded is a barcode with the zeros before it that a spreadsheet took off, where the check digit then fits; nil where it doesn't.
func padded(digits string) *string {
	if digits == "" || strings.Trim(digits, "0123456789") != "" {
		return nil
	}
	for _, n := range lengths {
		if n > len(digits) && n-len(digits) <= 6 {
			whole := strings.Repeat("0", n-len(digits)) + digits
			if _, err := gtin.Parse(whole); err == nil && len(digits) >= 7 {
				return &whole
			}
		}
	}
	return nil
}

// readBarcode checks a barcode. What is no GTIN is a house code and nothing is wrong with it, unless a spreadsheet damaged it, or it has
// the length of a GTIN and the wrong check digit.
func (c *Checker) readBarcode(cells map[Field]cellAt, owner *Known) {
	at, ok := cells[Barcode]
	if !ok {
		return
	}
	if isExponent(at.Text) {
		c.add(at, BarcodeDamaged, c.restored(at, owner))
		return
	}
	_, err := gtin.Parse(at.Text)
	if err == nil {
		return
	}
	digits := strings.NewReplacer(" ", "", "-", "").Replace(at.Text)
	if digits == "" || strings.Trim(digits, "0123456789") != "" {
		return
	}
	isLength := len(digits) == 8 || len(digits) >= 12 && len(digits) <= 14
	if owner != nil && owner.Barcode != "" && len(owner.Barcode) > len(digits) && strings.TrimLeft(owner.Barcode, "0") == digits {
		c.add(at, ZerosLost, &owner.Barcode)
		return
	}
	if whole := padded(digits); whole != nil && !isLength {
		c.add(at, ZerosLost, whole)
		return
	}
	if isLength {
		c.say(at, BarcodeWrong, nil, "digit", gtin.Right(digits))
	}
}

// restored is the barcode of a cell whose digits a spreadsheet does not show: from the stored value, with its zeros where they fit; or
// as the catalogue has it for this owner, where it agrees with the digits that are left. It is never guessed.
func (c *Checker) restored(at cellAt, owner *Known) *string {
	if stored := storedCode(at); stored != nil {
		if _, err := gtin.Parse(*stored); err == nil {
			return stored
		}
		if whole := padded(*stored); whole != nil {
			return whole
		}
	}
	if owner == nil || owner.Barcode == "" {
		return nil
	}
	mantissa, power, _ := strings.Cut(strings.ToLower(strings.Replace(at.Text, ",", ".", 1)), "e")
	left := strings.TrimRight(strings.Replace(mantissa, ".", "", 1), "0")
	known := strings.TrimLeft(owner.Barcode, "0")
	if len(known) == atoi(strings.TrimPrefix(power, "+"))+1 && agrees(known, left) {
		return &owner.Barcode
	}
	return nil
}

// agrees reports whether the first digits of a number, the last of them rounded, are those of another.
func agrees(known, left string) bool {
	if len(left) == 0 || len(left) > len(known) {
		return false
	}
	if strings.HasPrefix(known, left) {
		return true
	}
	whole, rest := known[:len(left)], known[len(left):]
	return rest != "" && rest[0] >= '5' && strings.TrimRight(plusOne(whole), "0") == left
}

// plusOne is a number of digits with one more.
func plusOne(digits string) string {
	b := []byte(digits)
	for i := len(b) - 1; i >= 0; i-- {
		if b[i] != '9' {
			b[i]++
			return string(b)
		}
		b[i] = '0'
	}
	return "1" + string(b)
}

func atoi(s string) (n int) {
	for _, c := range s {
		if c < '0' || c > '9' {
			return -1
		}
		n = n*10 + int(c-'0')
	}
	return n
}
