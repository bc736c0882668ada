package api

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"
	"ambrosa/internal/seal"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tables"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// house is a server that listens, with its own database and folders; nothing works in its background.
type house struct {
	*Server
	t   testing.TB
	url string
}

func newHouse(t testing.TB) *house {
	t.Helper()
	s, _ := storetest.New(t)
	vault, err := assets.OpenVault(context.Background(), filepath.Join(t.TempDir(), "pictures"))
	if err != nil {
		t.Fatal(err)
	}
	folder := filepath.Join(t.TempDir(), "uploads")
	if err := os.Mkdir(folder, 0o755); err != nil {
		t.Fatal(err)
	}
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	g := &gather.Gatherer{Store: s, Jobs: j, Vault: vault, Folder: folder, Limits: source.DefaultLimits}
	g.Register()
	book := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	sheets := &tables.Tables{Store: s, Ledger: book, Jobs: j, Folder: folder}
	sheets.Register()
	keeper, err := seal.New("test", "")
	if err != nil {
		t.Fatal(err)
	}
	door := &fetch.Door{}
	named := &sources.Sources{Store: s, Jobs: j, Gatherer: g, Ledger: book, Keeper: keeper, Door: door, Fetch: fetch.New(door, fetch.DefaultLimits), Drops: filepath.Join(folder, "drops")}
	named.Register()
	g.Kinds, g.Finished = named.Openers(), named.Arrived
	base, end := context.WithCancel(context.Background())
	h := &house{t: t, Server: &Server{Base: base, Store: s, Vault: vault, Register: &people.Register{Store: s}, Gatherer: g,
		Tables: sheets, Sources: named, Pairer: &pair.Pairer{Store: s, Ledger: book, Snapshots: &catalogue.Snapshots{Store: s}}, Ledger: book, Jobs: j, Web: fstest.MapFS{"index.html": {Data: []byte("<p>home</p>")}, "docs.html": {Data: []byte("docs")}}}}
	app, err := h.App()
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go app.Listener(l)
	h.url = "http://" + l.Addr().String()
	t.Cleanup(func() { end(); app.ShutdownWithTimeout(0); vault.Close() })
	return h
}

// caller is somebody who asks, by session or by token.
type asker struct {
	h                   *house
	cookie, csrf, token string
}

// as signs a person of a role in, who is added first.
func (h *house) as(name string, role people.Role) *asker {
	h.t.Helper()
	if _, err := h.Register.Add(context.Background(), 0, name, "long-enough-for-this", role); err != nil {
		h.t.Fatal(err)
	}
	return h.signIn(name)
}

func (h *house) signIn(name string) *asker {
	h.t.Helper()
	a := &asker{h: h}
	status, text, header := a.ask("POST", "/api/session", fmt.Sprintf(`{"name":%q,"password":"long-enough-for-this"}`, name))
	var s struct{ CSRF string }
	if err := json.Unmarshal([]byte(text), &s); err != nil || status != 200 {
		h.t.Fatal(status, text, err)
	}
	a.cookie, a.csrf = strings.Split(header.Get("Set-Cookie"), ";")[0], s.CSRF
	return a
}

// ask sends a request as it stands: the address is not cleaned. Further headers come in pairs.
func (a *asker) ask(method, address, body string, headers ...string) (status int, text string, header http.Header) {
	a.h.t.Helper()
	conn, err := net.Dial("tcp", strings.TrimPrefix(a.h.url, "http://"))
	if err != nil {
		a.h.t.Fatal(err)
	}
	defer conn.Close()
	defer conn.Close()
	if err := conn.SetDeadline(time.Now().Add(10 * time.Second)); err != nil {
		a.h.t.Fatal(err)
	}
	var b bytes.Buffer
	fmt.Fprintf(&b, "%s %s HTTP/1.1\r\nHost: ambrosa.example\r\nConnection: close\r\nTus-Resumable: 1.0.0\r\nContent-Length: %d\r\n", method, address, len(body))
	for key, value := range map[string]string{"Cookie": a.cookie, csrfHeader: a.csrf, "Authorization": a.token} {
		if value != "" {
			fmt.Fprintf(&b, "%s: %s\r\n", key, value)
		}
	}
	if !strings.Contains(strings.Join(headers, " "), "Content-Type") {
		b.WriteString("Content-Type: application/json\r\n")
	}
	for i := 0; i < len(headers); i += 2 {
		fmt.Fprintf(&b, "%s: %s\r\n", headers[i], headers[i+1])
	}
	b.WriteString("\r\n" + body)
	if _, err := conn.Write(b.Bytes()); err != nil {
		a.h.t.Fatal(err)
	}
	answer, err := http.ReadResponse(bufio.NewReader(conn), &http.Request{Method: method})
	if err != nil {
		a.h.t.Fatalf("%s %s: %v", method, address, err)
	}
	if strings.HasPrefix(answer.Header.Get("Content-Type"), "text/event-stream") {
		return answer.StatusCode, "", answer.Header // it has no end to read to
	}
	content, err := io.ReadAll(answer.Body)
	if err != nil {
		a.h.t.Fatalf("%s %s: %v", method, address, err)
	}
	return answer.StatusCode, string(content), answer.Header
}

// must asks for something that has to go well, and reads the answer.
func (a *asker) must(method, address, body string, out any) {
	a.h.t.Helper()
	status, text, _ := a.ask(method, address, body)
	if status >= 300 {
		a.h.t.Fatalf("%s %s: %d %s", method, address, status, text)
	}
	if out != nil {
		if err := json.Unmarshal([]byte(text), out); err != nil {
			a.h.t.Fatal(err)
		}
	}
}

// exec changes the database behind the server's back.
func (h *house) exec(sql string, args ...any) {
	h.t.Helper()
	if _, err := h.Store.Pool.Exec(context.Background(), sql, args...); err != nil {
		h.t.Fatal(err)
	}
}
