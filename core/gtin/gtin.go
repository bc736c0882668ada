// Package gtin knows the GS1 trade item numbers: their lengths, their check digit, and the one form in
// which GTIN-8, -12, -13 and -14 are compared.
package gtin

import (
	"errors"
	"fmt"
	"strings"
)

var (
	// ErrForm is returned where the text is not 8, 12, 13 or 14 digits.
	ErrForm = errors.New("a barcode has 8, 12, 13 or 14 digits")
	// ErrDamaged is returned for a number that a spreadsheet wrote in scientific notation: digits are lost.
	ErrDamaged = errors.New("a spreadsheet wrote this barcode in scientific notation and digits are lost")
	// ErrCheck is returned where the last digit does not check the others.
	ErrCheck = errors.New("the barcode's check digit is wrong")
	// ErrZeros is returned for a number of zeros only, which checks but names nothing.
	ErrZeros = errors.New("a barcode of zeros only names nothing")
)

// CheckDigit computes the last digit for the digits before it. Weights 3 and 1 alternate from the right.
// Source: GS1 General Specifications, section 7.9.1, standard check digit calculations.
func CheckDigit(digits string) byte {
	sum, weight := 0, 3
	for i := len(digits) - 1; i >= 0; i-- {
		sum += int(digits[i]-'0') * weight
		weight = 4 - weight
	}
	return byte('0' + (10-sum%10)%10)
}

// Parse reads a barcode and returns its 14 digits. Spaces and hyphens are taken as grouping. Errors: ErrForm,
// ErrDamaged, and ErrCheck with the digit that would be right.
func Parse(text string) (string, error) {
	digits := ungrouped(text)
	if strings.ContainsAny(digits, "eE") && strings.ContainsAny(digits, "+.,") {
		return "", ErrDamaged
	}
	switch len(digits) {
	case 8, 12, 13, 14:
	default:
		return "", fmt.Errorf("%w; this has %d characters", ErrForm, len(digits))
	}
	for i := range len(digits) {
		if digits[i] < '0' || digits[i] > '9' {
			return "", fmt.Errorf("%w; %q is none", ErrForm, digits[i])
		}
	}
	if strings.Trim(digits, "0") == "" {
		return "", ErrZeros
	}
	body := digits[:len(digits)-1]
	if want := CheckDigit(body); digits[len(digits)-1] != want {
		return "", fmt.Errorf("%w: it ends in %c, %s wants %c", ErrCheck, digits[len(digits)-1], body, want)
	}
	return strings.Repeat("0", 14-len(digits)) + digits, nil
}

func ungrouped(text string) string {
	return strings.NewReplacer(" ", "", "-", "", "\u00a0", "").Replace(strings.TrimSpace(text))
}

// Right is the last digit that a barcode of digits should end in.
func Right(text string) string {
	digits := ungrouped(text)
	return string(CheckDigit(digits[:len(digits)-1]))
}

// Fourteen returns the one form in which barcodes compare: 14 digits, however many leading zeros were written or
// dropped. ok is false where the text is not 7 to 14 digits with a right check digit.
func Fourteen(digits string) (form string, ok bool) {
	if len(digits) < 7 || len(digits) > 14 {
		return "", false
	}
	for i := range len(digits) {
		if digits[i] < '0' || digits[i] > '9' {
			return "", false
		}
	}
	form = strings.Repeat("0", 14-len(digits)) + digits
	return form, form[13] == CheckDigit(form[:13]) && form[:7] != "0000000"
}

// Of is what Parse returns; empty where the text is no barcode.
func Of(text string) string {
	form, err := Parse(text)
	if err != nil {
		return ""
	}
	return form
}

// OfItem reports whether a GTIN of 14 digits names what a customer buys: one that begins with 1 to 8 names a case of it, with 9 something of
// variable measure. Source: GS1 General Specifications, 2.1.6 and 3.3.2.
func OfItem(form string) bool { return len(form) == 14 && form[0] == '0' }

// Printed is a GTIN of 14 digits as it stands below the bars: with 8, 12, 13 or 14 digits.
func Printed(form string) string {
	switch zeros := len(form) - len(strings.TrimLeft(form, "0")); {
	case len(form) != 14 || zeros == 0:
		return form
	case zeros >= 6:
		return form[6:]
	case zeros >= 2:
		return form[2:]
	}
	return form[1:]
}
