// Package lists pairs without a database: a table of owners and a list of names, to JSON lines.
package lists

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strings"
	"sync"

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

// ReadOwners reads a table with the header id,kind,parent_id,sku,barcode,title and any further attribute
// columns. keys names the columns to pair by; without any, sku, barcode, code and title. complain is told of bad
// rows by line; the others are read.
func ReadOwners(in io.Reader, keys []string, complain func(line int, why string)) (*Owners, error) {
	r := csv.NewReader(bufio.NewReaderSize(in, 1<<20))
	r.FieldsPerRecord = -1
	r.LazyQuotes = true
	r.ReuseRecord = true
	header, err := r.Read()
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrHeader, err)
	}
	columns := make([]string, len(header))
	for i, h := range header {
		columns[i] = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(h, "\ufeff")))
	}
	if len(keys) == 0 {
		keys = []string{"sku", "barcode", "code", "title"}
	}
	idColumn, kindColumn, parentColumn := slices.Index(columns, "id"), slices.Index(columns, "kind"), slices.Index(columns, "parent_id")
	type source struct {
		column int
		field  pairing.Field
	}
	var sources []source
	var also []int
	for i, c := range columns {
		if slices.Contains(keys, c) {
			sources = append(sources, source{i, pairing.Field(c)})
		} else if !slices.Contains([]string{"id", "kind", "parent_id", "sku", "barcode", "code", "title"}, c) {
			also = append(also, i)
		}
	}
	if idColumn < 0 || kindColumn < 0 || len(sources) == 0 {
		return nil, ErrHeader
	}
	owners := &Owners{}
	number := map[string]int64{}
	var parents []string
	for {
		row, err := r.Read()
		if err == io.EOF {
			break
		}
		line, _ := r.FieldPos(0)
		if err != nil {
			complain(line, err.Error())
			continue
		}
		cell := func(i int) string {
			if i < 0 || i >= len(row) {
				return ""
			}
			return strings.TrimSpace(row[i])
		}
		id, kind := strings.Clone(cell(idColumn)), pairing.Kind(cell(kindColumn))
		switch {
		case id == "":
			complain(line, "the row has no id")
			continue
		case number[id] > 0:
			complain(line, "the id "+id+" stands twice; the first counts")
			continue
		case kind != pairing.Product && kind != pairing.Variant && kind != pairing.Category:
			complain(line, fmt.Sprintf("the kind %q is none of product, variant, category", kind))
			continue
		}
		o := pairing.Owner{ID: int64(len(owners.All) + 1), Kind: pairing.Kind(strings.Clone(string(kind)))}
		for _, s := range sources {
			if text := cell(s.column); text != "" {
				o.Keys = append(o.Keys, pairing.Key{Field: s.field, Text: strings.Clone(text)})
			}
		}
		for _, i := range also {
			if text := cell(i); text != "" {
				o.Also = append(o.Also, strings.Clone(text))
			}
		}
		number[id] = o.ID
		owners.All, owners.IDs = append(owners.All, o), append(owners.IDs, id)
		parents = append(parents, strings.Clone(cell(parentColumn)))
	}
	for i, p := range parents {
		owners.All[i].Parent = number[p]
	}
	if len(owners.All) == 0 {
		return nil, fmt.Errorf("owners: %w", ErrNothing)
	}
	return owners, nil
}

// ReadNames reads a relative path a line, as it stands; only line ends are taken off.
func ReadNames(in io.Reader) ([]pairing.File, error) {
	all, err := io.ReadAll(in)
	if err != nil {
		return nil, err
	}
	var files []pairing.File
	for line := range strings.Lines(string(all)) {
		if line = strings.TrimRight(line, "\r\n"); line != "" {
			files = append(files, pairing.File{Path: line})
		}
	}
	if len(files) == 0 {
		return nil, fmt.Errorf("names: %w", ErrNothing)
	}
	return files, nil
}

type answer struct {
	File       string      `json:"file"`
	Grade      string      `json:"grade"`
	Owner      *string     `json:"owner"`
	Number     *int        `json:"number"`
	Position   *int        `json:"position"`
	Key        *string     `json:"key"`
	Fit        *string     `json:"fit"`
	NameSpan   *[2]int     `json:"name_span"`
	KeySpan    *[2]int     `json:"key_span"`
	Candidates []candidate `json:"candidates"`
	Why        string      `json:"why"`
}

type candidate struct {
	Owner string  `json:"owner"`
	Key   string  `json:"key"`
	Fit   string  `json:"fit"`
	Score float64 `json:"score"`
}

// piece is how many answers are written out together by one core.
const piece = 4096

// Write pairs the files and writes an answer a line, in the order of the files.
func Write(out io.Writer, owners *Owners, files []pairing.File, ladder pairing.Ladder) error {
	claims := pairing.Pair(pairing.NewIndex(owners.All), files, ladder)
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
				var b []byte
				for i := n * piece; i < min((n+1)*piece, len(files)); i++ {
					line, err := json.Marshal(owners.answer(files[i], claims[i], place[i]))
					if err != nil {
						panic(err) // plain values always encode
					}
					b = append(append(b, line...), '\n')
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
	for file, p := range pairing.Order(placed) {
		place[file] = p
	}
	return place
}

func (o *Owners) answer(f pairing.File, c pairing.Claim, place int) answer {
	a := answer{File: f.Path, Grade: string(c.Grade), Candidates: []candidate{}, Why: c.Why}
	if r := c.Reading; r != nil {
		key, fit := string(r.Field), string(r.Fit)
		a.Owner, a.Number, a.Position, a.Key, a.Fit = &o.IDs[r.Owner-1], r.Number, &place, &key, &fit
		a.NameSpan, a.KeySpan = &[2]int{r.NameSpan.Start, r.NameSpan.End}, &[2]int{r.KeySpan.Start, r.KeySpan.End}
	}
	for _, r := range c.Candidates {
		a.Candidates = append(a.Candidates, candidate{o.IDs[r.Owner-1], string(r.Field), string(r.Fit), r.Score})
	}
	return a
}
