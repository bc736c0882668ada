package drive

import (
	"errors"
	"strings"
	"testing"
)

func TestParse(t *testing.T) {
	for text, want := range map[string]string{
		"webdav://mo@127.0.0.1:80/a%20b": "webdav http://127.0.0.1:80/a%20b/ mo", "webdavs://h.example": "webdav https://h.example/ ", "http://h.example/x/": "http http://h.example/x/ ",
		"sftp://mo@h:22/srv/x": "sftp sftp://h:22/srv/x mo", "ftp://h/x/y/": "ftp ftp://h/x/y ", "smb://mo@h/share/in": "smb smb://h/share/in mo",
		"s3://AKID@bucket/pre/fix?endpoint=http://h:9000": "s3 s3://bucket/pre/fix AKID", "file:///tmp/x": "local /tmp/x ",
	} {
		a, err := Parse(text)
		if got := a.Kind + " " + a.String() + " " + a.User; got != want || err != nil {
			t.Errorf("%s: %q, %v; want %q", text, got, err, want)
		}
	}
	for _, text := range []string{"", "x", "gopher://h/", "webdav:///x", "file://host/x", "sftp://", "http://[::1", "ftp://mo:s3cret@h/"} {
		_, err := Parse(text)
		if !errors.Is(err, ErrAddress) && !errors.Is(err, ErrSecretInAddress) || strings.Contains(err.Error(), "s3cret") {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func TestGlob(t *testing.T) {
	for _, c := range []struct{ pattern, yes, no string }{
		{"*.jpg", "a.jpg .jpg", "a.png x/a.jpg a.jpg.txt"}, {"**/*.jpg", "a.jpg x/a.jpg x/y/a.jpg", "a.png"}, {"x/**", "x/a x/y/b", "y/a x"},
		{"x/*/b?", "x/y/b1", "x/b1 x/y/z/b1 x/y/b"}, {"a+(b).[c]", "a+(b).[c]", "ab.c"}, {"", "a x/y", ""}, {"**", "a x/y", ""},
	} {
		g := NewGlob(c.pattern)
		for _, path := range strings.Fields(c.yes) {
			if !g.Matches(path) {
				t.Errorf("%s does not match %s", c.pattern, path)
			}
		}
		for _, path := range strings.Fields(c.no) {
			if g.Matches(path) {
				t.Errorf("%s matches %s", c.pattern, path)
			}
		}
	}
}
