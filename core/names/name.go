// Package names reads what a file name says: stem, extension, tokens, number, role and marks.
// It compares after Unicode compatibility, case and separator folding and always keeps where in the given
// bytes a thing was read.
package names

import "strings"

// Name is what a relative path says. Every span is in bytes of Path.
type Name struct {
	Path      string
	Stem      Span
	Extension string // lower case, with its dot, doubled ones taken whole (".jpg.jpg"); empty where there is none
	Tokens    []Token
	Litter    string // why this is litter of an operating system or archiver; empty where it is not
}

// extensions are those that a picture's name may carry. Common practice, no source.
var extensions = map[string]bool{
	".jpg": true, ".jpeg": true, ".jpe": true, ".jfif": true, ".png": true, ".gif": true, ".webp": true,
	".avif": true, ".heic": true, ".heif": true, ".tif": true, ".tiff": true, ".bmp": true,
}

// Read reads a relative path. Both slashes separate folders. It never fails: any bytes give a Name whose
// spans lie inside the path.
func Read(path string) Name {
	n := Name{Path: path, Litter: litter(path)}
	n.Stem.Start = strings.LastIndexAny(path, `/\`) + 1
	n.Stem.End = len(path)
	for {
		dot := strings.LastIndexByte(path[n.Stem.Start:n.Stem.End], '.')
		if dot <= 0 {
			break
		}
		dot += n.Stem.Start
		if !extensions[strings.ToLower(path[dot:n.Stem.End])] {
			break
		}
		n.Stem.End = dot
	}
	n.Extension = strings.ToLower(path[n.Stem.End:])
	n.Tokens = Tokens(path[n.Stem.Start:n.Stem.End], n.Stem.Start)
	return n
}

// StemText is the stem as it was given.
func (n Name) StemText() string { return n.Path[n.Stem.Start:n.Stem.End] }

// litter names files that operating systems and desktop archivers leave beside pictures. Common practice,
// no source.
func litter(path string) string {
	lower := strings.ToLower(strings.ReplaceAll(path, `\`, "/"))
	parts := strings.Split(lower, "/")
	for _, folder := range parts[:len(parts)-1] {
		switch folder {
		case "__macosx", ".git", ".svn", "@eadir", ".thumbnails", "$recycle.bin", ".trashes", ".spotlight-v100":
			return "kept by a system in its folder " + folder
		}
	}
	switch base := parts[len(parts)-1]; {
	case strings.HasPrefix(base, "._"):
		return "a desktop's shadow file (._)"
	case base == ".ds_store", base == "thumbs.db", base == "ehthumbs.db", base == "desktop.ini", base == ".directory":
		return "a desktop's folder settings"
	case strings.HasPrefix(base, "~$"):
		return "an office program's lock file"
	case strings.HasPrefix(base, "."):
		return "a hidden file"
	}
	return ""
}
