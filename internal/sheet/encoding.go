package sheet

import (
	"bufio"
	"bytes"
	"io"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// sampled is how much of a text's beginning is looked at to find out how it is written.
const sampled = 64 << 10

// decoded reads a text as UTF-8, whatever it is written in: UTF-16 by its mark, or where every second byte is zero; else UTF-8,
// in which bytes that are none are Windows-1252. NUL is left out. Errors: ErrNoTable for what is no text.
func decoded(in io.Reader) (*bufio.Reader, error) {
	r := bufio.NewReaderSize(in, sampled)
	head, err := r.Peek(sampled)
	if err != nil && err != io.EOF {
		return nil, err
	}
	var decoder transform.Transformer = mixed{}
	if wide := sixteen(head); wide != nil {
		decoder = transform.Chain(wide.NewDecoder(), mixed{})
	} else if bytes.HasPrefix(head, []byte("\xef\xbb\xbf")) {
		_, _ = r.Discard(3) // it was looked at, so it is there
	}
	r = bufio.NewReaderSize(transform.NewReader(r, decoder), sampled)
	if head, err = r.Peek(sampled); err != nil && err != io.EOF {
		return nil, err
	}
	if controls(head) {
		return nil, ErrNoTable
	}
	return r, nil
}

// sixteen is UTF-16 in the order that a text has; nil where it is none.
func sixteen(head []byte) encoding.Encoding {
	var zeros [2]int
	for i, c := range head[:len(head)&^1] {
		if c == 0 {
			zeros[i&1]++
		}
	}
	half := len(head) / 2
	switch {
	case bytes.HasPrefix(head, []byte("\xff\xfe")), half > 1 && zeros[1] > half/2 && zeros[0] <= half/16:
		return unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case bytes.HasPrefix(head, []byte("\xfe\xff")), half > 1 && zeros[0] > half/2 && zeros[1] <= half/16:
		return unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	}
	return nil
}

// controls reports whether a text has more control characters than a text has, so that it is a picture or another file.
func controls(head []byte) bool {
	n := 0
	for _, c := range head {
		if c < ' ' && c != '\t' && c != '\n' && c != '\r' {
			n++
		}
	}
	return n > 4+len(head)/50
}

// mixed leaves UTF-8 as it is and reads every byte that is none as Windows-1252, so that one stray byte late in a long file is no
// matter. It leaves out NUL.
type mixed struct{ transform.NopResetter }

func (mixed) Transform(dst, src []byte, atEOF bool) (nDst, nSrc int, err error) {
	for nSrc < len(src) {
		c := src[nSrc]
		if c == 0 {
			nSrc++
			continue
		}
		if c < utf8.RuneSelf {
			if nDst == len(dst) {
				return nDst, nSrc, transform.ErrShortDst
			}
			dst[nDst] = c
			nDst, nSrc = nDst+1, nSrc+1
			continue
		}
		if !atEOF && !utf8.FullRune(src[nSrc:]) {
			return nDst, nSrc, transform.ErrShortSrc
		}
		r, size := utf8.DecodeRune(src[nSrc:])
		if r == utf8.RuneError && size == 1 {
			r = charmap.Windows1252.DecodeByte(c)
		}
		if nDst+utf8.RuneLen(r) > len(dst) {
			return nDst, nSrc, transform.ErrShortDst
		}
		nDst += utf8.EncodeRune(dst[nDst:], r)
		nSrc += size
	}
	return nDst, nSrc, nil
}
