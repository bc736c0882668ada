package tables

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/core/placement"
	"ambrosa/core/table"
	"ambrosa/internal/assets"
	"ambrosa/internal/sheet"

	"github.com/jackc/pgx/v5"
	"github.com/xuri/excelize/v2"
)

// A picture table holds the columns that were chosen, in their order and under their names, with the pictures in the cells; it is written
// as a new file, or into a workbook in which what stands stays as it is.
func TestPictureTable(t *testing.T) {
	st := newHouse(t)
	st.apply(st.bring("owners.csv", "sku,title,category\nK-1,One,Kites > Small\n=K-2,Two,Reels\n"), placement.AddAfter)
	delivery := st.deliver("spring", map[string][]byte{"a/x.jpg": jpegOf("x"), "y.jpg": jpegOf("y"), "z.jpg": jpegOf("z")})
	st.apply(st.bring("first.csv", "sku,picture,alt text,position\nK-1,x.jpg,the front,1\nK-1,y.jpg,the back,2\n=K-2,y.jpg,,1\n"), placement.AddAfter)
	columns := []ShotColumn{{"sku", "Article"}, {table.Preview, "Picture"}, {"name", ""}, {"position", ""}, {"main", ""}, {"alt", "Words"}, {"width", "Pixels"}}
	make := func(s Shots, name string) string {
		t.Helper()
		path := filepath.Join(t.TempDir(), name)
		f, err := os.Create(path)
		if err != nil {
			t.Fatal(err)
		}
		if err := errors.Join(st.PictureTable(ctx, s, name, f), f.Close()); err != nil {
			t.Fatal(err)
		}
		return path
	}
	const onOwners = "Article|Picture|name|position|main|Words|Pixels\nK-1||x.jpg|1|yes|the front|40\nK-1||y.jpg|2||the back|40\n=K-2||y.jpg|1|yes|Two|40"
	for _, name := range []string{"t.csv", "t.ods", "t.xlsx"} {
		rows, lying := read(t, make(Shots{Columns: columns, Side: 64}, name), "")
		if want := strings.Count(name, "xlsx") * 3; strings.Join(rows, "\n") != onOwners || len(lying) != want {
			t.Errorf("%s: %d pictures\n%s\nwant %d\n%s", name, len(lying), strings.Join(rows, "\n"), want, onOwners)
		}
		for place, jpeg := range lying {
			if p, err := assets.Probe(ctx, assets.Source{Bytes: jpeg}, 1<<20); err != nil || p.Width != 40 || !strings.HasPrefix(place, "cell:B") {
				t.Errorf("%s: %+v, %v", place, p, err)
			}
		}
	}
	rows, _ := read(t, make(Shots{Columns: []ShotColumn{{"path", ""}, {"sku", ""}, {"delivery", ""}}, Delivery: delivery, Side: 64}, "d.csv"), "")
	for _, want := range []string{"a/x.jpg|K-1|spring", "y.jpg|K-1|spring", "z.jpg||spring"} {
		if !strings.Contains(strings.Join(rows, "\n"), want) || len(rows) != 4 {
			t.Errorf("the delivery's pictures are %q, want %s", rows, want)
		}
	}
	var category int64
	if err := st.Store.Pool.QueryRow(ctx, "SELECT id FROM owner WHERE title = 'Kites'").Scan(&category); err != nil {
		t.Fatal(err)
	}
	if rows, _ = read(t, make(Shots{Columns: columns[:1], Category: category, Side: 64}, "c.csv"), ""); len(rows) != 3 {
		t.Errorf("a category's pictures, those of the categories below among them: %q", rows)
	}

	// Into a workbook that has something already.
	book := excelize.NewFile()
	if _, err := book.NewSheet("List"); err != nil {
		t.Fatal(err)
	}
	err := errors.Join(book.SetCellValue("List", "A1", "mine"), book.SetCellFormula("List", "B2", "1+1"), book.SetCellValue("List", "H9", 3.5), book.SetColWidth("List", "A", "A", 33),
		book.MergeCell("List", "A1", "B1"))
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := book.Write(&b); err != nil {
		t.Fatal(err)
	}
	into := func(cell string) Shots {
		return Shots{Columns: columns, Side: 64, Book: bytes.NewReader(b.Bytes()), Sheet: "List", Cell: cell}
	}
	for cell, at := range map[string]int{"": 10, "A3": 3} {
		path := make(into(cell), "into.xlsx")
		rows, lying := read(t, path, "List")
		if got := strings.Join(rows[at-1:min(at+3, len(rows))], "\n"); got != onOwners || len(lying) != 3 {
			t.Errorf("at %q: %d pictures\n%s", cell, len(lying), got)
		}
		again, err := excelize.OpenFile(path)
		if err != nil {
			t.Fatal(err)
		}
		formula, _ := again.GetCellFormula("List", "B2")
		mine, _ := again.GetCellValue("List", "A1")
		number, _ := again.GetCellValue("List", "H9")
		width, _ := again.GetColWidth("List", "A")
		merged, _ := again.GetMergeCells("List")
		if formula != "1+1" || mine != "mine" || number != "3.5" || width != 33 || len(merged) != 1 || len(again.GetSheetList()) != 2 {
			t.Errorf("at %q what stood there is %q, %q, %q, %v, %v", cell, formula, mine, number, width, merged)
		}
	}
	for want, s := range map[error]Shots{sheet.ErrTaken: into("B8"), sheet.ErrPlace: into("8B"), ErrShotColumns: {Side: 64}, pgx.ErrNoRows: {Columns: columns, Category: 999, Side: 64},
		sheet.ErrDamaged: {Columns: columns, Side: 64, Book: strings.NewReader("no workbook")}, sheet.ErrSheet: {Columns: columns, Side: 64, Book: bytes.NewReader(b.Bytes()), Sheet: "None"}} {
		if err := st.PictureTable(ctx, s, "x.xlsx", io.Discard); !errors.Is(err, want) {
			t.Errorf("%v, want %v", err, want)
		}
	}

	for _, c := range [][]ShotColumn{nil, {{"colour", ""}}} {
		if _, err := st.SavePreset(ctx, st.person, Preset{"shop", c, 96}); !errors.Is(err, ErrShotColumns) {
			t.Errorf("%v: %v", c, err)
		}
	}
	id, err := st.SavePreset(ctx, st.person, Preset{"shop", columns, 96})
	if err != nil {
		t.Fatal(err)
	}
	if presets, err := st.Presets(ctx); err != nil || len(presets) != 1 || presets[0].ID != id || !strings.Contains(string(presets[0].Columns), "Article") {
		t.Errorf("%+v, %v", presets, err)
	}
	if err := errors.Join(st.RemovePreset(ctx, id)); err != nil {
		t.Error(err)
	}
}

// read reads a table: its rows from the first, cells apart by |, and the pictures that lie in its cells.
func read(t *testing.T, path, name string) (rows []string, lying map[string][]byte) {
	t.Helper()
	f, err := sheet.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	at, err := sheet.Pick(f, name)
	if err != nil {
		t.Fatal(err)
	}
	all, err := f.Rows(at)
	if err != nil {
		t.Fatal(err)
	}
	defer all.Close()
	lying = map[string][]byte{}
	for {
		row, err := all.Next()
		if err == io.EOF {
			return rows, lying
		}
		if err != nil {
			t.Fatal(err)
		}
		for len(rows) < row.Number-1 {
			rows = append(rows, "")
		}
		rows = append(rows, strings.TrimRight(strings.Join(row.Texts(), "|"), ""))
		for column, c := range row.Cells {
			if c.Picture == "" {
				continue
			}
			r, err := sheet.Part(f, c.Picture)
			if err != nil {
				t.Fatal(err)
			}
			if lying[table.Place(row.Number, column)], err = io.ReadAll(r); err != nil {
				t.Fatal(fmt.Errorf("%s: %w", c.Picture, err))
			}
			r.Close()
		}
	}
}
