package tablefiles

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"ambrosa/core/table"
	"ambrosa/internal/sheet"

	"github.com/xuri/excelize/v2"
)

// BenchmarkCheck reads and checks a workbook of 100,000 rows against a catalogue of 100,000 owners and 100,000 file names; ratio is its
// time by that of reading the same file plainly with excelize's row iterator.
func BenchmarkCheck(b *testing.B) {
	const rows = 100_000
	folder := b.TempDir()
	path := filepath.Join(folder, "t.xlsx")
	book := excelize.NewFile()
	w, err := book.NewStreamWriter("Sheet1")
	if err != nil {
		b.Fatal(err)
	}
	header := []any{"sku", "title", "ean", "price", "image", "position", "alt", "category", "colour", "size"}
	for i := len(header); i < 40; i++ {
		header = append(header, fmt.Sprintf("note %d", i))
	}
	set := func(n int, cells []any) {
		place, err := excelize.CoordinatesToCellName(1, n)
		if err == nil {
			err = w.SetRow(place, cells)
		}
		if err != nil {
			b.Fatal(err)
		}
	}
	set(1, header)
	var owners, names strings.Builder
	owners.WriteString("id,kind,parent_id,sku,barcode,title\n")
	for i := range rows {
		cells := []any{fmt.Sprintf("PK-%06d", i), fmt.Sprintf("Kite %d", i), 9520123456788 + i, 12.5, fmt.Sprintf("pk_%06d.jpg", i), 1, "a kite", "Kites > Deltas", "red", i % 9}
		for c := len(cells); c < 40; c++ {
			cells = append(cells, fmt.Sprintf("value %d", (i+c)%1000))
		}
		set(i+2, cells)
		fmt.Fprintf(&owners, "%d,product,,PK-%06d,,Kite %d\n", i, i, i)
		if i%10 > 0 {
			fmt.Fprintf(&names, "pk_%06d.jpg\n", i)
		} else {
			fmt.Fprintf(&names, "PK-%06d.JPG\n", i)
		}
	}
	if err := w.Flush(); err != nil {
		b.Fatal(err)
	}
	if err := book.SaveAs(path); err != nil {
		b.Fatal(err)
	}
	catalogue := filepath.Join(folder, "owners.csv")
	if err := os.WriteFile(catalogue, []byte(owners.String()), 0o600); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		runtime.GC()
		begun := time.Now()
		f, err := excelize.OpenFile(path)
		if err != nil {
			b.Fatal(err)
		}
		all, err := f.Rows("Sheet1")
		if err != nil {
			b.Fatal(err)
		}
		for all.Next() {
			if _, err := all.Columns(); err != nil {
				b.Fatal(err)
			}
		}
		f.Close()
		plain := time.Since(begun)
		runtime.GC()

		begun = time.Now()
		known, err := ReadOwners(catalogue)
		if err != nil {
			b.Fatal(err)
		}
		files := table.NewFiles(strings.Fields(names.String()))
		var problems []table.Problem
		err = sheet.With(path, "", func(rows sheet.Rows) error {
			begun, err := Begin(rows)
			if err == nil {
				problems, err = begun.Check(table.Options{Key: table.SKU, Catalogue: known, Files: files})
			}
			return err
		})
		took := time.Since(begun)
		if err != nil && err != io.EOF {
			b.Fatal(err)
		}
		near := 0
		for _, p := range problems {
			if p.Kind == table.PictureNear {
				near++
			}
		}
		if near != rows/10 {
			b.Fatalf("%d pictures are near, want %d", near, rows/10)
		}
		b.ReportMetric(took.Seconds()/plain.Seconds(), "ratio")
		b.ReportMetric(plain.Seconds(), "s/excelize")
		b.ReportMetric(took.Seconds(), "s/check")
	}
}
