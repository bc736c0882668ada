package sources

import (
	"fmt"
	"html"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/store/query"
)

// nasty is a server of files, by plain listings, that does what it should not.
func nasty(t *testing.T) *httptest.Server {
	picture := string(jpegOf(7, 60))
	long := strings.Repeat("n", 4000)
	files := map[string]string{"good.jpg": picture, "Good.jpg": string(jpegOf(8, 60)), "bell\a.jpg": picture, "<b>bold</b>.jpg": picture, "cut.jpg": picture,
		"longer.jpg": picture, "resets.jpg": picture, long + ".jpg": picture, "self/in.jpg": picture, "deep/../../out.jpg": picture, "empty.jpg": ""}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		path := strings.TrimPrefix(r.URL.Path, "/")
		for strings.HasPrefix(path, "self/self/") { // the folder lies in itself
			path = strings.TrimPrefix(path, "self/")
		}
		w.Header().Set("Last-Modified", time.Unix(1<<40, 0).UTC().Format(http.TimeFormat)) // a wrong clock
		if path == "" || strings.HasSuffix(path, "/") {
			for name := range files {
				if rest, ok := strings.CutPrefix(name, path); ok && (path == "" || rest != name) {
					if folder, _, deeper := strings.Cut(rest, "/"); deeper {
						rest = folder + "/"
					}
					fmt.Fprintf(w, `<a href="%s">%s</a>`, (&url.URL{Path: "./" + rest}).String(), html.EscapeString(rest))
				}
			}
			if path == "self/" {
				io.WriteString(w, `<a href="self/">self/</a>`)
			}
			io.WriteString(w, `<a href="../up.jpg">up.jpg</a><a href="/etc/passwd.jpg">etc</a><a href="http://elsewhere.example/x.jpg">x</a>`)
			return
		}
		body, ok := files[path]
		if !ok {
			http.NotFound(w, r)
			return
		}
		told := len(body)
		switch path {
		case "cut.jpg":
			told += 1000
		case "longer.jpg":
			if r.Method == http.MethodHead {
				told -= 100
			}
		case "resets.jpg":
			if r.Method == http.MethodGet {
				if c, _, err := w.(http.Hijacker).Hijack(); err == nil {
					c.Close()
				}
				return
			}
		}
		w.Header().Set("Content-Length", strconv.Itoa(told))
		if r.Method == http.MethodGet {
			io.WriteString(w, body)
		}
	}))
	t.Cleanup(s.Close)
	return s
}

// A server that ends files in the middle, lies about sizes, lists a folder inside itself and gives names as it likes costs those lines only,
// and they are asked for again.
func TestNastyDrive(t *testing.T) {
	h := newHouse(t)
	s := nasty(t)
	h.Door.Hosts[host] = strings.TrimPrefix(s.URL, "http://")
	h.must(h.Store.AddDriveHost(t.Context(), query.AddDriveHostParams{Kind: "http", Host: host, AddedBy: h.person}))
	id, err := h.Add(t.Context(), h.by(), Source{Name: "nasty", Kind: Drive, Settings: Settings{Protocol: "http", Values: map[string]string{"url": "http://" + host + "/"}}})
	h.must(err)
	v := h.visit(id)
	if v.State != "ready" {
		t.Fatalf("%+v", v)
	}
	problems := map[string]string{}
	rows, err := h.Store.Pool.Query(t.Context(), "SELECT path, problem, coalesce(message->>'code', '') FROM arrival")
	h.must(err)
	for rows.Next() {
		var path, problem, code string
		h.must(rows.Scan(&path, &problem, &code))
		if problem != "" {
			problem += " " + code
		}
		problems[path] = problem
		if strings.Contains(path, "..") || strings.Contains(path, "up.jpg") || strings.Contains(path, "passwd") || strings.Contains(path, "elsewhere") {
			t.Errorf("a path leads out: %q", path)
		}
	}
	for path, want := range map[string]string{"good.jpg": "", "Good.jpg": "", "cut.jpg": "unreachable drive_file_cut", "longer.jpg": "unreachable drive_file_longer",
		"resets.jpg": "unreachable drive_file_failed", "self/in.jpg": "", "empty.jpg": "empty file_empty", strings.Repeat("n", 4000) + ".jpg": ""} {
		if got, came := problems[path]; !came || got != want {
			t.Errorf("%.20s: %v, %q, want %q", path, came, got, want)
		}
	}
	again := h.visit(id)
	for _, f := range h.files(again.ID) {
		if !strings.Contains(f, "cut.jpg") && !strings.Contains(f, "longer.jpg") && !strings.Contains(f, "resets.jpg") {
			t.Errorf("asked for again without need: %.60s", f)
		}
	}
	if again.Wanted < 3 {
		t.Errorf("what failed is not asked for again: %+v", again)
	}
}

// A certificate that nobody vouches for is refused, until a person trusts its fingerprint; another certificate is refused then.
func TestCertificate(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	served := httptest.NewTLSServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/" {
			io.WriteString(w, `<a href="one.jpg">one.jpg</a>`)
			return
		}
		w.Write(jpegOf(7, 40))
	}))
	t.Cleanup(served.Close)
	h.Door.Allow = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
	h.must(h.Store.AddDriveHost(ctx, query.AddDriveHostParams{Kind: "http", Host: "127.0.0.1", AddedBy: h.person}))
	of := Source{Name: "secure", Kind: Drive, Settings: Settings{Protocol: "http", Values: map[string]string{"url": served.URL + "/"}}}
	id, err := h.Add(ctx, h.by(), of)
	h.must(err)
	tried, err := h.Try(ctx, id)
	if err != nil || len(tried.Missing) != 1 || tried.Missing[0].Code != "drive_certificate" || !strings.HasPrefix(tried.Print, "SHA256:") {
		t.Fatalf("%+v, %v", tried, err)
	}
	of.Settings.Certificate = tried.Print
	h.must(h.Set(ctx, h.by(), id, of))
	if tried, err = h.Try(ctx, id); err != nil || len(tried.Missing) != 0 || tried.Files != 1 {
		t.Errorf("trusted: %+v, %v", tried, err)
	}
	of.Settings.Certificate = "SHA256:" + strings.Repeat("ab", 32)
	h.must(h.Set(ctx, h.by(), id, of))
	if tried, err = h.Try(ctx, id); err != nil || len(tried.Missing) != 1 || tried.Missing[0].Code != "drive_certificate" {
		t.Errorf("another one: %+v, %v", tried, err)
	}
}
