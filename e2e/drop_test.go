package e2e

import (
	"bytes"
	"fmt"
	"image/color"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"
)

// door is a drop folder that is open.
type door struct {
	p                    *program
	id                   int64
	url, login, password string
}

// dropFolder names a drop folder whose files are taken in after so many seconds.
func dropFolder(t *testing.T, p *program, login string, quiet int) door {
	t.Helper()
	var made struct{ ID int64 }
	p.me.do("POST", "/api/sources", map[string]any{"name": "drop " + login, "kind": "drop", "supplier": "Corrie", "settings": map[string]any{"login": login, "quiet": quiet, "quota": 64 << 20},
		"rights": map[string]any{"may": "cleared"}}, &made)
	var opened struct{ Password string }
	p.me.do("POST", fmt.Sprintf("/api/sources/%d/door", made.ID), nil, &opened)
	return door{p, made.ID, p.url() + "/drop/" + login + "/", login, opened.Password}
}

func (d door) ask(t *testing.T, method, path string, body io.Reader) *http.Response {
	t.Helper()
	r, err := http.NewRequest(method, d.url+path, body)
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Authorization", "Basic "+base64(d.login+":"+d.password))
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { answer.Body.Close() })
	return answer
}

// known are the tests of litmus that the library's handler is known to fail, and why. Source: golang.org/x/net/webdav, its own notes.
var known = map[string]string{
	"propfind_invalid2":     "an XML namespace that is declared empty is taken",
	"lock_shared":           "there are no shared locks",
	"fail_complex_cond_put": "a condition of two lists is read as one",
}

// The drop folder is a WebDAV server: litmus finds no fault but those that are the library's (RFC 4918, class 1 and 2).
func TestLitmus(t *testing.T) {
	if _, err := exec.LookPath("litmus"); err != nil {
		t.Skip("litmus is not installed")
	}
	p := serve(t)
	d := dropFolder(t, p, "litmus", 3600)
	c := exec.Command("litmus", "-k", d.url, d.login, d.password)
	c.Dir = t.TempDir()          // it writes logs
	out, _ := c.CombinedOutput() // it fails where a test does
	failed := regexp.MustCompile(`(?m)^\s*\d+\. (\w+)\.+ (?:WARNING:[^\n]*\n\s*\.+ )?FAIL`).FindAllStringSubmatch(string(out), -1)
	for _, f := range failed {
		if known[f[1]] == "" {
			t.Errorf("litmus: %s failed", f[1])
		}
	}
	summaries := regexp.MustCompile(`summary for .(\w+)': of (\d+) tests run: (\d+) passed`).FindAllStringSubmatch(string(out), -1)
	var passed []string
	for _, s := range summaries {
		passed = append(passed, s[1]+" "+s[3]+"/"+s[2])
	}
	t.Log(strings.Join(passed, ", "))
	if len(summaries) < 5 {
		t.Errorf("litmus ran %d of 5 parts:\n%s", len(summaries), out)
	}
	if t.Failed() {
		t.Logf("%s", out)
	}
}

// What is copied into a drop folder, by other people's programs, becomes a delivery with the source's supplier and rights: after a while, or when
// done.txt arrives. A file that was cut off is not there; who has no password, or one that was taken back, comes to nothing.
func TestDropFolder(t *testing.T) {
	p := serve(t)
	d := dropFolder(t, p, "corrie", 3600)
	zip := zipOf(t, map[string][]byte{"inside.jpg": jpegOf(color.RGBA{3, 90, 60, 255}, 90)})
	folder := t.TempDir()
	for path, b := range map[string][]byte{"PK-1.jpg": jpegOf(color.RGBA{1, 90, 60, 255}, 90), "deep/ü ö/PK-2.jpg": jpegOf(color.RGBA{2, 90, 60, 255}, 90), "pack.zip": zip, ".DS_Store": []byte("litter")} {
		at := filepath.Join(folder, filepath.FromSlash(path))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at, b, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := exec.LookPath("rclone"); err == nil {
		secret, err := exec.Command("rclone", "obscure", d.password).Output()
		if err != nil {
			t.Fatal(err)
		}
		remote := fmt.Sprintf(`:webdav,url="%s",vendor=other,user=%s,pass=%s:`, d.url, d.login, strings.TrimSpace(string(secret)))
		for _, args := range [][]string{{"copy"}, {"check", "--download"}} { // copied there, read back and compared
			if out, err := exec.Command("rclone", append(args, "--config", "/dev/null", folder, remote)...).CombinedOutput(); err != nil {
				t.Fatalf("rclone %s: %v\n%s", args, err, out)
			}
		}
	} else {
		t.Log("rclone is not installed: files are put by hand")
		for _, path := range []string{"PK-1.jpg", "pack.zip", ".DS_Store"} {
			b, _ := os.ReadFile(filepath.Join(folder, path))
			d.ask(t, "PUT", path, bytes.NewReader(b))
		}
	}
	if _, err := exec.LookPath("cadaver"); err == nil {
		home := t.TempDir()
		if err := os.WriteFile(filepath.Join(home, ".netrc"), []byte(fmt.Sprintf("machine 127.0.0.1\nlogin %s\npassword %s\n", d.login, d.password)), 0o600); err != nil {
			t.Fatal(err)
		}
		c := exec.Command("cadaver", d.url)
		c.Env = append(os.Environ(), "HOME="+home)
		c.Stdin = strings.NewReader("mkcol by-hand\ncd by-hand\nput " + filepath.Join(folder, "PK-1.jpg") + " PK-3.jpg\nls\nquit\n")
		if out, err := c.CombinedOutput(); err != nil || !strings.Contains(string(out), "PK-3.jpg") {
			t.Errorf("cadaver: %v\n%s", err, out)
		}
	} else {
		t.Log("cadaver is skipped: it is not installed")
	}

	if a := d.ask(t, "PUT", "too-large.bin", io.LimitReader(zeros{}, 65<<20)); a.StatusCode != http.StatusInsufficientStorage {
		t.Errorf("over the quota: %s", a.Status)
	}
	cutOff(t, d, "cut.jpg")
	if a := d.ask(t, "GET", "cut.jpg", nil); a.StatusCode != http.StatusNotFound {
		t.Errorf("half a file is there: %s", a.Status)
	}
	other := d
	other.password = "guessed"
	for name, x := range map[string]door{"a wrong password": other, "no folder": {p: p, url: p.url() + "/drop/nobody/", login: "nobody", password: d.password}} {
		if a := x.ask(t, "PROPFIND", "", nil); a.StatusCode != http.StatusUnauthorized {
			t.Errorf("%s: %s", name, a.Status)
		}
	}
	if n := one[int](p, "SELECT count(*) FROM delivery"); n != 0 {
		t.Errorf("%d deliveries before anybody is done", n)
	}
	d.ask(t, "PUT", "done.txt", strings.NewReader("done"))
	await(t, 60*time.Second, "the delivery", func() bool {
		return one[int](p, "SELECT count(*) FROM delivery d JOIN job j ON j.kind = 'take_in' AND j.subject = d.id WHERE j.state = 'done'") == 1
	})
	var paths []string
	rows, err := p.database().Query(t.Context(), "SELECT a.path FROM arrival a JOIN delivery d ON d.id = a.delivery_id WHERE d.supplier = 'Corrie' AND d.may = 'cleared' AND a.asset_id IS NOT NULL")
	if err != nil {
		t.Fatal(err)
	}
	for rows.Next() {
		var path string
		if err := rows.Scan(&path); err != nil {
			t.Fatal(err)
		}
		paths = append(paths, path)
	}
	for _, want := range []string{"PK-1.jpg", "inside.jpg"} {
		if !slices.Contains(paths, want) {
			t.Errorf("%s did not come: %q", want, paths)
		}
	}
	await(t, 60*time.Second, "the folder to be empty", func() bool {
		b, err := io.ReadAll(d.ask(t, "PROPFIND", "", nil).Body)
		return err == nil && !bytes.Contains(b, []byte("PK-1"))
	})
	p.me.do("DELETE", fmt.Sprintf("/api/sources/%d/door", d.id), nil, nil)
	if a := d.ask(t, "PROPFIND", "", nil); a.StatusCode != http.StatusUnauthorized {
		t.Errorf("a password that was taken back: %s", a.Status)
	}
}

// zeros never end.
type zeros struct{}

func (zeros) Read(p []byte) (int, error) { return len(p), nil }

// cutOff sends a part of a file and hangs up.
func cutOff(t *testing.T, d door, name string) {
	t.Helper()
	at := strings.TrimPrefix(d.p.url(), "http://")
	c, err := net.Dial("tcp", at)
	if err != nil {
		t.Fatal(err)
	}
	fmt.Fprintf(c, "PUT /drop/%s/%s HTTP/1.1\r\nHost: %s\r\nAuthorization: Basic %s\r\nContent-Length: 100000\r\n\r\nhalf", d.login, name, at,
		base64(d.login+":"+d.password))
	time.Sleep(200 * time.Millisecond)
	c.Close()
	time.Sleep(500 * time.Millisecond)
}
