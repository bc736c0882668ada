package names

import "strings"

// moment reads a date, written together or in parts, year or day first, a month and a year, and the time of day that may
// follow it; or a year alone where it is no part of something longer. It returns how many tokens it takes.
func (l Lexicon) moment(path string, tokens []Token, i int) (n int, sense Sense) {
	t := tokens[i]
	if len(t.Folded) > 8 {
		return 0, NoSense
	}
	part := func(k int) string {
		if i+k < len(tokens) && tokens[i+k].Digits {
			return tokens[i+k].Folded
		}
		return ""
	}
	// Parts of one date are parted alike.
	alike := func(between string) bool {
		return i+2 < len(tokens) && gap(path, t, tokens[i+1]) == gap(path, tokens[i+1], tokens[i+2]) &&
			strings.Contains(between, gap(path, t, tokens[i+1]))
	}
	short := func(k int) string { // a year of two digits
		if len(part(k)) == 2 && part(k) <= latest {
			return "20" + part(k)
		}
		return ""
	}
	loose := !glues(tokens, i)
	switch {
	case len(t.Folded) == 8 && (isDate(t.Folded[:4], t.Folded[4:6], t.Folded[6:]) || isDate(t.Folded[4:], t.Folded[2:4], t.Folded[:2])):
		n = 1
	case len(t.Folded) == 4 && isDate(t.Folded, part(1), part(2)) && alike("-._/ :,"), len(t.Folded) <= 2 && loose &&
		isDate(part(2), part(1), t.Folded):
		n = 3
	case len(t.Folded) <= 2 && loose && alike("-/.") && isDate(part(2), t.Folded, part(1)):
		n = 3 // month first
	case len(t.Folded) == 2 && loose && alike("-.") && (isDate(short(2), part(1), t.Folded) || t.Folded <= latest &&
		isDate("20"+t.Folded, part(1), part(2))) && len(part(1)) == 2 && len(part(2)) == 2:
		n = 3
	case len(t.Folded) == 4 && loose && len(part(1)) == 2 && isDate(t.Folded, part(1), "1") && dashed(gap(path, t, tokens[i+1])) &&
		!joinsMore(path, tokens, i+1):
		n = 2
	case len(t.Folded) <= 2 && loose && len(part(1)) == 4 && isDate(part(1), t.Folded, "1") && dashed(gap(path, t, tokens[i+1])):
		n = 2
	case len(t.Folded) <= 2 && loose:
		n = l.dayOfMonth(path, tokens, i)
	case len(t.Folded) == 4 && isDate(t.Folded, "1", "1") && loose && (i+1 == len(tokens) || !touch(t, tokens[i+1])):
		return 1, Year
	}
	if n == 0 {
		return 0, NoSense
	}
	// The time of day, perhaps behind a word or a T: 2024-05-13T140812, 2024-05-13 at 14.08.12.
	k := n
	if i+k < len(tokens) && (tokens[i+k].Folded == "t" || l.has(tokens[i+k].Folded, At)) {
		k++
	}
	switch digits := part(k); {
	case len(digits) == 6 && isTime(digits[:2], digits[2:4], digits[4:]), len(digits) == 9 && isTime(digits[:2], digits[2:4], digits[4:6]):
		n = k + 1
	case isTime(part(k), part(k+1), part(k+2)):
		if n = k + 3; len(part(n)) == 3 && gap(path, tokens[i+n-1], tokens[i+n]) == gap(path, tokens[i+n-2], tokens[i+n-1]) {
			n++ // and thousandths
		}
	case isTime(part(k), part(k+1), "00") && gap(path, tokens[i+k], tokens[i+k+1]) == "." && gap(path, tokens[i+k-1], tokens[i+k]) == " ":
		n = k + 2
	case k > n && isTime(part(k), part(k+1), "00"):
		n = k + 2
	}
	return n, Date
}

// latest is the last year that is written with two digits.
const latest = "39"

func dashed(gap string) bool { return gap == "-" || gap == "." || gap == "/" }

// joinsMore reports whether more digits follow token i behind the same sign as stands before it.
func joinsMore(path string, tokens []Token, i int) bool {
	return i+1 < len(tokens) && tokens[i+1].Digits && gap(path, tokens[i-1], tokens[i]) == gap(path, tokens[i], tokens[i+1])
}

// dayOfMonth reads 14. Januar 2025, 14-Jan-25, 14jan2025.
func (l Lexicon) dayOfMonth(path string, tokens []Token, i int) int {
	if i+2 >= len(tokens) || !l.has(tokens[i+1].Folded, Month) || !tokens[i+2].Digits || !isDate("2000", "1", tokens[i].Folded) {
		return 0
	}
	if year := tokens[i+2].Folded; isDate(year, "1", "1") || len(year) == 2 &&
		gap(path, tokens[i], tokens[i+1]) == gap(path, tokens[i+1], tokens[i+2]) {
		return 3
	}
	return 0
}

// monthFirst reads May 5, 2025, and Mai 2025.
func (l Lexicon) monthFirst(path string, tokens []Token, i int) int {
	if !tokens[i+1].Digits {
		return 0
	}
	if isDate(tokens[i+1].Folded, "1", "1") {
		return 2
	}
	if i+2 < len(tokens) && isDate(tokens[i+2].Folded, "1", tokens[i+1].Folded) {
		return 3
	}
	return 0
}

// few reads at most four digits; -1 where there are none or more.
func few(digits string) int {
	if digits == "" || len(digits) > 4 {
		return -1
	}
	n := 0
	for i := range len(digits) {
		if digits[i] < '0' || digits[i] > '9' {
			return -1
		}
		n = 10*n + int(digits[i]-'0')
	}
	return n
}

func isDate(year, month, day string) bool {
	if len(year) != 4 || len(month) > 2 || len(day) > 2 {
		return false
	}
	y, m, d := few(year), few(month), few(day)
	return y >= 1990 && y < 2040 && m >= 1 && m <= 12 && d >= 1 && d <= 31
}

func isTime(hour, minute, second string) bool {
	if len(hour) != 2 || len(minute) != 2 || len(second) != 2 {
		return false
	}
	h, m, s := few(hour), few(minute), few(second)
	return h >= 0 && m >= 0 && s >= 0 && h < 24 && m < 60 && s < 60
}
