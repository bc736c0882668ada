package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// state is a screen in one of its states: where it is, what brings it about, and what is seen then.
type state struct{ name, path, script, sees string }

const (
	press   = `k => document.querySelector('[role=grid]').dispatchEvent(new KeyboardEvent('keydown', { key: k, shiftKey: k === 'F10' || k === '?', bubbles: true }))`
	clickOf = `name => [...document.querySelectorAll('button, a, label')].find(b => (b.innerText.trim() || b.ariaLabel || "").startsWith(name)).click()`
	typeIn  = `text => { const i = document.activeElement; Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(i, text); i.dispatchEvent(new Event('input', { bubbles: true })) }`
)

func pressing(key string) string  { return fmt.Sprintf("(%s)(%q)", press, key) }
func clicking(name string) string { return fmt.Sprintf("(%s)(%q)", clickOf, name) }
func typing(text string) string   { return fmt.Sprintf("setTimeout(() => (%s)(%q), 500)", typeIn, text) }

// Every state of every screen, in both themes, has no serious finding of axe-core: what is open, empty, wrong, at work, over, and all
// pieces on their page. It is long, and a part of make prove.
func TestStates(t *testing.T) {
	if os.Getenv("AMBROSA_PROVE") == "" {
		t.Skip("make prove sets AMBROSA_PROVE")
	}
	p := demo(t)
	mo := signIn(t, p.url(), "mo", "a-steady-wind")
	var deliveries []struct {
		ID    int64
		Title string
	}
	mo.do("GET", "/api/deliveries", nil, &deliveries)
	of := map[string]string{}
	for _, d := range deliveries {
		of[strings.Fields(d.Title)[0]] = fmt.Sprint(d.ID)
		for _, part := range []string{"drive", "shop"} {
			if strings.Contains(d.Title, ", "+part+", ") {
				of[part] = fmt.Sprint(d.ID)
			}
		}
	}
	var plan id
	mo.do("POST", "/api/deliveries/"+of["Tarn"]+"/plans", map[string]string{"rule": "only_where_empty"}, &plan)
	tarn, windhover := "/pair/"+of["Tarn"], "/pair/"+of["Windhover"]
	states := []state{
		{"pieces", "/pieces", "", "100,000 lines"},
		{"pieces, dialog", "/pieces", `document.querySelector('#piece-dialog button').click()`, "holds the keys"},
		{"pieces, menu of a row", "/pieces", pressing("F10"), "Copy the name"},
		{"owner search", tarn, pressing("s"), "Which owner gets this picture?"},
		{"owner search, found", tarn, pressing("s") + ";" + typing("PK-DLT"), "PK-DLT-"},
		{"owner search, none", tarn, pressing("s") + ";" + typing("qqqq"), "No match"},
		{"compare", "/pair/" + of["Corrie"], pressing("m"), "Compare"},
		{"menu of a line", tarn, pressing("F10"), "Set aside"},
		{"menu of columns", tarn, `document.querySelector('.choose').click()`, "Position"},
		{"picked", tarn, pressing(" "), "1 picked"},
		{"picked, not shown", windhover + "?show=all", pressing(" "), "1 picked"},
		{"no such line", tarn + "?q=qqqq", "", "No"},
		{"a group", windhover + "?show=unclaimed", "", "unclaimed"},
		{"by owner", tarn + "?view=owner", "", "Tarn"},
		{"series", "/pair/" + of["Studio,"] + "?view=series", "", "Accept series"},
		{"series, a border on its way", "/pair/" + of["Studio,"] + "?view=series", `document.querySelector('hr.border').focus(); ` + pressing("ArrowLeft"), "By its slate"},
		{"a code in the photo", "/pair/" + of["Studio,"] + "?show=contested", "", "Codes in the photo"},
		{"no series", tarn + "?view=series", "", "There are no series"},
		{"no such delivery", "/pair/999999", "", "be shown"},
		{"nothing chosen", "/pair", "", "Pair"},
		{"edit a delivery", "/gather", clicking("Edit"), "Supplier"},
		{"no delivery found", "/gather", `document.querySelector('.rail input').focus(); ` + typing("qqqq"), "No delivery"},
		{"menu of an arrival", "/gather", pressing("F10"), "Copy the name"},
		{"products without", "/catalogue?show=without", "", "Catalogue"},
		{"no product", "/catalogue?q=qqqqqq", "", "No"},
		{"pictures by owner", "/catalogue/pictures", "", "Pictures by owner"},
		{"an owner's fields", "/catalogue/pictures", pressing("e"), "Titles in other languages"},
		{"one picture for all", "/catalogue/categories?show=without", clicking("One picture for all"), "Where pictures are already"},
		{"pictures to choose from", "/catalogue/pictures", clicking("Choose from all"), "Part of a file name"},
		{"texts", "/catalogue/wording", "", "Texts of pictures"},
		{"texts that change", "/catalogue/wording", clicking("Change many"), "What to do"},
		{"a rule for texts", "/catalogue/wording", clicking("Add rule"), "On real pictures"},
		{"as a customer", "/catalogue/shop/25", "", "Read aloud"},
		{"a category as a customer", "/catalogue/shop/1", "", "Read aloud"},
		{"menu of a product", "/catalogue", pressing("F10"), "Copy the SKU"},
		{"a plan", fmt.Sprintf("/plan/%d", plan.ID), "", "Tarn"},
		{"a plan, its menu", fmt.Sprintf("/plan/%d", plan.ID), pressing("F10"), "Open in Catalogue"},
		{"no such plan", "/plan/999999", "", "be shown"}, {"the house rules", tarn, `document.querySelector(".foot .quietbutton").click()`, "already has pictures"},
		{"a run", "/ledger/2", "", "changes made"},
		{"tables", "/tables", "", "fellside-prices.xlsx"},
		{"tables, a menu", "/tables", pressing("F10"), "Edit the cell"},
		{"tables, a cell edited", "/tables", pressing("F2"), "PK-"},
		{"tables, one kind", "/tables/5?show=picture_near", "", "picture spelled otherwise"},
		{"tables, pictures to collect", "/tables/4", "", "not here yet"},
		{"tables, saving an assignment", "/tables/5", clicking("Save how it is read"), "Name for tables with this header"},
		{"picture table", "/catalogue", clicking("Picture table"), "Preview size"},
		{"no such table", "/tables/9999", "", "be shown"},
		{"a source", "/gather/1", "", "drive.tarn.example"},
		{"what a visit found", "/gather/1?in=" + of["drive"], "", "tarn_pk"},
		{"browsing a drive", "/gather/1?show=browse", "", "winter"},
		{"a drive beside the pictures", "/gather/1?show=reconcile", "", "drive.tarn.example"},
		{"a cross-reference", "/gather/2?show=references", "", "FR-2100"},
		{"addresses", "/gather/3?show=addresses", "", "pictures.fellside.example"},
		{"a drop folder", "/gather/4", "", "/drop/corrie/"},
		{"adding a source", "/gather", clicking("Add source"), "Protocol"},
		{"editing a source", "/gather/2", `document.querySelectorAll('.facts-line .linkish')[0].click()`, "Fellside"},
		{"a schedule", "/gather/1", `document.querySelectorAll('.facts-line .linkish')[1].click()`, "drive"},
		{"a guide", "/gather/5?show=guide", "", "Point at one item"},
		{"a guide, pictures", "/gather/5?show=guide", `[...document.querySelectorAll('.steps button')][5].click()`, "Least pixels"},
		{"a walk", "/gather/5?in=" + of["shop"], "", "items read"},
		{"a walk, problems", "/gather/5?show=problem&in=" + of["shop"], "", "robots.txt"},
		{"a page by eye", "/gather/page?q=http://shop.windhover.example/item/wr102.html", "", "3 of 7"},
		{"no page by eye", "/gather/page", "", "Which page?"},
		{"a lookup", "/gather/6", clicking("Look up"), "may not be free"},
		{"no such source", "/gather/9999", "", "Not found"},
		{"pictures", "/pictures", "", "pictures"},
		{"pictures as lines", "/pictures?view=lines", "", "Picked"},
		{"no such picture", "/pictures?q=qqqq", "", "No picture is found"},
		{"pictures picked", "/pictures?view=lines", pressing(" "), "is picked"},
		{"a picture large", "/pictures?view=lines", pressing("Enter"), "pixels"},
		{"pictures, what to do", "/pictures?view=lines", clicking("More"), "Mark as placeholder"},
		{"pictures onto owners", "/pictures?view=lines", clicking("Put on owners"), "SKU"},
		{"a picture replaced", "/pictures?view=lines", clicking("More") + `; setTimeout(() => [...document.querySelectorAll('[role=menuitem]')][0].click(), 200)`, "Replace"},
		{"a picture table of some", "/pictures?view=lines", clicking("Picture table"), "Preview size"},
		{"coverage", "/tidy", "", "miss nothing"},
		{"coverage as a table", "/tidy", clicking("As a table"), "Share"},
		{"on no owner", "/tidy?show=orphans", "", "that no owner shows"},
		{"there twice", "/tidy?show=twice", "", "The best goes"},
		{"on several products", "/tidy?show=shared", "", "Is it meant"},
		{"too small", "/tidy?show=unfit.too_small", "", "fewer pixels"},
		{"no main picture", "/tidy?show=gap.no_main", "", "Pictures that may fit"},
		{"another barcode on the pack", "/tidy?show=barcodes", "", "Plan to correct"},
		{"stored bytes", "/tidy?show=broken", "", "Broken"},
		{"the bin", "/tidy?show=bin", "", "Bytes are kept"},
		{"emptying the bin", "/tidy?show=bin", clicking("Empty the bin"), "for good"},
		{"what is stored", "/tidy?show=storage", "", "Small pictures"},
		{"rules by the clock", "/tidy?show=rules", "", "By the clock"},
		{"limits", "/tidy?show=unfit.too_small", clicking("Limits"), "longer side"},
		{"a product's offers", "/catalogue?show=without", "", "Pictures that may fit"},
		{"publish, a package", "/publish?in=1", "", "Download package"},
		{"publish, what would go", "/publish?in=2", "", "Publish 42 files"},
		{"publish, nothing would go", "/publish?in=1&show=plan", "", "Kite shop"},
		{"publish, the folder", "/publish?in=2&show=there", "", "Nothing to show"},
		{"publish, a channel edited", "/publish?in=1", clicking("Edit"), "Sizes of each picture"},
		{"publish, a channel added", "/publish", clicking("Add channel"), "Where to"},
		{"publish, addresses", "/publish?in=1", clicking("Public addresses"), "Channels may have"},
		{"publish, the clock", "/publish?in=1", clicking("By the clock"), "Publish by the clock"},
		{"publish, removing", "/publish?in=1", clicking("Remove channel"), "stays where it is"},
		{"people", "/people", "", "vera"},
		{"deactivate", "/people", clicking("Deactivate"), "Deactivate"},
		{"settings", "/settings", "", "Webhooks"},
		{"a new token", "/settings", `document.querySelector('input[placeholder^="What the token"]').focus(); ` + typing("price list") + `; setTimeout(() => ` + clicking("Create token") + `, 900)`, "not shown again"},
		{"wrong password", "/settings", `document.querySelectorAll('input[type=password]').forEach(i => { i.focus(); (` + typeIn + `)('wrong-password') }); ` + clicking("Change password"), "password"},
		{"bell", "/gather", `document.querySelector('.bell').click()`, "ended"},
		{"person menu", "/gather", `document.querySelector('button.person').click()`, "Sign out"},
		{"keys", tarn, pressing("?"), "this list"},
	}
	ctx := browserFor(t, 20*time.Minute)
	s := screen{t, ctx}
	enter(t, ctx, p.url(), "ines", "kites-over-pellmoor")
	ines := signIn(t, p.url(), "ines", "kites-over-pellmoor")
	for _, language := range []string{"en", "de"} {
		ines.do("PATCH", "/api/session/settings", map[string]string{"language": language}, nil)
		for _, theme := range []string{"light", "dark"} {
			s.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf("localStorage.setItem('mantine-color-scheme-value', '%s')", theme)))
			for _, at := range states {
				if language == "de" && strings.Contains(at.script, clickOf) {
					continue // its button has another name
				}
				t.Run(language+" "+theme+" "+at.name, func(t *testing.T) {
					s := screen{t, ctx}
					s.do(chromedp.Navigate(p.url() + at.path))
					s.until("!document.querySelector('.hush') && document.querySelector('h1, h2')", "the page to be there")
					s.do(chromedp.Sleep(250 * time.Millisecond))
					if at.script != "" {
						s.until("(() => {"+at.script+"; return true})()", "what brings it about")
						s.do(chromedp.Sleep(500 * time.Millisecond))
					}
					if language == "en" {
						s.sees(at.sees)
					}
					s.do(chromedp.Sleep(400 * time.Millisecond)) // what fades in has its colours
					s.audit(at.name)
				})
			}
		}
	}
	// A session that ended: the form stands over the page.
	ines.do("PATCH", "/api/session/settings", map[string]string{"language": "en"}, nil)
	s.do(chromedp.Navigate(p.url() + tarn))
	s.until("document.querySelector('[role=grid]')", "the board")
	for _, u := range peopleOf(ines) {
		if u.Name == "ines" {
			ines.do("POST", fmt.Sprintf("/api/people/%d/end-sessions", u.ID), nil, nil)
		}
	}
	s.do(chromedp.Evaluate[chromedp.Void](pressing("x")))
	s.until("document.querySelector('[role=dialog] input[type=password]')", "the form over the page")
	s.audit("session over")
}

type personRow struct {
	ID   int64
	Name string
}

func peopleOf(c *client) (all []personRow) {
	c.do("GET", "/api/people", nil, &all)
	return all
}
