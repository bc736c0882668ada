package table

import (
	"strconv"
	"strings"
)

// ReadNumber reads a number as people write it: 1,234.50, 1.234,50, 12,5, 1'234, -3, with a currency before or behind it. Of a point
// and a comma the last one is the decimal one; one alone before exactly three digits parts thousands only where another group stands
// before it in the same way. ok is false where it is no number.
func ReadNumber(text string) (n float64, ok bool) {
	s := strings.TrimFunc(text, func(r rune) bool {
		return !(r >= '0' && r <= '9') && r != '-' && r != '+' && r != '.' && r != ',' && r != '(' && r != ')'
	})
	left, right, _ := strings.Cut(text, s)
	if !isCurrency(left) || !isCurrency(right) {
		return 0, false
	}
	if strings.HasPrefix(s, "(") && strings.HasSuffix(s, ")") { // as accounts write what is below zero (common practice, no source)
		s = "-" + s[1:len(s)-1]
	}
	s = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "", "’", "").Replace(s)
	point, comma := strings.LastIndexByte(s, '.'), strings.LastIndexByte(s, ',')
	switch {
	case point >= 0 && comma > point:
		s = strings.Replace(strings.ReplaceAll(s, ".", ""), ",", ".", 1)
	case comma >= 0 && point > comma:
		s = strings.ReplaceAll(s, ",", "")
	case strings.Count(s, ",") > 1 && inThousands(s, ","):
		s = strings.ReplaceAll(s, ",", "")
	case strings.Count(s, ".") > 1 && inThousands(s, "."):
		s = strings.ReplaceAll(s, ".", "")
	default:
		s = strings.Replace(s, ",", ".", 1)
	}
	n, err := strconv.ParseFloat(s, 64)
	return n, err == nil && !strings.ContainsAny(s, "xXpP_")
}

// inThousands reports whether a separator parts groups of three digits.
func inThousands(s, separator string) bool {
	groups := strings.Split(s, separator)
	for _, g := range groups[1:] {
		if len(g) != 3 {
			return false
		}
	}
	return true
}

// isCurrency reports whether what stands beside a number is a currency, or nothing: € or EUR or Fr.
func isCurrency(s string) bool {
	s = strings.Trim(s, " \t\u00a0\u202f.")
	letters := 0
	for _, r := range s {
		if r >= '0' && r <= '9' {
			return false
		}
		letters++
	}
	return letters <= 3
}
