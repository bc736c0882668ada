package assets

import (
	"errors"
	"fmt"
	"strings"
	"sync"
)

// side lets pictures be worked on side by side, and one alone where it failed.
var side sync.RWMutex

// libraryError is what the library said when it failed, not yet told to anybody.
type libraryError struct{ says string }

func (e *libraryError) Error() string { return e.says }

func failed(err error) error { return &libraryError{err.Error()} }

// beside works on a picture among others. The library keeps what failed in one place for all threads, so where it fails
// the picture is worked on once more, alone: then what is said is said of this one.
func beside(work func() error) error {
	side.RLock()
	err := work()
	side.RUnlock()
	var library *libraryError
	if !errors.As(err, &library) {
		return err
	}
	side.Lock()
	defer side.Unlock()
	if err = work(); !errors.As(err, &library) {
		return err
	}
	return fmt.Errorf("%w: %s", ErrDamaged, words(library.says))
}

// causes are what the library says of damage, as far as its words tell kinds apart, and the trade's words for it.
var causes = []struct{ words, signs string }{
	{"it is cut off before its end", "premature|truncated|unexpected end|end of file|end of data|eof|read error|not enough|too short|out of order|insufficient"},
	{"its checksum is wrong", "crc|checksum"},
	{"its packed data is damaged", "zlib|inflate|decompress|huffman|corrupt|marker|code|lzw|bad data|bogus"},
	{"its header is damaged", "header|ihdr|not a known|not in a known|unsupported|no such|dimension|invalid|exceed|limit|no frames|missing"},
}

func words(says string) string {
	says = strings.ToLower(says)
	for _, c := range causes {
		for sign := range strings.SplitSeq(c.signs, "|") {
			if strings.Contains(says, sign) {
				return c.words
			}
		}
	}
	return "its data can't be decoded"
}
