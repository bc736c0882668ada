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
	NoPicture string // code of what the extension says it is instead of a picture; empty where it may be one
}

// extensions are those that a picture's name may carry. Common practice, no source.
var extensions = map[string]bool{
	".jpg": true, ".jpeg": true, ".jpe": true, ".jfif": true, ".png": true, ".gif": true, ".webp": true,
	".avif": true, ".heic": true, ".heif": true, ".tif": true, ".tiff": true, ".bmp": true,
}

// IsPicture reports whether a picture's name may end in an extension, as Name has it.
func IsPicture(extension string) bool { return extensions[extension] }

// others are the extensions that are certainly no picture's. Common practice, no source.
var others = map[string]string{
	".txt": "no_picture_text", ".md": "no_picture_text", ".rtf": "no_picture_text", ".doc": "no_picture_document", ".docx": "no_picture_document", ".odt": "no_picture_document",
	".pdf": "no_picture_document",
	".xls": "no_picture_spreadsheet", ".xlsx": "no_picture_spreadsheet", ".ods": "no_picture_spreadsheet", ".csv": "no_picture_table", ".tsv": "no_picture_table", ".json": "no_picture_data",
	".xml": "no_picture_data", ".html": "no_picture_web_page", ".htm": "no_picture_web_page", ".url": "no_picture_link", ".lnk": "no_picture_link", ".webloc": "no_picture_link",
	".ppt": "no_picture_presentation", ".pptx": "no_picture_presentation", ".eml": "no_picture_mail", ".msg": "no_picture_mail",
	".zip": "no_picture_archive", ".rar": "no_picture_archive", ".7z": "no_picture_archive", ".tar": "no_picture_archive", ".gz": "no_picture_archive",
	".mp4": "no_picture_film", ".mov": "no_picture_film", ".avi": "no_picture_film", ".mkv": "no_picture_film", ".webm": "no_picture_film", ".mp3": "no_picture_sound", ".wav": "no_picture_sound",
	".exe": "no_picture_program", ".dll": "no_picture_program", ".bat": "no_picture_program", ".js": "no_picture_program", ".css": "no_picture_style_sheet",
	".ini": "no_picture_settings", ".db": "no_picture_database", ".log": "no_picture_log", ".xmp": "no_picture_sidecar", ".aae": "no_picture_sidecar",
	".tmp": "no_picture_unfinished", ".part": "no_picture_unfinished", ".partial": "no_picture_unfinished", ".filepart": "no_picture_unfinished",
	".download": "no_picture_unfinished", ".crdownload": "no_picture_unfinished", ".opdownload": "no_picture_unfinished", ".bak": "no_picture_backup",
	".jpg~":  "no_picture_backup",
	".jpeg~": "no_picture_backup", ".png~": "no_picture_backup", ".thm": "no_picture_preview", ".icloud": "no_picture_cloud",
}

// Reader reads many names, one after the other, into the same memory: what it returns stays valid until it reads the next.
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
		n.NoPicture = others[lower(path[dot:])]
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

// FolderSpans returns where each folder of the path stands, the nearest to the file first.
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
