package names

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// mostPart is how many bytes a part of a portable path has: file systems take 255.
const mostPart = 200

// reserved are names that Windows keeps for devices, whatever their extension ("Naming Files, Paths, and Namespaces" in Microsoft's
// documentation, from memory).
var reserved = words("con prn aux nul com1 com2 com3 com4 com5 com6 com7 com8 com9 lpt1 lpt2 lpt3 lpt4 lpt5 lpt6 lpt7 lpt8 lpt9")

// Portable is a relative path that any file system takes and that leads nowhere else: parts by slashes, without those that are empty
// or dots, and with a low line for what some system refuses. A path of nothing is "file".
func Portable(path string) string {
	var parts []string
	for part := range strings.FieldsFuncSeq(path, func(r rune) bool { return r == '/' || r == '\\' }) {
		if part = portablePart(part); part != "" {
			parts = append(parts, part)
		}
	}
	if len(parts) == 0 {
		return "file"
	}
	return strings.Join(parts, "/")
}

func portablePart(part string) string {
	part = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || unicode.IsSpace(r) && r != ' ' || strings.ContainsRune(`<>:"|?*`, r) || r == utf8.RuneError || unicode.Is(unicode.Cf, r) {
			return '_'
		}
		return r
	}, strings.ToValidUTF8(part, "_"))
	part = strings.TrimRight(strings.TrimLeft(part, " "), ". ")
	if stem, _, _ := strings.Cut(part, "."); reserved[strings.ToLower(strings.TrimRight(stem, " "))] {
		part = "_" + part
	}
	if len(part) <= mostPart {
		return part
	}
	dot := strings.LastIndexByte(part, '.')
	if dot < 0 || len(part)-dot > 20 {
		dot = len(part)
	}
	end := mostPart - (len(part) - dot)
	for end > 0 && !utf8.RuneStart(part[end]) {
		end--
	}
	return strings.TrimRight(part[:end], ". ") + part[dot:]
}

// Distinct makes names that are given one after the other distinct, whatever the case, as file systems may not tell it: the second
// "a.jpg" is "a (2).jpg".
type Distinct struct{ seen map[string]bool }

// Name is the name, or it with a number where it was given before.
func (d *Distinct) Name(name string) string {
	if d.seen == nil {
		d.seen = map[string]bool{}
	}
	base := name[strings.LastIndexByte(name, '/')+1:]
	dot := strings.LastIndexByte(base, '.')
	if dot <= 0 {
		dot = len(base)
	}
	cut := len(name) - len(base) + dot
	for n := 2; d.seen[strings.ToLower(name)]; n++ {
		name = name[:cut] + " (" + strconv.Itoa(n) + ")" + base[dot:]
	}
	d.seen[strings.ToLower(name)] = true
	return name
}
