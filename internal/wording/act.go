package wording

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"ambrosa/core/placement"
	"ambrosa/core/wording"
	texts "ambrosa/internal/subject/wording"
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
	taken   map[string]texts.Holder
}

// place is a picture on an owner.
type place struct{ owner, asset int64 }

// ready reads what is to be done, with its language as BCP 47 writes it. Errors: ErrAct, ErrTooLong, ErrCase, those of core/wording.
func (a *Act) ready() (*doing, error) {
	if a == nil {
		return &doing{}, nil
	}
	act := *a
	d := &doing{act: &act}
	switch a.Kind {
	case "rules":
		return d, nil
	case "clear":
	case "pattern":
		var err error
		if d.pattern, err = (Rule{Field: a.Field, Language: a.Language, Pattern: a.Pattern, Most: a.Most, Case: a.Case}).Read(); err != nil {
			return nil, err
		}
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
	if !slices.Contains(wording.Fields, a.Field) {
		return nil, fmt.Errorf("%q: %w", a.Field, wording.ErrField)
	}
	tag, err := wording.Language(a.Language)
	act.Language = tag.String()
	return d, err
}

// text is what a picture's text in a field and a language becomes, and whether that is another than it is.
func (d *doing) text(f *filler, o *owner, position int, asset int64, field wording.Field, lang string) (string, bool) {
	at := wording.Place{Asset: asset, Field: field, Language: lang}
	then, says := d.texts(f, o, position, asset)[at]
	stands := f.standing[o.ID][at]
	switch {
	case !says || then == nil && stands == nil:
		return "", false
	case then == nil:
		return "", true
	}
	return then.Text, stands == nil || *stands != *then
}

// texts are what a picture's texts become; nil of a place takes its text away.
func (d *doing) texts(f *filler, o *owner, position int, asset int64) wording.OwnerTexts {
	at := wording.Place{Asset: asset, Field: d.act.Field, Language: d.act.Language}
	stands := f.standing[o.ID][at]
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
		return wording.OwnerTexts{at: wording.Written(at, strings.ReplaceAll(stands.Text, d.act.Find, d.act.By))}
	case "same":
		return wording.OwnerTexts{at: wording.Written(at, d.act.Text)}
	case "clear":
		return wording.OwnerTexts{at: nil}
	case "texts":
		if text, is := d.written[place{o.ID, asset}]; is {
			return wording.OwnerTexts{at: wording.Written(at, text)}
		}
	}
	return nil
}

// byRules are the texts that the house's rules make.
func (d *doing) byRules(f *filler, o *owner, position int, asset int64) wording.OwnerTexts {
	standing := f.standing[o.ID]
	if d.act.Over {
		standing = nil
	}
	p := placement.Picture{Asset: asset}
	f.fill(o.ID, position, &p, standing)
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
