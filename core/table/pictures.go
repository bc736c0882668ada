package table

import (
	"net/netip"
	"net/url"
	"regexp"
	"strings"
	"unicode"

	"ambrosa/core/pairing"

	"golang.org/x/text/unicode/norm"
)

// fileLike is what a file of a picture is called: something, a point, and an extension.
var fileLike = regexp.MustCompile(`(?i)\.(jpe?g|jfif|png|gif|webp|avif|heic|heif|tiff?|bmp|svg|jxl|psd)$`)

// Split reads the names and addresses in a cell. The separator is the first of line end, |, ;, comma and blank at which every part
// looks like a file or an address; a cell without one is one name, blanks and all.
func Split(cell string) []string {
	cell = strings.TrimSpace(cell)
	if cell == "" {
		return nil
	}
	for _, separator := range []string{"\n", "|", ";", ",", " "} {
		if !strings.Contains(cell, separator) {
			continue
		}
		var parts []string
		alike := true
		for part := range strings.SplitSeq(cell, separator) {
			if part = strings.TrimSpace(part); part != "" {
				parts = append(parts, part)
				alike = alike && (fileLike.MatchString(part) || isAddress(part))
			}
		}
		if alike && len(parts) > 0 && (len(parts) > 1 || separator != " ") {
			return parts
		}
	}
	return []string{cell}
}

// pictureFormula is a formula that shows a picture or leads to an address, with the address as its first argument.
var pictureFormula = regexp.MustCompile(`(?i)^(?:_xlfn\.|of:=?)*(?:image|hyperlink|bild)\s*\(\s*"((?:[^"]|"")*)"`)

// Address is the address in a formula that shows a picture; empty where there is none.
func Address(formula string) string {
	if m := pictureFormula.FindStringSubmatch(strings.TrimPrefix(formula, "=")); m != nil {
		return strings.ReplaceAll(m[1], `""`, `"`)
	}
	return ""
}

var scheme = regexp.MustCompile(`^(?i)[a-z][a-z0-9+.-]{1,30}:`)

// isAddress reports whether a text is an address rather than a file's name. A letter and a colon are a drive of a desktop.
func isAddress(s string) bool {
	return strings.Contains(s, "://") || strings.HasPrefix(s, "//") || strings.HasPrefix(strings.ToLower(s), "www.") ||
		scheme.MatchString(s) && !fileLike.MatchString(s)
}

// refused says why an address is not one that pictures are fetched from; empty where it may be. Only what can be seen of the address
// itself is looked at; where it leads is looked at when it is fetched.
func refused(address string) string {
	u, err := url.Parse(address)
	switch {
	case err != nil || u.Host == "" && (u.Scheme == "http" || u.Scheme == "https"):
		return "address_form"
	case u.Scheme != "http" && u.Scheme != "https":
		return "address_scheme"
	case u.User != nil:
		return "address_password"
	}
	host := strings.ToLower(strings.TrimSuffix(u.Hostname(), "."))
	if host == "localhost" || strings.HasSuffix(host, ".localhost") {
		return "address_private"
	}
	if ip, err := netip.ParseAddr(host); err == nil {
		if ip = ip.Unmap(); !ip.IsGlobalUnicast() || ip.IsPrivate() {
			return "address_private"
		}
	}
	return ""
}

// Files are the pictures that a table may name, by their paths. Folders don't matter, unless a name in the table has some and they
// tell two files apart.
type Files struct {
	paths  []string
	stems  []string
	byName map[string][]int32 // by the name as it is, NFC
	byStem map[string][]int32 // by what is left of the name without spelling
	halves map[string][]int32 // by the length of that, and its first or second half
	named  []bool             // whether the table names them
}

// NewFiles prepares files by their paths. Cost: linear.
func NewFiles(paths []string) *Files {
	f := &Files{paths: paths, stems: make([]string, len(paths)), byName: make(map[string][]int32, len(paths)), byStem: make(map[string][]int32, len(paths)),
		halves: map[string][]int32{}, named: make([]bool, len(paths))}
	for i, path := range paths {
		name := norm.NFC.String(base(path))
		f.byName[name] = append(f.byName[name], int32(i))
		stem := spelling(name)
		f.stems[i] = stem
		if f.byStem[stem] = append(f.byStem[stem], int32(i)); len(f.byStem[stem]) > 1 || len(stem) < shortestSlip {
			continue
		}
		for _, half := range halvesOf(stem) {
			f.halves[half] = append(f.halves[half], int32(i))
		}
	}
	return f
}

func base(path string) string { return path[strings.LastIndexAny(path, `/\`)+1:] }

// shortestSlip is how long a name must be for one slip of the finger not to make it another name, in bytes.
const shortestSlip = 5

// mostAlike is how many files may share half a name for that half to be searched.
const mostAlike = 500

// spelling is a name without what is spelled in many ways: its extension, capitals, accents, hyphens and blanks; between two numbers
// a blank stays, as 1-1 is not 11.
func spelling(name string) string {
	if at := fileLike.FindStringIndex(name); at != nil {
		name = name[:at[0]]
	}
	var b strings.Builder
	apart, last := false, rune(0)
	for _, r := range norm.NFKD.String(name) {
		switch {
		case unicode.Is(unicode.Mn, r), unicode.Is(unicode.Cf, r), r == '\'':
			continue
		case !unicode.IsLetter(r) && !unicode.IsDigit(r):
			apart = true
			continue
		case apart && unicode.IsDigit(r) && unicode.IsDigit(last):
			b.WriteByte(' ')
		}
		b.WriteString(strings.ReplaceAll(string(unicode.ToLower(r)), "ß", "ss"))
		apart, last = false, r
	}
	return b.String()
}

// halvesOf are the halves of a text as keys. One slip leaves one of them as it is, and changes the length by one at most: who looks
// for a text with a slip finds it by its own halves at the lengths around.
func halvesOf(stem string) [2]string { return halvesAs(stem, len(stem)) }

func halvesAs(stem string, length int) [2]string {
	half := length / 2
	return [2]string{"<" + string(rune(length)) + stem[:min(half, len(stem))], ">" + string(rune(length)) + stem[max(0, len(stem)-(length-half)):]}
}

// Found is what a name in a table leads to.
type Found struct {
	Paths []string // the file; several where nobody knows which is meant; none where there is none
	Near  bool     // the name is spelled in another way
}

// Find looks for a name: as it is; else in another spelling; else one slip of the finger away, its numbers being the same.
func (f *Files) Find(name string) Found {
	name = norm.NFC.String(strings.ReplaceAll(strings.TrimSpace(name), `\`, "/"))
	if at := f.byName[base(name)]; len(at) > 0 {
		return f.found(f.inFolder(name, at), false)
	}
	stem := spelling(base(name))
	if stem == "" {
		return Found{}
	}
	if at := f.byStem[stem]; len(at) > 0 {
		return f.found(f.sameExtension(name, at), true)
	}
	if len(stem) < shortestSlip {
		return Found{}
	}
	var slips []int32
	seen := map[string]bool{}
	for length := max(2, len(stem)-1); length <= len(stem)+1; length++ {
		for _, half := range halvesAs(stem, length) {
			alike := f.halves[half]
			if len(alike) > mostAlike {
				continue // half a name that so many have says nothing
			}
			for _, i := range alike {
				other := f.stems[i]
				if !seen[other] && sameNumbers(stem, other) && pairing.OneSlip(stem, other) {
					slips = append(slips, f.byStem[other]...)
				}
				seen[other] = true
			}
		}
	}
	return f.found(slips, true)
}

func (f *Files) found(at []int32, near bool) Found {
	found := Found{Near: near}
	for _, i := range at {
		f.named[i] = f.named[i] || !near || len(at) == 1
		found.Paths = append(found.Paths, f.paths[i])
	}
	return found
}

// inFolder are those of some files of one name whose path ends as the name does; all where none or all do.
func (f *Files) inFolder(name string, at []int32) []int32 {
	if len(at) == 1 || !strings.Contains(name, "/") {
		return at
	}
	var in []int32
	for _, i := range at {
		if path := norm.NFC.String(strings.ReplaceAll(f.paths[i], `\`, "/")); path == name || strings.HasSuffix(path, "/"+name) {
			in = append(in, i)
		}
	}
	if len(in) == 0 {
		return at
	}
	return in
}

// sameExtension are those of some files of one spelling that have the extension of the name, where there are any.
func (f *Files) sameExtension(name string, at []int32) []int32 {
	extension := strings.ToLower(fileLike.FindString(name))
	var of []int32
	for _, i := range at {
		if extension != "" && strings.ToLower(fileLike.FindString(f.paths[i])) == extension {
			of = append(of, i)
		}
	}
	if len(of) == 0 {
		return at
	}
	return of
}

// Unnamed are the pictures that no cell names.
func (f *Files) Unnamed() (paths []string) {
	for i, named := range f.named {
		if !named && fileLike.MatchString(f.paths[i]) {
			paths = append(paths, f.paths[i])
		}
	}
	return paths
}

// sameNumbers reports whether two spellings have the same numbers: another number is another picture, no slip.
func sameNumbers(a, b string) bool {
	for {
		a, b = strings.TrimLeftFunc(a, isNoDigit), strings.TrimLeftFunc(b, isNoDigit)
		if a == "" || b == "" {
			return a == b
		}
		m, n := digits(a), digits(b)
		if strings.TrimLeft(a[:m], "0") != strings.TrimLeft(b[:n], "0") {
			return false
		}
		a, b = a[m:], b[n:]
	}
}

func isNoDigit(r rune) bool { return r < '0' || r > '9' }

func digits(s string) int {
	if n := strings.IndexFunc(s, isNoDigit); n >= 0 {
		return n
	}
	return len(s)
}
