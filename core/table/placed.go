package table

import (
	"strings"
	"unicode/utf8"

	"ambrosa/core/message"
	"ambrosa/core/wording"
)

// readPictures checks what a row says of pictures.
func (c *Checker) readPictures(r Row, cells map[Field]cellAt, key string) {
	any, listed := false, false
	for _, f := range []Field{Main, Pictures, Picture} {
		at, ok := cells[f]
		if !ok {
			continue
		}
		any, listed = true, listed || f == Pictures
		c.readNames(at, key)
	}
	for column, cell := range r.Cells {
		if cell.Picture != "" {
			any = true
			c.readLying(cellAt{r.Number, column, c.fields[column], cell})
		}
	}
	_, hasMain := cells[Main]
	if listed && !hasMain && c.fields.Of(Main) >= 0 {
		c.add(cellAt{row: r.Number, column: c.fields.Of(Main)}, MainMissing, nil)
	}
	if c.fields.Of(MainFlag) >= 0 && any && key != "" {
		c.readFlag(r, cells, key)
	}
	if column := c.fields.Of(Alt); column >= 0 {
		alt, ok := cells[Alt]
		if !ok && any {
			c.add(cellAt{row: r.Number, column: column}, AltMissing, nil)
		}
		if ok && wording.IsNoAlternative(alt.Text, "") {
			c.tell(alt, AltMissing, message.New("table_alt_no_words", "value", alt.Text))
		}
		if ok && utf8.RuneCountInString(alt.Text) > wording.MostAlt {
			c.say(alt, AltLong, nil, "most", wording.MostAlt)
		}
	}
}

// readFlag counts the main pictures of an owner.
func (c *Checker) readFlag(r Row, cells map[Field]cellAt, key string) {
	o := c.owners[key]
	if o == nil {
		o = &ownersRows{row: r.Number}
		c.owners[key] = o
	}
	if at, ok := cells[MainFlag]; ok && IsYes(at.Text) {
		if o.mains++; o.mains > 1 {
			c.add(at, MainMany, nil)
		}
	}
}

// readNames looks for the files and addresses that a cell names. All that are spelled in another way are repaired together, as a
// repair is the new text of the cell.
func (c *Checker) readNames(at cellAt, key string) {
	names := c.split(at)
	repaired, near := at.Text, []string(nil)
	for _, name := range names {
		if IsAddress(name) {
			c.readAddress(at, name)
			continue
		}
		if c.files == nil {
			continue
		}
		found := c.files.Find(at.row, name)
		switch {
		case len(found.Files) == 0:
			c.say(at, PictureMissing, nil, "file", name)
		case len(found.Files) > 1:
			c.say(at, PictureAmbiguous, nil, "file", name, "files", pathsOf(found.Files))
		case found.Near:
			near = append(near, base(found.Files[0].Path))
			repaired = replaceName(repaired, name, base(found.Files[0].Path))
		case len(found.Also) > 0 && !found.Told:
			c.tell(at, PictureAmbiguous, message.New("table_picture_here_too", "file", name, "files", pathsOf(found.Also)))
		default:
			c.share(at, found.Files[0].Path, key)
		}
	}
	if len(near) > 0 {
		c.say(at, PictureNear, &repaired, "file", strings.Join(near, ", "))
	}
}

// readAddress checks an address: whether it may be fetched, and what came from it. What failed does not stop the row: its other
// pictures go on.
func (c *Checker) readAddress(at cellAt, address string) {
	if why := refused(address); why != "" {
		c.say(at, AddressRefused, nil, "address", address, "why", why)
		return
	}
	if c.files == nil {
		return
	}
	switch file, asked := c.files.Come(address); {
	case !asked:
		c.waiting[address] = true
	case file.Failed != nil:
		c.waiting[address] = true
		c.tell(at, PictureMissing, *file.Failed)
	}
}

// readLying checks a picture that lies in a cell.
func (c *Checker) readLying(at cellAt) {
	if c.files == nil {
		return
	}
	switch file, asked := c.files.Come(at.Place()); {
	case !asked:
		c.waiting[at.Place()] = true
	case file.Failed != nil:
		c.tell(at, PictureMissing, *file.Failed)
	}
}

// Waiting is how many pictures at addresses and in cells are not here yet.
func (c *Checker) Waiting() int { return len(c.waiting) }

// mostPaths is how many files of one name are told.
const mostPaths = 5

func pathsOf(files []File) string {
	var paths []string
	for _, file := range files[:min(len(files), mostPaths)] {
		paths = append(paths, file.Path)
	}
	return strings.Join(paths, ", ")
}

// split reads the names in a cell. One picture a row is one name, unless it is several by any reading.
func (c *Checker) split(at cellAt) []string {
	if c.files != nil && at.field != Pictures && !IsAddress(at.Text) && len(c.files.byName[base(at.Text)]) > 0 {
		return []string{at.Text}
	}
	return Split(at.Text)
}

// replaceName puts another name for one of those in a cell.
func replaceName(cell, name, by string) string {
	at := strings.Index(cell, name)
	if at < 0 {
		return cell
	}
	return cell[:at] + by + cell[at+len(name):]
}

// share notes who shows a file, and says so where another owner shows it too.
func (c *Checker) share(at cellAt, path, key string) {
	if key == "" {
		return
	}
	first, shown := c.shown[path]
	if !shown {
		c.shown[path] = key
	} else if first != key {
		c.say(at, PictureShared, nil, "file", path, "row", c.keys[first])
	}
}
