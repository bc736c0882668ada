// Package lists pairs without a database: a table of owners and a list of names, to JSON lines.
package lists

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"

	"ambrosa/core/names"
	"ambrosa/core/pairing"
)

var (
	// ErrHeader is returned where the owners' first row lacks a column that is needed.
	ErrHeader = errors.New("the owners' first row must name the columns id, kind and at least one key")
	// ErrNothing is returned where a list has no line that can be read.
	ErrNothing = errors.New("nothing could be read")
)

// Owners are the owners of a table and the ids it gave them; an owner's number is its place here plus one.
type Owners struct {
	All []pairing.Owner
	IDs []string
}

// columns says where the fields of a table of owners stand; -1 where there is no such column.
type columns struct {
	id, kind, parent int
	keys             []keyColumn
	also             []int // attributes
	alsoNames        []string
	named            bool // the keys were named, so that no attribute becomes one
}

type keyColumn struct {
	at    int
	field pairing.Field
}

func readHeader(header, keys []string) (columns, error) {
	for i, h := range header {
		header[i] = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(h, "\ufeff")))
	}
	named := len(keys) > 0
	if !named {
		keys = []string{"sku", "barcode", "code", "title"}
	}
	c := columns{named: named, id: slices.Index(header, "id"), kind: slices.Index(header, "kind"), parent: slices.Index(header, "parent_id")}
	for i, h := range header {
		switch {
		case slices.Contains(keys, h):
			c.keys = append(c.keys, keyColumn{i, pairing.Field(h)})
		case !slices.Contains([]string{"", "id", "kind", "parent_id", "sku", "barcode", "code", "title"}, h):
			c.also, c.alsoNames = append(c.also, i), append(c.alsoNames, h)
		}
	}
	if c.id < 0 || c.kind < 0 || len(c.keys) == 0 {
		return c, ErrHeader
	}
	return c, nil
}

// ReadOwners reads a table with the header id,kind,parent_id,sku,barcode,title and any further attribute
// columns. keys names the columns to pair by; without any, sku, barcode, code, title and the attributes that tell owners
// apart. complain is told of bad
// rows by line; the others are read.
func ReadOwners(in io.Reader, keys []string, complain func(line int, why string)) (*Owners, error) {
	text, err := readAll(in)
	if err != nil {
		return nil, err
	}
	head, body, _ := strings.Cut(text, "\n")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	r.LazyQuotes = true
	r.ReuseRecord = true
	var row []string
	if row, err = r.Read(); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrHeader, err)
	}
	c, err := readHeader(slices.Clone(row), keys)
	if err != nil {
		return nil, err
	}
	rows := newRows(c)
	if strings.Contains(text, `"`) {
		for {
			row, err := r.Read()
			if err == io.EOF {
				break
			}
			line, _ := r.FieldPos(0)
			if err != nil {
				rows.bad = append(rows.bad, badRow{line, err.Error()})
				continue
			}
			for i := range row {
				row[i] = strings.Clone(row[i])
			}
			rows.add(line, row)
		}
	} else {
		// Without a quote a row is a line and a comma parts fields (RFC 4180, section 2), so all cores can read.
		rows = readPlain(c, body, 2+strings.Count(head, "\n"))
	}
	return rows.owners(complain)
}

// promote makes keys of the attributes that tell owners apart as a code does.
func (r *rows) promote() {
	for n, field := range r.alsoNames {
		values := make([]string, len(r.all))
		for i := range r.all {
			values[i] = r.attributes[i*len(r.alsoNames)+n]
		}
		if pairing.TellsApart(values) {
			for i := range r.all {
				if values[i] != "" {
					r.all[i].Keys = append(r.all[i].Keys, pairing.Key{Field: pairing.Field(field), Text: values[i]})
				}
			}
		}
	}
}

// readAll reads into a text at once, a file without growing on the way.
func readAll(in io.Reader) (string, error) {
	var b strings.Builder
	if f, ok := in.(*os.File); ok {
		if info, err := f.Stat(); err == nil {
			b.Grow(int(info.Size()) + 1)
		}
	}
	_, err := io.Copy(&b, in)
	return b.String(), err
}

// rows are owners as a table gives them.
type rows struct {
	columns
	all          []pairing.Owner
	ids, parents []string
	attributes   []string // of each row, one after the other
	lines        []int32
	bad          []badRow
}

type badRow struct {
	line int
	why  string
}

func newRows(c columns) *rows { return &rows{columns: c} }

func (r *rows) grow(lines int) {
	r.all, r.ids, r.parents, r.lines = slices.Grow(r.all, lines), slices.Grow(r.ids, lines), slices.Grow(r.parents, lines), slices.Grow(r.lines, lines)
}

// readPlain reads lines that hold no quote, each core its share; first is the number of the first line.
func readPlain(c columns, text string, first int) *rows {
	workers := runtime.GOMAXPROCS(0)
	parts := make([]*rows, workers)
	var wg sync.WaitGroup
	from := 0
	for w := range workers {
		to := len(text) * (w + 1) / workers
		if cut := strings.IndexByte(text[to:], '\n'); w == workers-1 || cut < 0 {
			to = len(text)
		} else {
			to += cut + 1
		}
		part := text[min(from, to):to]
		from = max(from, to)
		parts[w] = newRows(c)
		wg.Go(func() {
			row := make([]string, 0, 16)
			parts[w].grow(strings.Count(part, "\n") + 1)
			line := 0
			for text := range strings.Lines(part) {
				line++
				if text = strings.TrimRight(text, "\r\n"); text == "" {
					continue
				}
				row = row[:0]
				for more := true; more; {
					var field string
					field, text, more = strings.Cut(text, ",")
					row = append(row, field)
				}
				parts[w].add(line, row)
			}
			parts[w].lines = append(parts[w].lines, int32(line))
		})
	}
	wg.Wait()
	all := newRows(c)
	all.grow(strings.Count(text, "\n") + 1)
	for _, p := range parts {
		read := len(p.lines) - 1
		for i := range read {
			all.lines = append(all.lines, p.lines[i]+int32(first-1))
		}
		for _, b := range p.bad {
			all.bad = append(all.bad, badRow{b.line + first - 1, b.why})
		}
		all.attributes = append(all.attributes, p.attributes...)
		all.all, all.ids, all.parents = append(all.all, p.all...), append(all.ids, p.ids...), append(all.parents, p.parents...)
		first += int(p.lines[read])
	}
	return all
}

func (r *rows) add(line int, row []string) {
	cell := func(i int) string {
		if i < 0 || i >= len(row) {
			return ""
		}
		return strings.TrimSpace(row[i])
	}
	id, kind := cell(r.id), pairing.Kind(cell(r.kind))
	switch {
	case id == "":
		r.bad = append(r.bad, badRow{line, "the row has no id"})
		return
	case kind != pairing.Product && kind != pairing.Variant && kind != pairing.Category:
		r.bad = append(r.bad, badRow{line, fmt.Sprintf("the kind %q is none of product, variant, category", kind)})
		return
	}
	o := pairing.Owner{Kind: kind}
	for _, k := range r.keys {
		if text := cell(k.at); text != "" {
			if o.Keys == nil {
				o.Keys = make([]pairing.Key, 0, len(r.keys))
			}
			o.Keys = append(o.Keys, pairing.Key{Field: k.field, Text: text})
		}
	}
	for _, i := range r.also {
		text := cell(i)
		if r.attributes = append(r.attributes, text); text != "" {
			o.Also = append(o.Also, text)
		}
	}
	r.all, r.ids, r.parents, r.lines = append(r.all, o), append(r.ids, id), append(r.parents, cell(r.parent)), append(r.lines, int32(line))
}

// owners numbers the rows and finds their parents; of an id that stands twice the first counts.
func (r *rows) owners(complain func(line int, why string)) (*Owners, error) {
	if !r.named {
		r.promote()
	}
	number := make(map[string]int64, len(r.ids))
	owners := &Owners{All: r.all[:0], IDs: r.ids[:0]}
	parents := r.parents[:0]
	for i, id := range r.ids {
		if number[id] > 0 {
			r.bad = append(r.bad, badRow{int(r.lines[i]), "the id " + id + " stands twice; the first counts"})
			continue
		}
		o := r.all[i]
		o.ID = int64(len(owners.All) + 1)
		number[id] = o.ID
		owners.All, owners.IDs, parents = append(owners.All, o), append(owners.IDs, id), append(parents, r.parents[i])
	}
	slices.SortStableFunc(r.bad, func(a, b badRow) int { return a.line - b.line })
	for _, b := range r.bad {
		complain(b.line, b.why)
	}
	for i, p := range parents {
		if p != "" {
			owners.All[i].Parent = number[p]
		}
	}
	if len(owners.All) == 0 {
		return nil, fmt.Errorf("owners: %w", ErrNothing)
	}
	return owners, nil
}

// ReadNames reads a relative path a line, as it stands; only line ends are taken off.
func ReadNames(in io.Reader) ([]pairing.File, error) {
	all, err := readAll(in)
	if err != nil {
		return nil, err
	}
	files := make([]pairing.File, 0, strings.Count(all, "\n")+1)
	for line := range strings.Lines(all) {
		if line = strings.TrimRight(line, "\r\n"); line != "" {
			files = append(files, pairing.File{Path: line})
		}
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("names: %w", ErrNothing)
	}
	return files, nil
}

// piece is how many answers are written out together by one core.
const piece = 4096

// Write pairs the files and writes an answer a line, in the order of the files.
func Write(out io.Writer, owners *Owners, files []pairing.File, ladder pairing.Ladder) error {
	return answers(out, owners, files, pairing.Pair(pairing.NewIndex(owners.All), files, ladder))
}

func answers(out io.Writer, owners *Owners, files []pairing.File, claims []pairing.Claim) error {
	place := positions(files, claims)
	pieces := make([]chan []byte, (len(files)+piece-1)/piece)
	for i := range pieces {
		pieces[i] = make(chan []byte, 1)
	}
	work := make(chan int)
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for n := range work {
				b := make([]byte, 0, 256*piece)
				for i := n * piece; i < min((n+1)*piece, len(files)); i++ {
					b = owners.appendAnswer(b, files[i].Path, &claims[i], place[i])
				}
				pieces[n] <- b
			}
		})
	}
	go func() {
		for n := range pieces {
			work <- n
		}
		close(work)
	}()
	defer wg.Wait()
	for _, p := range pieces {
		if _, err := out.Write(<-p); err != nil {
			return err
		}
	}
	return nil
}

func positions(files []pairing.File, claims []pairing.Claim) []int {
	placed := make([]pairing.Placed, 0, len(files))
	for i, c := range claims {
		if c.Reading != nil {
			placed = append(placed, pairing.Placed{File: i, Owner: c.Reading.Owner, Number: c.Reading.Number, Role: c.Reading.Role, Path: files[i].Path})
		}
	}
	place := make([]int, len(files))
	for i, n := range pairing.Places(placed) {
		place[placed[i].File] = n
	}
	return place
}

// appendAnswer appends one JSON object (RFC 8259) and a line end.
func (o *Owners) appendAnswer(b []byte, path string, c *pairing.Claim, place int) []byte {
	b = appendString(append(b, `{"file":`...), path)
	b = appendString(append(b, `,"grade":`...), string(c.Grade))
	if r := c.Reading; r == nil {
		b = append(b, `,"owner":null,"number":null,"position":null,"key":null,"fit":null,"name_span":null,"key_span":null`...)
	} else {
		b = appendString(append(b, `,"owner":`...), o.IDs[r.Owner-1])
		b = append(b, `,"number":`...)
		if r.Number == nil {
			b = append(b, "null"...)
		} else {
			b = strconv.AppendInt(b, int64(*r.Number), 10)
		}
		b = strconv.AppendInt(append(b, `,"position":`...), int64(place), 10)
		b = appendString(append(b, `,"key":`...), string(r.Field))
		b = appendString(append(b, `,"fit":`...), string(r.Fit))
		b = appendSpan(append(b, `,"name_span":`...), r.NameSpan)
		b = appendSpan(append(b, `,"key_span":`...), r.KeySpan)
	}
	b = append(b, `,"candidates":[`...)
	for i, r := range c.Candidates {
		if i > 0 {
			b = append(b, ',')
		}
		b = appendString(append(b, `{"owner":`...), o.IDs[r.Owner-1])
		b = appendString(append(b, `,"key":`...), string(r.Field))
		b = appendString(append(b, `,"fit":`...), string(r.Fit))
		b = strconv.AppendFloat(append(b, `,"score":`...), math.Round(r.Score*1000)/1000, 'g', -1, 64)
		b = append(b, '}')
	}
	b = appendString(append(b, `],"why":`...), c.Why)
	return append(b, '}', '\n')
}

func appendSpan(b []byte, s names.Span) []byte {
	b = strconv.AppendInt(append(b, '['), int64(s.Start), 10)
	return append(strconv.AppendInt(append(b, ','), int64(s.End), 10), ']')
}

// appendString leaves what needs escaping to the library; most names need none.
func appendString(b []byte, s string) []byte {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c >= 0x7f || c == '"' || c == '\\' {
			quoted, err := json.Marshal(s)
			if err != nil {
				panic(err) // a string always encodes
			}
			return append(b, quoted...)
		}
	}
	return append(append(append(b, '"'), s...), '"')
}
