package e2e

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
)

// ambrosa runs the command line with a secret, and returns what it wrote and how it ended.
func ambrosa(t *testing.T, secret string, args ...string) (lines []string, complaints string, code int) {
	t.Helper()
	c := exec.Command("../bin/ambrosa", args...)
	c.Env = append(os.Environ(), "AMBROSA_SECRET="+secret)
	var told strings.Builder
	c.Stderr = &told
	out, err := c.Output()
	if err != nil && c.ProcessState == nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(string(out)) {
		lines = append(lines, strings.TrimSpace(line))
	}
	return lines, told.String(), c.ProcessState.ExitCode()
}

// onDrive are files whose names are hard on the way.
var onDrive = map[string]string{"d.jpg": "one", "a b/c.jpg": "two", "ü/ö ß.jpg": "three", "deep/deeper/e+1 100%.png": "four", "it's #7.txt": "five"}

const driveUser, driveSecret = "mo", "s3cret-zzv"

// servers are drives that others wrote, by their kind: each shows the same folder. Those that are not installed are skipped with a word.
func servers(t *testing.T, folder string) map[string]string {
	t.Helper()
	addresses := map[string]string{"file": "file://" + folder}
	begin := func(kind, format string, program string, args ...string) {
		if _, err := exec.LookPath(program); err != nil {
			t.Logf("%s is skipped: %v", kind, err)
			return
		}
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		port := l.Addr().(*net.TCPAddr).Port
		l.Close()
		for i, a := range args {
			args[i] = strings.NewReplacer("PORT", fmt.Sprint(port), "FOLDER", folder).Replace(a)
		}
		c := exec.Command(program, args...)
		c.Env = append(os.Environ(), "HOME="+t.TempDir())
		if err := c.Start(); err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
		await(t, 30*time.Second, kind+" to answer", func() bool {
			conn, err := net.Dial("tcp", fmt.Sprintf("127.0.0.1:%d", port))
			if err == nil {
				conn.Close()
			}
			return err == nil || c.ProcessState != nil
		})
		addresses[kind] = fmt.Sprintf(format, port)
	}
	for kind, format := range map[string]string{"webdav": "webdav://mo@127.0.0.1:%d/", "sftp": "sftp://mo@127.0.0.1:%d/"} {
		begin(kind, format, "rclone", "serve", kind, "FOLDER", "--addr", "127.0.0.1:PORT", "--user", driveUser, "--pass", driveSecret)
	}
	begin("http", "http://127.0.0.1:%d/", "rclone", "serve", "http", "FOLDER", "--addr", "127.0.0.1:PORT")
	if exec.Command("/usr/bin/python3", "-c", "import pyftpdlib").Run() == nil {
		begin("ftp", "ftp://mo@127.0.0.1:%d/", "/usr/bin/python3", "-m", "pyftpdlib", "-i", "127.0.0.1", "-p", "PORT", "-u", driveUser, "-P", driveSecret, "-w", "-d", "FOLDER")
	} else {
		t.Log("ftp is skipped: python3-pyftpdlib is not installed")
	}
	backend := s3mem.New()
	if err := backend.CreateBucket("shop"); err != nil {
		t.Fatal(err)
	}
	for path, content := range onDrive {
		if _, err := backend.PutObject("shop", "in/"+path, nil, strings.NewReader(content), int64(len(content)), nil); err != nil {
			t.Fatal(err)
		}
	}
	s3 := httptest.NewServer(gofakes3.New(backend).Server())
	t.Cleanup(s3.Close)
	addresses["s3"] = "s3://KEYID@shop/in?endpoint=" + s3.URL
	return addresses
}

// Drives are listed and copied from over every protocol, from servers that nobody here wrote: names, sizes and bytes are whole. A wrong
// secret, host key or folder, and a host that is not there, end with one line that does not tell the secret.
func TestDriveCommand(t *testing.T) {
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
	var want []string
	for path, content := range onDrive {
		want = append(want, fmt.Sprintf("%s %d", path, len(content)))
	}
	slices.Sort(want)
	listed := func(lines []string) (got []string) {
		for _, l := range lines {
			var f struct {
				Path     *string
				Bytes    *int64
				Modified *time.Time
				Sum      *string
			}
			var named map[string]any
			if err := json.Unmarshal([]byte(l), &f); err != nil || f.Path == nil || f.Bytes == nil || json.Unmarshal([]byte(l), &named) != nil || len(named) < 4 {
				t.Fatalf("%s: %v", l, err)
			}
			got = append(got, fmt.Sprintf("%s %d", *f.Path, *f.Bytes))
		}
		slices.Sort(got)
		return got
	}
	for kind, address := range addresses {
		t.Run(kind, func(t *testing.T) {
			lines, complaints, code := ambrosa(t, driveSecret, "drive", "list", address)
			if got := listed(lines); !slices.Equal(got, want) || code != 0 {
				t.Errorf("exit %d, %s\n%q\nwant\n%q", code, complaints, got, want)
			}
			if kind == "sftp" != strings.Contains(complaints, "SHA256:") {
				t.Errorf("complaints %q", complaints)
			}
			lines, _, code = ambrosa(t, driveSecret, "drive", "list", address, "--filter", "**/*.jpg")
			if got := listed(lines); len(got) != 3 || code != 0 {
				t.Errorf("filtered: exit %d, %q", code, got)
			}
			to := t.TempDir()
			if lines, complaints, code = ambrosa(t, driveSecret, "drive", "get", address, "--to", to); len(lines) != len(onDrive) || code != 0 || !strings.Contains(lines[0], `"to":`) {
				t.Errorf("got: exit %d, %s %q", code, complaints, lines)
			}
			for path, content := range onDrive {
				if b, err := os.ReadFile(filepath.Join(to, filepath.FromSlash(path))); err != nil || string(b) != content {
					t.Errorf("%s: %q, %v", path, b, err)
				}
			}
			if kind != "s3" { // there folders are only parts of names
				nowhere := strings.TrimSuffix(address, "/") + "/none-such"
				if lines, complaints, code := ambrosa(t, driveSecret, "drive", "list", nowhere); code != 2 || len(lines) > 0 || strings.Count(strings.ReplaceAll(complaints, "has the key", ""), "not there") != 1 {
					t.Errorf("no such folder: exit %d, %q %q", code, complaints, lines)
				}
			}
			if kind == "webdav" || kind == "sftp" || kind == "ftp" {
				if _, complaints, code := ambrosa(t, "wr0ng-secret", "drive", "list", address); code != 2 || !strings.Contains(complaints, "secret is wrong") || strings.Contains(complaints, "wr0ng") {
					t.Errorf("wrong secret: exit %d, %q", code, complaints)
				}
			}
		})
	}
	if sftp := addresses["sftp"]; sftp != "" {
		_, complaints, _ := ambrosa(t, driveSecret, "drive", "list", sftp)
		key := complaints[strings.Index(complaints, "SHA256:"):]
		key = key[:strings.IndexAny(key, "; \n")]
		if lines, complaints, code := ambrosa(t, driveSecret, "drive", "list", sftp, "--host-key", key); code != 0 || len(lines) != len(onDrive) || complaints != "" {
			t.Errorf("with its key: exit %d, %q", code, complaints)
		}
		if _, complaints, code := ambrosa(t, driveSecret, "drive", "list", sftp, "--host-key", "SHA256:AAAA"); code != 2 || !strings.Contains(complaints, "another key") {
			t.Errorf("with another key: exit %d, %q", code, complaints)
		}
	}
	for _, address := range []string{"webdav://mo@127.0.0.1:1/", "sftp://mo@127.0.0.1:1/", "ftp://mo@127.0.0.1:1/", "http://127.0.0.1:1/", "smb://mo@127.0.0.1:1/share", "nothing", "ftp://mo:" + driveSecret + "@127.0.0.1/"} {
		lines, complaints, code := ambrosa(t, driveSecret, "drive", "list", address)
		if code != 2 || len(lines) > 0 || strings.Count(complaints, "\n") != 1 || strings.Contains(complaints, driveSecret) {
			t.Errorf("%s: exit %d, %q %q", address, code, complaints, lines)
		}
	}
}
