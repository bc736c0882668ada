package message

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

func TestText(t *testing.T) {
	for _, c := range []struct {
		m    Message
		want string
	}{
		{Message{}, ""},
		{New("sku_missing"), "The row has no SKU."},
		{New("category_deep", "levels", 31, "most", 20), "The category is 31 levels deep; at most 20 are possible."},
		{New("file_large", "size", int64(5_000_000), "limit", int64(999)), "The file would be 5.0 MB; the limit is 999 B."},
		{New("archive_salvaged", "count", 1), "The archive is cut off or its directory is damaged; 1 file was found in it."},
		{New("archive_salvaged", "count", 0), "The archive is cut off or its directory is damaged; 0 files were found in it."},
		{New("sku_empty", "sku", "{{sku}}<b>"), `SKU "{{sku}}<b>" has neither letter nor digit.`}, // what is filled in is not read again
		{New("nowhere", "b", 2, "a", 1), "nowhere a=1 b=2"},
	} {
		// What is kept and read again says the same.
		kept, err := json.Marshal(c.m)
		if err != nil {
			t.Fatal(err)
		}
		var again Message
		if err := json.Unmarshal(kept, &again); err != nil || c.m.Text() != c.want || again.Text() != c.want {
			t.Errorf("%+v: %q, read again %q; want %q, %v", c.m, c.m.Text(), again.Text(), c.want, err)
		}
	}
	of := errors.New("of this kind")
	err := fmt.Errorf("around it: %w", &Error{Message: New("sku_missing"), Of: of})
	if m, ok := Of(err); !ok || m.Code != "sku_missing" || !errors.Is(err, of) {
		t.Errorf("%v says %+v", err, m)
	}
}

// Every code that the program says is in the table with the data it is given, and every code of the table is said somewhere.
func TestTable(t *testing.T) {
	said, named := map[string]string{}, map[string]bool{}
	made := regexp.MustCompile(`(?:message\.New|\.lower|\.deny|refused|leave\(l,|refuse\(\w+, "\w+",)\(?\s*"(\w+)"([^\n]*(?:\n\t+"[^\n]*)?)`)
	word := regexp.MustCompile(`"(\w+)"`)
	family := regexp.MustCompile(`"(\w+_)" ?\+`) // met_ and what follows from a value
	families := map[string]bool{}
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && len(d.Name()) > 2) {
			return fs.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		code, err := os.ReadFile(path)
		for _, m := range made.FindAllStringSubmatch(string(code), -1) {
			said[m[1]] += m[2]
		}
		for _, m := range word.FindAllStringSubmatch(string(code), -1) {
			named[m[1]] = true
		}
		for _, m := range family.FindAllStringSubmatch(string(code), -1) {
			families[m[1]] = true
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	codes := Codes()
	for code, data := range said {
		if !slices.Contains(codes, code) && !families[code] {
			t.Errorf("%s has no sentence", code)
		}
		for key, text := range sentences() {
			if strings.TrimSuffix(strings.TrimSuffix(key, "_one"), "_other") != code {
				continue
			}
			for _, m := range text.slots {
				if !strings.Contains(data, `"`+m.name+`"`) {
					t.Errorf("%s is said without its %s", code, m.name)
				}
			}
		}
	}
	for _, code := range codes {
		first, _, _ := strings.Cut(code, "_")
		if !named[code] && !families[first+"_"] && code != "as_written" && code != "delivery_bytes_lost" {
			t.Errorf("nobody says %s", code)
		}
	}
	if len(said) < 40 {
		t.Errorf("only %d codes are found in the program", len(said))
	}
}

// Every other language says all that English says, with the same data in each sentence, and nothing else.
func TestLanguages(t *testing.T) {
	for _, files := range [][2]string{{"en.json", "de.json"}, {"../../web/src/words/en.json", "../../web/src/words/de.json"}} {
		var texts [2]map[string]string
		for i, name := range files {
			text, err := os.ReadFile(name)
			if err == nil {
				err = json.Unmarshal(text, &texts[i])
			}
			if err != nil {
				t.Fatal(err)
			}
		}
		for code, text := range texts[0] {
			other, said := texts[1][code]
			if !said || other == "" {
				t.Errorf("%s does not say %s", files[1], code)
				continue
			}
			slots := func(text string) []string {
				found := written.FindAllString(text, -1)
				slices.Sort(found)
				return slices.Compact(found)
			}
			if a, b := slots(text), slots(other); !slices.Equal(a, b) {
				t.Errorf("%s: %s has %v, English %v", files[1], code, b, a)
			}
		}
		for code := range texts[1] {
			if _, said := texts[0][code]; !said {
				t.Errorf("%s says %s, which nobody does", files[1], code)
			}
		}
	}
}
