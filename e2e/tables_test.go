package e2e

import (
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A price list with what goes wrong in price lists is sent, looked through cell by cell, repaired by keys and by buttons, edited, undone,
// planned and applied; the pictures that it names stand on their owners then.
func TestPriceList(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title,barcode\n0012,Alpha,9520123456788\nK-2,Beta,\nK-3,Gamma,\n")
	p.me.deliver("pictures", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{"x-1.jpg": jpegOf(color.RGBA{90, 90, 60, 255}, 90), "Kite Amber.jpg": jpegOf(color.RGBA{9, 90, 60, 255}, 90)})})
	path := filepath.Join(t.TempDir(), "prices.csv")
	list := "Price list of spring;;;\n\nItem no. (SKU);Product;EAN;Image\n12;Alpha two;9.52012E+12;x 1.jpg\nK-2;Beta;;kite-amber.jpg\nK-3;Gamma;;nix.jpg\n"
	if err := os.WriteFile(path, []byte(list), 0o600); err != nil {
		t.Fatal(err)
	}
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + "/tables"))
	s.sees("No table has been sent yet")
	s.do(chromedp.SetUploadFiles(chromedp.CSS("main .empty [data-testid=sheet]"), []string{path}))
	s.sees("3 rows are stopped")
	s.counts("zeros lost 1")
	s.counts("picture spelled otherwise 2")
	cell := func(row, column int, want string) {
		t.Helper()
		s.until(fmt.Sprintf(`[...document.querySelectorAll('.scroll .line.cells')].find(l => l.innerText.startsWith('%d'))?.querySelectorAll('[role=gridcell]')[%d + 1]?.querySelector('.celltext')?.lastChild?.textContent === %q`, row, column, want), fmt.Sprintf("%d.%d to be %q", row, column, want))
	}
	here := func(row, column int) {
		t.Helper()
		s.until(fmt.Sprintf(`(l => l?.innerText.startsWith('%d') && l.querySelectorAll('[role=gridcell]')[%d + 1].querySelector('.here'))(document.querySelector('.line.at'))`, row, column), fmt.Sprintf("the focus at %d.%d", row, column))
	}
	here(4, 0)
	// Enter takes the repair of the cell in focus; a letter begins to edit it.
	s.press(kb.Enter)
	cell(4, 0, "0012")
	s.until("![...document.querySelectorAll('.rail .filter')].some(f => f.innerText.startsWith('zeros lost'))", "the kind to be gone")
	s.press(kb.ArrowRight, kb.ArrowRight)
	here(4, 2)
	s.press(kb.Enter) // the barcode as the catalogue has it
	cell(4, 2, "9520123456788")
	s.press(kb.ArrowLeft, "A", "l", kb.Enter)
	cell(4, 1, "Al")
	here(5, 1)
	s.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(ctrl)))
	cell(4, 1, "Alpha two")
	s.press(kb.ArrowUp, "x", kb.Escape)
	cell(4, 1, "Alpha two")

	// All repairs of a kind by the mouse; the row whose picture nobody has is left out.
	s.click("Accept all repairs")
	cell(4, 3, "x-1.jpg")
	cell(5, 3, "Kite Amber.jpg")
	s.sees("1 row is stopped")
	s.until("document.querySelector('.glass .look img')?.complete", "the picture of the row")
	s.do(chromedp.Click(chromedp.Search(`//button[contains(@class, 'filter') and contains(., 'picture missing')]`)))
	here(6, 1)
	s.click("Leave the row out")
	s.sees("No row is stopped.")

	// The table as it stands, without the row that is left out.
	if status, text := p.me.try("GET", "/api/tables/2/file", nil, nil); status != 200 ||
		text != "Item no. (SKU),Product,EAN,Image\r\n0012,Alpha two,9520123456788,x-1.jpg\r\nK-2,Beta,,Kite Amber.jpg\r\n" {
		t.Errorf("the file: %d %q", status, text)
	}
	s.do(chromedp.Click(chromedp.Search(`//button[contains(@class, 'filter') and contains(., 'all rows')]`)))
	s.until("document.querySelectorAll('.line.cells').length === 3", "all rows")
	s.click("Show plan")
	s.sees("Apply 3 changes")
	s.click("Apply 3 changes")
	s.sees("3 changes made")
	var found []struct {
		Title   string
		Picture string
	}
	p.me.do("GET", "/api/owners?q=0012", nil, &found)
	if len(found) == 0 || found[0].Picture == "" || found[0].Title != "" && found[0].Title != "Alpha two" {
		t.Errorf("the owner: %+v", found)
	}
}

// table sends a table and waits until it is checked.
func (c *client) table(name, text string) (id int64) {
	c.t.Helper()
	var made struct{ ID int64 }
	c.do("POST", "/api/tables?name="+name, text, &made)
	await(c.t, time.Minute, "the table to be checked", func() bool {
		var w struct{ Checked bool }
		c.do("GET", fmt.Sprintf("/api/tables/%d", made.ID), nil, &w)
		return w.Checked
	})
	return made.ID
}

// The catalogue leaves as a table that is read back unchanged, and empty tables explain their columns.
func TestTableFiles(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title,barcode,colour\n0012,Alpha,9520123456788,\nK-2,=Beta,,red\n")
	for _, format := range []string{"csv", "xlsx", "ods"} {
		status, text := p.me.try("GET", "/api/catalogue/file?format="+format, nil, nil)
		path := filepath.Join(t.TempDir(), "c."+format)
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil || status != 200 {
			t.Fatal(status, err)
		}
		out, complaints, code := command(t, nil, "", "table", "rows", path)
		want := `["sku","parent","kind","title","barcode","code","category","option:colour"]` + "\n" +
			`["0012","","product","Alpha","9520123456788","","",""]` + "\n" + `["K-2","","product","=Beta","","","","red"]` + "\n"
		if code != 0 || out != want {
			t.Errorf("%s: exit %d, %q, %q", format, code, out, complaints)
		}
	}
	for _, kind := range []string{"products", "pictures"} {
		status, text := p.me.try("GET", "/api/empty-tables/"+kind, nil, nil)
		path := filepath.Join(t.TempDir(), "e.xlsx")
		if err := os.WriteFile(path, []byte(text), 0o600); err != nil || status != 200 {
			t.Fatal(status, err)
		}
		if out, _, code := command(t, nil, "", "table", "rows", path, "--sheet", "How to fill it in"); code != 0 || !strings.Contains(out, `["sku","The product's or variant's SKU. Rows are known by it.","yes","PK-DLT-140-AMB"]`) {
			t.Errorf("%s: exit %d, %s", kind, code, out)
		}
		if out, _, _ := command(t, nil, "", "table", "rows", path); !strings.HasPrefix(out, `["sku",`) || strings.Count(out, "\n") != 1 {
			t.Errorf("%s: %s", kind, out)
		}
	}
	if status, _ := p.me.try("GET", "/api/empty-tables/nonsense", nil, nil); status != 404 {
		t.Errorf("no kind: %d", status)
	}
}
