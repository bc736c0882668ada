package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
)

// LOOK="file|path|WxH|light|js;;…"
func TestZZLook(t *testing.T) {
	url := os.Getenv("LOOKURL")
	ctx := browser(t)
	who := os.Getenv("LOOKAS")
	if who == "" {
		who = "ines kites-over-pellmoor"
	}
	n, pw, _ := strings.Cut(who, " ")
	enter(t, ctx, url, n, pw)
	for _, v := range strings.Split(os.Getenv("LOOK"), ";;") {
		f := strings.Split(v, "|")
		var w, h int64
		fmt.Sscanf(f[2], "%dx%d", &w, &h)
		chromedp.Call(ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: f[3]}}})
		do(t, ctx, chromedp.EmulateViewport(w, h), chromedp.Navigate(url+f[1]), chromedp.Sleep(2200*time.Millisecond))
		if len(f) > 4 && f[4] != "" {
			do(t, ctx, chromedp.Evaluate[chromedp.Void](f[4]), chromedp.Sleep(1800*time.Millisecond))
		}
		png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		if err != nil {
			t.Fatal(err)
		}
		os.WriteFile(f[0], png, 0o644)
	}
}
