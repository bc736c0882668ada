package sheet

import (
	"io"
	"os"
	"path/filepath"
	"slices"
	"testing"
)

// A table that is written in any dialect is known as such, and read back as it was; a letter that Windows-1252 has not is a question mark.
func TestWrittenAs(t *testing.T) {
	rows := [][]string{{"SKU", "Größe; in cm", "Alt|text"}, {"0012", `a "b", c`, "two\nlines"}, {"K-2", "é\tü", "✂ x"}, {"K-3", "", "1,5"}}
	for _, separator := range []string{",", ";", "\t", "|"} {
		for _, encoding := range []string{"utf-8", "utf-8-bom", "windows-1252", "utf-16"} {
			for _, end := range []string{"crlf", "lf"} {
				want := Dialect{Separator: separator, Encoding: encoding, LineEnd: end}
				name := filepath.Join(t.TempDir(), "t.csv")
				f, err := os.Create(name)
				if err != nil {
					t.Fatal(err)
				}
				w, err := NewWriterAs(f, name, want)
				if err != nil {
					t.Fatal(err)
				}
				for _, r := range rows {
					if err := w.Row(r); err != nil {
						t.Fatal(err)
					}
				}
				if err := w.Close(); err != nil || f.Close() != nil {
					t.Fatal(err)
				}
				if got, err := WrittenAs(name); err != nil || got != want {
					t.Errorf("%+v is known as %+v, %v", want, got, err)
				}
				book, err := Open(name)
				if err != nil {
					t.Fatal(err)
				}
				read, err := book.Rows(0)
				if err != nil {
					t.Fatal(err)
				}
				for i := 0; ; i++ {
					r, err := read.Next()
					if err == io.EOF {
						if i != len(rows) {
							t.Errorf("%+v: %d rows", want, i)
						}
						break
					}
					if err != nil {
						t.Fatal(err)
					}
					var cells []string
					for _, c := range r.Cells {
						cells = append(cells, c.Text)
					}
					expected := slices.Clone(rows[min(i, len(rows)-1)])
					if encoding == "windows-1252" && i == 2 {
						expected[2] = "? x"
					}
					if !slices.Equal(cells, expected) {
						t.Errorf("%+v, row %d: %q", want, i, cells)
					}
				}
				if err := book.Close(); err != nil {
					t.Fatal(err)
				}
			}
		}
	}
}
