package sheet

import (
	"bufio"
	"bytes"
	"io"
	"os"
	"strings"
	"unicode/utf8"

	"ambrosa/core/table"
)

// longestRecord is how long a record may be: a quote that is not closed does not swallow a file.
const longestRecord = 16 << 20

// textFile is a file of CSV or one of its relatives.
type textFile struct{ file *os.File }

func openText(f *os.File) (File, error) {
	if _, err := decoded(f); err != nil {
		return nil, err
	}
	return &textFile{f}, nil
}

func (t *textFile) Sheets() []Sheet { return []Sheet{{}} }
func (t *textFile) Notes() []Note   { return nil }
func (t *textFile) Close() error    { return t.file.Close() }

func (t *textFile) Rows(int) (Rows, error) {
	if _, err := t.file.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	return Records(t.file)
}

// Records reads the rows of a text: CSV (RFC 4180) with any of the separators , ; tab and |, or the one that a first line "sep=;"
// names; quotes and line ends of any kind; UTF-8, UTF-16 or Windows-1252. A record whose quotes don't match costs its first line: what
// is behind it is read again. Closing ends nothing but the reading. Cost: linear, as a quote that is not closed is searched to the
// next one.
func Records(in io.Reader) (Rows, error) {
	r, err := decoded(in)
	if err != nil {
		return nil, err
	}
	head, err := r.Peek(sampled)
	if err != nil && err != io.EOF {
		return nil, err
	}
	d := dialectOf(head)
	if _, err := r.Discard(d.skip); err != nil {
		return nil, err
	}
	return &records{in: r, dialect: d}, nil
}

type records struct {
	in *bufio.Reader
	dialect
	buf   []byte // read and not yet used from at on
	at    int
	end   bool // nothing comes behind buf
	row   int
	cells []table.Cell
	text  []byte
}

func (r *records) Close() error { return nil }

// Next returns the next record. An empty line is an empty row.
func (r *records) Next() (table.Row, error) {
	for {
		if r.at == len(r.buf) && r.end {
			return table.Row{}, io.EOF
		}
		n, state := r.record(r.buf[r.at:])
		if state == more && !r.end && len(r.buf)-r.at < longestRecord {
			if err := r.fill(); err != nil {
				return table.Row{}, err
			}
			continue
		}
		r.row++
		if state != whole {
			line, length := r.line(r.buf[r.at:])
			r.at += length
			return table.Row{Number: r.row, Broken: true, Cells: append(r.cells[:0], table.Cell{Text: string(line)})}, nil
		}
		r.at += n
		return table.Row{Number: r.row, Cells: r.cells}, nil
	}
}

// fill reads more behind what is there.
func (r *records) fill() error {
	r.buf = append(r.buf[:0], r.buf[r.at:]...)
	r.at = 0
	have := len(r.buf)
	r.buf = append(r.buf, make([]byte, max(sampled, have))...)
	n, err := io.ReadAtLeast(r.in, r.buf[have:], 1)
	r.buf = r.buf[:have+n]
	if err == io.EOF {
		r.end = true
		return nil
	}
	return err
}

// state is how a record was read.
type state uint8

const (
	whole state = iota
	more        // its end is not there
	broken
)

// record reads the record at the beginning of b into cells and returns its length with its line end.
func (r *records) record(b []byte) (n int, _ state) {
	r.cells = r.cells[:0]
	for {
		next, cell, state := r.cell(b, n)
		if state != whole {
			return 0, state
		}
		n = next
		if n < len(b) && b[n] == r.separator {
			r.cells = append(r.cells, cell)
			n++
			continue
		}
		// A line without anything is a row without cells.
		if len(r.cells) > 0 || cell.Text != "" || n > 0 {
			r.cells = append(r.cells, cell)
		}
		ended, ok := r.lineEnd(b[n:])
		if !ok {
			return 0, more
		}
		return n + ended, whole
	}
}

// lineEnd is the length of the line end that b begins with, 0 at the end of the file; ok is false where that is not known yet.
func (r *records) lineEnd(b []byte) (n int, ok bool) {
	switch {
	case len(b) == 0:
		return 0, r.end
	case b[0] == '\n', b[0] == '\r' && (r.bareCR || len(b) == 1 && r.end):
		return 1, true
	case len(b) > 1 && b[0] == '\r' && b[1] == '\n':
		return 2, true
	}
	return 0, r.end || len(b) > 1
}

// ends reports whether a cell ends at a place.
func (r *records) ends(b []byte, at int) bool {
	switch c := b[at]; c {
	case r.separator, '\n':
		return true
	case '\r':
		return r.bareCR || at+1 == len(b) || b[at+1] == '\n'
	}
	return false
}

// cell reads the cell that begins at a place and returns where it ends.
func (r *records) cell(b []byte, from int) (end int, cell table.Cell, _ state) {
	at := from
	for at < len(b) && b[at] == ' ' && r.separator != ' ' {
		at++
	}
	if at < len(b) && b[at] == r.quote {
		return r.quoted(b, at)
	}
	for at = from; at < len(b) && !r.ends(b, at); at++ {
	}
	if at == len(b) && !r.end {
		return 0, cell, more
	}
	return at, shownCell(string(b[from:at])), whole
}

// quoted reads a cell in quotes; a quote within it is written twice.
func (r *records) quoted(b []byte, from int) (end int, cell table.Cell, _ state) {
	r.text = r.text[:0]
	for at := from + 1; ; {
		i := bytes.IndexByte(b[at:], r.quote)
		if i < 0 || at+i+1 == len(b) && !r.end {
			return 0, cell, more
		}
		r.text = append(r.text, b[at:at+i]...)
		at += i + 1
		if at < len(b) && b[at] == r.quote {
			r.text = append(r.text, r.quote)
			at++
			continue
		}
		for at < len(b) && b[at] == ' ' && r.separator != ' ' {
			at++
		}
		if at < len(b) && !r.ends(b, at) {
			return 0, cell, broken
		}
		return at, shownCell(string(r.text)), whole
	}
}

// line is the line that b begins with, and its length with its end.
func (r *records) line(b []byte) (line []byte, length int) {
	for at := range b {
		if n, _ := r.lineEnd(b[at:]); n > 0 {
			return b[:at], at + n
		}
	}
	return b, len(b)
}

// shownCell is a cell as an office program would show its text: ="0012" is 0012. One quote is taken off where it was put before what
// would be a formula (OWASP, CSV Injection).
func shownCell(s string) table.Cell {
	if len(s) > 2 && strings.HasPrefix(s, `="`) && strings.HasSuffix(s, `"`) && strings.Count(s, `"`) == 2 {
		return table.Cell{Text: s[2 : len(s)-1], Formula: s[1:]}
	}
	if strings.HasPrefix(s, "=") {
		return table.Cell{Text: s, Formula: s[1:]}
	}
	if strings.HasPrefix(s, "'") && dangerous(strings.TrimLeft(s, "'")) {
		s = s[1:]
	}
	return table.Cell{Text: s}
}

// dangerous reports whether a text begins as a formula may. Source: OWASP, CSV Injection: = + - @, tab, carriage return.
func dangerous(s string) bool { return s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) }

// guarded is a text as it is written into CSV, so that no office program takes it for a formula.
func guarded(s string) string {
	bare := strings.TrimLeft(s, "'")
	if dangerous(bare) && (len(bare) < len(s) || !isNumber(s)) {
		return "'" + s
	}
	return s
}

// isNumber reports whether a text is a number as tables have it: a sign, digits, a point or comma, an exponent.
func isNumber(s string) bool {
	digits, points := 0, 0
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c >= '0' && c <= '9':
			digits++
		case (c == '.' || c == ',') && points == 0:
			points++
		case (c == '+' || c == '-') && (i == 0 || s[i-1] == 'e' || s[i-1] == 'E'):
		case (c == 'e' || c == 'E') && digits > 0 && i+1 < len(s):
			points = 1
		default:
			return false
		}
	}
	last, _ := utf8.DecodeLastRuneInString(s)
	return digits > 0 && last >= '0' && last <= '9'
}
