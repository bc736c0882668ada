package assets

import (
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"os"
	"strings"
	"sync"

	"ambrosa/core/message"
)

// side lets pictures be worked on side by side, and one alone where it failed.
var side sync.RWMutex

// libraryError is what the library said when it failed, not yet told to anybody.
type libraryError struct{ says string }

func (e *libraryError) Error() string { return e.says }

func failed(err error) error { return &libraryError{err.Error()} }

// beside works on a picture among others. The library keeps what failed in one place for all threads, so where it fails
// the picture is worked on once more, alone: then what is said is said of this one.
func beside(src Source, work func() error) error {
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
	if endMissing(src) {
		return damaged(cutOff)
	}
	return damaged(cause(library.says))
}

const cutOff = "picture_cut"

func damaged(code string) error { return &message.Error{Message: message.New(code), Of: ErrDamaged} }

// endMissing reports whether a picture lacks the mark that ends it: EOI in JPEG (ISO/IEC 10918-1, B.1.1.3), IEND in PNG
// (Third Edition, 11.2.5), the length that a RIFF file claims in WebP (RFC 9649, 2.3). Others have none that is as easily seen.
func endMissing(src Source) bool {
	const near = 64 << 10 // some programs write a little behind the end
	head, tail, size, err := src.ends(16, near)
	if err != nil {
		return false
	}
	switch Detect(head).Name {
	case "JPEG":
		return !bytes.Contains(tail, []byte("\xff\xd9"))
	case "PNG":
		return !bytes.Contains(tail, []byte("IEND"))
	case "WebP":
		return int64(binary.LittleEndian.Uint32(head[4:]))+8 > size
	}
	return false
}

// bytesReader is a picture in memory as a file is read.
type bytesReader struct{ *bytes.Reader }

func (bytesReader) Close() error { return nil }

// reader reads a picture's bytes; the caller closes it.
func (s Source) reader() (io.ReadSeekCloser, error) {
	if s.File != "" {
		return os.Open(s.File)
	}
	return bytesReader{bytes.NewReader(s.Bytes)}, nil
}

// ends returns a picture's first and last bytes, and how many it has.
func (s Source) ends(first, last int) (head, tail []byte, size int64, err error) {
	var r io.ReaderAt = bytes.NewReader(s.Bytes)
	size = int64(len(s.Bytes))
	if s.File != "" {
		f, err := os.Open(s.File)
		if err != nil {
			return nil, nil, 0, err
		}
		defer f.Close()
		info, err := f.Stat()
		if err != nil {
			return nil, nil, 0, err
		}
		r, size = f, info.Size()
	}
	head, tail = make([]byte, min(int64(first), size)), make([]byte, min(int64(last), size))
	if _, err := r.ReadAt(head, 0); err != nil && err != io.EOF {
		return nil, nil, 0, err
	}
	if _, err := r.ReadAt(tail, size-int64(len(tail))); err != nil && err != io.EOF {
		return nil, nil, 0, err
	}
	return head, tail, size, nil
}

// causes are what the library says of damage, as far as its words tell kinds apart, and the code for it.
var causes = []struct{ code, signs string }{
	{cutOff, "premature|truncated|unexpected end|end of file|eof|not enough data|bad seek|outside of file"},
	{"picture_checksum", "crc|checksum"},
	{"picture_packed", "zlib|inflate|decompress|huffman|corrupt|marker|lzw|bogus"},
	{"picture_header", "header|ihdr|not in a known|unsupported|dimension|directory|no frames"},
}

func cause(says string) string {
	says = strings.ToLower(says)
	for _, c := range causes {
		for sign := range strings.SplitSeq(c.signs, "|") {
			if strings.Contains(says, sign) {
				return c.code
			}
		}
	}
	return "picture_damaged"
}
