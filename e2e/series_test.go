package e2e

import (
	"fmt"
	"image/color"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// coded is a picture with a bar code, as zint (Debian) draws it.
func coded(t *testing.T, kind, data string) []byte {
	t.Helper()
	if _, err := exec.LookPath("zint"); err != nil {
		t.Skip("zint is missing")
	}
	file := filepath.Join(t.TempDir(), "code.png")
	if out, err := exec.Command("zint", "-b", kind, "-d", data, "--scale", "3", "--quietzones", "-o", file).CombinedOutput(); err != nil {
		t.Fatalf("zint: %v: %s", err, out)
	}
	b, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// Codes in photos are read behind the taking in, in a process of their own; slates open series, whose borders are moved by key and by mouse, and
// which are accepted at once. What a code says is a text on the page, whatever it says.
func TestSeries(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title,barcode\nK-1,Kite one,9520000000004\nK-2,Kite two,9520000000011\n")
	files := map[string][]byte{"IMG_0001.png": coded(t, "EANX", "952000000000"), "IMG_0005.png": coded(t, "EANX", "952000000001"),
		"K-1_hostile.png": coded(t, "QRCODE", `javascript:alert(1)//<img src=x onerror=alert(2)>`)}
	for i, n := range []int{2, 3, 4, 6, 7} {
		files[fmt.Sprintf("IMG_%04d.jpg", n)] = jpegOf(color.RGBA{uint8(40 * i), 120, 90, 255}, 200+10*i)
	}
	d := p.me.deliver("studio", files)
	type line struct {
		Path, Grade, Person, Photo string
		Owner                      int64
	}
	lines := func() (of map[string]line, sku map[int64]string) {
		var b struct {
			Series int
			Lines  []line
			Owners []struct {
				ID  int64
				SKU string
			}
		}
		p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing", d.ID), nil, &b)
		of, sku = map[string]line{}, map[int64]string{}
		for _, l := range b.Lines {
			of[strings.TrimSuffix(strings.TrimSuffix(l.Path, ".jpg"), ".png")] = l
		}
		for _, o := range b.Owners {
			sku[o.ID] = o.SKU
		}
		return of, sku
	}
	shows := func(want string) bool {
		of, sku := lines()
		got := ""
		for _, n := range []int{1, 2, 3, 4, 5, 6, 7} {
			l := of[fmt.Sprintf("IMG_%04d", n)]
			got += fmt.Sprintf("%s %s%s; ", l.Grade, sku[l.Owner], map[bool]string{true: " by hand"}[l.Person != ""])
		}
		return got == want
	}
	await(t, 40*time.Second, "the codes to be read", func() bool {
		return shows("ignored ; likely K-1; likely K-1; likely K-1; ignored ; likely K-2; likely K-2; ")
	})
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	s.do(chromedp.Navigate(p.url() + fmt.Sprintf("/pair/%d?view=series", d.ID)))
	s.sees("By its slate · 3 pictures")
	s.until("document.querySelector('.codeframe')", "the frame around the slate's code")
	if got := s.text(".codeframe"); got != "9520000000004" {
		t.Errorf("in the frame: %q", got)
	}
	focus := func(selector string) { t.Helper(); s.do(chromedp.Focus(chromedp.CSS(selector))) }
	focus("hr.border")
	s.press(kb.ArrowLeft)
	s.until("document.querySelectorAll('.shot[data-leaving]').length === 1", "the picture that will leave")
	s.press(kb.Enter)
	await(t, 10*time.Second, "the border moved by key", func() bool {
		return shows("ignored ; likely K-1; likely K-1; sure K-2 by hand; ignored ; likely K-2; likely K-2; ")
	})
	s.until("[...document.querySelectorAll('.series header')].map(h => h.innerText.match(/(\\d+) picture/)[1]).join() === '2,3'", "two and three pictures")
	// By mouse, two pictures to the right: the one that came, and the next.
	at, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]float64]("(r => [r.x + r.width / 2, r.y + r.height / 2])(document.querySelector('hr.border').getBoundingClientRect())"))
	if err != nil {
		t.Fatal(err)
	}
	s.do(chromedp.MouseEvent("mousePressed", at[0], at[1], chromedp.ButtonLeft), chromedp.MouseEvent("mouseMoved", at[0]+190, at[1], chromedp.ButtonLeft),
		chromedp.MouseEvent("mouseReleased", at[0]+190, at[1], chromedp.ButtonLeft))
	await(t, 10*time.Second, "the border moved by mouse", func() bool {
		return shows("ignored ; likely K-1; likely K-1; sure K-1 by hand; ignored ; sure K-1 by hand; likely K-2; ")
	})
	s.click("Accept series")
	await(t, 10*time.Second, "the series accepted", func() bool {
		return shows("ignored ; sure K-1 by hand; sure K-1 by hand; sure K-1 by hand; ignored ; sure K-1 by hand; likely K-2; ")
	})
	// The hostile code is a text.
	s.do(chromedp.Navigate(p.url() + fmt.Sprintf("/pair/%d?q=hostile", d.ID)))
	s.sees("javascript:alert(1)")
	if got := s.text(".codes img, .codes a"); got != "" {
		t.Errorf("what a code says became a page: %q", got)
	}
}
