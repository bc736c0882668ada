package sheet

import (
	"bytes"
	"io"
	"os"
	"unicode/utf8"
)

// WrittenAs says how a file of CSV is written, as far as its beginning tells: its separator, encoding and line end.
func WrittenAs(file string) (d Dialect, err error) {
	f, err := os.Open(file)
	if err != nil {
		return d, err
	}
	defer f.Close()
	head := make([]byte, sampled)
	n, err := io.ReadFull(f, head)
	if err != nil && err != io.ErrUnexpectedEOF && err != io.EOF {
		return d, err
	}
	head = head[:n]
	switch {
	case sixteen(head) != nil:
		d.Encoding = "utf-16"
	case bytes.HasPrefix(head, []byte("\xef\xbb\xbf")):
		d.Encoding = "utf-8-bom"
	case validUTF8(head):
		d.Encoding = "utf-8"
	default:
		d.Encoding = "windows-1252"
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return d, err
	}
	text, err := decoded(f)
	if err != nil {
		return d, err
	}
	plain, err := text.Peek(sampled / 2)
	if err != nil && err != io.EOF {
		return d, err
	}
	d.Separator, d.LineEnd = string(dialectOf(plain).separator), "lf"
	if bytes.Contains(plain, []byte("\r\n")) {
		d.LineEnd = "crlf"
	}
	return d, nil
}

// validUTF8 reports whether a text's beginning is UTF-8, but for a letter that is cut at its end.
func validUTF8(head []byte) bool {
	for cut := range utf8.UTFMax {
		if len(head) >= cut && utf8.Valid(head[:len(head)-cut]) {
			return true
		}
	}
	return false
}
