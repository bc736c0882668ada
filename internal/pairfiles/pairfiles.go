// Package pairfiles pairs without a database: a table of owners and a list of names, to JSON lines.
package pairfiles

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"math"
	"math/bits"
	"os"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"ambrosa/core/catalogue"
	"ambrosa/core/cores"
	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/core/pairing"
)

var (
	// ErrHeader is returned where the owners' first row lacks a column that is needed.
	ErrHeader = errors.New("the owners' first row must name the columns id, kind and at least one key")
	// ErrKey is returned for a key that is no column of the owners.
	ErrKey = errors.New("there is no such column")
	// ErrColumns is returned for owners with more columns than pairing looks at.
	ErrColumns = fmt.Errorf("a table of owners has at most %d columns", catalogue.MaxColumns)
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
	keyColumns       []keyColumn
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
	if len(header) > catalogue.MaxColumns {
		return columns{}, fmt.Errorf("%w; this one has %d", ErrColumns, len(header))
	}
	for _, key := range keys {
		if !slices.Contains(header, key) {
			there := slices.DeleteFunc(slices.Clone(header), func(h string) bool { return h == "" || h == "id" || h == "kind" || h == "parent_id" })
			return columns{}, fmt.Errorf("%w %q to pair by; there are %s", ErrKey, key, strings.Join(there, ", "))
		}
	}
	named := len(keys) > 0
	if !named {
		keys = []string{"sku", "barcode", "code", "title"}
	}
	c := columns{named: named, id: slices.Index(header, "id"), kind: slices.Index(header, "kind"), parent: slices.Index(header, "parent_id")}
	for i, h := range header {
		switch {
		case slices.Contains(keys, h):
			c.keyColumns = append(c.keyColumns, keyColumn{i, pairing.Field(h)})
		case !slices.Contains([]string{"", "id", "kind", "parent_id", "sku", "barcode", "code", "title"}, h):
			c.also, c.alsoNames = append(c.also, i), append(c.alsoNames, h)
		}
	}
	if c.id < 0 || c.kind < 0 || len(c.keyColumns) == 0 {
		return c, ErrHeader
	}
	return c, nil
}

// ReadOwners reads a table with the header id,kind,parent_id,sku,barcode,title and any further attribute
// columns. keys names the columns to pair by; without any, sku, barcode, code, title and the attributes that tell owners
// apart. complain is told of bad rows by line; the others are read.
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
	attributes   []string      // of each row, one after the other
	keys         []pairing.Key // a stretch of the rows' keys, so that not every row needs its own
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
	r.attributes = slices.Grow(r.attributes, lines*len(r.alsoNames))
}

// readPlain reads lines that hold no quote, each core its share; first is the number of the first line.
func readPlain(c columns, text string, first int) *rows {
	workers := cores.Count()
	shares, counts := make([]string, workers), make([]int, workers)
	total := 0
	for w := range workers {
		to := len(text) / (workers - w)
		if cut := strings.IndexByte(text[to:], '\n'); w == workers-1 || cut < 0 {
			to = len(text)
		} else {
			to += cut + 1
		}
		shares[w], text = text[:to], text[to:]
		if counts[w] = strings.Count(shares[w], "\n"); !strings.HasSuffix(shares[w], "\n") {
			counts[w]++
		}
		total += counts[w]
	}
	// All write into the same memory, each where its own lines go.
	all := newRows(c)
	all.grow(total)
	parts := make([]*rows, workers)
	at := 0
	for w := range workers {
		parts[w] = all.part(at, counts[w])
		at += counts[w]
	}
	cores.Share(workers, func(_, from, to int) {
		for w := from; w < to; w++ {
			row := make([]string, 0, 16)
			line := first
			for _, before := range counts[:w] {
				line += before
			}
			for text := range strings.Lines(shares[w]) {
				if text = strings.TrimSuffix(text, "\n"); strings.HasSuffix(text, "\r") {
					text = strings.TrimRight(text, "\r")
				}
				if text != "" {
					row = row[:0]
					for more := true; more; {
						var field string
						field, text, more = strings.Cut(text, ",")
						row = append(row, field)
					}
					parts[w].add(line, row)
				}
				line++
			}
		}
	})
	at = 0
	for w, p := range parts {
		all.keep(p, at)
		at += counts[w]
	}
	return all
}

// keep appends the rows of a part, which is made from at on: they stay where they are if nothing before them is missing.
func (r *rows) keep(p *rows, at int) {
	if n := len(r.all); n == at {
		r.all, r.ids, r.parents, r.lines = r.all[:n+len(p.all)], r.ids[:n+len(p.all)], r.parents[:n+len(p.all)], r.lines[:n+len(p.all)]
		r.attributes = r.attributes[:len(r.attributes)+len(p.attributes)]
	} else {
		r.all, r.ids, r.parents, r.lines = append(r.all, p.all...), append(r.ids, p.ids...), append(r.parents, p.parents...), append(r.lines, p.lines...)
		r.attributes = append(r.attributes, p.attributes...)
	}
	r.bad = append(r.bad, p.bad...)
}

// part is room for so many rows from one place on.
func (r *rows) part(at, count int) *rows {
	attributes := len(r.alsoNames)
	return &rows{columns: r.columns, all: r.all[at : at : at+count], ids: r.ids[at : at : at+count], parents: r.parents[at : at : at+count], lines: r.lines[at : at : at+count],
		attributes: r.attributes[at*attributes : at*attributes : (at+count)*attributes]}
}

// letter reports whether a byte is one that TrimSpace would surely leave.
func letter(c byte) bool { return ' ' < c && c < 0x7f }

func (r *rows) add(line int, row []string) {
	cell := func(i int) string {
		if i < 0 || i >= len(row) {
			return ""
		}
		text := row[i]
		if n := len(text); n == 0 || letter(text[0]) && letter(text[n-1]) {
			return text
		}
		return strings.TrimSpace(text)
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
	if cap(r.keys)-len(r.keys) < len(r.keyColumns) {
		r.keys = make([]pairing.Key, 0, max(1024, len(r.keyColumns)))
	}
	first := len(r.keys)
	for _, k := range r.keyColumns {
		if text := cell(k.at); text != "" {
			r.keys = append(r.keys, pairing.Key{Field: k.field, Text: text})
		}
	}
	o.Keys = r.keys[first:len(r.keys):len(r.keys)]
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
	rows := newDirectory(r.ids)
	numbers := make([]int64, len(r.ids)) // of the owners, by row; -1 where an earlier row has the id
	for _, row := range rows.twice {
		numbers[row] = -1
		r.bad = append(r.bad, badRow{int(r.lines[row]), "the id " + r.ids[row] + " stands twice; the first counts"})
	}
	kept := 0
	for row := range numbers {
		if numbers[row] < 0 {
			continue
		}
		kept++
		numbers[row] = int64(kept)
	}
	cores.Share(len(r.all), func(_, from, to int) {
		for i := from; i < to; i++ {
			r.all[i].ID = numbers[i]
			if p := r.parents[i]; p != "" {
				if row := rows.find(p); row >= 0 {
					r.all[i].Parent = numbers[row]
				}
			}
		}
	})
	owners := &Owners{All: r.all, IDs: r.ids}
	if len(rows.twice) > 0 {
		owners.All = slices.DeleteFunc(r.all, func(o pairing.Owner) bool { return o.ID < 0 })
		owners.IDs = make([]string, 0, kept)
		for row, id := range r.ids {
			if numbers[row] > 0 {
				owners.IDs = append(owners.IDs, id)
			}
		}
	}
	slices.SortStableFunc(r.bad, func(a, b badRow) int { return a.line - b.line })
	for _, b := range r.bad {
		complain(b.line, b.why)
	}
	if len(owners.All) == 0 {
		return nil, fmt.Errorf("owners: %w", ErrNothing)
	}
	return owners, nil
}

// directory finds rows by id, with open addressing.
type directory struct {
	ids    []string
	seed   maphash.Seed
	hashes []uint64
	slots  []int32 // a row plus one
	twice  []int32 // rows of which an earlier one has the id
}

func newDirectory(ids []string) *directory {
	d := &directory{ids: ids, seed: maphash.MakeSeed(), hashes: make([]uint64, len(ids)), slots: make([]int32, 1<<bits.Len(uint(2*len(ids))))}
	cores.Share(len(ids), func(_, from, to int) {
		for i := from; i < to; i++ {
			d.hashes[i] = maphash.String(d.seed, ids[i])
		}
	})
	for i, id := range ids {
		if slot := d.slot(id, d.hashes[i]); *slot == 0 {
			*slot = int32(i + 1)
		} else {
			d.twice = append(d.twice, int32(i))
		}
	}
	return d
}

// slot is where an id stands, or would.
func (d *directory) slot(id string, hash uint64) *int32 {
	mask := uint64(len(d.slots) - 1)
	for at := hash & mask; ; at = (at + 1) & mask {
		if row := d.slots[at]; row == 0 || d.hashes[row-1] == hash && d.ids[row-1] == id {
			return &d.slots[at]
		}
	}
}

// find returns the row of an id, -1 where there is none.
func (d *directory) find(id string) int32 { return *d.slot(id, maphash.String(d.seed, id)) - 1 }

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

// Index indexes the owners. Where nothing else says which of two comes first, their ids do, not the order of the rows.
func (o *Owners) Index() *pairing.Index {
	return pairing.NewIndexBy(o.All, func(a, b *pairing.Owner) int { return strings.Compare(o.IDs[a.ID-1], o.IDs[b.ID-1]) })
}

// piece is how many answers one core makes before they are written out.
const piece = 2048

// Write pairs the files and writes an answer a line, in the order of the files.
func Write(out io.Writer, owners *Owners, files []pairing.File, ladder pairing.Ladder) error {
	weighed := pairing.NewStudy(owners.Index(), files).Weigh(pairing.Choice{Ladder: ladder})
	place := weighed.Positions()
	pieces := make([][]byte, cores.Count())
	for first := 0; first < len(files); first += len(pieces) * piece {
		cores.Share(len(pieces), func(_, from, to int) {
			for w := from; w < to; w++ {
				b := pieces[w][:0]
				weighed.Each(min(first+w*piece, len(files)), min(first+(w+1)*piece, len(files)), func(i int, c *pairing.Claim) {
					b = owners.appendAnswer(b, files[i].Path, c, place[i])
				})
				pieces[w] = b
			}
		})
		for _, b := range pieces {
			if _, err := out.Write(b); err != nil {
				return err
			}
		}
	}
	return nil
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
	b = appendString(append(b, `],"why":`...), message.Texts(c.Why()))
	return append(b, '}', '\n')
}

func appendSpan(b []byte, s names.Span) []byte {
	b = strconv.AppendInt(append(b, '['), int64(s.Start), 10)
	return append(strconv.AppendInt(append(b, ','), int64(s.End), 10), ']')
}

// appendString leaves what needs escaping to the library; most names need none. A byte that is no UTF-8 is escaped alone,
// as a low surrogate (\udc80 to \udcff, PEP 383), so that the name can be had back byte for byte.
func appendString(b []byte, s string) []byte {
	for i := range len(s) {
		if !plain[s[i]] {
			return appendEscaped(b, s)
		}
	}
	return append(append(append(b, '"'), s...), '"')
}

func appendEscaped(b []byte, s string) []byte {
	b = append(b, '"')
	for from := 0; from < len(s); {
		to := from
		for to < len(s) {
			if r, size := utf8.DecodeRuneInString(s[to:]); r != utf8.RuneError || size > 1 {
				to += size
				continue
			}
			break
		}
		quoted, err := json.Marshal(s[from:to])
		if err != nil {
			panic(err) // a string always encodes
		}
		b = append(b, quoted[1:len(quoted)-1]...)
		if to < len(s) {
			b = fmt.Appendf(b, `\udc%02x`, s[to])
			to++
		}
		from = to
	}
	return append(b, '"')
}

// plain are the bytes that stand for themselves in a JSON string.
var plain = func() (of [256]bool) {
	for c := ' '; c < 0x7f; c++ {
		of[c] = c != '"' && c != '\\'
	}
	return of
}()
