package e2e

import (
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// bookWithPicture is a workbook of two columns with a picture in cell B3, as its parts are laid down in ECMA-376.
func bookWithPicture(t *testing.T, rows [][2]string, picture []byte) []byte {
	t.Helper()
	var cells strings.Builder
	for i, r := range rows {
		fmt.Fprintf(&cells, `<row r="%d"><c r="A%d" t="inlineStr"><is><t>%s</t></is></c><c r="B%d" t="inlineStr"><is><t>%s</t></is></c></row>`, i+1, i+1, r[0], i+1, r[1])
	}
	const of, rels = `http://schemas.openxmlformats.org/officeDocument/2006/relationships`, `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">`
	relation := func(kind, target string) []byte {
		return []byte(rels + `<Relationship Id="r1" Type="` + of + `/` + kind + `" Target="` + target + `"/></Relationships>`)
	}
	return zipOf(t, map[string][]byte{
		"[Content_Types].xml":                 []byte(`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`),
		"_rels/.rels":                         relation("officeDocument", "xl/workbook.xml"),
		"xl/workbook.xml":                     []byte(`<workbook xmlns:r="` + of + `"><sheets><sheet name="One" sheetId="1" r:id="r1"/></sheets></workbook>`),
		"xl/_rels/workbook.xml.rels":          relation("worksheet", "worksheets/sheet1.xml"),
		"xl/worksheets/sheet1.xml":            []byte(`<worksheet xmlns:r="` + of + `"><sheetData>` + cells.String() + `</sheetData><drawing r:id="r1"/></worksheet>`),
		"xl/worksheets/_rels/sheet1.xml.rels": relation("drawing", "../drawings/drawing1.xml"),
		"xl/drawings/drawing1.xml": []byte(`<xdr:wsDr xmlns:xdr="x" xmlns:a="a" xmlns:r="` + of + `"><xdr:oneCellAnchor><xdr:from><xdr:col>1</xdr:col><xdr:row>2</xdr:row></xdr:from>` +
			`<xdr:pic><xdr:blipFill><a:blip r:embed="r1"/></xdr:blipFill></xdr:pic></xdr:oneCellAnchor></xdr:wsDr>`),
		"xl/drawings/_rels/drawing1.xml.rels": relation("image", "../media/one.jpg"),
		"xl/media/one.jpg":                    picture,
	})
}

// saved has what the page saves as a file kept in window.saved instead.
const saved = `window.saved = ''; URL.createObjectURL = b => { b.arrayBuffer().then(a => window.saved = String.fromCharCode(...new Uint8Array(a).slice(0, 4000))); return '#saved' }`

// A table that is sent with its pictures has them for its own; a picture in a cell is collected; of two pictures of one name one is chosen.
// The plan is applied, its report says what became of each row, and boards and picture tables are saved as files.
func TestPicturesOfTables(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title\nK-1,Alpha\nK-2,Beta\n")
	p.me.deliver("old", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{"x.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90)})})
	folder := t.TempDir()
	var paths []string
	for name, content := range map[string][]byte{
		"list.xlsx": bookWithPicture(t, [][2]string{{"sku", "picture"}, {"K-1", "x.jpg"}, {"K-2", ""}}, jpegOf(color.RGBA{9, 200, 60, 255}, 90)),
		"x.jpg":     jpegOf(color.RGBA{200, 9, 60, 255}, 120),
		"other.jpg": jpegOf(color.RGBA{20, 9, 160, 255}, 120)} {
		path := filepath.Join(folder, name)
		if err := os.WriteFile(path, content, 0o600); err != nil {
			t.Fatal(err)
		}
		paths = append(paths, path)
	}
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/tables"))
	s.sees("No table has been sent yet")
	s.do(chromedp.SetUploadFiles(chromedp.CSS("main .empty [data-testid=sheet]"), paths))
	s.sees("list.xlsx")
	s.counts("several pictures 1")
	if got := one[string](p, "SELECT string_agg(title, ', ' ORDER BY id) FROM delivery"); got != "old, 2 files" {
		t.Errorf("the deliveries are %s", got)
	}
	s.sees("1 picture is at an address or in a cell, and not here yet.")
	s.click("Collect 1")
	s.until("document.querySelectorAll('.own li').length === 2 && !document.body.innerText.includes('not here yet')", "the picture to be collected")
	s.do(chromedp.Click(chromedp.Search(`//button[contains(@class, 'filter') and contains(., 'several pictures')]`)))
	s.do(chromedp.Click(chromedp.Search(`//*[contains(@class, 'celltext') and contains(., 'x.jpg')]`)))
	s.until("document.querySelectorAll('.alike li').length === 2", "both pictures of that name")
	s.do(chromedp.Click(chromedp.Search(`//li[contains(., 'already here')]//button[contains(., 'Use in this row')]`)))
	s.until("![...document.querySelectorAll('.rail .filter')].some(f => f.innerText.startsWith('several pictures'))", "the kind to be gone")
	s.do(chromedp.Click(chromedp.Search(`//button[contains(@class, 'filter') and contains(., 'all rows')]`)))
	s.click("Show plan")
	s.click("Apply 2 changes")
	s.sees("2 changes made")
	s.sees("Report, row by row:")
	link, err := chromedp.Run(s.ctx, chromedp.Evaluate[string]("document.querySelector('.report a').getAttribute('href')"))
	if err != nil {
		t.Fatal(err)
	}
	if status, text := p.me.try("GET", link, nil, nil); status != 200 || text != "Row,Key,Product,Pictures,Notes\r\n2,K-1,unchanged,has 1,\r\n3,K-2,unchanged,has 1,\r\n" {
		t.Errorf("the report: %d %q", status, text)
	}
	if got := one[string](p, "SELECT string_agg(o.sku || ' ' || d.title, '; ' ORDER BY o.sku) FROM placement p JOIN owner o ON o.id = p.owner_id JOIN arrival a ON a.asset_id = p.asset_id JOIN delivery d ON d.id = a.delivery_id"); got != "K-1 old; K-2 list.xlsx" {
		t.Errorf("there stands %s", got)
	}

	// What a board shows, as a file.
	s.do(chromedp.Evaluate[chromedp.Void](saved))
	s.do(chromedp.Click(chromedp.CSS(".choose")))
	s.do(chromedp.Click(chromedp.Search(`//*[@role='menuitem' and .='CSV']`)))
	s.until("window.saved.includes('What changes,Before') && window.saved.includes('K-2,')", "the board as CSV")
	s.do(chromedp.Navigate(p.url() + "/catalogue"))
	s.sees("Alpha")
	s.do(chromedp.Evaluate[chromedp.Void](saved))
	s.click("Picture table …")
	s.sees("Picture table: Catalogue")
	s.click("Save …")
	s.do(chromedp.SendKeys(chromedp.CSS(".presets input"), "shop"))
	s.click("Save")
	s.sees("Saved as “shop”.")
	s.click("Make table")
	s.until("window.saved.startsWith('PK')", "the workbook")
	s.until("!document.querySelector('[role=dialog]')", "the dialog to be gone")
}

// A table that is larger than one request is sent in pieces, and shown once it is taken in hand.
func TestLargeTable(t *testing.T) {
	p := serve(t)
	var list strings.Builder
	list.WriteString("sku,note\n")
	for i := range 3000 {
		fmt.Fprintf(&list, "KR-%04d,%s\n", i, strings.Repeat("fair wind ", 340))
	}
	path := filepath.Join(t.TempDir(), "large.csv")
	if err := os.WriteFile(path, []byte(list.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/tables"))
	s.sees("No table has been sent yet")
	s.do(chromedp.SetUploadFiles(chromedp.CSS("main .empty [data-testid=sheet]"), []string{path}))
	s.counts("all rows 3 000")
	if got := one[string](p, "SELECT string_agg(title || ' ' || (closed_at IS NOT NULL), '') FROM delivery"); got != "large.csv true" {
		t.Errorf("deliveries: %s", got)
	}
}
