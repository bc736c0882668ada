package names

import (
	"strings"
	"testing"
)

func TestPortable(t *testing.T) {
	for path, want := range map[string]string{
		"a/b.jpg": "a/b.jpg", "/etc/../x.jpg": "etc/x.jpg", `C:\pics\a.jpg`: "C_/pics/a.jpg", "../..": "file", "": "file", "con.jpg": "_con.jpg", "Con": "_Con",
		"a?b*.jpg": "a_b_.jpg", "x. /y .": "x/y", "a\x00b\u202egpj.exe": "a_b_gpj.exe", "bad\xff.jpg": "bad_.jpg", "ünïcode/🪁.png": "ünïcode/🪁.png",
		strings.Repeat("é", 150) + ".jpg": strings.Repeat("é", 98) + ".jpg",
	} {
		if got := Portable(path); got != want {
			t.Errorf("%q: %q, want %q", path, got, want)
		}
	}
	var d Distinct
	var got []string
	for _, name := range []string{"a.jpg", "A.jpg", "a (2).jpg", "b/a.jpg", "a.jpg", "x", "x", ".hidden", ".hidden"} {
		got = append(got, d.Name(name))
	}
	if want := "a.jpg|A (2).jpg|a (2) (2).jpg|b/a.jpg|a (3).jpg|x|x (2)|.hidden|.hidden (2)"; strings.Join(got, "|") != want {
		t.Errorf("%s, want %s", strings.Join(got, "|"), want)
	}
}

func FuzzPortable(f *testing.F) {
	f.Add("../a\\b/..:x")
	f.Fuzz(func(t *testing.T, path string) {
		got := Portable(path)
		for part := range strings.SplitSeq(got, "/") {
			if part == "" || part == "." || part == ".." || len(part) > 255 || strings.ContainsAny(part, "\\\x00:") {
				t.Fatalf("%q: %q", path, got)
			}
		}
		if again := Portable(got); again != got {
			t.Fatalf("%q: %q, and again %q", path, got, again)
		}
	})
}
