package table

import "strings"

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
		if ok && tooLong(alt.Text) {
			c.say(alt, AltLong, nil, "most", longestAlt)
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
	if at, ok := cells[MainFlag]; ok && isYes(at.Text) {
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
		if isAddress(name) {
			if why := refused(name); why != "" {
				c.say(at, AddressRefused, nil, "address", name, "why", why)
			}
			continue
		}
		if c.files == nil {
			continue
		}
		found := c.files.Find(name)
		switch {
		case len(found.Paths) == 0:
			c.say(at, PictureMissing, nil, "file", name)
		case len(found.Paths) > 1:
			c.say(at, PictureAmbiguous, nil, "file", name, "files", strings.Join(found.Paths[:min(len(found.Paths), 5)], ", "))
		case found.Near:
			near = append(near, base(found.Paths[0]))
			repaired = replaceName(repaired, name, base(found.Paths[0]))
		default:
			c.share(at, found.Paths[0], key)
		}
	}
	if len(near) > 0 {
		c.say(at, PictureNear, &repaired, "file", strings.Join(near, ", "))
	}
}

// split reads the names in a cell. One picture a row is one name, unless it is several by any reading.
func (c *Checker) split(at cellAt) []string {
	if c.files != nil && at.field != Pictures && len(c.files.byName[base(at.Text)]) > 0 {
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
