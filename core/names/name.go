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
	Litter    string // code of what litter of an operating system or archiver this is; empty where it is none
	NoPicture string // what the extension says it is instead of a picture; empty where it may be one
}

// extensions are those that a picture's name may carry. Common practice, no source.
var extensions = map[string]bool{
	".jpg": true, ".jpeg": true, ".jpe": true, ".jfif": true, ".png": true, ".gif": true, ".webp": true,
	".avif": true, ".heic": true, ".heif": true, ".tif": true, ".tiff": true, ".bmp": true,
}

// others are the extensions that are certainly no picture's. Common practice, no source.
var others = map[string]string{
	".txt": "a text", ".md": "a text", ".rtf": "a text", ".doc": "a document", ".docx": "a document", ".odt": "a document",
	".pdf": "a document",
	".xls": "a spreadsheet", ".xlsx": "a spreadsheet", ".ods": "a spreadsheet", ".csv": "a table", ".tsv": "a table", ".json": "a data file",
	".xml": "a data file", ".html": "a web page", ".htm": "a web page", ".url": "a link", ".lnk": "a link", ".webloc": "a link",
	".ppt": "a presentation", ".pptx": "a presentation", ".eml": "a letter", ".msg": "a letter",
	".zip": "an archive", ".rar": "an archive", ".7z": "an archive", ".tar": "an archive", ".gz": "an archive",
	".mp4": "a film", ".mov": "a film", ".avi": "a film", ".mkv": "a film", ".webm": "a film", ".mp3": "a sound", ".wav": "a sound",
	".exe": "a program", ".dll": "a program", ".bat": "a program", ".js": "a program", ".css": "a style sheet",
	".ini": "settings", ".db": "a database", ".log": "a log", ".xmp": "a picture's side notes", ".aae": "a picture's side notes",
	".tmp": "an unfinished file", ".part": "an unfinished file", ".partial": "an unfinished file", ".filepart": "an unfinished file",
	".download": "an unfinished file", ".crdownload": "an unfinished file", ".opdownload": "an unfinished file", ".bak": "a backup",
	".jpg~":  "a backup",
	".jpeg~": "a backup", ".png~": "a backup", ".thm": "a camera's preview", ".icloud": "a file that is still in the cloud",
}

// Reader reads many names, one after the other, into the same memory: what it gives stands until it reads the next.
type Reader struct{ tokens []Token }

// Read reads a relative path: see the function Read.
func (r *Reader) Read(path string) Name {
	n := read(path, r.tokens[:0])
	r.tokens = n.Tokens
	return n
}

// Read reads a relative path. Both slashes separate folders. It never fails: any bytes give a Name whose
// spans lie inside the path.
func Read(path string) Name { return read(path, nil) }

func read(path string, space []Token) Name {
	n := Name{Path: path}
	n.Stem = Span{afterSlash(path, len(path)), len(path)}
	n.Litter = litter(path, n.Stem.Start)
	dot := 0
	for {
		dot = strings.LastIndexByte(path[n.Stem.Start:n.Stem.End], '.')
		if dot += n.Stem.Start; dot <= n.Stem.Start || !extensions[lower(path[dot:n.Stem.End])] {
			break
		}
		n.Stem.End = dot
	}
	n.Extension = lower(path[n.Stem.End:])
	if n.Extension == "" && dot > n.Stem.Start && len(path)-dot <= 12 {
		if what := others[lower(path[dot:])]; what != "" {
			n.NoPicture = what + ", not a picture"
		}
	}
	n.Tokens = AppendTokens(space, path[n.Stem.Start:n.Stem.End], n.Stem.Start)
	return n
}

// afterSlash is where the last part of path[:end] begins.
func afterSlash(path string, end int) int {
	for end > 0 && path[end-1] != '/' && path[end-1] != '\\' {
		end--
	}
	return end
}

// lower is strings.ToLower, at once where extensions are written as nearly all are.
func lower(extension string) string {
	switch extension {
	case "", ".jpg", ".jpeg", ".png", ".webp":
		return extension
	case ".JPG":
		return ".jpg"
	}
	return strings.ToLower(extension)
}

// FolderSpans gives where each folder of the path stands, the nearest to the file first.
func (n Name) FolderSpans(yield func(Span) bool) {
	for end := n.Stem.Start - 1; end > 0; {
		start := afterSlash(n.Path, end)
		if !yield(Span{start, end}) {
			return
		}
		end = start - 1
	}
}

// StemText is the stem as it was given.
func (n Name) StemText() string { return n.Path[n.Stem.Start:n.Stem.End] }

// litter names files that operating systems and desktop archivers leave beside pictures; base is where the file's own
// name begins. Common practice, no source.
func litter(path string, base int) string {
	for end := base - 1; end > 0; {
		start := afterSlash(path, end)
		folder := path[start:end]
		if folder != "" && (strings.IndexByte("_.@$", folder[0]) >= 0 && litterFolders[strings.ToLower(folder)] ||
			folder == "System Volume Information") {
			return "litter_folder"
		}
		end = start - 1
	}
	name := path[base:]
	if colon := strings.IndexByte(name, ':'); colon > 0 && isStream(name[colon+1:]) {
		return "litter_stream"
	}
	switch {
	case strings.HasPrefix(name, "._"):
		return "litter_shadow"
	case strings.HasPrefix(name, "~$"):
		return "litter_lock"
	case len(name) <= longestLitter && litterFiles[strings.ToLower(name)]:
		return "litter_settings"
	case strings.HasPrefix(name, "."):
		return "litter_hidden"
	}
	return ""
}

// isStream reports whether what stands behind a colon names a second stream of a file, as NTFS keeps where it came from
// ([MS-FSCC] section 2.1.5.3, from memory) and archivers write it out: picture.jpg:Zone.Identifier.
func isStream(name string) bool {
	name = strings.ToLower(strings.TrimSuffix(strings.ToLower(name), ":$data"))
	return strings.HasPrefix(name, "zone.identifier") || strings.HasPrefix(name, "com.apple.") || strings.HasPrefix(name, "afp_") ||
		name == "encryptable"
}

const longestLitter = len("ehthumbs.db")

var (
	litterFolders = words("__macosx .git .svn @eadir .thumbnails $recycle.bin .trashes .spotlight-v100 .appledouble @__thumb .fseventsd " +
		".temporaryitems")
	litterFiles = words(".ds_store thumbs.db ehthumbs.db desktop.ini .directory .picasa.ini")
)
