package assets

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"ambrosa/core/checks"

	"github.com/bep/imagemeta"
	"github.com/davidbyttow/govips/v2/vips"
)

// Tag is one thing that a picture's metadata say.
type Tag struct {
	Group string // EXIF, IPTC or XMP
	Name  string
	Value string
}

// Metadata is what a picture says of itself. The four that the trade asks for are taken from where they stand: IPTC before XMP before EXIF.
type Metadata struct {
	Creator, Copyright, Credit, Description string
	Taken                                   string // as it is written
	Tags                                    []Tag
	Profile                                 string
}

const (
	metadataTime = 3 * time.Second
	mostTags     = 400
	mostTagText  = 2000
)

// ReadMetadata reads EXIF, IPTC and XMP of a picture of any format. What can't be read is left out: metadata are no reason to refuse a picture.
func ReadMetadata(src Source) (m Metadata) {
	start()
	side.RLock()
	defer side.RUnlock()
	header, err := src.load(vips.NewImportParams())
	if err != nil {
		return m
	}
	defer header.Close()
	if header.HasICCProfile() {
		m.Profile = checks.ProfileName(header.GetICCProfile())
	}
	blobs := map[string][]byte{}
	for _, name := range []string{"exif-data", "iptc-data", "xmp-data"} {
		if slices.Contains(header.GetFields(), name) {
			blobs[name] = header.GetBlob(name)
		}
	}
	for source, segment := range segments(blobs) {
		m.decode(bytes.NewReader(jpegOf(segment)), imagemeta.JPEG, source)
	}
	if header.Format() == vips.ImageTypeTIFF { // its own directory is what EXIF is in others
		if f, err := src.reader(); err == nil {
			m.decode(f, imagemeta.TIFF, imagemeta.EXIF)
			f.Close()
		}
	}
	slices.SortStableFunc(m.Tags, func(a, b Tag) int { return cmp.Compare(a.Group, b.Group) })
	m.Creator = m.first("IPTC:Byline", "XMP:Creator", "EXIF:Artist")
	m.Copyright = m.first("IPTC:CopyrightNotice", "XMP:Rights", "EXIF:Copyright")
	m.Credit = m.first("IPTC:Credit", "XMP:Credit")
	m.Description = m.first("IPTC:CaptionAbstract", "XMP:Description", "EXIF:ImageDescription")
	m.Taken = m.first("EXIF:DateTimeOriginal", "XMP:DateTimeOriginal", "IPTC:DateCreated", "XMP:DateCreated")
	return m
}

func (m *Metadata) decode(r io.ReadSeeker, format imagemeta.ImageFormat, source imagemeta.Source) {
	_, _ = imagemeta.Decode(imagemeta.Options{R: r, ImageFormat: format, Sources: source, Timeout: metadataTime, LimitNumTags: mostTags,
		Warnf: func(string, ...any) {}, ShouldHandleTag: func(imagemeta.TagInfo) bool { return true },
		HandleTag: func(t imagemeta.TagInfo) error {
			if value := textOf(t.Value); value != "" && len(m.Tags) < mostTags {
				m.Tags = append(m.Tags, Tag{Group: groupOf(t.Source), Name: t.Tag, Value: value})
			}
			return nil
		}})
}

// segment is metadata as a JPEG has them: the number of its marker, what it begins with, and the rest.
type segment struct {
	marker byte
	begins string
	data   []byte
}

// segments are what the library found in a picture of any format, as JPEG has it. Sources: CIPA DC-008, 4.7.2; Adobe, XMP specification 3, 1.1.3;
// IPTC IIM in Photoshop's image resources 0x0404; from memory.
func segments(blobs map[string][]byte) map[imagemeta.Source]segment {
	const exif, photoshop = "Exif\x00\x00", "Photoshop 3.0\x00"
	all := map[imagemeta.Source]segment{}
	if b := blobs["exif-data"]; len(b) > 0 {
		all[imagemeta.EXIF] = segment{0xe1, exif, bytes.TrimPrefix(b, []byte(exif))}
	}
	if b := blobs["xmp-data"]; len(b) > 0 {
		all[imagemeta.XMP] = segment{0xe1, "http://ns.adobe.com/xap/1.0/\x00", b}
	}
	if b := blobs["iptc-data"]; len(b) > 0 {
		if !bytes.HasPrefix(b, []byte(photoshop)) {
			resource := append([]byte("8BIM\x04\x04\x00\x00"), binary.BigEndian.AppendUint32(nil, uint32(len(b)))...)
			b = append(append(resource, b...), make([]byte, len(b)%2)...)
		}
		all[imagemeta.IPTC] = segment{0xed, photoshop, bytes.TrimPrefix(b, []byte(photoshop))}
	}
	return all
}

// jpegOf is a JPEG that holds nothing but a segment; it is cut where one segment can't hold it.
func jpegOf(s segment) []byte {
	const most = 1<<16 - 3
	payload := append([]byte(s.begins), s.data...)
	payload = payload[:min(len(payload), most)]
	b := []byte{0xff, 0xd8, 0xff, s.marker}
	b = binary.BigEndian.AppendUint16(b, uint16(len(payload)+2))
	return append(append(b, payload...), 0xff, 0xd9)
}

// first is the value of the first of some tags that is there. Names are compared without the hyphens and spaces in which programs differ.
func (m Metadata) first(names ...string) string {
	plain := strings.NewReplacer("-", "", " ", "", "/", "").Replace
	for _, name := range names {
		group, tag, _ := strings.Cut(name, ":")
		at := slices.IndexFunc(m.Tags, func(t Tag) bool { return t.Group == group && strings.EqualFold(plain(t.Name), tag) })
		if at >= 0 {
			return m.Tags[at].Value
		}
	}
	return ""
}

func groupOf(s imagemeta.Source) string {
	switch s {
	case imagemeta.IPTC:
		return "IPTC"
	case imagemeta.XMP:
		return "XMP"
	case imagemeta.EXIF:
		return "EXIF"
	}
	return ""
}

// textOf is a value as text, cut where it is long; empty for bytes that are no text.
func textOf(v any) string {
	text := ""
	switch v := v.(type) {
	case []byte:
		if !isText(v) {
			return ""
		}
		text = string(v)
	case []string:
		text = strings.Join(v, "; ")
	default:
		text = fmt.Sprint(v)
	}
	text = strings.TrimSpace(strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", ""), "\uFFFD"))
	if len(text) > mostTagText {
		text = strings.ToValidUTF8(text[:mostTagText], "") + " …"
	}
	return text
}
