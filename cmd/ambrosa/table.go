package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

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
			return unread(args[0], sheet.With(args[0], name, func(rows sheet.Rows) error { return writeRows(rows, os.Stdout) }))
		},
	}
	c.Flags().StringVar(&name, "sheet", "", "the sheet of a workbook; without it the first that is not hidden")
	return c
}

// writeRows writes rows up to the last one that holds a value. Rows that a file leaves out are empty.
func writeRows(rows sheet.Rows, to io.Writer) error {
	out := bufio.NewWriterSize(to, 64<<10)
	lines := newLines(out)
	written, waiting := 0, [][]string(nil)
	for {
		row, err := rows.Next()
		if err == io.EOF {
			return out.Flush()
		}
		if err != nil && written == 0 {
			return err
		}
		if err != nil {
			fmt.Fprintln(os.Stderr, "ambrosa:", errors.Join(err, out.Flush()))
			return errSome
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

// unread is an error of reading a table as the program's end: nothing could be read, unless some of it was.
func unread(path string, err error) error {
	if err == nil || errors.Is(err, errSome) || errors.Is(err, errUsage) {
		return err
	}
	return fmt.Errorf("%w: %s: %w", errUnreadable, path, err)
}

func writeCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "write FILE.csv|FILE.xlsx|FILE.ods",
		Short: "Write a table of rows that are given on standard input as JSON arrays, one a line",
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			return writeTable(args[0], func(w sheet.Writer) error { return copyRows(w, os.Stdin) })
		},
	}
}

// writeTable writes a table in the format of its name. It stands there once it is whole.
func writeTable(path string, write func(sheet.Writer) error) error {
	return writeBeside(path, func(f *os.File) error {
		w, err := sheet.NewWriter(f, path)
		if err != nil {
			return usage("%v", err)
		}
		if err := write(w); err != nil {
			return err
		}
		return w.Close()
	})
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
