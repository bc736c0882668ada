package sheet

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"strings"
)

// book is an archive of parts: a workbook of either kind.
type book struct {
	file   *os.File
	parts  map[string]*zip.File
	sheets []Sheet
	notes  []Note
}

func (b *book) Sheets() []Sheet { return b.sheets }
func (b *book) Notes() []Note   { return b.notes }
func (b *book) Close() error    { return b.file.Close() }

// openBook opens a workbook by what its parts are.
func openBook(f *os.File, size int64) (File, error) {
	z, err := zip.NewReader(f, size)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	b := &book{file: f, parts: make(map[string]*zip.File, len(z.File))}
	for _, part := range z.File {
		name := strings.ToLower(strings.TrimPrefix(part.Name, "/"))
		if _, twice := b.parts[name]; !twice { // names of parts are one whatever the case (ECMA-376, part 2, 6.2.2.3)
			b.parts[name] = part
		}
	}
	switch {
	case b.parts["[content_types].xml"] != nil:
		return openXLSX(b)
	case b.parts["content.xml"] != nil:
		return openODS(b)
	}
	return nil, ErrNoTable
}

// part opens a part; os.ErrNotExist where there is none.
func (b *book) part(name string) (io.ReadCloser, error) {
	f := b.parts[strings.ToLower(strings.TrimPrefix(name, "/"))]
	if f == nil {
		return nil, fmt.Errorf("%w: %s: %w", ErrDamaged, name, os.ErrNotExist)
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("%w: %s: %w", ErrDamaged, name, err)
	}
	return &limited{r, largestPart}, nil
}

// limited ends a part that unpacks to more than it may.
type limited struct {
	io.ReadCloser
	left int64
}

func (l *limited) Read(p []byte) (int, error) {
	if l.left <= 0 {
		return 0, ErrTooLarge
	}
	n, err := l.ReadCloser.Read(p[:min(int64(len(p)), l.left)])
	l.left -= int64(n)
	return n, err
}

// walk goes through the elements of a part that is small; the function is told of each that opens.
func (b *book) walk(name string, each func(s *scanner) error) error {
	r, err := b.part(name)
	if err != nil {
		return err
	}
	defer r.Close()
	s := newScanner(&limited{r, largestTexts})
	for {
		e, err := s.next()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return damaged(err)
		}
		if e != opens {
			continue
		}
		if err := each(s); err != nil {
			return damaged(err)
		}
	}
}

// damaged is an error of reading a part as one of the file.
func damaged(err error) error {
	if errors.Is(err, ErrTooLarge) || errors.Is(err, ErrDamaged) || errors.Is(err, ErrPassword) {
		return err
	}
	return fmt.Errorf("%w: %w", ErrDamaged, err)
}

// beside is the name of a part that another one speaks of.
func beside(from, target string) string {
	if strings.HasPrefix(target, "/") {
		return target[1:]
	}
	return path.Join(path.Dir(from), target)
}

// whether reports whether an attribute says yes.
func whether(value string, ok bool) bool { return ok && (value == "1" || value == "true") }

func isName(s *scanner, name string) bool { return bytes.Equal(s.name, []byte(name)) }
