package e2e

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
)

// TestScreenshots draws the main views of the demo world into the folder that AMBROSA_SCREENSHOTS names.
// AMBROSA_DEMO_DATA names a data folder to keep between drawings; AMBROSA_VIEWS picks views by name.
func TestScreenshots(t *testing.T) {
	folder := os.Getenv("AMBROSA_SCREENSHOTS")
	if folder == "" {
		t.Skip("make screenshots sets AMBROSA_SCREENSHOTS")
	}
	p := demo(t)
	c := signIn(t, p.url(), "mo", "a-steady-wind")
	var deliveries []struct {
		ID    int64
		Title string
	}
	c.do("GET", "/api/deliveries", nil, &deliveries)
	of := func(title string) string {
		for _, d := range deliveries {
			if d.Title == title {
				return fmt.Sprint(d.ID)
			}
		}
		t.Fatalf("the demo has no delivery %s", title)
		return ""
	}
	var plan id
	c.do("POST", "/api/deliveries/"+of("Tarn & Daughter Spars, autumn")+"/plans", map[string]string{"rule": "only_where_empty"}, &plan)
	visited, source, shop := lookOutside(t, c)
	await(t, 5*time.Minute, "all pictures to be looked at", func() bool {
		var left struct{ Unchecked, Twice int }
		c.do("GET", "/api/tidy", nil, &left)
		return left.Unchecked == 0 && left.Twice > 10
	})
	ctx := browser(t)
	ines := signIn(t, p.url(), "ines", "kites-over-pellmoor")
	enter(t, ctx, p.url(), "ines", "kites-over-pellmoor")
	for _, view := range []struct {
		name, path, wait string
		dark             bool
		then             chromedp.Action[chromedp.Void]
	}{
		{"gather", "/gather?in=" + of("Windhover Remnants"), ".line.at img", false, nil},
		{"sources", fmt.Sprintf("/gather/%d?in=%d&at=1", source, visited), ".line.at img", false, nil},
		{"reconcile", fmt.Sprintf("/gather/%d?show=reconcile", source), ".line.at img", false, nil},
		{"pair", "/pair/" + of("Tarn & Daughter Spars, autumn"), ".line.at img", false, nil},
		{"pair-contested", "/pair/" + of("Windhover Remnants") + "?show=contested", ".line.at img", false, nil},
		{"pair-owners", "/pair/" + of("Tarn & Daughter Spars, autumn") + "?view=owner", ".line.at img", false, nil},
		{"pictures", "/pictures?q=leftovers", ".tile img", false, chromedp.KeyEvent("jj")},
		{"tidy-twice", "/tidy?show=twice", ".copy img", false, nil},
		{"guide", fmt.Sprintf("/gather/%d?show=guide", shop), ".pageframe .marked", false, nil},
		{"series", "/pair/" + of("Studio, reels and lines") + "?view=series", ".codeframe", false, chromedp.Evaluate[chromedp.Void]("document.querySelector('.seriesboard').scrollTop = 545")},
		{"pair-german", "/pair/" + of("Windhover Remnants"), ".line.at img", false, nil},
		{"pair-dark", "/pair/" + of("Tarn & Daughter Spars, autumn"), ".line.at img", true, nil},
		{"plan", fmt.Sprintf("/plan/%d", plan.ID), ".line.at img", false, chromedp.KeyEvent("jj")},
		{"catalogue", "/catalogue?q=delta", ".shopwindow img", false, nil},
		{"by-hand", "/catalogue/pictures?q=PK-DLT-210", ".line.at", false, chromedp.Click(chromedp.Search("//*[contains(@class, 'line')]//b[.='PK-DLT-210-NGT']"))},
		{"texts", "/catalogue/wording?q=PK-DLT-210", ".line.at img", false, nil},
		{"tables", "/tables", ".line.cells .celltext", false, chromedp.Evaluate[chromedp.Void]("document.querySelectorAll('.celltext.stops')[1]?.click()")},
		{"publish", "/publish?in=2", ".line.at img", false, chromedp.KeyEvent("jjjj")},
		{"ledger", "/ledger/2", ".line.at img", false, chromedp.KeyEvent("jj")},
	} {
		if pick := os.Getenv("AMBROSA_VIEWS"); pick != "" && !strings.Contains(pick, view.name) {
			continue
		}
		t.Run(view.name, func(t *testing.T) {
			scheme := "light"
			if view.dark {
				scheme = "dark"
			}
			if _, err := chromedp.Call(ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
				Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}}); err != nil {
				t.Fatal(err)
			}
			language := "en"
			if strings.HasSuffix(view.name, "german") {
				language = "de"
			}
			ines.do("PATCH", "/api/session/settings", map[string]string{"language": language}, nil)
			do(t, ctx, chromedp.EmulateViewport(1280, 800), chromedp.Navigate(p.url()+view.path), chromedp.WaitVisible(chromedp.CSS(view.wait)))
			if view.then != nil {
				do(t, ctx, view.then)
			}
			do(t, ctx, chromedp.Sleep(700*time.Millisecond))
			png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
			if err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(filepath.Join(folder, view.name+".png"), png, 0o644); err != nil {
				t.Fatal(err)
			}
		})
	}
}

// lookOutside collects from the demo's drive, again after a day, and puts it beside the pictures. It returns the second
// visit, the source, and that of the shop.
func lookOutside(t *testing.T, c *client) (visit, source, shop int64) {
	t.Helper()
	var all []struct {
		ID   int64
		Name string
	}
	c.do("GET", "/api/sources", nil, &all)
	for _, s := range all {
		if strings.HasSuffix(s.Name, ", drive") {
			source = s.ID
		}
		if strings.HasSuffix(s.Name, ", shop") {
			shop = s.ID
		}
	}
	var made id
	at := fmt.Sprintf("/api/sources/%d", source)
	c.do("POST", "/api/outside/day", nil, nil)
	await(t, time.Minute, "the demo's own visit to end", func() bool {
		status, _ := c.try("POST", at+"/visits", map[string]any{}, &made)
		return status < 300
	})
	c.taken(made.ID)
	c.do("POST", "/api/outside/day", nil, nil)
	c.do("POST", at+"/reconciliation", nil, nil)
	await(t, time.Minute, "the drive beside the pictures", func() bool {
		var look struct{ State string }
		c.do("GET", at+"/reconciliation", nil, &look)
		return look.State == "done"
	})
	return made.ID, source, shop
}

// enter signs in on the page.
func enter(t testing.TB, ctx context.Context, url, name, password string) {
	t.Helper()
	do(t, ctx, chromedp.Navigate(url), chromedp.WaitVisible(chromedp.CSS("input[name=name]")),
		chromedp.SendKeys(chromedp.CSS("input[name=name]"), name),
		chromedp.SendKeys(chromedp.CSS("input[name=password]"), password+"\r"), chromedp.WaitVisible(chromedp.CSS(".trail")))
}

func do(t testing.TB, ctx context.Context, actions ...chromedp.Action[chromedp.Void]) {
	t.Helper()
	if err := chromedp.Do(ctx, actions...); err != nil {
		t.Fatal(err)
	}
}
