package assets

import (
	"maps"
	"slices"
	"strings"
	"unicode"

	"ambrosa/core/rendition"

	"github.com/davidbyttow/govips/v2/vips"
)

// exif is what stays of a picture's EXIF in a rendition, by libvips' names of the fields.
type exif map[string]string

// Names of the fields of EXIF by which a picture says whose it is. Source: Exif 2.32 (CIPA DC-008), 4.6.4, tags 315 and 33432.
const (
	exifCreator   = "exif-ifd0-Artist"
	exifCopyright = "exif-ifd0-Copyright"
)

// notKept are those that say how the picture lay in its file: they are not true of a rendition.
var notKept = []string{"orientation", "exif-ifd0-Orientation", "exif-ifd0-XResolution", "exif-ifd0-YResolution", "exif-ifd0-ResolutionUnit", "exif-ifd2-PixelXDimension",
	"exif-ifd2-PixelYDimension", "exif-ifd2-ColorSpace"}

// kept is what stays in the renditions, by how much a wish keeps; nothing is read where none keeps any.
func kept(src Source, wishes []rendition.Wish) (map[rendition.Keep]exif, error) {
	if !slices.ContainsFunc(wishes, func(w rendition.Wish) bool { return w.Keep != rendition.KeepNone }) {
		return nil, nil
	}
	m := ReadMetadata(src)
	whose := exif{}
	for field, text := range map[string]string{exifCreator: m.Creator, exifCopyright: m.Copyright} {
		if text != "" {
			whose[field] = text + tail
		}
	}
	all := maps.Clone(whose)
	err := beside(src, func() error {
		header, err := src.load(vips.NewImportParams())
		if err != nil {
			return failed(err)
		}
		defer header.Close()
		for _, field := range header.GetFields() {
			if strings.HasPrefix(field, "exif-ifd") && !strings.HasPrefix(field, "exif-ifd1") && !slices.Contains(notKept, field) && all[field] == "" {
				all[field] = header.GetString(field)
			}
		}
		return nil
	})
	return map[rendition.Keep]exif{rendition.KeepRights: whose, rendition.KeepAll: all}, err
}

// tail ends a text that is written: libvips takes what stands behind the last " (" for how the text was stored.
const tail = " (as said)"

// pngTexts are the same two in PNG, into which libvips writes no EXIF. Source: PNG, third edition (W3C), 11.3.3.1 (keywords).
var pngTexts = map[string]string{exifCreator: "png-comment-0-Author", exifCopyright: "png-comment-1-Copyright"}

// onto has a picture say this of itself and nothing else. A picture that keeps nothing is written without metadata anyway.
func (e exif) onto(image *vips.ImageRef) error {
	if e == nil {
		return nil
	}
	if err := image.RemoveMetadata(); err != nil {
		return err
	}
	for field, text := range e {
		image.SetString(field, text)
	}
	for field, of := range pngTexts {
		if text := e[field]; text != "" {
			image.SetString(of, ascii(strings.TrimSuffix(text, tail)))
		}
	}
	return nil
}

// ascii is a text in ASCII, as libvips writes it into EXIF: it can't write other letters into the texts of PNG.
func ascii(text string) string {
	return strings.Map(func(r rune) rune {
		if r > unicode.MaxASCII {
			return '?'
		}
		return r
	}, strings.ReplaceAll(text, "©", "(C)"))
}
