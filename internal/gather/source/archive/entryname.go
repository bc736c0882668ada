package archive

import (
	"encoding/binary"
	"hash/crc32"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
)

// EntryName reads an archive's name for a file as UTF-8 with forward slashes. raw is what the archive had,
// nil where nothing was changed but the slashes. A Unicode path in the extra field wins, then UTF-8, then the
// old code page that makes most sense.
func EntryName(name string, extra []byte) (path string, raw []byte) {
	path = name
	if better, ok := unicodePath(name, extra); ok {
		path = better
	} else if !utf8.ValidString(name) {
		path, raw = decodeCodePage(name), []byte(name)
	}
	if strings.ContainsRune(path, 0) {
		path, raw = strings.ReplaceAll(path, "\x00", "\ufffd"), []byte(name)
	}
	path = strings.ReplaceAll(path, `\`, "/")
	for strings.HasPrefix(path, "./") {
		path = path[2:]
	}
	return path, raw
}

// unicodePath is the Info-ZIP Unicode Path Extra Field, which counts only where its checksum is the name's.
// Source: APPNOTE.TXT 6.3, section 4.6.9.
func unicodePath(name string, extra []byte) (string, bool) {
	for len(extra) >= 4 {
		id, size := binary.LittleEndian.Uint16(extra), int(binary.LittleEndian.Uint16(extra[2:]))
		if len(extra) < 4+size {
			break
		}
		field := extra[4 : 4+size]
		extra = extra[4+size:]
		if id == 0x7075 && size > 5 && field[0] == 1 && binary.LittleEndian.Uint32(field[1:]) == crc32.ChecksumIEEE([]byte(name)) && utf8.Valid(field[5:]) {
			return string(field[5:]), true
		}
	}
	return "", false
}

// decodeCodePage guesses among the code pages that desktop archivers wrote: IBM 437, which APPNOTE.TXT
// appendix D.1 names, Windows 1252, and Shift JIS. It takes the one that gives fewest characters which are
// no letters. Common practice, no source.
func decodeCodePage(name string) string {
	if text, ok := shiftJIS(name); ok {
		return text
	}
	best, fewest := "", 1<<30
	for _, page := range []encoding.Encoding{charmap.CodePage437, charmap.Windows1252} {
		text, err := page.NewDecoder().String(name)
		if err != nil {
			continue
		}
		odd := 0
		for _, r := range text {
			if r >= utf8.RuneSelf && (!unicode.IsLetter(r) || r == 'ⁿ') {
				odd++
			}
		}
		if odd < fewest {
			best, fewest = text, odd
		}
	}
	return best
}

// shiftJIS takes a name for Japanese only where two kana or kanji follow each other and nothing is left over:
// two accented Latin letters can look like one, rarely like two in a row.
func shiftJIS(name string) (string, bool) {
	text, err := japanese.ShiftJIS.NewDecoder().String(name)
	if err != nil || strings.ContainsRune(text, utf8.RuneError) {
		return "", false
	}
	row, longest := 0, 0
	for _, r := range text {
		switch {
		case unicode.In(r, unicode.Hiragana, unicode.Katakana, unicode.Han) && (r < 0xff61 || r > 0xff9f):
			row++
			longest = max(longest, row)
		case r < utf8.RuneSelf:
			row = 0
		default:
			return "", false
		}
	}
	return text, longest >= 2
}
