package catalogue

import (
	"encoding/csv"
	"errors"
	"io"
	"strings"
)

// records reads a table's records one after the other. A record that can't be read costs its first line only: what is
// behind it is read again from the next line on, so that one loose quote swallows no rows. Cost: linear, as a quote that is
// not closed is searched to the next quote.
type records struct {
	text   string
	comma  rune
	at     int // bytes read so far
	line   int // of the next record
	reader *csv.Reader
	base   int // where in the text the reader began
}

var errQuotes = errors.New("its quotes don't match; a quote within a quoted cell is written twice")

func newRecords(text string) *records {
	if !strings.Contains(text, "\n") {
		text = strings.ReplaceAll(text, "\r", "\n") // as old desktops end lines
	}
	return &records{text: text, comma: separator(text), line: 1}
}

// next returns a record and the number of its first line; io.EOF behind the last. After another error reading goes on.
func (r *records) next() ([]string, int, error) {
	// Empty lines are no records.
	for r.at < len(r.text) && (r.text[r.at] == '\n' || strings.HasPrefix(r.text[r.at:], "\r\n")) {
		r.at += 1 + strings.IndexByte(r.text[r.at:], '\n')
		r.line++
	}
	line := r.line
	if r.at >= len(r.text) {
		return nil, line, io.EOF
	}
	if r.reader == nil {
		r.begin(r.text[r.at:], r.at)
	}
	record, err := r.reader.Read()
	switch {
	case err == nil:
		end := r.base + int(r.reader.InputOffset())
		r.line += strings.Count(r.text[r.at:end], "\n")
		r.at = end
		return record, line, nil
	case err == io.EOF:
		return nil, line, io.EOF
	}
	r.reader = nil
	one, _, _ := strings.Cut(r.text[r.at:], "\n")
	r.at = min(len(r.text), r.at+len(one)+1)
	r.line++
	if record, ok := r.loose(strings.TrimSuffix(one, "\r")); ok {
		return record, line, nil
	}
	return nil, line, errQuotes
}

func (r *records) begin(text string, at int) {
	r.reader, r.base = csv.NewReader(strings.NewReader(text)), at
	r.reader.Comma = r.comma
	r.reader.FieldsPerRecord = -1
}

// loose reads a line alone whose quotes stand within cells that are not quoted: 5" reel. It is not read where a cell begins
// with a quote, as nobody can tell where that ends.
func (r *records) loose(line string) ([]string, bool) {
	cells := strings.Split(line, string(r.comma))
	for _, c := range cells {
		if strings.HasPrefix(strings.TrimSpace(c), `"`) {
			return nil, false
		}
	}
	return cells, true
}

// separator is the one of comma, semicolon and tab that the first line has most of.
func separator(text string) rune {
	line, _, _ := strings.Cut(text, "\n")
	best := ','
	for _, c := range []rune{';', '\t'} {
		if strings.Count(line, string(c)) > strings.Count(line, string(best)) {
			best = c
		}
	}
	return best
}
