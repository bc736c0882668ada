package sheet

import (
	"archive/zip"
	"bufio"
	"cmp"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	wide "golang.org/x/text/encoding/unicode"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
)

// ErrFormat is returned for a file that is to be written in a format that is not known.
var ErrFormat = errors.New("a table is written as .csv, .xlsx or .ods")

// ErrCell is returned for a text that is longer than a cell of a workbook may be.
var ErrCell = fmt.Errorf("a cell of a workbook holds at most %d characters", excelize.TotalCellChars)

// Writer takes rows of texts. Close ends the file; without it nothing can be read.
type Writer interface {
	Row(cells []string) error
	Close() error
}

// NewWriter writes a table in the format of a file's name. What is written is text, so that codes keep their zeros and no office
// program takes a cell for a formula (OWASP, CSV Injection). Errors: ErrFormat.
func NewWriter(to io.Writer, name string) (Writer, error) {
	switch strings.ToLower(filepath.Ext(name)) {
	case ".csv":
		return NewWriterAs(to, name, Dialect{})
	case ".xlsx":
		return newXLSXWriter(to)
	case ".ods":
		return newODSWriter(to)
	}
	return nil, fmt.Errorf("%w; %q is none of them", ErrFormat, filepath.Base(name))
}

// Dialect is how a table of CSV is written; empty for a comma, UTF-8 and CR LF, as RFC 4180 has it.
type Dialect struct {
	Separator string // one character
	Encoding  string // utf-8, utf-8-bom, windows-1252 or utf-16; what an encoding has not stands as ?
	LineEnd   string // crlf or lf
}

// NewWriterAs is NewWriter with a dialect for CSV; the other formats have none. Errors: ErrFormat.
func NewWriterAs(to io.Writer, name string, d Dialect) (Writer, error) {
	if strings.ToLower(filepath.Ext(name)) != ".csv" {
		return NewWriter(to, name)
	}
	w := &csvWriter{separator: cmp.Or(d.Separator, ",")[0], end: "\r\n"}
	if d.LineEnd == "lf" {
		w.end = "\n"
	}
	encoded := to
	switch d.Encoding {
	case "utf-8-bom":
		w.mark = "\ufeff"
	case "windows-1252":
		w.encoder = transform.NewWriter(to, transform.Chain(runes.Map(inWindows), charmap.Windows1252.NewEncoder()))
	case "utf-16":
		w.encoder = transform.NewWriter(to, wide.UTF16(wide.LittleEndian, wide.UseBOM).NewEncoder())
	}
	if w.encoder != nil {
		encoded = w.encoder
	}
	w.Writer = bufio.NewWriterSize(encoded, 64<<10)
	_, err := w.WriteString(w.mark)
	return w, err
}

// csvWriter writes CSV (RFC 4180).
type csvWriter struct {
	*bufio.Writer
	encoder   io.WriteCloser // nil where what is written is UTF-8
	separator byte
	end, mark string
}

func (w *csvWriter) Row(cells []string) error {
	for i, c := range cells {
		if i > 0 {
			_ = w.WriteByte(w.separator) // an error stays until Flush
		}
		c = guarded(c)
		if c == "" && len(cells) == 1 || strings.ContainsAny(c, ",\"\r\n;\t|") || strings.HasPrefix(c, "\ufeff") || strings.HasPrefix(c, " ") || strings.HasSuffix(c, " ") {
			c = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
		}
		_, _ = w.WriteString(c)
	}
	_, err := w.WriteString(w.end)
	return err
}

func (w *csvWriter) Close() error {
	err := w.Flush()
	if w.encoder != nil {
		err = errors.Join(err, w.encoder.Close())
	}
	return err
}

// inWindows is a letter as Windows-1252 has it; ? for one that it has not.
func inWindows(r rune) rune {
	if _, ok := charmap.Windows1252.EncodeRune(r); !ok {
		return '?'
	}
	return r
}

// xlsxWriter writes a workbook of one sheet.
type xlsxWriter struct {
	to    io.Writer
	book  *excelize.File
	sheet *excelize.StreamWriter
	row   int
	cells []any
}

func newXLSXWriter(to io.Writer) (Writer, error) {
	w := &xlsxWriter{to: to, book: excelize.NewFile()}
	var err error
	w.sheet, err = w.book.NewStreamWriter(scratchSheet)
	return w, err
}

func (w *xlsxWriter) Row(cells []string) error {
	w.row++
	if len(cells) == 0 {
		return nil
	}
	w.cells = w.cells[:0]
	for _, c := range cells {
		if utf8.RuneCountInString(c) > excelize.TotalCellChars {
			return fmt.Errorf("row %d: %w", w.row, ErrCell)
		}
		w.cells = append(w.cells, c)
	}
	place, err := excelize.CoordinatesToCellName(1, w.row)
	if err != nil {
		return err
	}
	return w.sheet.SetRow(place, w.cells)
}

func (w *xlsxWriter) Close() error {
	defer w.book.Close()
	if err := w.sheet.Flush(); err != nil {
		return err
	}
	return w.book.Write(w.to)
}

// odsWriter writes an OpenDocument spreadsheet of one sheet. Source: ISO/IEC 26300-1:2015 (OpenDocument 1.2), part 3, 3.3 (the first
// file is mimetype, not compressed), part 1, 9.1 and 6.1.
type odsWriter struct {
	zip   *zip.Writer
	out   *bufio.Writer
	empty int // rows without cells that are not written yet
}

const (
	odsType = "application/vnd.oasis.opendocument.spreadsheet"
	odsHead = xml.Header + `<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" ` +
		`xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" ` +
		`office:version="1.2"><office:body><office:spreadsheet><table:table table:name="Sheet1"><table:table-column/>`
	odsTail     = `</table:table></office:spreadsheet></office:body></office:document-content>`
	odsManifest = xml.Header + `<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.2">` +
		`<manifest:file-entry manifest:full-path="/" manifest:version="1.2" manifest:media-type="` + odsType + `"/>` +
		`<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>`
)

func newODSWriter(to io.Writer) (Writer, error) {
	w := &odsWriter{zip: zip.NewWriter(to)}
	for _, part := range []struct {
		zip.FileHeader
		text string
	}{{zip.FileHeader{Name: "mimetype", Method: zip.Store}, odsType}, {zip.FileHeader{Name: "META-INF/manifest.xml", Method: zip.Deflate}, odsManifest}} {
		out, err := w.zip.CreateHeader(&part.FileHeader)
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(out, part.text); err != nil {
			return nil, err
		}
	}
	content, err := w.zip.Create("content.xml")
	if err != nil {
		return nil, err
	}
	w.out = bufio.NewWriterSize(content, 64<<10)
	_, err = w.out.WriteString(odsHead)
	return w, err
}

func (w *odsWriter) Row(cells []string) error {
	if len(cells) == 0 {
		w.empty++
		return nil
	}
	if w.empty > 0 {
		fmt.Fprintf(w.out, `<table:table-row table:number-rows-repeated="%d"><table:table-cell/></table:table-row>`, w.empty)
		w.empty = 0
	}
	_, _ = w.out.WriteString("<table:table-row>") // an error stays until Flush
	for _, c := range cells {
		_, _ = w.out.WriteString(`<table:table-cell office:value-type="string">`)
		for line := range strings.SplitSeq(lineEnds.Replace(c), "\n") {
			w.paragraph(line)
		}
		_, _ = w.out.WriteString("</table:table-cell>")
	}
	_, err := w.out.WriteString("</table:table-row>")
	return err
}

// lineEnds are those that a paragraph may end with; in OpenDocument they are all the same.
var lineEnds = strings.NewReplacer("\r\n", "\n", "\r", "\n")

// paragraph writes one line of a cell. Blanks that a reader would take for one stand as elements; letters that XML has not as signs.
func (w *odsWriter) paragraph(line string) {
	_, _ = w.out.WriteString("<text:p>")
	blank := true // before the first letter, or behind another blank
	for i, r := range line {
		switch {
		case r == ' ' && (blank || i == len(line)-1):
			_, _ = w.out.WriteString("<text:s/>")
			continue
		case r == '\t':
			_, _ = w.out.WriteString("<text:tab/>")
		case r == '&':
			_, _ = w.out.WriteString("&amp;")
		case r == '<':
			_, _ = w.out.WriteString("&lt;")
		case r == '>':
			_, _ = w.out.WriteString("&gt;")
		case r < ' ' || r == utf8.RuneError || r == 0xfffe || r == 0xffff:
			_, _ = w.out.WriteRune(utf8.RuneError)
		default:
			_, _ = w.out.WriteRune(r)
		}
		blank = r == ' '
	}
	_, _ = w.out.WriteString("</text:p>")
}

func (w *odsWriter) Close() error {
	if _, err := w.out.WriteString(odsTail); err != nil {
		return err
	}
	if err := w.out.Flush(); err != nil {
		return err
	}
	return w.zip.Close()
}
