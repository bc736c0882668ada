package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"ambrosa/internal/sheet"

	"github.com/spf13/cobra"
)

func tableCommand() *cobra.Command {
	look := &cobra.Command{Use: "table", Short: "Read, check and write tables: CSV, XLSX, ODS; no database is needed"}
	look.AddCommand(rowsCommand(), checkCommand(), writeCommand())
	return look
}

func rowsCommand() *cobra.Command {
	var name string
	c := &cobra.Command{
		Use:   "rows FILE",
		Short: "Write the rows of a table as JSON arrays of texts, one a line, as an office program shows them",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return withRows(args[0], name, func(rows sheet.Rows) error { return writeRows(rows, os.Stdout) })
		},
	}
	c.Flags().StringVar(&name, "sheet", "", "the sheet of a workbook; without it the first that is not hidden")
	return c
}

// withRows opens a sheet of a table for some work.
func withRows(path, name string, work func(sheet.Rows) error) error {
	f, err := sheet.Open(path)
	if err != nil {
		return fmt.Errorf("%w: %s: %w", errUnreadable, path, err)
	}
	defer f.Close()
	at, err := sheet.Pick(f, name)
	if err != nil {
		return fmt.Errorf("%w: %s: %w", errUnreadable, path, err)
	}
	rows, err := f.Rows(at)
	if err != nil {
		return fmt.Errorf("%w: %s: %w", errUnreadable, path, err)
	}
	defer rows.Close()
	return work(rows)
}

// writeRows writes rows up to the last one that holds a value. Rows that a file leaves out are empty.
func writeRows(rows sheet.Rows, to io.Writer) error {
	out := bufio.NewWriterSize(to, 64<<10)
	lines := json.NewEncoder(out)
	lines.SetEscapeHTML(false)
	written, waiting := 0, [][]string(nil)
	for {
		row, err := rows.Next()
		if err == io.EOF {
			return out.Flush()
		}
		if err != nil && written == 0 {
			return fmt.Errorf("%w: %w", errUnreadable, err)
		}
		if err != nil {
			return errors.Join(out.Flush(), err)
		}
		if row.Empty() {
			// Whether anything comes behind it is not known yet. Empty rows of a file that has them by the million are counted, not kept.
			if len(row.Cells) > 0 {
				for written+len(waiting) < row.Number-1 {
					waiting = append(waiting, []string{})
				}
				waiting = append(waiting, row.Texts())
			}
			continue
		}
		for _, w := range waiting {
			if err := lines.Encode(w); err != nil {
				return err
			}
			written++
		}
		waiting = nil
		for ; written < row.Number-1; written++ {
			if _, err := out.WriteString("[]\n"); err != nil {
				return err
			}
		}
		if err := lines.Encode(row.Texts()); err != nil {
			return err
		}
		written++
	}
}

func writeCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "write FILE.csv|FILE.xlsx|FILE.ods",
		Short: "Write a table of rows that are given on standard input as JSON arrays, one a line",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) (err error) {
			f, err := os.CreateTemp(folderOf(args[0]), ".ambrosa-*")
			if err != nil {
				return err
			}
			defer os.Remove(f.Name()) // it has another name by then where all went well
			defer f.Close()
			w, err := sheet.NewWriter(f, args[0])
			if err != nil {
				return usage("%v", err)
			}
			if err := copyRows(w, os.Stdin); err != nil {
				return err
			}
			if err := errors.Join(w.Close(), f.Chmod(0o644), f.Close()); err != nil {
				return err
			}
			return os.Rename(f.Name(), args[0])
		},
	}
}

// copyRows writes rows that are read as JSON arrays.
func copyRows(w sheet.Writer, from io.Reader) error {
	in := json.NewDecoder(bufio.NewReaderSize(from, 64<<10))
	for n := 1; ; n++ {
		var cells []string
		switch err := in.Decode(&cells); {
		case err == io.EOF:
			return nil
		case err != nil:
			return fmt.Errorf("%w: row %d of the input is no JSON array of texts: %w", errUnreadable, n, err)
		}
		if err := w.Row(cells); err != nil {
			return err
		}
	}
}

// folderOf is the folder that a file stands in.
func folderOf(path string) string {
	if dir := filepath.Dir(path); dir != "" {
		return dir
	}
	return "."
}
