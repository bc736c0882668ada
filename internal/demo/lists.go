package demo

import (
	"bytes"
	"context"
	"fmt"
	"strconv"
	"strings"

	"ambrosa/internal/program"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tables"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
)

// PriceList is the price list of Fellside Reels as a workbook, as such lists come: a title above the header, barcodes that a
// spreadsheet shows with an exponent, pictures whose names are one slip off, prices as text, one of them none.
func PriceList() ([]byte, error) {
	book := excelize.NewFile()
	defer book.Close()
	const sheet = "Prices"
	if err := book.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	long, err := book.NewStyle(&excelize.Style{CustomNumFmt: new("0.00000E+00")})
	if err != nil {
		return nil, err
	}
	rows := [][]any{{"Fellside Reels: prices of 2027"}, {}, {"Item no. (SKU)", "Description", "EAN", "Price", "Picture", "Position", "Alt text"}}
	for i, a := range of("REL", "LIN") {
		if a.model%2 > 0 {
			continue
		}
		row := []any{a.sku, a.title + ", " + a.hue.word, a.barcode, fmt.Sprintf("%d,%d0 €", 9+i%40, i%10), a.barcode + "_1.jpg", 1, a.title + " in " + a.hue.word}
		switch i % 12 {
		case 0, 4:
			n, err := strconv.ParseInt(a.barcode, 10, 64)
			if err != nil {
				return nil, err
			}
			row[2] = n
		case 1:
			row[4] = a.barcode + " 1.jpg"
		case 3:
			row[4] = a.barcode + "_1.JPEG"
		case 6:
			row[3] = "ask us"
		case 7:
			row[0] = a.sku + " "
		case 9:
			row[6] = ""
		case 10:
			row[4] = a.barcode + "_9.jpg"
		}
		rows = append(rows, row)
	}
	for i, row := range rows {
		place, err := excelize.CoordinatesToCellName(1, i+1)
		if err != nil {
			return nil, err
		}
		if err := book.SetSheetRow(sheet, place, &row); err != nil {
			return nil, err
		}
		if len(row) > 2 {
			if _, number := row[2].(int64); number {
				cell := fmt.Sprintf("C%d", i+1)
				if err := book.SetCellStyle(sheet, cell, cell, long); err != nil {
					return nil, err
				}
			}
		}
	}
	b, err := book.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// Remnants is a list of Windhover Remnants: semicolons, in Windows-1252, in German.
func Remnants() ([]byte, error) {
	var b strings.Builder
	b.WriteString("Artikelnummer;Bezeichnung;Größe;Preis\r\n")
	for i, a := range of("PFL", "TAL")[:40] {
		price := fmt.Sprintf("%d,50 €", 20+i)
		if i == 7 {
			price = "auf Anfrage"
		}
		fmt.Fprintf(&b, "%s;Übungsdrachen für Anfänger: %s;%d;%s\r\n", a.sku, a.title, a.size, price)
	}
	text, err := charmap.Windows1252.NewEncoder().String(b.String())
	return []byte(text), err
}

// Cells is a workbook of Windhover Remnants with its pictures in the cells.
func Cells() ([]byte, error) {
	book := excelize.NewFile()
	defer book.Close()
	const sheet, height = "Tails", 120
	if err := book.SetSheetName("Sheet1", sheet); err != nil {
		return nil, err
	}
	if err := book.SetSheetRow(sheet, "A1", &[]any{"SKU", "Title", "Photo", "Alt text"}); err != nil {
		return nil, err
	}
	for i, a := range of("TAL")[:12] {
		row := i + 2
		if err := book.SetSheetRow(sheet, fmt.Sprint("A", row), &[]any{a.sku, a.title, nil, a.title + " in " + a.hue.word}); err != nil {
			return nil, err
		}
		if err := book.SetRowHeight(sheet, row, height); err != nil {
			return nil, err
		}
		if i == 8 {
			continue // one was forgotten
		}
		if err := book.AddPictureFromBytes(sheet, fmt.Sprint("C", row), &excelize.Picture{Extension: ".jpg", File: drawing(a, packed, side),
			Format: &excelize.GraphicOptions{AutoFit: true, AltText: a.title}}); err != nil {
			return nil, err
		}
	}
	b, err := book.WriteToBuffer()
	if err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// Host is the supplier's web server that the demo stands in for.
const Host = "pictures.fellside.example"

// Links is a list of Fellside Reels that says where its pictures are: one is gone, and one address leads into our own house.
func Links() ([]byte, error) {
	var b strings.Builder
	b.WriteString("SKU,Picture address,Position,Alt text\r\n")
	for i, a := range of("REL")[:24] {
		at := fmt.Sprintf("http://%s/reels/%s/detail.jpg", Host, a.sku)
		switch i {
		case 4:
			at = fmt.Sprintf("http://%s/reels/%s/gone.jpg", Host, a.sku)
		case 9:
			at = "http://192.168.7.20/share/" + a.sku + ".jpg"
		}
		fmt.Fprintf(&b, "%s,%s,3,%s\r\n", a.sku, at, a.title+" in "+a.hue.word+" up close")
	}
	return []byte(b.String()), nil
}

// bringLists sends the lists that suppliers wrote, where none of them is in hand yet.
func bringLists(ctx context.Context, s *program.Program, fellside, person int64) error {
	lists := []struct {
		name     string
		list     func() ([]byte, error)
		delivery *int64
	}{{"windhover-remnants.csv", Remnants, nil}, {"windhover-tails.xlsx", Cells, nil}, {"fellside-links.csv", Links, nil},
		{"fellside-prices.xlsx", PriceList, &fellside}}
	there, err := s.Store.Worksheets(ctx, query.WorksheetsParams{Before: 1<<63 - 1, Most: 200, Closed: true})
	if err != nil {
		return err
	}
	for _, w := range there {
		if w.Name == lists[0].name {
			return nil
		}
	}
	for _, l := range lists {
		list, err := l.list()
		if err != nil {
			return err
		}
		id, err := s.Tables.Bring(ctx, l.name, bytes.NewReader(list), person)
		if err != nil {
			return err
		}
		if l.delivery == nil {
			continue
		}
		if err := s.Tables.Describe(ctx, id, tables.Described{Delivery: l.delivery}); err != nil {
			return err
		}
	}
	return nil
}
