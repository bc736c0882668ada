package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/people"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gofiber/fiber/v2"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/valyala/fasthttp"
)

// exceptional says who may do what is not told by its method: looking needs a viewer, changing an editor.
var exceptional = map[string]people.Role{
	"POST /api/session": people.Anybody, "DELETE /api/session": people.Viewer, "POST /api/tokens": people.Viewer, "DELETE /api/tokens/{id}": people.Viewer,
	"GET /api/people": people.Admin, "POST /api/people": people.Admin, "PUT /api/people/{id}/role": people.Admin,
	"POST /api/people/{id}/end-sessions": people.Admin, "POST /api/people/{id}/deactivate": people.Admin, "POST /api/people/{id}/activate": people.Admin,
	"GET /api/audit": people.Admin, "POST /api/notices/read": people.Viewer, "POST /api/sheets": people.Viewer, "POST /api/picture-tables": people.Viewer, "POST /api/deliveries/{id}/zip": people.Viewer, "PATCH /api/session/settings": people.Viewer, "PUT /api/session/password": people.Viewer,
	"POST /api/drive-hosts": people.Admin, "DELETE /api/drive-hosts": people.Admin, "PUT /api/pictures/{sha}/rights": people.Admin, "POST /api/plans/{id}/release": people.Admin,
	"GET /api/sources/{id}/browse": people.Editor, "GET /api/sources/{id}/glimpse": people.Editor, "GET /api/sources/{id}/folder": people.Editor, "GET /api/pages/glance": people.Editor, "GET /api/pages/picture": people.Editor,
	"POST /api/gallery/look": people.Viewer, "POST /api/gallery/zip": people.Viewer, "POST /api/tidy/strays/delete": people.Admin, "PUT /api/tidy/limits": people.Admin, "POST /api/tidy/empty": people.Admin, "POST /api/tidy/scrub": people.Admin,
	"POST /api/channels/{id}/addresses": people.Admin, "PUT /api/house": people.Admin, "PUT /api/session/mail": people.Viewer,
	"GET /api/mail-server": people.Admin, "PUT /api/mail-server": people.Admin, "POST /api/mail-server/try": people.Admin, "GET /api/webhooks": people.Admin, "POST /api/webhooks": people.Admin, "DELETE /api/webhooks/{id}": people.Admin,
	"HEAD /api/uploads/{id}": people.Editor, "OPTIONS /api/uploads/": people.Editor,
}

type description struct {
	Paths map[string]map[string]struct {
		OperationID string `json:"operationId"`
		Role        string `json:"x-role"`
	}
	Components struct {
		Schemas map[string]json.RawMessage `json:"schemas"`
	}
}

// schemaNames are words of the trade, without the syntax of Go.
var schemaNames = regexp.MustCompile(`^([A-Z][a-z]+)+$`)

var parameter = regexp.MustCompile(`\{\w+\}`)

// Every operation of the description × nobody, a viewer, an editor, an admin and a session without its CSRF token, and its path
// in other spellings. Who may is told by the table above, not by the program.
func TestEveryOperation(t *testing.T) {
	h := newHouse(t)
	roles := []people.Role{people.Viewer, people.Editor, people.Admin}
	askers := map[people.Role]*asker{"": {h: h}}
	for _, role := range roles {
		askers[role] = h.as("who is "+string(role), role)
	}
	_, text, _ := askers[""].ask("GET", "/api/openapi.json", "")
	var d description
	if err := json.Unmarshal([]byte(text), &d); err != nil || len(d.Paths) < 20 {
		t.Fatalf("%d paths, %v", len(d.Paths), err)
	}
	for name := range d.Components.Schemas {
		if !schemaNames.MatchString(name) || strings.HasSuffix(name, "Body") {
			t.Errorf("a schema is called %q", name)
		}
	}
	for path, methods := range d.Paths {
		for method, op := range methods {
			method = strings.ToUpper(method)
			needed, ok := exceptional[method+" "+path]
			if !ok {
				needed = people.Editor
				if method == "GET" {
					needed = people.Viewer
				}
			}
			if op.Role != string(needed) {
				t.Errorf("%s %s says that it needs %q, not %q", method, path, op.Role, needed)
			}
			address := parameter.ReplaceAllStringFunc(path, func(name string) string {
				switch {
				case strings.HasPrefix(path, "/api/uploads/"):
					return strings.Repeat("0", 32)
				case name == "{sha}":
					return strings.Repeat("0", 64)
				}
				return "999"
			})
			body := ""
			if method == "POST" || method == "PUT" {
				body = "{}"
			}
			for role, who := range askers {
				status, _, header := who.ask(method, address, body)
				refused := status == http.StatusUnauthorized && role == "" || status == http.StatusForbidden && role != ""
				if may := role.May(needed); may && needed != people.Anybody && refused || !may && !refused {
					t.Errorf("%s %s as %q: %d", method, address, role, status)
				}
				if header.Get(requestID) == "" || strings.HasPrefix(path, "/api/") && path != "/api/assets/{sha}/{size}" && header.Get("Cache-Control") != "no-store" {
					t.Errorf("%s %s as %q: headers %v", method, address, role, header)
				}
				if op.OperationID == "sign-out" && role != "" {
					askers[role] = h.signIn("who is " + string(role))
				}
			}
			if !isRead(method) && needed != people.Anybody {
				forgetful := *askers[people.Admin]
				forgetful.csrf = ""
				if status, _, _ := forgetful.ask(method, address, body); status != http.StatusForbidden {
					t.Errorf("%s %s without the CSRF token: %d", method, address, status)
				}
			}
			// A path that only looks like the operation's leads nowhere, whoever asks.
			for _, other := range []string{strings.ToUpper(address), "/API" + address[4:], "/" + address, strings.Replace(address, "/api/", "/api//", 1),
				strings.Replace(address, "/api/", "/%61pi/", 1), strings.Replace(address, "/api/", "/api/./", 1), address + "/", address[:5] + "%" + fmt.Sprintf("%x", address[5]) + address[6:], "/x/.." + address} {
				for role, who := range askers {
					if status, got, _ := who.ask(method, other, body); status < 400 {
						t.Errorf("%s %s as %q: %d %.100s", method, other, role, status, got)
					}
				}
			}
		}
	}
}

// A server with an operation that does not say who may use it does not start, nor one with an address beside the description.
func TestUnstatedRole(t *testing.T) {
	for name, add := range map[string]func(*fiber.App, huma.API){
		"an operation without a role": func(_ *fiber.App, api huma.API) {
			huma.Register(api, huma.Operation{Method: "GET", Path: "/api/open", OperationID: "open"}, func(context.Context, *struct{}) (*struct{}, error) { return nil, nil })
		},
		"an address that nothing describes": func(app *fiber.App, _ huma.API) {
			app.Get("/api/hidden", func(*fiber.Ctx) error { return nil })
		},
	} {
		app := fiber.New()
		api := (&Server{}).describe(app)
		if err := checkDoors(app, api); err != nil {
			t.Fatal(err)
		}
		add(app, api)
		if err := checkDoors(app, api); err == nil {
			t.Errorf("%s: the server would start", name)
		}
	}
}

// Every text of a request has a greatest length, or is one of a few.
func TestTextLengths(t *testing.T) {
	document, err := OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	type schema struct {
		Type                 any
		Format               string
		MaxLength            *int
		Enum                 []any
		Items                *json.RawMessage
		Properties           map[string]json.RawMessage
		AdditionalProperties json.RawMessage
		Ref                  string `json:"$ref"`
	}
	var doc struct {
		Paths map[string]map[string]struct {
			Parameters []struct {
				Name   string
				In     string
				Schema json.RawMessage
			}
			RequestBody struct {
				Content map[string]struct{ Schema json.RawMessage }
			}
		}
		Components struct{ Schemas map[string]json.RawMessage }
	}
	if err := json.Unmarshal(document, &doc); err != nil {
		t.Fatal(err)
	}
	checked := 0
	var check func(where string, raw json.RawMessage)
	check = func(where string, raw json.RawMessage) {
		var s schema
		if len(raw) == 0 || string(raw) == "false" || string(raw) == "true" || json.Unmarshal(raw, &s) != nil {
			return
		}
		if name, ok := strings.CutPrefix(s.Ref, "#/components/schemas/"); ok {
			check(where, doc.Components.Schemas[name])
			return
		}
		if fmt.Sprint(s.Type) == "string" {
			checked++
			if s.MaxLength == nil && len(s.Enum) == 0 && s.Format != "binary" {
				t.Errorf("%s may be of any length", where)
			}
		}
		if s.Items != nil {
			check(where+"[]", *s.Items)
		}
		for name, p := range s.Properties {
			check(where+"."+name, p)
		}
	}
	for path, methods := range doc.Paths {
		for method, op := range methods {
			for _, p := range op.Parameters {
				check(method+" "+path+" "+p.Name, p.Schema)
			}
			for _, c := range op.RequestBody.Content {
				check(method+" "+path, c.Schema)
			}
		}
	}
	if checked < 10 {
		t.Errorf("only %d texts were looked at", checked)
	}
}

// What is no text is refused in one way, wherever it stands.
func TestNoText(t *testing.T) {
	h := newHouse(t)
	mo := h.as("mo two", people.Editor)
	for _, c := range []struct {
		method, address, body string
		want                  int
	}{
		{"GET", "/api/owners?q=a%00b", "", 400}, {"GET", "/api/owners?q=%ff%fe", "", 400}, {"GET", "/api/deliveries/%00", "", 400}, {"GET", "/api/owners?q=%zz", "", 400},
		{"POST", "/api/deliveries", `{"title":"a\u0000b"}`, 400}, {"POST", "/api/deliveries", "{\"title\":\"a\xffb\"}", 400}, {"POST", "/api/deliveries", "{\"title\":\"a\x00b\"}", 400},
		{"POST", "/api/deliveries", `{"title":"a\\u0000b"}`, 200}, // a backslash and letters
		{"POST", "/api/session", `{"name":"\u0000","password":"x"}`, 400}, {"POST", "/api/deliveries", `{"title":"` + strings.Repeat("x", 2<<20) + `"}`, 413},
	} {
		status, text, _ := mo.ask(c.method, c.address, c.body)
		if status != c.want {
			t.Errorf("%s %s %.40q: %d %.200s, want %d", c.method, c.address, c.body, status, text, c.want)
		}
	}
}

// A token works, but makes no tokens; an event stream ends with its session.
func TestTokensAndStreams(t *testing.T) {
	h := newHouse(t)
	mo := h.as("mo two", people.Editor)
	var made struct {
		ID    int64
		Token string
	}
	mo.must("POST", "/api/tokens", `{"name":"robot"}`, &made)
	robot := &asker{h: h, token: "Bearer " + made.Token}
	robot.must("POST", "/api/deliveries", `{"title":"by a program"}`, nil)
	if status, text, _ := robot.ask("POST", "/api/tokens", `{"name":"another"}`); status != 403 {
		t.Errorf("a token makes a token: %d %s", status, text)
	}
	r, err := http.NewRequest("GET", h.url+"/api/events", nil)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Cookie", mo.cookie)
	stream, err := http.DefaultClient.Do(r)
	if err != nil || stream.StatusCode != 200 {
		t.Fatal(stream, err)
	}
	defer stream.Body.Close()
	mo.must("DELETE", "/api/session", "", nil)
	ended := make(chan bool)
	go func() {
		for b := make([]byte, 100); err == nil; _, err = stream.Body.Read(b) {
		}
		close(ended)
	}()
	select {
	case <-ended:
	case <-time.After(10 * time.Second):
		t.Error("the stream goes on though its session has ended")
	}
	// Too many streams of one person, and too many requests, are told when to try again.
	ada := h.as("ada", people.Viewer)
	var last int
	for range mostStreams + 1 {
		r, _ := http.NewRequest("GET", h.url+"/api/events", nil)
		r.Header.Set("Cookie", ada.cookie)
		a, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		defer a.Body.Close()
		last = a.StatusCode
		if last == 429 && a.Header.Get("Retry-After") == "" {
			t.Error("nobody says when to try again")
		}
	}
	if last != 429 {
		t.Errorf("stream %d: %d", mostStreams+1, last)
	}
	ines := h.as("ines", people.Admin)
	for i := 0; ; i++ {
		status, _, header := ines.ask("GET", "/api/session", "")
		if status == 429 {
			if header.Get("Retry-After") == "" || i < paceBurst {
				t.Errorf("request %d is refused, %v", i+1, header)
			}
			break
		}
		if i > 20*paceBurst {
			t.Fatal("nothing holds a person who asks without end")
		}
	}
	if status, _, _ := h.signIn("ada").ask("GET", "/api/session", ""); status != 200 {
		t.Errorf("somebody else is held too: %d", status)
	}
}

// A newer search of the same page ends the one before, and the statement with it.
func TestNewerSearchEndsOlder(t *testing.T) {
	h := newHouse(t)
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	first, done := h.latest.begin(ctx, 1, "page")
	defer done()
	ended := make(chan error, 1)
	go func() {
		_, err := h.Store.Pool.Exec(first, "SELECT pg_sleep(15)")
		ended <- err
	}()
	for busy := 0; busy == 0; {
		if err := h.Store.Pool.QueryRow(ctx, "SELECT count(*) FROM pg_stat_activity WHERE query LIKE 'SELECT pg_sleep%' AND state = 'active'").Scan(&busy); err != nil {
			t.Fatal(err)
		}
	}
	other, otherDone := h.latest.begin(ctx, 2, "page")
	defer otherDone()
	second, secondDone := h.latest.begin(ctx, 1, "page")
	defer secondDone()
	if err := <-ended; err == nil || ctx.Err() != nil {
		t.Errorf("the older one ended with %v", err)
	}
	if second.Err() != nil || other.Err() != nil {
		t.Error("the newer one, or somebody else's, was ended too")
	}
	for busy := 1; busy > 0; {
		if err := h.Store.Pool.QueryRow(ctx, "SELECT count(*) FROM pg_stat_activity WHERE query LIKE 'SELECT pg_sleep%' AND state = 'active'").Scan(&busy); err != nil {
			t.Fatalf("the statement goes on: %v", err)
		}
	}
}

// A panic is answered as a 500 with the request's id, counted as one, and the next request is served.
func TestPanic(t *testing.T) {
	s := &Server{}
	requests := prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "x"}, []string{"method", "route", "status"})
	app := fiber.New(fiber.Config{ErrorHandler: answerError})
	app.Use(measure(requests), s.identify, survive)
	app.Get("/breaks", func(*fiber.Ctx) error { panic("secret of the server") })
	app.Get("/fails", func(*fiber.Ctx) error { return fmt.Errorf("/path/of/the/server") })
	for _, path := range []string{"/breaks", "/fails", "/breaks"} {
		r, err := http.NewRequest("GET", path, nil)
		if err != nil {
			t.Fatal(err)
		}
		a, err := app.Test(r)
		if err != nil || a.StatusCode != 500 {
			t.Fatal(a, err)
		}
		var problem struct{ Detail string }
		if err := json.NewDecoder(a.Body).Decode(&problem); err != nil {
			t.Fatal(err)
		}
		if id := a.Header.Get(requestID); id == "" || !strings.Contains(problem.Detail, id) || strings.Contains(problem.Detail, "server/") || strings.Contains(problem.Detail, "secret") {
			t.Errorf("%s: %q under %q", path, problem.Detail, id)
		}
	}
	for route, want := range map[string]uint64{"/breaks": 2, "/fails": 1} {
		registry := prometheus.NewRegistry()
		registry.MustRegister(requests)
		families, err := registry.Gather()
		if err != nil {
			t.Fatal(err)
		}
		got := uint64(0)
		for _, m := range families[0].GetMetric() {
			var labels []string
			for _, l := range m.GetLabel() {
				labels = append(labels, l.GetValue())
			}
			if slices.Contains(labels, route) && slices.Contains(labels, "500") {
				got += m.GetHistogram().GetSampleCount()
			}
		}
		if got != want {
			t.Errorf("%s is counted as a 500 %d times, want %d", route, got, want)
		}
	}
}

func TestCaller(t *testing.T) {
	trusted := Proxies{netip.MustParsePrefix("10.0.0.0/8")}
	for _, c := range []struct {
		proxies        Proxies
		remote, header string
		want           string
	}{
		{nil, "192.0.2.1", "198.51.100.9", "192.0.2.1"}, // what nobody vouches for is not used
		{trusted, "192.0.2.1", "198.51.100.9", "192.0.2.1"},
		{trusted, "10.1.1.1", "198.51.100.9", "198.51.100.9"},
		{trusted, "10.1.1.1", "6.6.6.6, 198.51.100.9, 10.2.2.2", "198.51.100.9"}, // the first is what anybody may have written
		{trusted, "10.1.1.1", "nonsense", "10.1.1.1"},
		{trusted, "10.1.1.1", "", "10.1.1.1"},
	} {
		app := fiber.New()
		ctx := &fasthttp.RequestCtx{}
		ctx.Init(&fasthttp.Request{}, net.TCPAddrFromAddrPort(netip.AddrPortFrom(netip.MustParseAddr(c.remote), 1)), nil)
		f := app.AcquireCtx(ctx)
		f.Request().Header.Set("X-Forwarded-For", c.header)
		if got := c.proxies.caller(f).String(); got != c.want {
			t.Errorf("from %s with %q: %s, want %s", c.remote, c.header, got, c.want)
		}
		app.ReleaseCtx(f)
	}
}

// Every page of the handbook is there, each link and picture in it leads somewhere, and there is nothing else.
func TestHandbook(t *testing.T) {
	h := newHouse(t)
	nobody := &asker{h: h}
	seen := map[string]bool{}
	var read func(path string)
	read = func(path string) {
		if seen[path] {
			return
		}
		seen[path] = true
		status, text, _ := nobody.ask("GET", path, "")
		if status != 200 || !strings.HasSuffix(path, ".png") && !strings.Contains(text, "<h1>") {
			t.Errorf("%s: %d", path, status)
			return
		}
		if strings.HasSuffix(path, ".png") {
			return
		}
		for _, m := range regexp.MustCompile(`(?:href|src)="([^"]+)"`).FindAllStringSubmatch(text, -1) {
			switch {
			case m[1] == "/":
			case strings.HasPrefix(m[1], "/"):
				read(m[1])
			default:
				read("/handbook/" + m[1])
			}
		}
	}
	read("/handbook/README.md")
	if len(seen) < 15 {
		t.Errorf("only %v", seen)
	}
	for _, path := range []string{"/handbook/nothing.md", "/handbook/..%2f..%2fgo.mod", "/handbook/pictures/..%2f..%2fgo.mod", "/handbook/README"} {
		if status, _, _ := nobody.ask("GET", path, ""); status != 404 && status != 400 {
			t.Errorf("%s: %d", path, status)
		}
	}
}
