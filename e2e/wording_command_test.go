package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The command line makes texts without a database: a JSON object a record in their order, with problems as results; troubles on standard
// error; 1 where some records could not be read, 2 where the pattern or none of them could.
func TestWordingCommand(t *testing.T) {
	dir := t.TempDir()
	for _, c := range []struct {
		name, file, in, out, says string
		code                      int
	}{
		{"fields, fallbacks, objects and languages", `{"pattern": "{product.title}[ in {variant.colour}], {role|front view}", "language": "de-AT"}`,
			`{"product": {"title": {"de": "Drachen", "en": "Kite"}}, "variant": {"colour": "rot"}, "role": null}` + "\n\n" + `{"product.title": "Rolle", "role": "back"}` + "\n",
			`{"text":"Drachen in rot, front view","problems":[]}` + "\n" + `{"text":"Rolle, back","problems":[]}` + "\n", "", 0},
		{"every problem", `{"pattern": "{text}"}`, strings.Join([]string{`{"text": ""}`, `{"text": "` + strings.Repeat("x", 126) + `"}`, `{"text": "Image of a kite"}`,
			`{"text": "same", "owner": "a"}`, `{"text": "other", "owner": "a"}`, `{"text": "Same ", "owner": "a"}`, `{"text": "PK-1", "product.sku": "pk 1"}`,
			`{"text": "x y", "file": "in/x y.JPG"}`, `{"text": "a red kite", "picture": {"colours": [{"hex": "#1b6b72", "share": 0.8}]}}`, `{}`}, "\n"),
			`{"text":"","problems":["alt_missing"]}` + "\n" + `{"text":"` + strings.Repeat("x", 126) + `","problems":["alt_long"]}` + "\n" + `{"text":"Image of a kite","problems":["says_image_of"]}` + "\n" +
				`{"text":"same","problems":["same_on_owner"]}` + "\n" + `{"text":"other","problems":[]}` + "\n" + `{"text":"Same","problems":["same_on_owner"]}` + "\n" + `{"text":"PK-1","problems":["only_key"]}` + "\n" +
				`{"text":"x y","problems":["is_file_name"]}` + "\n" + `{"text":"a red kite","problems":["colour_differs"]}` + "\n" + `{"text":"","problems":["alt_missing","field_unknown"]}` + "\n", "", 0},
		{"file names are unique", `{"pattern": "{title}", "field": "file_name"}`, `{"title": "Größe"}` + "\n" + `{"title": "grosse"}`, `{"text":"grosse","problems":[]}` + "\n" + `{"text":"grosse-2","problems":[]}` + "\n", "", 0},
		{"a record that is none", `{"pattern": "{title}"}`, "{\"title\": \"a\"}\nno record\n[1]\n", `{"text":"a","problems":[]}` + "\n", "line 2", 1},
		{"no record at all", `{"pattern": "{title}"}`, "no record\n", "", "line 1", 2},
		{"no records", `{"pattern": "{title}"}`, "", "", "", 0},
		{"a pattern that can't be read", `{"pattern": "{title"}`, "{}", "", "} is missing", 2},
		{"a pattern that names itself", `{"pattern": "{alt}"}`, "{}", "", "circle", 2},
		{"no language", `{"pattern": "x", "language": "klingon-"}`, "{}", "", "BCP 47", 2},
		{"no such field", `{"pattern": "x", "field": "nope"}`, "{}", "", "file_name", 2},
		{"a misspelt name", `{"patern": "x"}`, "{}", "", "patern", 2},
		{"a limit below nothing", `{"pattern": "x", "limit": -1}`, "{}", "", "below 0", 2},
	} {
		path := filepath.Join(dir, "pattern.json")
		if err := os.WriteFile(path, []byte(c.file), 0o600); err != nil {
			t.Fatal(err)
		}
		out, complaints, code := command(t, nil, c.in, "wording", path)
		if out != c.out || code != c.code || !strings.Contains(complaints, c.says) || c.says == "" && complaints != "" {
			t.Errorf("%s: %d, said %q\n%s\nwant\n%s", c.name, code, complaints, out, c.out)
		}
	}
	if _, complaints, code := command(t, nil, "{}", "wording", filepath.Join(dir, "none.json")); code != 2 || strings.Count(complaints, "\n") != 1 {
		t.Errorf("without a file: %d, %q", code, complaints)
	}
}
