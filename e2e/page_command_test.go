package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The command line tries pages without a database: a JSON object a picture, every field named; troubles on standard error, one line each; 1 where
// some pages could not be read, 2 where none could or may be.
func TestPageCommand(t *testing.T) {
	shop := shopOf(t)
	guide := filepath.Join(t.TempDir(), "guide.json")
	put := func(text string) {
		t.Helper()
		if err := os.WriteFile(guide, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	good := fmt.Sprintf(`{"form":1,"start":["%s/list"],"items":{"selector":"li.good"},"sku":{"selector":"b.code"},"pictures":{"selector":"a.shot img"},"not":{"least":500,"places":[-1]},"limits":{"pause":0}}`, shop)
	for _, c := range []struct {
		name, guide string
		args        []string
		want, says  string // item, SKU, picture, from, order, why's beginning
		lines, code int
	}{
		{"an item", "", []string{"--allow-private", "--least", "500", shop + "/item/1"},
			"/item/1 - /logo.jpg img 0 false;/item/1 - /l/1-1.jpg link 1 true;/item/1 - /l/1-2.jpg link 2 true;/item/1 - /l/2-1.jpg rule 0 false", "", 0, 0},
		{"a listing by a guide", good, []string{"--allow-private", shop + "/list"},
			"/item/1 K-1 /l/1-1.jpg link 1 true;/item/1 K-1 /l/1-2.jpg link 0 false;/item/2 K-2 /l/2-1.jpg link 1 true;/item/2 K-2 /l/2-2.jpg link 0 false;/item/3 K-3 /l/3-1.jpg link 1 true;/item/3 K-3 /l/3-2.jpg link 0 false", "", 0, 0},
		{"a listing with an item that robots.txt forbids", good, []string{"--allow-private", shop + "/list?page=2"},
			"/item/4 K-4 /l/4-1.jpg link 1 true;/item/4 K-4 /l/4-2.jpg link 0 false;/item/6 K-6 /l/6-1.jpg link 1 true;/item/6 K-6 /l/6-2.jpg link 0 false", "robots.txt", 1, 1},
		{"some are gone", "", []string{"--allow-private", "--least", "900", shop + "/item/3", shop + "/none", shop + "/list"}, "", "404", 1, 1},
		{"robots.txt forbids it", "", []string{"--allow-private", shop + "/hidden/5"}, "", "Disallow: /hidden/", 1, 2},
		{"private", "", []string{shop + "/item/1"}, "", "--allow-private", 1, 2},
		{"no page", "", []string{"--allow-private", shop + "/l/1-1.jpg"}, "", "no web page", 1, 2},
		{"a secret in the address", "", []string{"--allow-private", strings.Replace(shop, "http://", "http://mo:hush@", 1)}, "", "", 1, 2},
		{"a guide with a wrong selector", strings.Replace(good, "b.code", "b[", 1), []string{shop}, "", "SKU", 1, 2},
		{"a guide with a field that nobody knows", strings.Replace(good, `"form"`, `"farm":1,"form"`, 1), []string{shop}, "", "farm", 1, 2},
		{"no guide", "", []string{"--guide", guide + ".none", shop}, "", "", 1, 2},
		{"below nothing", "", []string{"--least", "-1", shop}, "", "counted from 0", 1, 2},
	} {
		args := append([]string{"page", "try"}, c.args...)
		if c.guide != "" {
			put(c.guide)
			args = append(args, "--guide", guide)
		}
		out, complaints, code := command(t, nil, "", args...)
		var got []string
		for line := range strings.Lines(out) {
			var p map[string]any
			if err := json.Unmarshal([]byte(line), &p); err != nil || len(p) != 11 {
				t.Fatalf("%s: %q, %v", c.name, line, err)
			}
			if why, left := p["why"].(string); p["kept"] == false && (!left || why == "") || p["main"] != (p["order"] == 1.0) || c.guide != "" && strings.Contains(fmt.Sprint(p["picture"]), "/s/") {
				t.Errorf("%s: %s", c.name, line)
			}
			sku := "-"
			if p["sku"] != nil {
				sku = fmt.Sprint(p["sku"])
			}
			if c.guide == "" || p["from"] == "link" {
				got = append(got, fmt.Sprintf("%s %s %s %v %v %v", strings.TrimPrefix(p["item"].(string), shop), sku, strings.TrimPrefix(p["picture"].(string), shop), p["from"], p["order"], p["kept"]))
			}
		}
		if code != c.code || strings.Count(complaints, "\n") != c.lines || !strings.Contains(complaints, c.says) || c.want != "" && strings.Join(got, ";") != c.want {
			t.Errorf("%s: %d, said %q\n%s\nwant\n%s", c.name, code, complaints, strings.Join(got, ";"), c.want)
		}
	}
}
