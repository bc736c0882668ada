package checks

import (
	"encoding/binary"
	"strings"
	"unicode/utf16"
)

// ProfileName is what an ICC profile calls itself, in English where it has that; empty where it does not say. Source: ICC.1:2022, 7.2, 7.3,
// 9.2.41 and 10.15, and for those of version 2 ICC.1:2001-04, 6.5.17, from memory.
func ProfileName(icc []byte) string {
	const header, entry, mostTags = 128, 12, 200
	if len(icc) < header+4 {
		return ""
	}
	count := int(binary.BigEndian.Uint32(icc[header:]))
	for i := range min(count, mostTags) {
		at := header + 4 + i*entry
		if at+entry > len(icc) {
			return ""
		}
		from, size := int64(binary.BigEndian.Uint32(icc[at+4:])), int64(binary.BigEndian.Uint32(icc[at+8:]))
		if string(icc[at:at+4]) == "desc" && from+size <= int64(len(icc)) && size >= entry {
			return description(icc[from : from+size])
		}
	}
	return ""
}

func description(tag []byte) string {
	switch string(tag[:4]) {
	case "desc":
		length := int64(binary.BigEndian.Uint32(tag[8:]))
		return strings.TrimRight(string(tag[12:min(12+length, int64(len(tag)))]), "\x00 ")
	case "mluc":
		const record = 12
		if len(tag) < 16 {
			return ""
		}
		found := ""
		for i := range int(min(binary.BigEndian.Uint32(tag[8:]), 100)) {
			at := 16 + i*record
			if at+record > len(tag) {
				break
			}
			length, from := int64(binary.BigEndian.Uint32(tag[at+4:])), int64(binary.BigEndian.Uint32(tag[at+8:]))
			if from+length > int64(len(tag)) {
				continue
			}
			english := string(tag[at:at+2]) == "en"
			if found == "" || english {
				found = utf16Text(tag[from : from+length])
			}
			if english {
				break
			}
		}
		return found
	}
	return ""
}

func utf16Text(b []byte) string {
	units := make([]uint16, len(b)/2)
	for i := range units {
		units[i] = binary.BigEndian.Uint16(b[2*i:])
	}
	return strings.TrimRight(string(utf16.Decode(units)), "\x00 ")
}
