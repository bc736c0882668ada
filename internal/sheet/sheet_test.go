package sheet

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"

	"ambrosa/core/table"

	"github.com/xuri/excelize/v2"
)

// read reads a sheet of a file: texts by row, rows that are left out empty; a row whose quotes don't match as one cell "broken".
func read(t *testing.T, path, name string) (rows [][]string, cells []table.Row) {
	t.Helper()
	f, err := Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	at, err := Pick(f, name)
	if err != nil {
		t.Fatal(err)
	}
	r, err := f.Rows(at)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Close()
	for {
		row, err := r.Next()
		if err == io.EOF {
			return rows, cells
		}
		if err != nil {
			t.Fatal(err)
		}
		for len(rows) < row.Number-1 {
			rows = append(rows, []string{})
		}
		if row.Cells = slices.Clone(row.Cells); row.Broken {
			rows = append(rows, []string{"broken"})
		} else {
			rows = append(rows, row.Texts())
		}
		cells = append(cells, row)
	}
}

func file(t *testing.T, name string, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// The rules of RFC 4180, section 2, one by one, and how texts bend them.
func TestCSV(t *testing.T) {
	wide := func(s string) string {
		var b bytes.Buffer
		b.WriteString("\xff\xfe")
		for _, u := range utf16.Encode([]rune(s)) {
			b.Write([]byte{byte(u), byte(u >> 8)})
		}
		return b.String()
	}
	for name, of := range map[string]struct{ text, want string }{
		"1 lines end by CR LF":        {"aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n", `[["aaa","bbb","ccc"],["zzz","yyy","xxx"]]`},
		"2 the last may not":          {"aaa,bbb,ccc\r\nzzz,yyy,xxx", `[["aaa","bbb","ccc"],["zzz","yyy","xxx"]]`},
		"4 blanks are part of a cell": {"a , b\r\n", `[["a "," b"]]`},
		"5 quotes may enclose":        {"\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx", `[["aaa","bbb","ccc"],["zzz","yyy","xxx"]]`},
		"6 line ends in quotes":       {"\"aaa\",\"b\r\nbb\",\"ccc\"\r\nzzz,yyy,xxx", `[["aaa","b\r\nbb","ccc"],["zzz","yyy","xxx"]]`},
		"7 a quote is written twice":  {`"aaa","b""bb","ccc"`, `[["aaa","b\"bb","ccc"]]`},
		"LF":                          {"a,b\n\nc,d\n", `[["a","b"],[],["c","d"]]`},
		"CR alone":                    {"a,b\rc,d\r", `[["a","b"],["c","d"]]`},
		"sep":                         {"sep=;\r\na;b,c\r\n", `[["a","b,c"]]`},
		"semicolons, decimal commas":  {"sku;price\nK-1;1,50\nK-2;2,50\n", `[["sku","price"],["K-1","1,50"],["K-2","2,50"]]`},
		"tabs":                        {"a\tb, c\n1\t2\n", `[["a","b, c"],["1","2"]]`},
		"bars":                        {"a|b\n1|2\n", `[["a","b"],["1","2"]]`},
		"single quotes":               {"'a;x';'b'\n'it''s';'d'\n", `[["a;x","b"],["it's","d"]]`},
		"UTF-8 with its mark":         {"\xef\xbb\xbfé,b", `[["é","b"]]`},
		"UTF-16":                      {wide("é;b\r\nc;d\r\n"), `[["é","b"],["c","d"]]`},
		"UTF-16 without its mark":     {wide("sku;b\r\nc;d\r\n")[2:], `[["sku","b"],["c","d"]]`},
		"Windows-1252":                {"Gr\xf6\xdfe;\x80\nM;3", `[["Größe","€"],["M","3"]]`},
		"one late byte":               {"é\n" + strings.Repeat("x\n", 3) + "\xe9", `[["é"],["x"],["x"],["x"],["é"]]`},
		"NUL":                         {"a\x00b,c", `[["ab","c"]]`},
		"a quote inside":              {"5\" reel,b\nc,d", `[["5\" reel","b"],["c","d"]]`},
		"a broken quote":              {"a,b\n\"x\" y,z\nc,d", `[["a","b"],["broken"],["c","d"]]`},
		"a quote not closed":          {"a,b\n\"x,y\nc,d\ne,\"f\"\n", `[["a","b"],["broken"],["c","d"],["e","f"]]`},
		"cut within a quote":          {"a,b\nc,\"d\ne", `[["a","b"],["broken"],["e"]]`},
		"a formula of a text":         {`="0012",=1+1`, `[["0012","=1+1"]]`},
		"guarded":                     {`'=1+1,'-3,''@x,'x,-3`, `[["=1+1","-3","'@x","'x","-3"]]`},
		"blank and quote":             {`a, "b,c" ,d`, `[["a","b,c","d"]]`},
		"empty cells":                 {"a,,\n,\n\"\"\n", `[["a","",""],["",""],[""]]`},
		"nothing":                     {"", `null`},
	} {
		rows, _ := read(t, file(t, "t.csv", of.text), "")
		if got, _ := json.Marshal(rows); string(got) != strings.ReplaceAll(of.want, "&", `\u0026`) {
			t.Errorf("%s: %s, want %s", name, got, of.want)
		}
	}
}

// The data of csv-spectrum (npm, by M. Ogden and others): each text and what it says.
func TestSpectrum(t *testing.T) {
	folder := "../../web/node_modules/csv-spectrum"
	texts, _ := filepath.Glob(folder + "/csvs/*.csv")
	if len(texts) < 10 {
		t.Skip("csv-spectrum is not installed; make build does it")
	}
	for _, path := range texts {
		rows, _ := read(t, path, "")
		data, err := os.ReadFile(filepath.Join(folder, "json", strings.TrimSuffix(filepath.Base(path), ".csv")+".json"))
		if err != nil {
			t.Fatal(err)
		}
		if data[0] == '{' {
			data = slices.Concat([]byte("["), data, []byte("]"))
		}
		var want []map[string]string
		if err := json.Unmarshal(data, &want); err != nil {
			t.Fatal(err)
		}
		var got []map[string]string
		for _, r := range rows[1:] {
			row := map[string]string{}
			for i, c := range r {
				row[rows[0][i]] = c
			}
			got = append(got, row)
		}
		for i := range want { // a telephone number that was made another in the text only
			delete(want[i], "Contact Phone Number")
			delete(got[i], "Contact Phone Number")
		}
		if g, w := fmt.Sprint(got), fmt.Sprint(want); g != w {
			t.Errorf("%s: %s, want %s", filepath.Base(path), g, w)
		}
	}
}

// hostile are texts that a format may bend.
var hostile = [][]string{{"sku", " a  b ", "", "x\ny"}, {}, {"=1+1", "+1", "-3", "-x", "@a", "\tb", "'=c", "''", "'a", "0012", "9.52E+12", "1,5"},
	{"<&>\"'", "]]>", "&amp;", "_x0041_", "é\u0301漢😀", ";|,"}, {"", ""}, {"  "}, {"TRUE", "#REF!", "2026-03-09"}, {""}, {"z"}}

// What is written is read back, in every format, and no cell is a formula.
func TestWriteAndRead(t *testing.T) {
	for _, extension := range []string{".csv", ".xlsx", ".ods"} {
		var b bytes.Buffer
		w, err := NewWriter(&b, "t"+extension)
		if err != nil {
			t.Fatal(err)
		}
		for _, row := range hostile {
			if err := w.Row(row); err != nil {
				t.Fatal(err)
			}
		}
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		rows, cells := read(t, file(t, "t"+extension, b.String()), "")
		if got, want := fmt.Sprintf("%q", rows), fmt.Sprintf("%q", hostile); got != want {
			t.Errorf("%s:\n%s\nwant\n%s", extension, got, want)
		}
		for _, row := range cells {
			for _, c := range row.Cells {
				if c.Formula != "" || c.Kind != table.Text {
					t.Errorf("%s: %q is %d, with the formula %q", extension, c.Text, c.Kind, c.Formula)
				}
			}
		}
	}
	if _, err := NewWriter(io.Discard, "t.doc"); !errors.Is(err, ErrFormat) {
		t.Errorf("a .doc is written: %v", err)
	}
}

// A workbook by exceljs (npm) reads as an office program shows it, in both epochs of dates.
func TestOthersBook(t *testing.T) {
	for _, epoch := range []string{"1900", "1904"} {
		path := filepath.Join(t.TempDir(), "book.xlsx")
		script, _ := filepath.Abs("testdata/exceljs.mjs")
		node := exec.Command("node", script, path, epoch)
		node.Dir = "../../web"
		if out, err := node.CombinedOutput(); err != nil {
			t.Skipf("no workbook by exceljs: %v %s", err, out)
		}
		rows, cells := read(t, path, "")
		want := [][]string{{"Price list"}, {}, {"SKU", "EAN", "from", "price", "note"}, {"0012", "9.52E+12", "2026-03-09", "12.50", "two kinds"},
			{"K-2", "9520123456795", "", "25", "TRUE"}, {"K-3", "#REF!", "", "", "a\nb <&> x"}, {"0007"}, {"hidden row"}}
		if got := fmt.Sprintf("%q", rows); got != fmt.Sprintf("%q", want) {
			t.Fatalf("%s:\n%s\nwant\n%q", epoch, got, want)
		}
		at := func(row, column int) table.Cell {
			for _, r := range cells {
				if r.Number == row {
					return r.Cells[column]
				}
			}
			return table.Cell{}
		}
		for _, of := range []struct {
			cell table.Cell
			want table.Cell
		}{{at(4, 1), table.Cell{Text: "9.52E+12", Stored: "9520123456788", Kind: table.Number}}, {at(5, 3), table.Cell{Text: "25", Kind: table.Number, Formula: "D4*2"}},
			{at(6, 1), table.Cell{Text: "#REF!", Kind: table.Error}}, {at(6, 3), table.Cell{Kind: table.Unsolved, Formula: "D4*3"}}} {
			if of.cell != of.want {
				t.Errorf("%+v, want %+v", of.cell, of.want)
			}
		}
		if f, err := Open(path); err == nil {
			if s := f.Sheets(); len(s) != 2 || s[0] != (Sheet{"old", true}) || len(f.Notes()) != 1 {
				t.Errorf("sheets %v, notes %v", s, f.Notes())
			}
			f.Close()
		}
		if lying := at(5, 4).Picture; lying == "" {
			t.Error("the picture in a cell is not found")
		} else if f, err := Open(path); err == nil {
			r, err := Part(f, lying)
			if err != nil {
				t.Fatal(err)
			}
			if png, err := io.ReadAll(r); err != nil || !bytes.HasPrefix(png, []byte("\x89PNG")) {
				t.Errorf("the picture in a cell: %d bytes, %v", len(png), err)
			}
			r.Close()
			f.Close()
		}
		if rows, _ := read(t, path, "old"); fmt.Sprint(rows) != "[[hidden]]" {
			t.Errorf("the hidden sheet: %v", rows)
		}
	}
}

// Where LibreOffice is, its files are read, and it reads ours.
func TestOffice(t *testing.T) {
	office, err := exec.LookPath("soffice")
	if err != nil {
		t.Skip("LibreOffice is not installed (Debian: libreoffice-calc)")
	}
	folder := t.TempDir()
	convert := func(from, to string) string {
		out, err := exec.Command(office, "--headless", "--convert-to", to, "--outdir", folder, from).CombinedOutput()
		if err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		return filepath.Join(folder, strings.TrimSuffix(filepath.Base(from), filepath.Ext(from))+"."+to)
	}
	for _, extension := range []string{"ods", "xlsx"} {
		var b bytes.Buffer
		w, err := NewWriter(&b, "t."+extension)
		if err != nil {
			t.Fatal(err)
		}
		rows := [][]string{{"0012", "=1+1", "a  b"}, {}, {"é", "-3"}}
		for _, r := range rows {
			if err := w.Row(r); err != nil {
				t.Fatal(err)
			}
		}
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		for _, to := range []string{"ods", "xlsx"} {
			if got, _ := read(t, convert(file(t, "t."+extension, b.String()), to), ""); fmt.Sprintf("%q", got) != fmt.Sprintf("%q", rows) {
				t.Errorf("%s by way of %s: %q", extension, to, got)
			}
		}
	}
}

// An OpenDocument spreadsheet by the standard's own names (ISO/IEC 26300-1, 9.1 and 6.1): what is repeated, covered, hidden, noted.
func TestODS(t *testing.T) {
	content := odsHead[:strings.Index(odsHead, "<office:body>")] +
		`<office:automatic-styles><style:style xmlns:style="s" style:name="h"><style:table-properties table:display="false"/></style:style></office:automatic-styles>
<office:body><office:spreadsheet><table:table table:name="H" table:style-name="h"><table:table-row><table:table-cell office:value-type="string"><text:p>no</text:p></table:table-cell></table:table-row></table:table>
<table:table table:name="S"><table:shapes><table:table><table:table-row/></table:table></table:shapes>
<table:table-row table:number-rows-repeated="2"><table:table-cell office:value-type="float" office:value="9520123456788"><text:p>9.52E+12</text:p></table:table-cell>
<table:covered-table-cell/><table:table-cell table:number-columns-repeated="2" office:value-type="string"><text:p>a<text:s text:c="3"/>b
 c<text:tab/>d</text:p><text:p>e<office:annotation><text:p>note</text:p></office:annotation><text:span>f </text:span></text:p></table:table-cell><table:table-cell table:number-columns-repeated="16000"/></table:table-row>
<table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="9"/></table:table-row>
<table:table-row><table:table-cell office:value-type="date" office:date-value="2026-03-09"><text:p>9 March</text:p></table:table-cell><table:table-cell table:formula="of:=1/0" office:value-type="string"><text:p>#DIV/0!</text:p></table:table-cell><table:table-cell table:formula="of:=A1"/></table:table-row>
<table:table-row table:number-rows-repeated="1000000"><table:table-cell/></table:table-row></table:table></office:spreadsheet></office:body></office:document-content>`
	path := file(t, "t.ods", zipped(t, "content.xml", content))
	rows, cells := read(t, path, "")
	first := []string{"9.52E+12", "", "a   b c\td\nef", "a   b c\td\nef"}
	want := [][]string{first, first, {}, {}, {}, {"9 March", "#DIV/0!", ""}}
	if fmt.Sprintf("%q", rows) != fmt.Sprintf("%q", want) {
		t.Errorf("%q\nwant\n%q", rows, want)
	}
	last := cells[len(cells)-1].Cells
	if cells[0].Cells[0].Stored != "9520123456788" || last[0] != (table.Cell{Text: "9 March", Stored: "2026-03-09", Kind: table.Date}) ||
		last[1].Kind != table.Error || last[2] != (table.Cell{Formula: "A1", Kind: table.Unsolved}) {
		t.Errorf("%+v", last)
	}
}

func zipped(t testing.TB, parts ...string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i+1 < len(parts); i += 2 {
		w, err := z.Create(parts[i])
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.WriteString(w, parts[i+1]); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// Files that mean harm, or are none, are refused with a word.
func TestRefused(t *testing.T) {
	bomb := `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><office:document-content xmlns:office="o"><office:body>&b;</office:body></office:document-content>`
	outside := `<!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><office:document-content>&a;</office:document-content>`
	deep := strings.Repeat("<a>", 1000) + strings.Repeat("</a>", 1000)
	encrypted := zipped(t, "content.xml", "xxx", "META-INF/manifest.xml", `<manifest:manifest><manifest:file-entry><manifest:encryption-data/></manifest:file-entry></manifest:manifest>`)
	book := excelize.NewFile()
	var b bytes.Buffer
	if err := book.Write(&b, excelize.Options{Password: "kite"}); err != nil {
		t.Fatal(err)
	}
	for name, of := range map[string]struct {
		bytes string
		want  error
	}{
		"entities":         {zipped(t, "content.xml", bomb), ErrDamaged},
		"outside entities": {zipped(t, "content.xml", outside), ErrDamaged},
		"depth":            {zipped(t, "content.xml", deep), ErrDamaged},
		"a password, ODS":  {encrypted, ErrPassword},
		"a password, XLSX": {b.String(), ErrOld},
		"another archive":  {zipped(t, "a.txt", "x"), ErrNoTable},
		"a picture":        {"\xff\xd8\xff\xe0\x00\x10JFIF\x00\x01\x01\x00\x00\x01\x00\x01\x00\x00\xff\xdb\x00C\x00\x08\x06\x06\x07\x06\x05\x08", ErrNoTable},
		"cut":              {b.String()[:0] + zipped(t, "content.xml", "<a><b>"), ErrDamaged},
		"no content types": {zipped(t, "[Content_Types].xml", "<Types/>"), ErrDamaged},
	} {
		f, err := Open(file(t, "t.bin", of.bytes))
		if !errors.Is(err, of.want) {
			t.Errorf("%s: %v, want %v", name, err, of.want)
		}
		if f != nil {
			f.Close()
		}
	}
	if _, err := Open(t.TempDir()); !errors.Is(err, ErrNoTable) {
		t.Errorf("a folder: %v", err)
	}
}

// A million empty rows and a part that unpacks to gigabytes cost time, not memory, and end.
func TestBombs(t *testing.T) {
	empty := strings.Repeat("<row/>", MaxRows-1)
	path := file(t, "t.xlsx", bookOf(t, "<sheetData>"+empty+`<row r="1048576"><c t="inlineStr"><is><t>z</t></is></c></row></sheetData>`))
	rows, _ := read(t, path, "")
	if len(rows) != MaxRows || rows[MaxRows-1][0] != "z" {
		t.Errorf("%d rows", len(rows))
	}
	f, err := Open(file(t, "t.xlsx", bookOf(t, "<sheetData>"+strings.Repeat("<row/>", MaxRows+1))))
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	r, err := f.Rows(0)
	for err == nil {
		_, err = r.Next()
	}
	if !errors.Is(err, ErrTooLarge) {
		t.Errorf("more rows than there are: %v", err)
	}
}

// bookOf is the smallest workbook with a sheet.
func bookOf(t testing.TB, sheetData string) string {
	t.Helper()
	const office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/"
	return zipped(t, "[Content_Types].xml", "<Types/>", "_rels/.rels", `<Relationships><Relationship Id="r" Type="`+office+`officeDocument" Target="xl/workbook.xml"/></Relationships>`,
		"xl/workbook.xml", `<workbook xmlns:r="x"><sheets><sheet name="S" r:id="s"/></sheets></workbook>`,
		"xl/_rels/workbook.xml.rels", `<Relationships><Relationship Id="s" Type="`+office+`worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
		"xl/worksheets/sheet1.xml", "<worksheet>"+sheetData)
}

// Whatever bytes come: reading ends, and texts that are written come back.
func FuzzRecords(f *testing.F) {
	f.Add("a,b\n\"c\"\"\",'=d\r\n")
	f.Add("\n\r")
	f.Add("sep=;\n\"x\ny;z")
	f.Fuzz(func(t *testing.T, text string) {
		r, err := Records(strings.NewReader(text))
		if err != nil {
			return
		}
		var b bytes.Buffer
		w, _ := NewWriter(&b, "t.csv")
		var rows [][]string
		for {
			row, err := r.Next()
			if err == io.EOF {
				break
			}
			if err != nil {
				t.Fatal(err)
			}
			if !row.Broken {
				rows = append(rows, row.Texts())
				if err := w.Row(row.Texts()); err != nil {
					t.Fatal(err)
				}
			}
		}
		if err := w.Close(); err != nil || len(rows) == 0 || dialectOf(b.Bytes()[:min(b.Len(), sampled)]) != (dialect{separator: ',', quote: '"'}) {
			return
		}
		again, err := Records(&b)
		if err != nil {
			return // controls, which a table hasn't
		}
		for i, want := range rows {
			got, err := again.Next()
			if err != nil || !slices.Equal(got.Texts(), want) {
				t.Fatalf("row %d is %q, want %q: %v", i, got.Texts(), want, err)
			}
		}
	})
}

// Whatever a workbook's parts hold: reading ends, and no row or column is beyond what a sheet may have.
func FuzzBook(f *testing.F) {
	f.Add(true, `<sheetData><row r="2"><c r="B2" t="s"><v>0</v></c><c r="D2" s="1"><f>A1</f><v>1e5</v></c></row></sheetData>`)
	f.Add(false, odsHead+`<table:table-row table:number-rows-repeated="3"><table:table-cell office:value-type="float" office:value="1"><text:p>1<text:s/>2</text:p></table:table-cell></table:table-row>`+odsTail)
	f.Fuzz(func(t *testing.T, xlsx bool, part string) {
		content := zipped(t, "content.xml", part)
		if xlsx {
			content = bookOf(t, part)
		}
		file, err := openFile(kept(t, content))
		if err != nil {
			return
		}
		defer file.Close()
		rows, err := file.Rows(0)
		if err != nil {
			return
		}
		for n := 0; n < 5000; n++ {
			row, err := rows.Next()
			if err != nil {
				return
			}
			if row.Number < 1 || row.Number > MaxRows || len(row.Cells) > MaxColumns {
				t.Fatalf("row %d of %d cells", row.Number, len(row.Cells))
			}
		}
	})
}

func kept(t *testing.T, content string) *os.File {
	t.Helper()
	f, err := os.Open(file(t, "t.bin", content))
	if err != nil {
		t.Fatal(err)
	}
	return f
}
