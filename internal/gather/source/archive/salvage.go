package archive

import (
	"bufio"
	"bytes"
	"compress/flate"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"io"
	"os"
	"strconv"
	"strings"

	"ambrosa/internal/gather/source"

	"github.com/klauspost/compress/zip"
)

// Local file headers. Source: APPNOTE.TXT - .ZIP File Format Specification 6.3, section 4.3.7.
const (
	localHeader      = "PK\x03\x04"
	localHeaderBytes = 30
)

// salvageZip reads a zip whose directory is lost, as in a download that was cut off: each file is found by
// its own header. It ends with a *source.Problem that says so.
func salvageZip(f *os.File, size int64, limits source.Limits, visit func(source.Item) error) error {
	index := 0
	var total int64
	for at := int64(0); at >= 0 && at < size && index < limits.Entries; {
		at = findHeader(f, at, size)
		if at < 0 {
			break
		}
		var h [localHeaderBytes]byte
		if _, err := f.ReadAt(h[:], at); err != nil {
			break
		}
		flags, method := binary.LittleEndian.Uint16(h[6:]), binary.LittleEndian.Uint16(h[8:])
		sum := binary.LittleEndian.Uint32(h[14:])
		packed := int64(binary.LittleEndian.Uint32(h[18:]))
		unpacked := int64(binary.LittleEndian.Uint32(h[22:]))
		rest := make([]byte, int(binary.LittleEndian.Uint16(h[26:]))+int(binary.LittleEndian.Uint16(h[28:])))
		if _, err := f.ReadAt(rest, at+localHeaderBytes); err != nil {
			break
		}
		nameBytes := binary.LittleEndian.Uint16(h[26:])
		data := at + localHeaderBytes + int64(len(rest))
		e := source.Item{ID: strconv.Itoa(index), Bytes: unpacked}
		e.Path, e.Raw = EntryName(string(rest[:nameBytes]), rest[nameBytes:])
		if strings.HasSuffix(e.Path, "/") {
			at = data
			continue
		}
		streamed := flags&8 != 0
		if streamed && method == zip.Deflate {
			packed, unpacked, sum = measureDeflate(f, data, size, limits.EntryBytes)
			e.Bytes = unpacked
		}
		if streamed && method == zip.Store {
			packed, sum = measureStored(f, data, size)
			unpacked, e.Bytes = packed, packed
		}
		switch {
		case flags&1 != 0:
			e.Problem = source.NewProblem(source.Encrypted, "file_encrypted")
		case method != zip.Store && method != zip.Deflate:
			e.Problem = source.NewProblem(source.Damaged, "directory_lost")
			packed = 0
		case packed < 0 || data+packed > size:
			e.Problem = source.NewProblem(source.Damaged, "archive_ends")
			packed = size - data
		case unpacked > limits.EntryBytes:
			e.Problem = source.NewProblem(source.Refused, "file_large", "size", unpacked, "limit", limits.EntryBytes)
		default:
			total += unpacked
			if total > limits.Bytes || total > ratioFloor && total/max(size, 1) > limits.Ratio {
				return refused("archive_ratio", "size", total, "times", total/max(size, 1), "limit", limits.Ratio)
			}
			e.Open = func(context.Context) (io.ReadCloser, error) {
				section := io.NewSectionReader(f, data, packed)
				var r io.ReadCloser = io.NopCloser(section)
				if method == zip.Deflate {
					r = flate.NewReader(bufio.NewReader(section))
				}
				return &checked{r: Limited(r, r, unpacked), want: sum}, nil
			}
		}
		if err := visit(e); err != nil {
			return err
		}
		index++
		at = data + packed
	}
	if index == 0 {
		return source.NewProblem(source.NotArchive, "archive_none")
	}
	return source.NewProblem(source.Damaged, "archive_salvaged", "count", index)
}

// findHeader returns the offset of the next local header at or after an offset, -1 where there is none.
func findHeader(f *os.File, from, size int64) int64 {
	const window = 1 << 16
	buf := make([]byte, window+len(localHeader)-1)
	for at := from; at < size; at += window {
		n, err := f.ReadAt(buf, at)
		if err != nil && err != io.EOF {
			return -1
		}
		if i := bytes.Index(buf[:n], []byte(localHeader)); i >= 0 {
			return at + int64(i)
		}
	}
	return -1
}

// measureDeflate finds where a deflate stream of unknown length ends, and the checksum that the data descriptor behind it
// gives, or its own where there is none; packed is -1 where it doesn't end.
func measureDeflate(f *os.File, data, size, most int64) (packed, unpacked int64, sum uint32) {
	counted := &byteMeter{r: bufio.NewReader(io.NewSectionReader(f, data, size-data))}
	hash := crc32.NewIEEE()
	n, err := io.Copy(hash, io.LimitReader(flate.NewReader(counted), most+1))
	if err != nil || n > most {
		return -1, n, 0
	}
	packed, sum = counted.read, hash.Sum32()
	var d [4 + descriptor]byte
	if got, _ := f.ReadAt(d[:], data+packed); got == len(d) {
		behind := d[:]
		if string(d[:4]) == "PK\x07\x08" {
			behind = d[4:]
		}
		if binary.LittleEndian.Uint32(behind[4:]) == uint32(packed) {
			sum = binary.LittleEndian.Uint32(behind)
		}
	}
	return packed, n, sum
}

// descriptor is how many bytes of a data descriptor say checksum, packed and unpacked length, less its signature. Source:
// APPNOTE.TXT 6.3, section 4.3.9.
const descriptor = 12

// measureStored finds where a stored file of unknown length ends: before a data descriptor, with or without
// its signature, that names the very length read so far. Source: APPNOTE.TXT 6.3, section 4.3.9. packed is -1
// where there is none.
func measureStored(f *os.File, data, size int64) (packed int64, sum uint32) {
	const window = 1 << 16
	buf := make([]byte, window+4)
	fits := func(at int64) bool {
		var d [descriptor]byte
		if _, err := f.ReadAt(d[:], at); err != nil || at < data || int64(binary.LittleEndian.Uint32(d[4:])) != packed {
			return false
		}
		sum = binary.LittleEndian.Uint32(d[:])
		return true
	}
	for at := data; at < size; at += window {
		n, err := f.ReadAt(buf, at)
		if err != nil && err != io.EOF {
			break
		}
		for i := 0; i < n && i < window; i++ {
			if buf[i] != 'P' || i+4 > n || buf[i+1] != 'K' {
				continue
			}
			here := at + int64(i)
			switch string(buf[i+2 : i+4]) {
			case "\x07\x08":
				if packed = here - data; fits(here + 4) {
					return packed, sum
				}
			case "\x03\x04", "\x01\x02":
				if packed = here - descriptor - data; fits(here - descriptor) {
					return packed, sum
				}
			}
		}
	}
	if packed = size - descriptor - data; fits(size - descriptor) {
		return packed, sum
	}
	return -1, 0
}

// byteMeter counts exactly what an inflater takes; being a ByteReader it keeps it from reading ahead.
type byteMeter struct {
	r    *bufio.Reader
	read int64
}

func (m *byteMeter) Read(p []byte) (int, error) {
	n, err := m.r.Read(p)
	m.read += int64(n)
	return n, err
}

func (m *byteMeter) ReadByte() (byte, error) {
	b, err := m.r.ReadByte()
	if err == nil {
		m.read++
	}
	return b, err
}

// checked fails at the end of a file whose checksum is wrong.
type checked struct {
	r    io.ReadCloser
	sum  uint32
	want uint32
}

var errChecksum = errors.New("the checksum is wrong")

func (c *checked) Read(p []byte) (int, error) {
	n, err := c.r.Read(p)
	c.sum = crc32.Update(c.sum, crc32.IEEETable, p[:n])
	if err == io.EOF && c.sum != c.want {
		err = errChecksum
	}
	return n, err
}

func (c *checked) Close() error { return c.r.Close() }
