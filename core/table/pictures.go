package table

import (
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ambrosa/core/message"
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
				alike = alike && (fileLike.MatchString(part) || IsAddress(part))
			}
		}
		if alike && len(parts) > 0 && (len(parts) > 1 || separator != " ") {
			return parts
		}
	}
	return []string{cell}
}

// File is a picture that a table may name.
type File struct {
	Path     string
	Asset    int64            // the picture's number; 0 where it has none
	SHA      string           // the beginning of its SHA-256 in hex, ReferenceDigits long; empty where nobody refers by it
	Attached bool             // it belongs to the table: it comes before all others
	Else     bool             // it is here for others too: nobody misses it in the table
	Address  string           // where it was fetched from for the table, or the cell that it lay in; empty for other files
	Failed   *message.Message // why nothing came from the address
}

// Choice says which picture is meant where one that belongs to the table has the name of another that is here.
type Choice string

const (
	NotChosen   Choice = ""         // the attached one, and it is told
	TakeThis    Choice = "attached" // the attached one
	TakeHere    Choice = "here"     // the one that is here
	TakeInPlace Choice = "replace"  // the attached one, also wherever the one that is here stands
)

// Named is a name in a row; row 0 stands for all rows.
type Named struct {
	Row  int
	Name string
}

// Pick is an asset that was chosen, and whether it also goes wherever the others of its name stand.
type Pick struct {
	Asset      int64
	Everywhere bool
}

// Files are the pictures that a table may name, by their paths. Folders don't matter, unless a name in the table has some and they
// tell two files apart.
type Files struct {
	Choice Choice // where nothing else is chosen
	Chosen map[Named]Pick
	files  []File
	stems  []string
	byName map[string][]int32 // by the name as it is, NFC
	byStem map[string][]int32 // by what is left of the name without spelling
	halves map[string][]int32 // by the length of that, and its first or second half
	come   map[string]int32   // by address
	bySHA  map[string]int32   // by the beginning of the SHA-256
	named  []bool             // whether the table names them
}

// NewFiles prepares files by their paths. Cost: linear.
func NewFiles(paths []string) *Files {
	files := make([]File, len(paths))
	for i, path := range paths {
		files[i].Path = path
	}
	return FilesOf(files)
}

// FilesOf prepares files. Of those with one address the first counts. Cost: linear.
func FilesOf(files []File) *Files {
	f := &Files{files: files, stems: make([]string, len(files)), byName: make(map[string][]int32, len(files)), byStem: make(map[string][]int32, len(files)),
		halves: map[string][]int32{}, come: map[string]int32{}, bySHA: map[string]int32{}, named: make([]bool, len(files))}
	for i, file := range files {
		if _, twice := f.bySHA[file.SHA]; !twice && file.SHA != "" {
			f.bySHA[file.SHA] = int32(i)
		}
		if file.Address != "" {
			if _, twice := f.come[file.Address]; !twice {
				f.come[file.Address] = int32(i)
			}
			f.named[i] = true
			continue // a table names it by its address alone
		}
		f.named[i] = file.Else
		name := norm.NFC.String(base(file.Path))
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

// swappedInside is a text with the two letters in the other order where its halves meet.
func swappedInside(stem string) string {
	b := []byte(stem)
	half := len(b) / 2
	if b[half-1] < utf8.RuneSelf && b[half] < utf8.RuneSelf {
		b[half-1], b[half] = b[half], b[half-1]
	}
	return string(b)
}

// Found is what a name in a table leads to.
type Found struct {
	Files []File // the file; several where nobody knows which is meant; none where there is none
	Near  bool   // the name is spelled in another way
	Also  []File // of that name too, but they do not belong to the table
	// Everywhere is whether the file also goes wherever those stand.
	Everywhere bool
	Told       bool // somebody chose among them
}

// Come is what came from an address; ok is false where nobody fetched it yet.
func (f *Files) Come(address string) (file File, ok bool) {
	i, ok := f.come[address]
	if ok {
		file = f.files[i]
	}
	return file, ok
}

// Find looks for a name of a row: as it is; else in another spelling; else one slip of the finger away, its numbers being the same.
func (f *Files) Find(row int, name string) Found {
	name = norm.NFC.String(strings.ReplaceAll(strings.TrimSpace(name), `\`, "/"))
	if at := f.byName[base(name)]; len(at) > 0 {
		return f.choose(row, base(name), f.found(f.inFolder(name, at), false))
	}
	if of := reference.FindStringSubmatch(name); of != nil {
		if i, ok := f.bySHA[of[1]]; ok {
			return f.found([]int32{i}, false)
		}
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
	// Two letters in the other order, just where the halves meet, are in neither half.
	if swapped := swappedInside(stem); swapped != stem && sameNumbers(stem, swapped) {
		slips, seen[swapped] = append(slips, f.byStem[swapped]...), true
	}
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
		found.Files = append(found.Files, f.files[i])
	}
	return found
}

// choose decides among several files of one name: as somebody chose, else the one that belongs to the table.
func (f *Files) choose(row int, name string, found Found) Found {
	if len(found.Files) < 2 {
		return found
	}
	for _, of := range []Named{{row, name}, {0, name}} {
		pick, chosen := f.Chosen[of]
		if at := slices.IndexFunc(found.Files, func(file File) bool { return file.Asset == pick.Asset }); chosen && at >= 0 {
			file := found.Files[at]
			return Found{Files: []File{file}, Also: slices.Delete(found.Files, at, at+1), Told: true, Everywhere: pick.Everywhere}
		}
	}
	var attached, here []File
	for _, file := range found.Files {
		if file.Attached {
			attached = append(attached, file)
		} else {
			here = append(here, file)
		}
	}
	switch {
	case len(attached) == 0 || len(here) == 0:
		return found
	case f.Choice == TakeHere:
		return Found{Files: here, Told: true}
	}
	return Found{Files: attached, Also: here, Told: f.Choice != NotChosen, Everywhere: f.Choice == TakeInPlace}
}

// inFolder are those of some files of one name whose path ends as the name does; all where none or all do.
func (f *Files) inFolder(name string, at []int32) []int32 {
	if len(at) == 1 || !strings.Contains(name, "/") {
		return at
	}
	var in []int32
	for _, i := range at {
		if path := norm.NFC.String(strings.ReplaceAll(f.files[i].Path, `\`, "/")); path == name || strings.HasSuffix(path, "/"+name) {
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
		if extension != "" && strings.ToLower(fileLike.FindString(f.files[i].Path)) == extension {
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
		if !named && fileLike.MatchString(f.files[i].Path) {
			paths = append(paths, f.files[i].Path)
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
