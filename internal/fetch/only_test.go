package fetch

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
)

// dials are what reaches other machines, by package.
var dials = map[string]string{
	"net/http":   "Get Post PostForm Head DefaultClient DefaultTransport Client Transport",
	"net":        "Dial DialTimeout DialTCP DialUDP DialIP DialUnix Dialer LookupHost LookupIP LookupAddr DefaultResolver Resolver",
	"crypto/tls": "Dial DialWithDialer Dialer",
	"net/smtp":   "*",
	"net/rpc":    "*",
}

// Nothing but this package dials what comes from outside. The database goes through pgx and the pictures through gocloud, which
// are given the operator's addresses.
func TestOnlyDoor(t *testing.T) {
	root := filepath.Join("..", "..")
	read := 0
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		rel, _ := filepath.Rel(root, path)
		if d.IsDir() {
			if name := d.Name(); rel != "." && (strings.HasPrefix(name, ".") || name == "node_modules" || name == "tools" || rel == filepath.Join("internal", "fetch")) {
				return filepath.SkipDir
			}
			return nil
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || strings.HasPrefix(filepath.ToSlash(rel), "e2e/") {
			return nil
		}
		read++
		for _, found := range dialled(t, path) {
			t.Errorf("%s uses %s: what comes from outside goes through internal/fetch", rel, found)
		}
		return nil
	})
	if err != nil || read < 100 {
		t.Fatalf("read %d files, %v", read, err)
	}
}

// dialled returns the uses of what dials in one file.
func dialled(t *testing.T, path string) (found []string) {
	t.Helper()
	file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
	if err != nil {
		t.Fatal(err)
	}
	called := map[string]string{} // the name a package has here
	for _, i := range file.Imports {
		of := strings.Trim(i.Path.Value, `"`)
		if dials[of] == "" {
			continue
		}
		name := of[strings.LastIndexByte(of, '/')+1:]
		if i.Name != nil {
			name = i.Name.Name
		}
		called[name] = of
		if dials[of] == "*" {
			found = append(found, of)
		}
	}
	ast.Inspect(file, func(n ast.Node) bool {
		use, ok := n.(*ast.SelectorExpr)
		if !ok {
			return true
		}
		if x, ok := use.X.(*ast.Ident); ok && called[x.Name] != "" {
			for _, name := range strings.Fields(dials[called[x.Name]]) {
				if use.Sel.Name == name {
					found = append(found, called[x.Name]+"."+name)
				}
			}
		}
		return true
	})
	return found
}
