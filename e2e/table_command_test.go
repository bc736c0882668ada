package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The command line checks a table without a database: a JSON object a problem in the order of the rows, every field there; troubles of
// the file on standard error; 1 where a row is stopped, 2 where nothing can be read or asked for.
func TestTableCommand(t *testing.T) {
	dir := t.TempDir()
	file := func(name, content string) string {
		path := filepath.Join(dir, name)
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	owners := file("owners.csv", "id,kind,parent_id,sku,barcode,title\na,product,,0012,9520123456788,A\nb,product,,K-2,,B\n")
	list := file("list.csv", "Spring\n\nsku;ean;image;weight;Weight\n12;9.52012E+12;x 1.jpg;3;\nK-2;;y.jpg;;\nK-2;;z.jpg;;\n")
	file("pix/x-1.jpg", "1")
	archive := file("more.zip", string(zipOf(t, map[string][]byte{"deep/y.jpg": []byte("2"), "__MACOSX/._y.jpg": []byte("3")})))
	check := func(args ...string) (found []string, complaints string, code int) {
		t.Helper()
		out, complaints, code := command(t, nil, "", append([]string{"table", "check"}, args...)...)
		for line := range strings.Lines(out) {
			var p map[string]any
			if err := json.Unmarshal([]byte(line), &p); err != nil {
				t.Fatalf("%v in %s", err, line)
			}
			for _, field := range []string{"row", "column", "value", "kind", "stops", "repair", "why"} {
				if _, there := p[field]; !there {
					t.Errorf("%s lacks %s", line, field)
				}
			}
			found = append(found, fmt.Sprintf("%v %v %v %v %v", p["row"], p["column"], p["kind"], p["stops"], p["repair"]))
		}
		return found, complaints, code
	}
	found, complaints, code := check(list, "--owners", owners, "--pictures", filepath.Join(dir, "pix"), archive)
	want := []string{"4 sku zeros_lost true 0012", "4 ean barcode_damaged true 9520123456788", "4 image picture_near true x-1.jpg", "6 image picture_missing true <nil>"}
	if code != 1 || fmt.Sprint(found) != fmt.Sprint(want) {
		t.Errorf("exit %d\n%s\nwant\n%s", code, strings.Join(found, "\n"), strings.Join(want, "\n"))
	}
	if !strings.Contains(complaints, "Column E (Weight) has the name of column D") || strings.Count(complaints, "\n") != 1 {
		t.Errorf("complaints %q", complaints)
	}
	if found, _, code := check(list, "--assign", "picture=E", "--assign", "title=image", "--key", "title"); code != 1 || fmt.Sprint(found) != "[4 ean barcode_damaged true <nil>]" {
		t.Errorf("assigned otherwise: exit %d, %v", code, found)
	}
	if found, _, code := check(list, "--owners", owners, "--mode", "create"); code != 1 || len(found) != 2 {
		t.Errorf("only create: exit %d, %v", code, found)
	}
	for _, wrong := range [][]string{{list, "--mode", "all"}, {list, "--key", "price"}, {list, "--assign", "nonsense=A"}, {list, "--assign", "sku=Nothing"}, {list, list},
		{list, "--sheet", "x"}, {list, "--owners", dir + "/none"}, {list, "--pictures", dir + "/none"}, {dir + "/none"}, {file("e.csv", "")}, {list, "--key", "barcode", "--assign", "sku=ean"}} {
		if found, complaints, code := check(wrong...); code != 2 || len(found) > 0 || strings.Count(complaints, "\n") != 1 {
			t.Errorf("%v: exit %d, %v, %q", wrong[1:], code, found, complaints)
		}
	}
	if out, complaints, code := command(t, nil, "[\"a\"]\n{}\n", "table", "write", dir+"/w.csv"); code != 2 || out != "" || !strings.Contains(complaints, "row 2") {
		t.Errorf("no rows: exit %d, %q, %q", code, out, complaints)
	}
	if _, err := os.Stat(dir + "/w.csv"); err == nil {
		t.Error("half a table stands there")
	}
	if _, complaints, code := command(t, nil, "[]\n", "table", "write", dir+"/w.doc"); code != 2 || !strings.Contains(complaints, ".csv, .xlsx or .ods") {
		t.Errorf("a .doc: exit %d, %q", code, complaints)
	}
}
