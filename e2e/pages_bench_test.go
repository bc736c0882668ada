package e2e

import (
	"fmt"
	"image/color"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"
)

// BenchmarkWalk walks a listing of 500 items, three pictures each, of a shop that answers after a few milliseconds; its yardstick is curl, which
// fetches the same addresses one after the other over connections that stay open. Goal: no more than 0.6 of its time, with a pause of 0.
func BenchmarkWalk(b *testing.B) {
	for _, wait := range []time.Duration{0, 5 * time.Millisecond} {
		b.Run(fmt.Sprint("answers after ", wait), func(b *testing.B) { benchWalk(b, wait) })
	}
}

const (
	walkItems  = 500
	walkOnPage = 50
)

func benchWalk(b *testing.B, wait time.Duration) {
	var mu sync.Mutex
	var asked []string
	counting := true
	small, large := jpegOf(color.RGBA{90, 90, 200, 255}, 120), map[byte][]byte{}
	for v := byte('1'); v <= '3'; v++ { // else they would be one picture three times
		large[v] = jpegOf(color.RGBA{60 * (v - '0'), 90, 200, 255}, 900)
	}
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mu.Lock()
		if counting {
			asked = append(asked, r.URL.RequestURI())
		}
		mu.Unlock()
		time.Sleep(wait)
		var n int
		switch path := r.URL.RequestURI(); {
		case strings.HasPrefix(path, "/list/"):
			_, _ = fmt.Sscanf(path, "/list/%d", &n)
			w.Header().Set("Content-Type", "text/html")
			for i := n * walkOnPage; i < (n+1)*walkOnPage; i++ {
				fmt.Fprintf(w, `<li class=good><a href="/item/%d"><img src="/s/%d-1.jpg">Kite %d</a></li>`, i, i, i)
			}
			if (n+1)*walkOnPage < walkItems {
				fmt.Fprintf(w, `<a class=later href="/list/%d">Further</a>`, n+1)
			}
		case strings.HasPrefix(path, "/item/"):
			_, _ = fmt.Sscanf(path, "/item/%d", &n)
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprintf(w, `<h1>Kite %d</h1><b class=code>K-%d</b>`, n, n)
			for v := 1; v <= 3; v++ {
				fmt.Fprintf(w, `<a class=shot href="/l/%d-%d.jpg"><img src="/s/%d-%d.jpg"></a>`, n, v, n, v)
			}
			fmt.Fprint(w, strings.Repeat("<p>A paragraph of the page, as shops have many.</p>", 400))
		case strings.HasPrefix(path, "/s/"):
			http.ServeContent(w, r, "a.jpg", time.Time{}, strings.NewReader(string(small)))
		case strings.HasPrefix(path, "/l/"):
			http.ServeContent(w, r, "a.jpg", time.Time{}, strings.NewReader(string(large[path[len(path)-5]])))
		default:
			http.NotFound(w, r)
		}
	}))
	defer shop.Close()
	p := serve(b, onLoopback)
	var source struct{ ID int64 }
	p.me.do("POST", "/api/sources", map[string]any{"name": "shop", "kind": "pages"}, &source)
	p.me.do("PUT", fmt.Sprintf("/api/sources/%d/guide", source.ID), map[string]any{"form": 1, "start": []string{shop.URL + "/list/0"}, "next": map[string]any{"selector": "a.later"},
		"items": map[string]any{"selector": "li.good"}, "pictures": map[string]any{"selector": "a.shot img"}, "sku": map[string]any{"selector": "b.code"}, "limits": map[string]any{"pause": 0}}, nil)
	var walked, curled time.Duration
	for b.Loop() {
		asked, counting = nil, true
		begun := time.Now()
		p.me.do("POST", fmt.Sprintf("/api/sources/%d/visits", source.ID), map[string]any{"addresses": true}, nil)
		await(b, 5*time.Minute, "the walk", func() bool {
			return one[int](p, "SELECT count(*) FROM job WHERE kind = 'take_in' AND state <> 'done'") == 0
		})
		walked += time.Since(begun)
		counting = false
		if got := one[int](p, "SELECT count(*) FROM walk_item WHERE state = 'read' AND kept = 3 AND delivery_id = (SELECT max(delivery_id) FROM walk)"); got != walkItems {
			b.Fatalf("%d items were read", got)
		}
		var list strings.Builder
		for _, path := range asked {
			fmt.Fprintf(&list, "url = \"%s%s\"\noutput = \"/dev/null\"\n", shop.URL, path)
		}
		file := filepath.Join(b.TempDir(), "list")
		if err := os.WriteFile(file, []byte(list.String()), 0o600); err != nil {
			b.Fatal(err)
		}
		begun = time.Now()
		if out, err := exec.Command("curl", "-s", "-K", file).CombinedOutput(); err != nil {
			b.Fatalf("curl: %v %s", err, out)
		}
		curled += time.Since(begun)
	}
	b.ReportMetric(walked.Seconds()/float64(b.N), "s-walk")
	b.ReportMetric(curled.Seconds()/float64(b.N), "s-curl")
	b.ReportMetric(float64(len(asked)), "requests")
	b.ReportMetric(walked.Seconds()/curled.Seconds(), "times-curl")
}
