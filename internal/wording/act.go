package wording

import (
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"ambrosa/core/placement"
	"ambrosa/core/wording"
)

var (
	// ErrAct is returned for something to do that there is not.
	ErrAct = errors.New("there is no such way to change texts; there are rules, pattern, replace, same, texts and clear")
	// ErrTooLong is returned for a text that is too long.
	ErrTooLong = fmt.Errorf("the text has more than %d characters", wording.MostText)
)

// Act is what is done with texts of one field in one language; with rules in all that the rules know.
type Act struct {
	Kind     string // rules, pattern, replace, same, texts, clear
	Field    wording.Field
	Language string
	Pattern  string        // of pattern
	Most     int           // of pattern: characters at most
	Case     string        // of pattern
	Find, By string        // of replace
	Text     string        // of same
	Texts    []WrittenText // of texts
	Over     bool          // whether rules and patterns replace what is by hand, and published file names
}

// WrittenText is a text that a person wrote.
type WrittenText struct {
	Owner, Asset int64
	Text         string
}

// doing is an act, ready to be done.
type doing struct {
	act     *Act
	pattern *wording.Pattern
	written map[place]string
	unknown bool // the pattern named a field that there is not
	taken   map[string]holder
}

// place is a picture on an owner.
type place struct{ owner, asset int64 }

// ready reads what is to be done. Errors: ErrAct, ErrTooLong, ErrCase, those of core/wording.
func (a *Act) ready() (*doing, error) {
	d := &doing{act: a}
	if a == nil {
		return d, nil
	}
	var err error
	switch a.Kind {
	case "rules", "clear":
	case "pattern":
		d.pattern, err = Rule{Field: a.Field, Language: a.Language, Pattern: a.Pattern, Most: a.Most, Case: a.Case}.Read()
		return d, err
	case "replace":
		if a.Find == "" {
			return nil, fmt.Errorf("%w: nothing is looked for", ErrAct)
		}
	case "same":
		if utf8.RuneCountInString(a.Text) > wording.MostText {
			return nil, ErrTooLong
		}
	case "texts":
		d.written = make(map[place]string, len(a.Texts))
		for _, t := range a.Texts {
			if utf8.RuneCountInString(t.Text) > wording.MostText {
				return nil, ErrTooLong
			}
			d.written[place{t.Owner, t.Asset}] = t.Text
		}
	default:
		return nil, fmt.Errorf("%q: %w", a.Kind, ErrAct)
	}
	if a.Kind != "rules" {
		_, err = wording.Parse("x", a.Field, a.Language)
	}
	return d, err
}

// text is what a picture's text in a field and a language becomes, and whether that is another than it is.
func (d *doing) text(f *filler, o *owner, position int, asset int64, field wording.Field, lang string) (string, bool) {
	after := d.texts(f, o, position, asset)
	then := after[wording.Place{Asset: asset, Field: field, Language: lang}]
	stands := f.standing[o.ID][wording.Place{Asset: asset, Field: field, Language: lang}]
	switch {
	case then == nil && (stands == nil || !has(after, asset, field, lang)):
		return "", false
	case then == nil:
		return "", true
	}
	return then.Text, stands == nil || *stands != *then
}

func has(after wording.OwnerTexts, asset int64, field wording.Field, lang string) bool {
	_, is := after[wording.Place{Asset: asset, Field: field, Language: lang}]
	return is
}

// texts are what a picture's texts become; nil of a place takes its text away.
func (d *doing) texts(f *filler, o *owner, position int, asset int64) wording.OwnerTexts {
	at := wording.Place{Asset: asset, Field: d.act.Field, Language: d.act.Language}
	stands := f.standing[o.ID][at]
	by := func(text string) wording.OwnerTexts {
		if text = strings.TrimSpace(text); at.Field == wording.FileName {
			tag, _ := wording.Language(at.Language) // it was read when the act was
			text = wording.Slug(text, tag, wording.MostText)
		}
		if text == "" {
			return wording.OwnerTexts{at: nil}
		}
		return wording.OwnerTexts{at: {Text: text, Hand: true}}
	}
	switch d.act.Kind {
	case "rules":
		return d.byRules(f, o, position, asset)
	case "pattern":
		if stands != nil && !d.act.Over && (stands.Hand || at.Field == wording.FileName) {
			return nil
		}
		f.describe(o, position, asset)
		f.say(o, asset, at.Language)
		text, unknown := d.pattern.Fill(o.record)
		d.unknown = d.unknown || unknown
		if text == "" {
			return nil
		}
		return wording.OwnerTexts{at: {Text: text}}
	case "replace":
		if stands == nil || !strings.Contains(stands.Text, d.act.Find) {
			return nil
		}
		return by(clip(strings.ReplaceAll(stands.Text, d.act.Find, d.act.By)))
	case "same":
		return by(d.act.Text)
	case "clear":
		return wording.OwnerTexts{at: nil}
	case "texts":
		if text, is := d.written[place{o.ID, asset}]; is {
			return by(text)
		}
	}
	return nil
}

// clip cuts a text to as many characters as one may have.
func clip(text string) string {
	if runes := []rune(text); len(runes) > wording.MostText {
		return string(runes[:wording.MostText])
	}
	return text
}

// byRules are the texts that the house's rules make.
func (d *doing) byRules(f *filler, o *owner, position int, asset int64) wording.OwnerTexts {
	standing := f.standing[o.ID]
	if d.act.Over {
		f.standing[o.ID] = nil
	}
	p := placement.Picture{Asset: asset}
	names := len(f.names)
	f.fill(o.ID, position, &p)
	f.standing[o.ID], f.names = standing, f.names[:names] // who plans numbers those that are left
	after := wording.OwnerTexts{}
	for field, of := range p.Texts {
		for lang, text := range of {
			after[wording.Place{Asset: asset, Field: field, Language: lang}] = &text
		}
	}
	return after
}

// say writes down the texts that a picture has in a language, for patterns that name them.
func (f *filler) say(o *owner, asset int64, lang string) {
	for _, field := range wording.Fields {
		if text := f.standing[o.ID][wording.Place{Asset: asset, Field: field, Language: lang}]; text != nil {
			o.record[string(field)] = text.Text
		}
	}
}
