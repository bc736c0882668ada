package channel

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ambrosa/core/table"
)

// List is the table that goes with the pictures: what it is called, its columns and how it is written.
type List struct {
	Name     string   `json:"name" maxLength:"200"` // with its extension: .csv, .xlsx, .ods
	PerOwner bool     `json:"perOwner,omitempty"`
	Columns  []Column `json:"columns" maxItems:"100"`
	// Of CSV: a separator, an encoding and a line end; empty for a comma, UTF-8 and CR LF.
	Separator string `json:"separator,omitempty" maxLength:"1"`
	Encoding  string `json:"encoding,omitempty" maxLength:"20"`
	LineEnd   string `json:"lineEnd,omitempty" maxLength:"10"`
	// Between parts the files of one cell; empty for |.
	Between string `json:"between,omitempty" maxLength:"10"`
	// Yes and No are the words of the main flag; empty for 1 and nothing.
	Yes string `json:"yes,omitempty" maxLength:"40"`
	No  string `json:"no,omitempty" maxLength:"40"`
	// NoVariantAlt leaves the alt text out for variants.
	NoVariantAlt bool `json:"noVariantAlt,omitempty"`
}

// Column is a column of the list: its header, and what stands in it. A column of none of the fields holds Text in every row.
type Column struct {
	Field  string `json:"field,omitempty" maxLength:"40"`
	Header string `json:"header" maxLength:"200"`
	Size   string `json:"size,omitempty" maxLength:"40"` // of file and address: of which rendition; empty for the first
	Text   string `json:"text,omitempty" maxLength:"2000"`
}

const (
	// MostColumns is how many a list may have.
	MostColumns = 100
	mostHeader  = 200
)

// Row is a picture as the list tells of it.
type Row struct {
	Owner     Owner
	Position  int // among those that go, from 1: where the main picture does not go, the next one is the main one
	Alt       string
	Width     int
	Height    int
	SHA       string
	Paths     map[string]string // by rendition
	Addresses map[string]string // that anybody can fetch it from, by rendition
}

// field is a field of a list, and what stands in it: of one picture, and of all of an owner.
type field struct {
	name string
	text func(l *List, c Column, rows []Row) string
}

// ofOwner is a field that says the same of all pictures of an owner.
func ofOwner(name string, text func(Owner) string) field {
	return field{name, func(_ *List, _ Column, rows []Row) string { return text(rows[0].Owner) }}
}

// ofEach is a field of which each picture says something: of several they stand one behind the other.
func ofEach(name string, text func(*List, Column, Row) string) field {
	return field{name, func(l *List, c Column, rows []Row) string {
		all := make([]string, len(rows))
		for i, r := range rows {
			all[i] = text(l, c, r)
		}
		return l.join(all)
	}}
}

// ofMain is a field of the first picture.
func ofMain(name string, text func(*List, Column, Row) string) field {
	return field{name, func(l *List, c Column, rows []Row) string {
		if rows[0].Position != 1 {
			return ""
		}
		return text(l, c, rows[0])
	}}
}

// fields are all of them, in the order in which they are offered.
var fields = []field{
	ofOwner("sku", func(o Owner) string { return o.SKU }),
	ofOwner("parent", func(o Owner) string { return o.Parent }),
	ofOwner("barcode", func(o Owner) string { return o.Barcode }),
	ofOwner("code", func(o Owner) string { return o.Code }),
	ofOwner("title", func(o Owner) string { return o.Title }),
	ofOwner("kind", func(o Owner) string { return o.Kind }),
	ofEach("file", func(_ *List, c Column, r Row) string { return r.Paths[c.Size] }),
	ofMain("main_file", func(_ *List, c Column, r Row) string { return r.Paths[c.Size] }),
	{"other_files", func(l *List, c Column, rows []Row) string {
		return l.others(rows, func(r Row) string { return r.Paths[c.Size] })
	}},
	ofEach("address", func(_ *List, c Column, r Row) string { return r.Addresses[c.Size] }),
	ofMain("main_address", func(_ *List, c Column, r Row) string { return r.Addresses[c.Size] }),
	{"other_addresses", func(l *List, c Column, rows []Row) string {
		return l.others(rows, func(r Row) string { return r.Addresses[c.Size] })
	}},
	ofEach("position", func(_ *List, _ Column, r Row) string { return strconv.Itoa(r.Position) }),
	ofEach("main", func(l *List, _ Column, r Row) string { return l.flag(r.Position == 1) }),
	ofEach("alt", func(l *List, _ Column, r Row) string { return l.alt(r) }),
	ofMain("main_alt", func(l *List, _ Column, r Row) string { return l.alt(r) }),
	ofEach("width", func(_ *List, _ Column, r Row) string { return strconv.Itoa(r.Width) }),
	ofEach("height", func(_ *List, _ Column, r Row) string { return strconv.Itoa(r.Height) }),
	ofEach("sha256", func(_ *List, _ Column, r Row) string { return r.SHA }),
	{"text", func(_ *List, c Column, _ []Row) string { return c.Text }},
}

func fieldOf(name string) int {
	return slices.IndexFunc(fields, func(f field) bool { return f.name == name })
}

// Encodings and LineEnds are how a list of CSV may be written; Separators what parts its cells.
var (
	Encodings  = []string{"utf-8", "utf-8-bom", "windows-1252", "utf-16"}
	LineEnds   = []string{"crlf", "lf"}
	Separators = []string{",", ";", "\t", "|"}
)

// Check says whether a list can be, whatever the sizes of its channel. ErrChannel with what is wrong.
func (l *List) Check() error {
	if err := l.check(); err != nil {
		return fmt.Errorf("%w: the list: %v", ErrChannel, err)
	}
	return nil
}

func (l *List) check() error {
	extension := ""
	if dot := strings.LastIndexByte(l.Name, '.'); dot > 0 {
		extension = strings.ToLower(l.Name[dot:])
	}
	switch {
	case strings.ContainsAny(l.Name, "/\\\r\n\x00") || !slices.Contains([]string{".csv", ".xlsx", ".ods"}, extension):
		return errors.New("its name ends with .csv, .xlsx or .ods and holds no folder")
	case len(l.Columns) == 0 || len(l.Columns) > MostColumns:
		return fmt.Errorf("it has one to %d columns", MostColumns)
	case l.Encoding != "" && !slices.Contains(Encodings, l.Encoding):
		return fmt.Errorf("there is no encoding %q", l.Encoding)
	case l.LineEnd != "" && !slices.Contains(LineEnds, l.LineEnd):
		return fmt.Errorf("there is no line end %q", l.LineEnd)
	case l.Separator != "" && !slices.Contains(Separators, l.Separator):
		return errors.New("its cells are parted by , ; | or a tab")
	}
	for _, of := range l.Columns {
		if fieldOf(of.field()) < 0 {
			return fmt.Errorf("there is no field %q", of.Field)
		}
		if len(of.Header) > mostHeader || strings.ContainsAny(of.Header, "\r\n") {
			return errors.New("a header stands on one line")
		}
	}
	return nil
}

// sized says whether each size that a column names is one of the channel.
func (l *List) sized(c Channel) error {
	for _, of := range l.Columns {
		if of.Size != "" && !slices.ContainsFunc(c.Renditions, func(r Rendition) bool { return r.Name == of.Size }) {
			return fmt.Errorf("%w: the list: the column %s names the size %s, which there is not", ErrChannel, of.Header, of.Size)
		}
	}
	return nil
}

func (c Column) field() string {
	if c.Field == "" {
		return "text"
	}
	return c.Field
}

// Head is the list's first row.
func (l *List) Head() []string {
	all := make([]string, len(l.Columns))
	for i, c := range l.Columns {
		all[i] = c.Header
	}
	return all
}

// Lines are the list's rows for the pictures of one owner, of which there is one at least.
func (l *List) Lines(c Channel, rows []Row) (lines [][]string) {
	if l.PerOwner {
		return [][]string{l.line(c, rows)}
	}
	for i := range rows {
		lines = append(lines, l.line(c, rows[i:i+1]))
	}
	return lines
}

func (l *List) line(c Channel, rows []Row) []string {
	cells := make([]string, len(l.Columns))
	for i, column := range l.Columns {
		if column.Size == "" {
			column.Size = c.Renditions[0].Name
		}
		cells[i] = fields[fieldOf(column.field())].text(l, column, rows)
	}
	return cells
}

func (l *List) join(all []string) string {
	if len(all) == 1 {
		return all[0]
	}
	between := l.Between
	if between == "" {
		between = "|"
	}
	return strings.Join(all, between)
}

func (l *List) others(rows []Row, text func(Row) string) string {
	var all []string
	for _, r := range rows {
		if r.Position > 1 {
			all = append(all, text(r))
		}
	}
	return l.join(append(all, make([]string, max(0, 1-len(all)))...))
}

func (l *List) flag(main bool) string {
	switch {
	case !main:
		return l.No
	case l.Yes == "":
		return "1"
	}
	return l.Yes
}

func (l *List) alt(r Row) string {
	if l.NoVariantAlt && r.Owner.Kind == "variant" {
		return ""
	}
	return r.Alt
}

// likely says which of the list's fields a column of tables in hand is.
var likely = map[table.Field]string{table.SKU: "sku", table.Parent: "parent", table.Barcode: "barcode", table.Code: "code", table.Title: "title", table.KindOf: "kind",
	table.Picture: "file", table.Main: "main_file", table.Pictures: "other_files", table.Position: "position", table.MainFlag: "main", table.Alt: "alt"}

// Columns proposes a list's columns by the header of an example and the rows below it, which say whether a file is meant or an address, and by
// which words the main picture is marked. A header that is not known becomes a column of the text that stands in all rows, else an empty one.
func Columns(header table.Row, below []table.Row) (columns []Column, yes, no string) {
	assigned := table.Assign(header, below)
	for i, cell := range header.Cells {
		column := Column{Header: strings.Join(strings.Fields(cell.Text), " "), Field: likely[assigned[i]]}
		held := cellsOf(below, i)
		switch column.Field {
		case "file", "main_file", "other_files":
			if slices.ContainsFunc(held, func(s string) bool { return table.IsAddress(strings.TrimSpace(s)) }) {
				column.Field = map[string]string{"file": "address", "main_file": "main_address", "other_files": "other_addresses"}[column.Field]
			}
		case "main":
			yes, no = flagWords(held)
		case "":
			column.Field = "text"
			if distinct := slices.Compact(slices.Clone(held)); len(distinct) == 1 && len(held) > 1 {
				column.Text = distinct[0]
			}
		}
		columns = append(columns, column)
	}
	return columns, yes, no
}

func cellsOf(rows []table.Row, column int) (all []string) {
	for _, r := range rows {
		text := ""
		if column < len(r.Cells) {
			text = r.Cells[column].Text
		}
		all = append(all, text)
	}
	return all
}

// flagWords are the words by which an example marks a main picture and another one: the rarer of two, as an owner has one main picture. Those of
// a known meaning are taken by that.
func flagWords(held []string) (yes, no string) {
	times := map[string]int{}
	var words []string
	for _, w := range held {
		if times[w]++; times[w] == 1 {
			words = append(words, w)
		}
	}
	if len(words) == 0 || len(words) > 2 {
		return "", ""
	}
	if len(words) == 1 {
		return words[0], ""
	}
	a, b := words[0], words[1]
	if table.IsYes(b) && !table.IsYes(a) || !table.IsYes(a) && times[b] < times[a] {
		a, b = b, a
	}
	return a, b
}
