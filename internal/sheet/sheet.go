// Package sheet reads and writes tables in files: CSV and its relatives, workbooks of Office Open XML (XLSX), and OpenDocument
// spreadsheets (ODS). Everything streams: a row is all that is held, and of an XLSX file the texts that its cells share.
package sheet

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"

	"ambrosa/core/table"
)

var (
	// ErrNoTable is returned for a file that is none of the formats that are read.
	ErrNoTable = errors.New("this is no table: CSV, XLSX and ODS are read")
	// ErrPassword is returned for a workbook that needs a password.
	ErrPassword = errors.New("the workbook needs a password; save it without one")
	// ErrOld is returned for a workbook in the binary format of before 2007.
	ErrOld = errors.New("this workbook has the old format XLS, or needs a password; save it as XLSX without a password")
	// ErrSheet is returned where a workbook has no sheet of that name.
	ErrSheet = errors.New("the workbook has no such sheet")
	// ErrDamaged is returned for a workbook that can't be read to its end.
	ErrDamaged = errors.New("the workbook is damaged")
	// ErrTooLarge is returned for a workbook whose parts unpack to more than they may.
	ErrTooLarge = errors.New("the workbook unpacks to more than is read")
)

const (
	// MaxRows and MaxColumns are how large a sheet may be. Source: ECMA-376, as office programs have it (from memory).
	MaxRows, MaxColumns = 1 << 20, 1 << 14
	// largestPart is how much one part of a workbook may unpack to.
	largestPart = 4 << 30
	// largestTexts is how much the texts that cells share may be: they are held in memory.
	largestTexts = 256 << 20
)

// Sheet is one sheet of a file.
type Sheet struct {
	Name   string
	Hidden bool
}

// Rows are read one after the other; what Next returns stands until it is called again. io.EOF behind the last.
type Rows interface {
	Next() (table.Row, error)
	Close() error
}

// File is a file of tables.
type File interface {
	// Sheets are its sheets in their order; a CSV file has one, without a name.
	Sheets() []Sheet
	// Rows begins to read a sheet, by its place.
	Rows(sheet int) (Rows, error)
	// Notes are what is worth knowing of the file: macros, hidden sheets.
	Notes() []Note
	Close() error
}

// Note is what is worth knowing of a file, by its code: macros, sheet_hidden; of a sheet's rows: rows_hidden, cells_merged.
type Note struct {
	Code, Sheet string
	Count       int
}

// RowsNotes are what is worth knowing of the rows that were read.
func RowsNotes(rows Rows) []Note {
	if noted, ok := rows.(interface{ notes() []Note }); ok {
		return noted.notes()
	}
	return nil
}

// oddities counts what of a sheet is read like everything else, though it looks otherwise in an office program.
type oddities struct{ hidden, merged int }

func (o oddities) notes() (all []Note) {
	if o.hidden > 0 {
		all = append(all, Note{Code: "rows_hidden", Count: o.hidden})
	}
	if o.merged > 0 {
		all = append(all, Note{Code: "cells_merged", Count: o.merged})
	}
	return all
}

// Open opens a table by what its bytes are. Errors: ErrNoTable, ErrPassword, ErrOld, ErrDamaged, ErrTooLarge, those of opening.
func Open(path string) (File, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	file, err := openFile(f)
	if err != nil {
		f.Close()
		return nil, err
	}
	return file, nil
}

func openFile(f *os.File) (File, error) {
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if info.IsDir() {
		return nil, ErrNoTable
	}
	head := make([]byte, 8)
	n, err := io.ReadFull(f, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, err
	}
	switch head = head[:n]; {
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return openBook(f, info.Size())
	case bytes.Equal(head, []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")): // [MS-CFB] 2.2, also what encrypted OOXML is kept in
		return nil, ErrOld
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	return openText(f)
}

// With reads a sheet of a file: the one of that name, or the first that is not hidden. Errors: those of Open and Pick, and the work's.
func With(path, name string, work func(Rows) error) error {
	return WithFile(path, name, func(_ File, rows Rows) error { return work(rows) })
}

// WithFile does so, and shows the file too.
func WithFile(path, name string, work func(File, Rows) error) error {
	f, err := Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	at, err := Pick(f, name)
	if err != nil {
		return err
	}
	rows, err := f.Rows(at)
	if err != nil {
		return err
	}
	defer rows.Close()
	return work(f, rows)
}

// Pick is the place of a sheet by its name; without a name the first that is not hidden. Errors: ErrSheet.
func Pick(f File, name string) (int, error) {
	sheets := f.Sheets()
	if name == "" {
		return max(0, slices.IndexFunc(sheets, func(s Sheet) bool { return !s.Hidden })), nil
	}
	at := slices.IndexFunc(sheets, func(s Sheet) bool { return s.Name == name })
	if at < 0 {
		return 0, fmt.Errorf("%w: %q", ErrSheet, name)
	}
	return at, nil
}
