package e2e

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// The command line pairs two lists without a database: JSON lines to standard output, bad rows to standard error with
// file and line, and 2 where nothing can be read.
func TestPairCommand(t *testing.T) {
	folder := t.TempDir()
	write := func(name, content string) string {
		path := filepath.Join(folder, name)
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	owners := write("owners.csv", "id,kind,parent_id,sku,barcode,title,colour\np1,product,,PK-140,,Drift Delta,\nv1,variant,p1,PK-140-AMB,9521234500018,,amber\n,product,,K,,,\np2,thing,,K,,,\n")
	names := write("names.txt", "tarn/PK-140-AMB_02.jpg\n9521234500018.png\ndrift delta.jpg\nnobody.jpg\n")
	run := func(args ...string) (out, complaints string, code int) {
		t.Helper()
		var stdout, stderr bytes.Buffer
		cmd := exec.Command("../bin/ambrosa", append([]string{"pair"}, args...)...)
		cmd.Stdout, cmd.Stderr = &stdout, &stderr
		if err := cmd.Run(); err != nil {
			if _, exited := err.(*exec.ExitError); !exited {
				t.Fatal(err)
			}
		}
		return stdout.String(), stderr.String(), cmd.ProcessState.ExitCode()
	}
	grades := func(out string) string {
		t.Helper()
		var all []string
		for line := range strings.Lines(out) {
			var a struct{ Grade string }
			if err := json.Unmarshal([]byte(line), &a); err != nil {
				t.Fatalf("%v in %s", err, line)
			}
			all = append(all, a.Grade)
		}
		return strings.Join(all, " ")
	}
	for _, c := range []struct {
		args []string
		want string
	}{
		{nil, "sure sure sure unclaimed"},
		{[]string{"--keys", "barcode"}, "unclaimed sure unclaimed unclaimed"},
		{[]string{"--keys", "sku,title", "--fits", "whole"}, "sure unclaimed sure unclaimed"},
		{[]string{"--fits", "near,words"}, "unclaimed unclaimed unclaimed unclaimed"},
	} {
		out, complaints, code := run(append([]string{"--owners", owners, "--files", names}, c.args...)...)
		if got := grades(out); got != c.want || code != 1 { // two rows were left out
			t.Errorf("%v: %s, exit %d, want %s", c.args, got, code, c.want)
		}
		for _, row := range []string{owners + ":4: the row has no id", owners + `:5: the kind "thing"`} {
			if !strings.Contains(complaints, row) {
				t.Errorf("%v: %q is not among the complaints %q", c.args, row, complaints)
			}
		}
	}
	out, _, code := run("--owners", owners, "--files", names, "--trial")
	var board struct {
		Cells []struct {
			Key, Fit     string
			Sure, Likely int
		}
		Ladder []struct{ Key, Fit string }
	}
	if err := json.Unmarshal([]byte(out), &board); err != nil || code != 1 || len(board.Ladder) == 0 {
		t.Fatalf("%v, exit %d: %s", err, code, out)
	}
	for _, cell := range board.Cells {
		if want := map[string]int{"sku whole": 1, "sku within": 1, "barcode whole": 1, "barcode within": 1, "title whole": 1, "title within": 1}[cell.Key+" "+cell.Fit]; cell.Sure != want {
			t.Errorf("%s %s alone is sure of %d, want %d", cell.Key, cell.Fit, cell.Sure, want)
		}
	}
	clean := write("clean.csv", "id,kind,parent_id,sku,barcode,title,colour\np1,product,,PK-140,,Drift Delta,\n")
	if out, complaints, code := run("--owners", clean, "--files", names); code != 0 || complaints != "" || strings.Count(out, "\n") != 4 {
		t.Errorf("nothing is wrong: exit %d, %q, %q", code, out, complaints)
	}
	for _, wrong := range [][2]string{{"--keys", "sku, barcode, title, colour"}, {"--fits", "whole, within, part, folder, words, near"}} {
		if out, complaints, code := run("--owners", clean, "--files", names, wrong[0], "nonsense"); code != 2 || out != "" || !strings.Contains(complaints, "nonsense") || !strings.Contains(complaints, wrong[1]) {
			t.Errorf("%s nonsense: exit %d, %q, %q", wrong[0], code, out, complaints)
		}
	}
	for _, bad := range [][]string{
		{"--owners", write("wide.csv", "id,kind,sku"+strings.Repeat(",x", 300)+"\na,product,K\n"), "--files", names},
		{"--owners", filepath.Join(folder, "none.csv"), "--files", names}, {"--owners", owners, "--files", write("empty.txt", "\n\n")},
		{"--owners", write("noise.csv", "a,b\n1,2\n"), "--files", names}, {"--owners", write("bare.csv", "id,kind,sku\n"), "--files", names},
	} {
		if out, complaints, code := run(bad...); code != 2 || complaints == "" || out != "" {
			t.Errorf("%v: exit %d, %q, %q", bad, code, complaints, out)
		}
	}
}
