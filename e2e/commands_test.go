package e2e

import (
	"bytes"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// command runs the program with an environment beside its own and returns what it said and how it ended.
func command(t *testing.T, env []string, stdin string, args ...string) (out, complaints string, code int) {
	t.Helper()
	var stdout, stderr bytes.Buffer
	cmd := exec.Command("../bin/ambrosa", args...)
	cmd.Env = append(os.Environ(), env...)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = strings.NewReader(stdin), &stdout, &stderr
	if err := cmd.Run(); err != nil {
		if _, exited := err.(*exec.ExitError); !exited {
			t.Fatal(err)
		}
	}
	return stdout.String(), stderr.String(), cmd.ProcessState.ExitCode()
}

// Wrong usage ends with 2 everywhere and says what is wrong, before anything is opened.
func TestWrongUsage(t *testing.T) {
	for _, c := range []struct {
		env  string
		args []string
		says string
	}{
		{"", []string{"nonsense"}, "nonsense"}, {"", nil, "needs a command"}, {"", []string{"user"}, "needs a command"}, {"", []string{"user", "nonsense"}, "nonsense"},
		{"", []string{"catalogue", "export"}, "1 arg"}, {"", []string{"serve", "--nothing"}, "--nothing"}, {"", []string{"serve", "extra"}, "extra"},
		{"", []string{"pair"}, "required flag"}, {"", []string{"catalogue", "import"}, "1 arg"}, {"", []string{"serve", "--port", "abc"}, "abc"},
		{"PORT=abc", []string{"serve"}, "PORT=abc"}, {"PORT=70000", []string{"serve"}, "70000"}, {"AMBROSA_MAX_PIXELS=many", []string{"serve"}, "AMBROSA_MAX_PIXELS=many"},
		{"AMBROSA_TRUSTED_PROXIES=home", []string{"serve"}, "home"}, {"AMBROSA_LOG=loud", []string{"serve"}, "loud"}, {"", []string{"reset"}, "--yes"},
	} {
		data := filepath.Join(t.TempDir(), "data")
		args := c.args
		if len(args) > 0 {
			args = append(args, "--data", data)
		}
		out, complaints, code := command(t, []string{c.env}, "", args...)
		if code != 2 || out != "" || !strings.Contains(complaints, c.says) || strings.Count(complaints, "\n") != 1 {
			t.Errorf("%s %v: exit %d, %q, %q", c.env, c.args, code, out, complaints)
		}
		if _, err := os.Stat(data); err == nil {
			t.Errorf("%s %v made a data folder", c.env, c.args)
		}
	}
}

// The command line asks for the person's role, says what was made, and keeps nothing of a dry run.
func TestCatalogueCommand(t *testing.T) {
	data := dataFolder(t)
	for _, who := range [][2]string{{"mo", "editor"}, {"vera", "viewer"}} {
		if _, complaints, code := command(t, nil, "long-enough-for-this\n", "user", "add", who[0], "--role", who[1], "--data", data); code != 0 {
			t.Fatal(complaints)
		}
	}
	table := filepath.Join(t.TempDir(), "products.csv")
	if err := os.WriteFile(table, []byte("sku,title\nK1,One\nK2,\nK3,Three\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		who, flag  string
		code       int
		out, stray string
	}{
		{"vera", "", 1, "", "needs the role editor"},
		{"nobody", "", 1, "", "nobody is called"},
		{"mo", "--dry-run", 1, "2 changes would be made, 1 rows left out.\n", "products.csv:3: "},
		{"mo", "", 1, "2 changes made, 0 left alone, 1 rows left out (run 1).\n", "products.csv:3: "}, // the first plan: nothing was kept before
		{"mo", "--dry-run", 1, "0 changes would be made, 1 rows left out.\n", "products.csv:3: "},
	} {
		args := []string{"catalogue", "import", table, "--as", c.who, "--data", data}
		if c.flag != "" {
			args = append(args, c.flag)
		}
		out, complaints, code := command(t, nil, "", args...)
		if code != c.code || out != c.out || !strings.Contains(complaints, c.stray) {
			t.Errorf("as %s %s: exit %d, %q, %q", c.who, c.flag, code, out, complaints)
		}
	}
	if err := os.WriteFile(table, []byte("sku,title\nK1,One\nK3,Three\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, _, code := command(t, nil, "", "catalogue", "import", table, "--as", "mo", "--data", data); code != 0 || !strings.Contains(out, "Everything already stands") {
		t.Errorf("nothing to do: exit %d, %q", code, out)
	}
	if out, _, code := command(t, nil, "", "version"); code != 0 || !strings.HasPrefix(out, `{"version":"`) {
		t.Errorf("version: exit %d, %q", code, out)
	}
	// A table at an address comes through the door for what is outside: not from this machine, unless the operator allows it.
	there := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { io.WriteString(w, "sku,title\nK4,Four\n") }))
	defer there.Close()
	address := there.URL + "/products.csv?key=hush"
	if _, complaints, code := command(t, nil, "", "catalogue", "import", address, "--as", "mo", "--data", data); code != 2 ||
		!strings.Contains(complaints, "AMBROSA_ALLOW_NETWORKS") || strings.Contains(complaints, "hush") {
		t.Errorf("an address of this machine: exit %d, %q", code, complaints)
	}
	if out, complaints, code := command(t, nil, "", "catalogue", "import", address, "--as", "mo", "--data", data, "--allow-networks", "127.0.0.1"); code != 0 ||
		!strings.HasPrefix(out, "1 changes made") {
		t.Errorf("allowed: exit %d, %q, %q", code, out, complaints)
	}
	for _, bad := range []string{"", "a,b\n1,2\n"} {
		if err := os.WriteFile(table, []byte(bad), 0o600); err != nil {
			t.Fatal(err)
		}
		if _, complaints, code := command(t, nil, "", "catalogue", "import", table, "--as", "mo", "--data", data); code != 2 || !strings.Contains(complaints, "products.csv") {
			t.Errorf("a table of %q: exit %d, %q", bad, code, complaints)
		}
	}
	if _, complaints, code := command(t, nil, "", "reset", "--yes", "--data", data); code != 0 {
		t.Errorf("reset: exit %d, %q", code, complaints)
	}
	for _, part := range []string{"postgres", "postgres.password", "pictures", "uploads"} {
		if _, err := os.Stat(filepath.Join(data, part)); err == nil {
			t.Errorf("%s is left", part)
		}
	}
}
