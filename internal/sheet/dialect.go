package sheet

import (
	"bytes"
)

// dialect is how a text of cells is written.
type dialect struct {
	separator, quote byte
	// bareCR: lines end by CR alone, as old desktops end them.
	bareCR bool
	// skip is the length of a first line "sep=;", which is none of the rows.
	skip int
}

const separators = ",;\t|"

// dialectOf finds out by a text's beginning how it is written. The separator is the one that most lines have as often.
func dialectOf(head []byte) dialect {
	d := dialect{separator: ',', quote: '"', bareCR: !bytes.Contains(head, []byte("\n"))}
	if len(head) >= 5 && bytes.EqualFold(head[:4], []byte("sep=")) && (len(head) == 5 || head[5] == '\r' || head[5] == '\n') {
		d.separator, d.skip = head[4], 5
		for d.skip < len(head) && d.skip < 7 && (head[d.skip] == '\r' || head[d.skip] == '\n') {
			d.skip++
		}
		d.quote = quoteOf(head[d.skip:], d.separator)
		return d
	}
	best := 0.0
	for _, s := range []byte(separators) {
		if score := evenness(head, s, d.bareCR); score > best {
			d.separator, best = s, score
		}
	}
	d.quote = quoteOf(head, d.separator)
	return d
}

// evenness is how alike a text's lines are by how often they have a separator outside of quotes: the share of lines that have it the
// most frequent number of times, and a little for having it often.
func evenness(head []byte, separator byte, bareCR bool) float64 {
	counts := map[int]int{}
	lines, n, quoted, filled := 0, 0, false, false
	end := func() {
		if filled {
			counts[n]++
			lines++
		}
		n, filled = 0, false
	}
	for _, c := range head {
		switch {
		case c == '"':
			quoted, filled = !quoted, true
		case quoted:
		case c == '\n' || c == '\r' && bareCR:
			end()
		case c == separator:
			n++
		case c != ' ' && c != '\r':
			filled = true
		}
		if lines == 200 {
			break
		}
	}
	end()
	most, times := 0, 0
	for n, of := range counts {
		if n > 0 && (of > times || of == times && n > most) {
			most, times = n, of
		}
	}
	if times == 0 {
		return 0
	}
	return float64(times)/float64(lines) + float64(min(most, 99))/1000
}

// quoteOf is the quote that encloses cells: the double one, or the single one where whole cells stand in it and none in double ones.
func quoteOf(head []byte, separator byte) byte {
	cells, single := 0, 0
	for line := range bytes.Lines(head[:min(len(head), 8<<10)]) {
		for cell := range bytes.SplitSeq(bytes.TrimRight(line, "\r\n"), []byte{separator}) {
			if len(cell) > 0 && cell[0] == '"' {
				return '"'
			}
			cells++
			if len(cell) > 1 && cell[0] == '\'' && cell[len(cell)-1] == '\'' {
				single++
			}
		}
	}
	if cells > 1 && single > cells/2 {
		return '\''
	}
	return '"'
}
