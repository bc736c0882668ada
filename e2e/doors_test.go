package e2e

import (
	"fmt"
	"io"
	"net/http"
	"os/exec"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// Who may do what: roles, the CSRF token, tokens, wrong attempts.
func TestDoors(t *testing.T) {
	p := serve(t)
	for _, who := range [][2]string{{"vera", "viewer"}, {"mo", "editor"}} {
		p.me.do("POST", "/api/people", map[string]string{"name": who[0], "password": "long-enough-for-this", "role": who[1]}, nil)
	}
	vera, mo := signIn(t, p.url(), "vera", "long-enough-for-this"), signIn(t, p.url(), "mo", "long-enough-for-this")
	nobody := &client{t: t, url: p.url()}
	forgetful := *mo
	forgetful.csrf = ""
	title := map[string]string{"title": "x"}
	for _, c := range []struct {
		who          string
		as           *client
		method, path string
		in           any
		want         int
	}{
		{"nobody looks", nobody, "GET", "/api/deliveries", nil, 401},
		{"a viewer looks", vera, "GET", "/api/deliveries", nil, 200},
		{"a viewer changes", vera, "POST", "/api/deliveries", title, 403},
		{"a viewer makes a token", vera, "POST", "/api/tokens", map[string]string{"name": "t"}, 200},
		{"an editor changes", mo, "POST", "/api/deliveries", title, 200},
		{"an editor without the CSRF token", &forgetful, "POST", "/api/deliveries", title, 403},
		{"an editor adds people", mo, "POST", "/api/people", map[string]string{"name": "x", "password": "long-enough-for-this", "role": "admin"}, 403},
		{"an admin adds a taken name", p.me, "POST", "/api/people", map[string]string{"name": "MO", "password": "long-enough-for-this", "role": "admin"}, 409},
		{"a plan that is not", mo, "POST", "/api/plans/77/apply", nil, 404},
		{"a rule that is not", mo, "POST", "/api/deliveries/1/plans", map[string]string{"rule": "guess"}, 422},
		{"no table", mo, "POST", "/api/tables", "PK\x03\x04\x00", 422},
		{"no such address", mo, "GET", "/api/nothing", nil, 404},
		{"a picture that is not", mo, "GET", "/api/assets/" + strings.Repeat("0", 64) + "/96", nil, 404},
		{"a path for a picture", mo, "GET", "/api/assets/..%2f..%2fetc/96", nil, 404},
	} {
		if status, text := c.as.try(c.method, c.path, c.in, nil); status != c.want {
			t.Errorf("%s: %d %s, want %d", c.who, status, text, c.want)
		}
	}

	var made struct {
		ID    int64
		Token string
	}
	mo.do("POST", "/api/tokens", map[string]string{"name": "script"}, &made)
	curl := func() string {
		out, _ := exec.Command("curl", "-s", "-o", "/dev/null", "-w", "%{http_code}", "-H", "Authorization: Bearer "+made.Token,
			"-H", "Content-Type: application/json", "-d", `{"title":"by a program"}`, p.url()+"/api/deliveries").Output()
		return string(out)
	}
	if got := curl(); got != "200" {
		t.Errorf("curl with a token: %s", got)
	}
	if status, _ := vera.try("DELETE", fmt.Sprintf("/api/tokens/%d", made.ID), nil, nil); status != 404 {
		t.Errorf("revoking somebody else's token: %d", status)
	}
	mo.do("DELETE", fmt.Sprintf("/api/tokens/%d", made.ID), nil, nil)
	if got := curl(); got != "401" {
		t.Errorf("curl with a revoked token: %s", got)
	}

	status := 0
	for range 9 {
		status, _ = nobody.try("POST", "/api/session", map[string]string{"name": "mo", "password": "a guess"}, nil)
	}
	if status != 429 {
		t.Errorf("the ninth wrong attempt: %d", status)
	}
}

// The description of the interface is readable with what ships, and no page asks anybody else.
func TestNothingFromOutside(t *testing.T) {
	p := serve(t)
	for path, want := range map[string]string{"/api/openapi.json": `"openapi":"3.1.0"`, "/healthz": "ok", "/metrics": "ambrosa_http_request_seconds", "/readyz": "ok"} {
		r, err := http.Get(p.url() + path)
		if err != nil {
			t.Fatal(err)
		}
		text, _ := io.ReadAll(r.Body)
		r.Body.Close()
		if r.StatusCode != 200 || !strings.Contains(string(text), want) {
			t.Errorf("%s: %d %.200s", path, r.StatusCode, text)
		}
	}
	p.me.load(table)
	r, err := http.Get(p.url() + "/metrics")
	if err != nil {
		t.Fatal(err)
	}
	told, _ := io.ReadAll(r.Body)
	r.Body.Close()
	for _, metric := range []string{`ambrosa_jobs{kind="run",state="done"} 1`, `ambrosa_pool_connections{pool="requests",state="most"} 10`, `ambrosa_pool_connections{pool="work",state="most"} 14`, "ambrosa_pool_waits_total"} {
		if !strings.Contains(string(told), metric) {
			t.Errorf("/metrics does not tell %s", metric)
		}
	}
	s := screen{t, browser(t)}
	enter(t, s.ctx, p.url(), adminName, adminPassword)
	for path, shows := range map[string]string{"/api/docs": "How much there is in the catalogue", "/gather": "No pictures", "/tables": "No table has been sent yet", "/tidy": "Proposed for the bin", "/pair": "no delivery to pair", "/ledger": "products.csv"} {
		s.do(chromedp.Navigate(p.url() + path))
		s.sees(shows)
		asked, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]string]("performance.getEntriesByType('resource').map(e => e.name)"))
		if err != nil {
			t.Fatal(err)
		}
		for _, url := range asked {
			if !strings.HasPrefix(url, p.url()) && !strings.HasPrefix(url, "data:") && !strings.HasPrefix(url, "blob:") {
				t.Errorf("%s asks %s", path, url)
			}
		}
	}
}
