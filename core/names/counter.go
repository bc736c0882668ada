package names

import "strconv"

// IsCamera reports whether a name is nothing but what a camera or telephone called it: it says nothing of any owner.
func (l Lexicon) IsCamera(path string, tokens []Token) bool {
	skip := l.camera(path, tokens, 0)
	return skip > 0 && len(l.ReadTail(path, tokens[skip:]).Rest) == 0
}

// camera gives how many tokens from i on are a camera's word and its counter: IMG_0412, DSC01234, PXL_20240131_101500.
func (l Lexicon) camera(path string, tokens []Token, i int) int {
	if i+1 >= len(tokens) || !l.Cameras[tokens[i].Folded] || !tokens[i+1].Digits || len(tokens[i+1].Folded) < 4 {
		return 0
	}
	if date := moment(path, tokens, i+1); date > 0 {
		return 1 + date
	}
	// Cameras count to 9999 or 99999 and begin again, but for the one letter that takes seven digits.
	if digits := len(tokens[i+1].Folded); tokens[i].Folded == "p" && digits != 7 || tokens[i].Folded != "p" && digits > 5 {
		return 0
	}
	return 2
}

// noNumber gives how many tokens from i on look like numbers and are none: a date and time; a size in pixels
// (1200x1200, 1200px, 1200w); a resolution (300dpi); a scale (@2x); a camera's counter. Common practice, no source.
func (l Lexicon) noNumber(path string, tokens []Token, i int) int {
	if !tokens[i].Digits {
		return l.camera(path, tokens, i)
	}
	if n := moment(path, tokens, i); n > 0 {
		return n
	}
	if n := size(path, tokens, i); n > 0 {
		return n
	}
	t := tokens[i]
	if i+1 < len(tokens) {
		next := tokens[i+1]
		switch next.Folded {
		case "dpi", "ppi", "px", "pixel":
			return 2
		case "x", "w", "h", "k":
			scale := t.Span.Start > 0 && path[t.Span.Start-1] == '@'
			if touch(t, next) && (scale || next.Folded != "x" && len(t.Folded) >= 3) {
				return 2
			}
		}
	}
	return 0
}

// CutsSize reports whether a run that ends with token i takes the beginning of a size or a scale: T-100 and @2x are
// not T-100-2.
func (l Lexicon) CutsSize(path string, tokens []Token, i int) bool {
	if !tokens[i].Digits || i+1 >= len(tokens) {
		return false
	}
	scale := tokens[i].Span.Start > 0 && path[tokens[i].Span.Start-1] == '@'
	return scale && tokens[i+1].Folded == "x" || size(path, tokens, i) > 0
}

// size reads 1200x1200, 1200 × 900 px.
func size(path string, tokens []Token, i int) int {
	t := tokens[i]
	if len(t.Folded) < 2 || len(t.Folded) > 5 {
		return 0
	}
	end := 0
	switch {
	case i+2 < len(tokens) && tokens[i+1].Folded == "x" && tokens[i+2].Digits && len(tokens[i+2].Folded) >= 2:
		end = i + 3
	case i+1 < len(tokens) && tokens[i+1].Digits && len(t.Folded) >= 3 && len(tokens[i+1].Folded) >= 3 && times(path[t.Span.End:tokens[i+1].Span.Start]):
		end = i + 2
	default:
		return 0
	}
	if end < len(tokens) && (tokens[end].Folded == "px" || tokens[end].Folded == "pixel") {
		end++
	}
	return end - i
}

func times(between string) bool {
	for _, r := range between {
		switch r {
		case '×', '✕', '✖', '*':
			return true
		}
	}
	return false
}

// moment reads a date, written together or in three parts, year or day first, and the time that may follow it; or
// a year alone where it is no part of something longer.
func moment(path string, tokens []Token, i int) int {
	t := tokens[i]
	n := 0
	part := func(k int) string {
		if i+k < len(tokens) && tokens[i+k].Digits {
			return tokens[i+k].Folded
		}
		return ""
	}
	switch {
	case len(t.Folded) == 8 && (isDate(t.Folded[:4], t.Folded[4:6], t.Folded[6:]) || isDate(t.Folded[4:], t.Folded[2:4], t.Folded[:2])):
		n = 1
	case len(t.Folded) == 4 && isDate(t.Folded, part(1), part(2)), len(t.Folded) == 2 && len(part(1)) == 2 && isDate(part(2), part(1), t.Folded):
		n = 3
	case len(t.Folded) == 4 && isDate(t.Folded, "1", "1") && (i+1 == len(tokens) || !touch(t, tokens[i+1])) && (t.Span.Start == 0 || i == 0 || !touch(tokens[i-1], t)):
		return 1
	default:
		return 0
	}
	switch {
	case len(part(n)) == 6:
		n++
	case isTime(part(n), part(n+1), part(n+2)):
		n += 3
	}
	return n
}

func touch(a, b Token) bool { return a.Span.End == b.Span.Start }

func isDate(year, month, day string) bool {
	y, errY := strconv.Atoi(year)
	m, errM := strconv.Atoi(month)
	d, errD := strconv.Atoi(day)
	return errY == nil && errM == nil && errD == nil && len(year) == 4 && len(month) <= 2 && len(day) <= 2 &&
		y >= 1990 && y < 2100 && m >= 1 && m <= 12 && d >= 1 && d <= 31
}

func isTime(hour, minute, second string) bool {
	h, errH := strconv.Atoi(hour)
	m, errM := strconv.Atoi(minute)
	s, errS := strconv.Atoi(second)
	return errH == nil && errM == nil && errS == nil && len(hour) == 2 && len(minute) == 2 && len(second) == 2 && h < 24 && m < 60 && s < 60
}
