package e2e

import (
	"fmt"
	"image/color"
	"maps"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// onLoopback lets sources be where tests have their servers.
const onLoopback = "AMBROSA_ALLOW_NETWORKS=127.0.0.0/8"

// source names a source of a drive at an address as the command line has it, and returns its number.
func (p *program) source(kind, address string) int64 {
	p.t.Helper()
	at, hostPort := "", ""
	if _, rest, ok := strings.Cut(address, "://"); ok {
		at = rest
	}
	user, rest, signed := strings.Cut(at, "@")
	if !signed {
		user, rest = "", at
	}
	hostPort, folder, _ := strings.Cut(rest, "/")
	settings, secrets := map[string]any{"protocol": kind, "folder": strings.Trim(folder, "/")}, map[string]string{}
	host, port, _ := net.SplitHostPort(hostPort)
	allowed := host
	switch kind {
	case "webdav", "http":
		settings["values"] = map[string]string{"url": "http://" + hostPort + "/"}
		if kind == "webdav" {
			settings["values"] = map[string]string{"url": "http://" + hostPort + "/", "user": user}
			secrets["pass"] = driveSecret
		}
	case "sftp", "ftp", "smb":
		settings["values"] = map[string]string{"host": host, "port": port, "user": user}
		secrets["pass"] = driveSecret
	case "s3":
		bucket, endpoint, _ := strings.Cut(rest, "?endpoint=")
		settings["folder"], allowed = bucket, "127.0.0.1"
		settings["values"] = map[string]string{"access_key_id": user, "endpoint": endpoint}
		secrets["secret_access_key"] = driveSecret
	case "local":
		settings["folder"], allowed = "/"+folder, ""
	}
	if allowed != "" {
		p.me.do("POST", "/api/drive-hosts", map[string]string{"kind": kind, "host": allowed}, nil)
	}
	var made struct{ ID int64 }
	p.me.do("POST", "/api/sources", map[string]any{"name": "drive " + kind, "kind": "drive", "settings": settings, "secrets": secrets}, &made)
	return made.ID
}

// collect collects from a source to the end.
func (p *program) collect(source int64) delivery {
	p.t.Helper()
	var made struct{ ID int64 }
	p.me.do("POST", fmt.Sprintf("/api/sources/%d/visits", source), map[string]any{}, &made)
	return p.me.taken(made.ID)
}

// shared serves a folder over SMB, with Debian's samba, where it is installed; it returns the share's address.
func shared(t *testing.T, folder string) string {
	t.Helper()
	smbd, err := exec.LookPath("smbd")
	if err != nil || os.Geteuid() != 0 {
		t.Log("smb is skipped: smbd is not installed, or not run as root")
		return ""
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	port := l.Addr().(*net.TCPAddr).Port
	l.Close()
	home := dataFolder(t)
	config := filepath.Join(home, "smb.conf")
	text := fmt.Sprintf(`[global]
server role = standalone server
map to guest = Bad User
interfaces = 127.0.0.1
bind interfaces only = yes
smb ports = %d
private dir = %[2]s
lock directory = %[2]s
state directory = %[2]s
cache directory = %[2]s
pid directory = %[2]s
ncalrpc dir = %[2]s/ncalrpc
log file = %[2]s/log
[share]
path = %[3]s
guest ok = yes
read only = no
force user = root
`, port, home, folder)
	if err := os.WriteFile(config, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	c := exec.Command(smbd, "--foreground", "--no-process-group", "--configfile", config)
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	await(t, 30*time.Second, "smb to answer", func() bool {
		conn, err := net.Dial("tcp", fmt.Sprintf("127.0.0.1:%d", port))
		if err == nil {
			conn.Close()
		}
		return err == nil
	})
	return fmt.Sprintf("smb://nobody@127.0.0.1:%d/share", port)
}

// Sources collect over every protocol from servers that nobody here wrote, all connections through the guarded door; a second visit takes
// nothing.
func TestDrives(t *testing.T) {
	folder := t.TempDir()
	for path, content := range onDrive {
		at := filepath.Join(folder, filepath.FromSlash(path))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at, []byte(content), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	addresses := servers(t, folder)
	addresses["local"] = addresses["file"]
	delete(addresses, "file")
	if at := shared(t, folder); at != "" {
		addresses["smb"] = at
	}
	p := serve(t, onLoopback, "AMBROSA_FOLDERS="+folder)
	want := slices.Sorted(maps.Keys(onDrive))
	for kind, address := range addresses {
		id := p.source(kind, address)
		var tried struct {
			Files   int
			Whole   bool
			Missing []any
		}
		p.me.do("POST", fmt.Sprintf("/api/sources/%d/try", id), nil, &tried)
		if tried.Files != len(want) || !tried.Whole || len(tried.Missing) > 0 {
			t.Errorf("%s: %+v", kind, tried)
			continue
		}
		d := p.collect(id)
		var got []string
		rows, err := p.database().Query(t.Context(), "SELECT path FROM arrival WHERE delivery_id = $1 ORDER BY path COLLATE \"C\"", d.ID)
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			var path string
			if err := rows.Scan(&path); err != nil {
				t.Fatal(err)
			}
			got = append(got, path)
		}
		if !slices.Equal(got, want) {
			t.Errorf("%s: %q, want %q", kind, got, want)
		}
		if again := p.collect(id); again.Lines != 0 {
			t.Errorf("%s: a second visit brought %d lines", kind, again.Lines)
		}
	}
	t.Log("collected over", slices.Sorted(maps.Keys(addresses)))
}

// A visit during which the program is killed, at a moment by chance, goes on when it is started again: every file is there once.
func TestVisitKilled(t *testing.T) {
	folder := t.TempDir()
	const files = 150
	for i := range files {
		if err := os.WriteFile(filepath.Join(folder, fmt.Sprintf("K-%03d.jpg", i)), jpegOf(color.RGBA{uint8(i), 90, 60, 255}, 300), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	at := servers(t, folder)["webdav"]
	if at == "" {
		t.Skip("rclone is not installed")
	}
	p := serve(t, onLoopback)
	id := p.source("webdav", at)
	var made struct{ ID int64 }
	p.me.do("POST", fmt.Sprintf("/api/sources/%d/visits", id), map[string]any{}, &made)
	for range 3 {
		time.Sleep(time.Duration(rand.IntN(400)) * time.Millisecond)
		p.kill()
		p.start("serve")
		p.me = signIn(t, p.url(), adminName, adminPassword)
	}
	d := p.me.taken(made.ID)
	if n := one[int](p, "SELECT count(DISTINCT path) FROM arrival WHERE delivery_id = $1 AND asset_id IS NOT NULL", made.ID); n != files || d.Lines != files {
		t.Errorf("%d of %d files are there, on %d lines", n, files, d.Lines)
	}
	if again := p.collect(id); again.Lines != 0 {
		t.Errorf("a second visit brought %d lines", again.Lines)
	}
}
