package symbol

import (
	"errors"
	"fmt"
	"strings"

	"ambrosa/core/gtin"
)

// FNC1 parts element strings of no fixed length in what is read.
const FNC1 = "\x1d"

// ErrElements is returned for data that are no element strings.
var ErrElements = errors.New("these are no GS1 element strings")

// Element is an application identifier with what it says.
type Element struct{ AI, Value string }

// fixed are how many characters element strings have whose length is fixed by their first two digits, the identifier with them.
// Source: GS1 General Specifications, figure 7.8.5-2, "Element strings with predefined length using GS1 Application Identifiers".
var fixed = map[string]int{"00": 20, "01": 16, "02": 16, "03": 16, "04": 18, "11": 8, "12": 8, "13": 8, "14": 8, "15": 8, "16": 8, "17": 8, "18": 8,
	"19": 8, "20": 4, "31": 10, "32": 10, "33": 10, "34": 10, "35": 10, "36": 10, "41": 16}

// digitsOf is how many digits application identifiers have that begin with two digits; four where it is not said here.
// Source: GS1 General Specifications, figure 3.2-1, from memory.
var digitsOf = map[string]int{"00": 2, "01": 2, "02": 2, "10": 2, "11": 2, "12": 2, "13": 2, "15": 2, "16": 2, "17": 2, "20": 2, "21": 2, "22": 2,
	"23": 3, "24": 3, "25": 3, "30": 2, "37": 2, "40": 3, "41": 3, "42": 3, "71": 3, "90": 2, "91": 2, "92": 2, "93": 2, "94": 2, "95": 2,
	"96": 2, "97": 2, "98": 2, "99": 2}

// Elements parts element strings, FNC1 between those of no fixed length. ErrElements.
func Elements(text string) (all []Element, err error) {
	for rest := strings.Trim(text, FNC1); rest != ""; {
		if len(rest) < 2 {
			return nil, fmt.Errorf("%w: %q is too short", ErrElements, rest)
		}
		n := digitsOf[rest[:2]]
		if n == 0 {
			n = 4
		}
		end, next := strings.Index(rest, FNC1), 0
		if of := fixed[rest[:2]]; of > 0 {
			end = of
			if next = end; next < len(rest) && rest[next:next+1] == FNC1 {
				next++
			}
		} else if end < 0 {
			end, next = len(rest), len(rest)
		} else {
			next = end + 1
		}
		if end > len(rest) || n >= end || strings.Trim(rest[:n], "0123456789") != "" {
			return nil, fmt.Errorf("%w: %q", ErrElements, rest)
		}
		all = append(all, Element{rest[:n], rest[n:end]})
		rest = rest[next:]
	}
	return all, nil
}

// Linked is the GTIN that the path of a GS1 Digital Link names, in 14 digits; empty where it is none. The address is never followed.
// Source: GS1 Digital Link: URI Syntax 1.4, 4.3 and 4.11: the identifier /01/ before all others, of 8, 12, 13 or 14 digits.
func Linked(address string) string {
	_, rest, ok := strings.Cut(address, "://")
	if !ok || !strings.HasPrefix(strings.ToLower(address), "http") {
		return ""
	}
	path, _, _ := strings.Cut(rest, "?")
	path, _, _ = strings.Cut(path, "#")
	parts := strings.Split(path, "/")
	for i := 1; i+1 < len(parts); i++ {
		if parts[i] == "01" {
			return gtin.Of(parts[i+1])
		}
	}
	return ""
}
