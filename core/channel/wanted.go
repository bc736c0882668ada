package channel

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/names"
	"ambrosa/core/rendition"
	"ambrosa/core/rights"
	"ambrosa/core/wording"
)

// Slot is a file's place in a channel, whatever it is called: one size of one picture on one owner. The list's has no owner.
type Slot struct {
	Owner, Asset int64
	Size         string // the rendition's name
}

// Recipe is all that a rendition's bytes depend on.
type Recipe struct {
	Form int            `json:"form"` // raised where the same wish makes other bytes than before
	SHA  string         `json:"sha"`  // of the picture, in hex
	Wish rendition.Wish `json:"wish"`
	From rendition.Size `json:"from"` // of the picture that it is scaled down from: what all sizes of the channel come of
}

// form is that of recipes now.
const form = 1

// Key names what a recipe makes: the SHA-256 of the recipe, in hex.
func (r Recipe) Key() string {
	b, err := json.Marshal(r)
	if err != nil {
		panic(err) // numbers and texts can be written
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// Picture is a picture on an owner.
type Picture struct {
	Asset         int64
	SHA           string
	Name          string // of the file that brought it
	Width, Height int
	Alt           string
	Record        wording.Record
	Rights        rights.Rights
}

// Owner is an owner with its pictures in their order.
type Owner struct {
	ID                         int64
	Kind                       string // product, variant, category
	SKU, Barcode, Code, Parent string // Parent is the SKU of a variant's product
	Title                      string
	Pictures                   []Picture
}

// File is a file that a channel shall have.
type File struct {
	Slot
	Path          string
	Key           string // of what it holds
	Recipe        Recipe // of a picture
	Width, Height int
	// Held says why it does not go unless somebody lets it; without a code it goes.
	Held message.Message
	// Says is what there is to know beside: it is smaller than wished, it has no alt text.
	Says []message.Message
}

// Wanter says what a channel shall have, owner by owner. It notes every path that it gave: memory grows with the files, 16 bytes and a
// little each.
type Wanter struct {
	Channel
	made
	today string
	paths map[[16]byte]byte // of what was given: the path in small letters, and a letter of the path as it is
}

// NewWanter begins; today is a day as 2026-12-31. ErrChannel.
func NewWanter(c Channel, today string) (*Wanter, error) {
	m, err := c.ready()
	if err != nil {
		return nil, err
	}
	return &Wanter{Channel: c, made: m, today: today, paths: map[[16]byte]byte{}}, nil
}

// Files are those of an owner. A path that was given before is not given again: same is called with the file that is left out.
func (w *Wanter) Files(o Owner, same func(File)) (files []File) {
	mainHeld := len(o.Pictures) > 0 && w.holds(o.Pictures[0]).Code != ""
	for i, p := range o.Pictures {
		held := w.holds(p)
		var says []message.Message
		if i > 0 && mainHeld && held.Code == "" {
			says = append(says, message.New("publish_no_main"))
		}
		if w.NeedsAlt && p.Alt == "" {
			says = append(says, message.New("publish_no_alt"))
		}
		frames := make([]rendition.Frame, len(w.wishes))
		for n, wish := range w.wishes {
			frames[n] = wish.Frame(p.Width, p.Height)
		}
		from := rendition.From(rendition.Size{}, frames)
		for n, r := range w.Renditions {
			f := w.file(o, p, r, Recipe{Form: form, SHA: p.SHA, Wish: w.wishes[n], From: from})
			f.Held, f.Says = held, append(f.Says, says...)
			switch w.note(f.Path) {
			case theSame:
				same(f)
				continue
			case otherCase:
				if f.Held.Code == "" {
					f.Held = message.New("publish_other_case")
				}
			}
			files = append(files, f)
		}
	}
	return files
}

// holds says why a picture does not go.
func (w *Wanter) holds(p Picture) message.Message {
	if m, holds := Publishes(p.Rights, w.today, w.ClearedOnly); holds {
		return m
	}
	if longer := max(p.Width, p.Height); longer < w.Least {
		return message.New("publish_small", "pixels", longer, "least", w.Least)
	}
	return message.Message{}
}

// Publishes says why a picture of such rights may not be published; false where it may.
func Publishes(r rights.Rights, today string, clearedOnly bool) (message.Message, bool) {
	if m, holds := r.Holds(today); holds {
		return m, true
	}
	switch {
	case r.May == rights.Internal:
		return message.New("rights_internal", "holder", r.Holder), true
	case r.May == rights.Unsaid && clearedOnly:
		return message.New("rights_unsaid"), true
	}
	return message.Message{}, false
}

func (w *Wanter) file(o Owner, p Picture, r Rendition, of Recipe) File {
	f := File{Slot: Slot{o.ID, p.Asset, r.Name}, Recipe: of, Key: of.Key()}
	wish := of.Wish
	frame := wish.Frame(p.Width, p.Height)
	f.Width, f.Height = frame.Width, frame.Height
	if frame.Smaller {
		f.Says = append(f.Says, message.New("publish_own_size", "width", frame.Width, "height", frame.Height))
	}
	if wish.Fit == rendition.Pad && (frame.ScaledWidth < frame.Width || frame.ScaledHeight < frame.Height) {
		f.Says = append(f.Says, message.New("publish_padded"))
	}
	f.Path = w.pathOf(o, p, r.Name) + Extension(wish.Format)
	return f
}

// pathOf is a file's path without its extension: what comes of the fields never makes a folder, only the pattern does.
func (w *Wanter) pathOf(o Owner, p Picture, size string) string {
	record := make(wording.Record, len(p.Record)+5)
	for name, text := range p.Record {
		record[name] = flat(text)
	}
	record["sku"], record["size"] = flat(o.SKU), flat(size)
	if record["sku"] == "" {
		record["sku"] = flat(o.Code)
	}
	base := p.Name[strings.LastIndexAny(p.Name, `/\`)+1:]
	read := names.Read(base)
	record["file"] = flat(read.StemText())
	record["sha"] = p.SHA[:min(len(p.SHA), 16)]
	text, _ := w.path.Fill(record)
	return names.Portable(text)
}

// flat is a field's text without what parts folders.
func flat(text string) string {
	if !strings.ContainsAny(text, `/\`) {
		return text
	}
	return parting.Replace(text)
}

var parting = strings.NewReplacer("/", "-", `\`, "-")

// noted is how a path meets those that were given.
type noted uint8

const (
	fresh noted = iota
	theSame
	otherCase
)

func (w *Wanter) note(path string) noted {
	folded, own := sha256.Sum256([]byte(strings.ToLower(path))), sha256.Sum256([]byte(path))
	key := [16]byte(folded[:16])
	// As it is written tells one of 256 ways from another; a place that tells cases apart keeps each way under a key of its own.
	if w.DifferByCase {
		key = [16]byte(own[:16])
	}
	before, is := w.paths[key]
	switch {
	case !is:
		w.paths[key] = own[0]
		return fresh
	case before == own[0]:
		return theSame
	}
	return otherCase
}
