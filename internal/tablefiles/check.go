package tablefiles

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
)

var (
	// ErrEmpty is returned for a table without a row that holds something.
	ErrEmpty = errors.New("the table is empty; its header must name the columns")
	// ErrColumn is returned for an assignment to a column that there is not.
	ErrColumn = errors.New("there is no such column")
	// ErrField is returned for an assignment of a field that there is not.
	ErrField = errors.New("there is no such field")
	// ErrKeyless is returned where no column is the key.
	ErrKeyless = errors.New("no column is the key")
)

// Assigned is FIELD=COLUMN: a field, and a column by its header or its letters.
type Assigned struct {
	Field  table.Field
	Column string
}

// Begun is a table whose header is found.
type Begun struct {
	Header table.Row
	Fields table.Assignment
	ahead  []table.Row // read to find the header, and not yet used
	rows   sheet.Rows
	// Read is how many rows behind the header were read that hold something.
	Read int
}

// ahead is how many rows are read to find the header and to see what the columns hold.
const ahead = 250

// Begin finds a table's header and proposes which column is which field. Errors: ErrEmpty, and those of reading.
func Begin(rows sheet.Rows) (*Begun, error) {
	b := &Begun{rows: rows}
	for len(b.ahead) < ahead {
		row, err := rows.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		row.Cells = slices.Clone(row.Cells)
		b.ahead = append(b.ahead, row)
	}
	at := table.Header(b.ahead)
	if at < 0 {
		return nil, ErrEmpty
	}
	b.Header = b.ahead[at]
	b.ahead = b.ahead[at+1:]
	b.Fields = table.Assign(b.Header, b.ahead)
	return b, nil
}

// Next returns the next row behind the header; io.EOF behind the last.
func (b *Begun) Next() (table.Row, error) {
	if len(b.ahead) > 0 {
		row := b.ahead[0]
		b.ahead = b.ahead[1:]
		return row, nil
	}
	return b.rows.Next()
}

// Assign changes which column is which field. Errors: ErrColumn.
func (b *Begun) Assign(all []Assigned) error {
	for _, one := range all {
		at := slices.IndexFunc(b.Header.Cells, func(c table.Cell) bool { return strings.TrimSpace(c.Text) == strings.TrimSpace(one.Column) })
		if at < 0 {
			at = slices.IndexFunc(b.Header.Cells, func(c table.Cell) bool { return strings.EqualFold(strings.TrimSpace(c.Text), one.Column) })
		}
		if at < 0 {
			at = table.Column(one.Column)
		}
		if at < 0 || at >= sheet.MaxColumns {
			return fmt.Errorf("%w: %q", ErrColumn, one.Column)
		}
		for column, field := range b.Fields {
			if field == one.Field {
				delete(b.Fields, column)
			}
		}
		b.Fields[at] = one.Field
	}
	return nil
}

// Proposal is which column is which field, those included that become options and attributes.
func (b *Begun) Proposal() table.Assignment {
	b.Fields.Rest(b.Header, b.ahead)
	return b.Fields
}

// Types are what the first cells of options and attributes are, by column.
func (b *Begun) Types() map[int]table.Type {
	types := map[int]table.Type{}
	for column, f := range b.Fields {
		if f.Own() != "" {
			types[column] = table.TypeOf(b.ahead, column)
		}
	}
	return types
}

// Knows returns why owners can't be read from the table: no column is the SKU, or there are too many.
func (b *Begun) Knows() error {
	switch {
	case len(b.Header.Cells) > catalogue.MaxColumns:
		return fmt.Errorf("%w; this one has %d", catalogue.ErrColumns, len(b.Header.Cells))
	case b.Fields.Of(table.SKU) < 0:
		return catalogue.ErrNoSKU
	}
	return nil
}

// Owners reads what a table says of owners, to its end. Columns that are no field are options and attributes. With clear, an empty cell
// takes away what stands. Errors: those of Knows and of reading.
func (b *Begun) Owners(clear bool) ([]catalogue.Row, []catalogue.Problem, error) {
	if err := b.Knows(); err != nil {
		return nil, nil, err
	}
	b.Fields.Rest(b.Header, b.ahead)
	r := table.NewReader(b.Header, table.Options{Fields: b.Fields}, clear)
	for {
		row, err := b.Next()
		if err == io.EOF {
			rows, problems := r.End()
			return rows, problems, nil
		}
		if err != nil {
			return nil, nil, err
		}
		r.Row(row)
	}
}

// Check checks a table to its end. Errors: ErrKeyless, and those of reading, beside the problems found so far.
func (b *Begun) Check(o table.Options) ([]table.Problem, error) {
	o.Fields = b.Fields
	if key := o.Key; b.Fields.Of(key) < 0 {
		return nil, fmt.Errorf("%w: none is %s; name it by --assign %s=COLUMN, or another key by --key", ErrKeyless, key, key)
	}
	c := table.NewChecker(b.Header, o)
	for {
		row, err := b.Next()
		if err == io.EOF {
			return c.End(), nil
		}
		if err != nil {
			return c.End(), err
		}
		if !row.Empty() {
			b.Read++
		}
		c.Row(row)
	}
}
