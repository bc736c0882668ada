package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/sheet"
	"ambrosa/internal/tablefiles"

	"github.com/spf13/cobra"
)

// checked are the wishes of a check.
type checked struct {
	file, sheet, owners, mode, key string
	pictures, assign               []string
}

func checkCommand() *cobra.Command {
	var w checked
	c := &cobra.Command{
		Use:   "check FILE [--pictures FOLDER-OR-ARCHIVE …] [--owners owners.csv] [--assign FIELD=COLUMN …]",
		Short: "Write what is wrong with a table as JSON objects, one a line, with repairs",
		Long: "Write what is wrong with a table as JSON objects, one a line, in the order of the rows, with repairs where one is known.\n" +
			"FIELD is one of " + join(table.Fields) + ", option:NAME, attribute:NAME; COLUMN a header or a column's letters.\n" +
			"Exit 1 where a row is stopped, 2 where nothing could be read.",
		Args: cobra.MinimumNArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			w.file = args[0]
			if err := w.more(args[1:]); err != nil {
				return err
			}
			return w.check(cmd.Context())
		},
	}
	c.Flags().StringVar(&w.sheet, "sheet", "", "the sheet of a workbook; without it the first that is not hidden")
	c.Flags().StringArrayVar(&w.pictures, "pictures", nil, "a folder or archive with the pictures that the table names")
	c.Flags().StringVar(&w.owners, "owners", "", "what the catalogue has: id,kind,parent_id,sku,barcode,title and attributes")
	c.Flags().StringArrayVar(&w.assign, "assign", nil, "FIELD=COLUMN: which column is which field")
	c.Flags().StringVar(&w.mode, "mode", string(table.Both), "what the table may do: create, update or both")
	c.Flags().StringVar(&w.key, "key", string(table.SKU), "the field that rows are known by")
	return c
}

// more takes what stands behind --pictures and --assign without the flag before it.
func (w *checked) more(args []string) error {
	for _, a := range args {
		field, _, assigned := strings.Cut(a, "=")
		_, known := table.ReadField(field)
		switch {
		case assigned && known && len(w.assign) > 0:
			w.assign = append(w.assign, a)
		case len(w.pictures) > 0:
			w.pictures = append(w.pictures, a)
		default:
			return usage("%q: a check is of one table", a)
		}
	}
	return nil
}

func (w *checked) check(ctx context.Context) error {
	o := table.Options{Mode: table.Mode(w.mode)}
	if !slices.Contains([]table.Mode{table.Create, table.Update, table.Both}, o.Mode) {
		return usage("there is no mode %q; there are create, update, both", w.mode)
	}
	key, ok := table.ReadField(w.key)
	if !ok || !key.IsKey() {
		return usage("%q is no key; keys are sku, barcode, code, title, attribute:NAME", w.key)
	}
	o.Key = key
	assigned, err := readAssigned(w.assign)
	if err != nil {
		return err
	}
	if len(w.pictures) > 0 {
		if o.Files, err = tablefiles.ReadPictures(ctx, w.pictures); err != nil {
			return fmt.Errorf("%w: %w", errUnreadable, err)
		}
	}
	if w.owners != "" {
		owners, err := tablefiles.ReadOwners(w.owners)
		if err != nil {
			return fmt.Errorf("%w: %s: %w", errUnreadable, w.owners, err)
		}
		o.Catalogue = owners
	}
	return unread(w.file, sheet.WithFile(w.file, w.sheet, func(f sheet.File, rows sheet.Rows) error {
		b, err := tablefiles.Begin(rows)
		if err != nil {
			return err
		}
		if err := b.Assign(assigned); err != nil {
			return usage("%v", err)
		}
		problems, err := b.Check(o)
		if errors.Is(err, tablefiles.ErrKeyless) {
			return err
		}
		troubles := tablefiles.Troubles(tablefiles.Notes(f, rows), b.Header)
		if b.Read == 0 {
			troubles = append(troubles, message.New("sheet_no_rows"))
		}
		for _, trouble := range troubles {
			fmt.Fprintf(os.Stderr, "%s: %s\n", w.file, trouble.Text())
		}
		stopped, written := writeProblems(problems)
		if err := errors.Join(err, written); err != nil {
			fmt.Fprintf(os.Stderr, "ambrosa: %s: %v\n", w.file, err)
			return errSome
		}
		if stopped {
			return errSome
		}
		return nil
	}))
}

func readAssigned(all []string) (assigned []tablefiles.Assigned, err error) {
	for _, a := range all {
		name, column, ok := strings.Cut(a, "=")
		field, known := table.ReadField(name)
		if !ok || column == "" {
			return nil, usage("%q is not FIELD=COLUMN", a)
		}
		if !known {
			return nil, usage("there is no field %q; there are %s, option:NAME, attribute:NAME", name, join(table.Fields))
		}
		assigned = append(assigned, tablefiles.Assigned{Field: field, Column: column})
	}
	return assigned, nil
}

// found is a problem as it is written.
type found struct {
	Row    *int    `json:"row"`
	Column *string `json:"column"`
	Value  *string `json:"value"`
	Kind   string  `json:"kind"`
	Stops  bool    `json:"stops"`
	Repair *string `json:"repair"`
	Why    string  `json:"why"`
}

// writeProblems writes problems and says whether one stops a row.
func writeProblems(problems []table.Problem) (stopped bool, err error) {
	out := bufio.NewWriterSize(os.Stdout, 64<<10)
	lines := newLines(out)
	for _, p := range problems {
		f := found{Value: &p.Value, Kind: p.Kind, Stops: p.Stops, Repair: p.Repair, Why: p.Why.Text()}
		if p.Row > 0 {
			f.Row = &p.Row
		}
		if p.Column >= 0 {
			if f.Column = &p.Header; p.Header == "" {
				letters := table.Letters(p.Column)
				f.Column = &letters
			}
		}
		stopped = stopped || p.Stops
		if err := lines.Encode(f); err != nil {
			return stopped, err
		}
	}
	return stopped, out.Flush()
}
