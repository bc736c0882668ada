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

// LOOK: lines of "file|path|WxH|scheme|js"
func TestZZLook(t *testing.T) {
	look := os.Getenv("LOOK")
	if look == "" {
		t.Skip()
	}
	url := os.Getenv("LOOKURL")
	ctx := browser(t)
	enter(t, ctx, url, "ines", "kites-over-pellmoor")
	for _, l := range strings.Split(strings.TrimSpace(look), "\n") {
		f := strings.Split(l, "|")
		var w, h int
		fmt.Sscanf(f[2], "%dx%d", &w, &h)
		if _, err := chromedp.Call(ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: f[3]}}}); err != nil {
			t.Fatal(err)
		}
		do(t, ctx, chromedp.EmulateViewport(int64(w), int64(h)), chromedp.Navigate(url+f[1]), chromedp.Sleep(1500*time.Millisecond))
		if len(f) > 4 && f[4] != "" {
			do(t, ctx, chromedp.Evaluate[chromedp.Void](f[4]), chromedp.Sleep(900*time.Millisecond))
		}
		png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		if err != nil {
			t.Fatal(err)
		}
		os.WriteFile("/tmp/"+f[0]+".png", png, 0o644)
	}
}
