package page

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/andybalholm/cascadia"
)

// ErrGuide is returned for a guide that can't be: a selector that can't be read, an address that is none.
var ErrGuide = errors.New("the guide can't be used so")

// Guide says how the pages of one host are read. All but the start may be empty: then Ambrosa finds it by itself.
type Guide struct {
	Form     int      `json:"form" minimum:"1" maximum:"1" doc:"The form of this file: 1."`
	Start    []string `json:"start" minItems:"1" maxItems:"100" maxLength:"4000" doc:"Addresses of listings, or of items where items has no selector."`
	Next     Next     `json:"next,omitzero" doc:"How the next page of a listing is found."`
	Items    Items    `json:"items,omitzero" doc:"What leads from a listing to its items."`
	Title    Field    `json:"title,omitzero" doc:"The title on an item's page."`
	SKU      Field    `json:"sku,omitzero" doc:"The SKU on an item's page."`
	Barcode  Field    `json:"barcode,omitzero" doc:"The barcode on an item's page."`
	Pictures Pictures `json:"pictures,omitzero" doc:"The pictures on an item's page."`
	Not      Not      `json:"not,omitzero" doc:"Which pictures are left out."`
	Larger   []Rule   `json:"larger,omitempty" maxItems:"20" doc:"Rules that lead from the addresses of small pictures to those of large ones; the first that leads to a picture holds."`
	Shown    bool     `json:"shown,omitempty" doc:"Read items' pages as a browser shows them, once their scripts have run."`
	Limits   Limits   `json:"limits,omitzero" doc:"Where a walk ends."`
}

// Next says how the next page of a listing is found: by a link, or by a number in the address. Neither for one page alone.
type Next struct {
	Selector string `json:"selector,omitempty" maxLength:"1000" doc:"CSS selector of the link."`
	Number   string `json:"number,omitempty" maxLength:"4000" doc:"An address with {page} where the number stands; the start is page From."`
	From     int    `json:"from,omitempty" minimum:"0" maximum:"1000000" doc:"The number of the first page that is asked for by number; 2 where it is 0."`
	Last     int    `json:"last,omitempty" minimum:"0" maximum:"1000000" doc:"The last number; 0 for until nothing new comes."`
}

// Items says what leads to the items of a listing.
type Items struct {
	Selector string `json:"selector,omitempty" maxLength:"1000" doc:"CSS selector of the links, or of what holds one link each."`
}

// Field says where a text stands.
type Field struct {
	Selector  string `json:"selector,omitempty" maxLength:"1000" doc:"CSS selector; the first element counts."`
	Attribute string `json:"attribute,omitempty" maxLength:"100" doc:"Of the element; its text where this is empty."`
	Pattern   string `json:"pattern,omitempty" maxLength:"1000" doc:"A regular expression (RE2); its first group is the text, or all that it finds."`
}

// Pictures says where the pictures stand.
type Pictures struct {
	Selector  string `json:"selector,omitempty" maxLength:"1000" doc:"CSS selector of the pictures, or of what holds them."`
	Attribute string `json:"attribute,omitempty" maxLength:"100" doc:"An attribute that holds the address of the large picture."`
}

// Not says which pictures are left out.
type Not struct {
	Least    int     `json:"least,omitempty" minimum:"0" maximum:"100000" doc:"Least pixels of the shorter side."`
	Widest   float64 `json:"widest,omitempty" minimum:"0" maximum:"1000" doc:"How many times longer one side may be than the other; 0 for 4 without a selector of pictures, else any."`
	Places   []int   `json:"places,omitempty" maxItems:"50" doc:"Of those that are left: 1 is the first, -1 the last."`
	Videos   bool    `json:"videos,omitempty" doc:"Take stills of videos, too."`
	Selector string  `json:"selector,omitempty" maxLength:"1000" doc:"CSS selector of pictures, or of what holds them, that are left out."`
	Alt      string  `json:"alt,omitempty" maxLength:"1000" doc:"A part of the alternative text."`
	Address  string  `json:"address,omitempty" maxLength:"1000" doc:"A part of the address."`
}

// Limits say where a walk ends; 0 for the usual.
type Limits struct {
	Pages int      `json:"pages,omitempty" minimum:"0" maximum:"10000" doc:"Pages of the listing; 0 for 200."`
	Items int      `json:"items,omitempty" minimum:"0" maximum:"100000" doc:"Items; 0 for 5000."`
	Pause *float64 `json:"pause,omitempty" minimum:"0" maximum:"600" doc:"Seconds between two requests to the host; half a second where it is left out."`
}

// The usual limits of a walk.
const (
	UsualPages = 200
	UsualItems = 5000
	UsualPause = 0.5
)

// Check returns ErrGuide with what is wrong, nil where nothing is.
func (g Guide) Check() error {
	if g.Form != 1 {
		return fmt.Errorf("%w: its form is 1", ErrGuide)
	}
	if len(g.Start) == 0 {
		return fmt.Errorf("%w: it needs an address to start at", ErrGuide)
	}
	for _, start := range append(append([]string{}, g.Start...), strings.ReplaceAll(g.Next.Number, "{page}", "2")) {
		if start != "" && !IsWebAddress(strings.TrimSpace(start)) {
			return fmt.Errorf("%w: %q is no address of a web page; it begins with http:// or https:// and has no name or password in it", ErrGuide, start)
		}
	}
	if g.Next.Number != "" && !strings.Contains(g.Next.Number, "{page}") {
		return fmt.Errorf("%w: the address of the next page needs {page} where its number stands", ErrGuide)
	}
	for what, selector := range map[string]string{"next page": g.Next.Selector, "items": g.Items.Selector, "title": g.Title.Selector, "SKU": g.SKU.Selector, "barcode": g.Barcode.Selector,
		"pictures": g.Pictures.Selector, "left out": g.Not.Selector} {
		if selector == "" {
			continue
		}
		if _, err := cascadia.ParseGroup(selector); err != nil {
			return fmt.Errorf("%w: the selector of %s can't be read: %s", ErrGuide, what, err)
		}
	}
	for _, field := range []Field{g.Title, g.SKU, g.Barcode} {
		if _, err := regexp.Compile(field.Pattern); err != nil {
			return fmt.Errorf("%w: the pattern %q can't be read: %s", ErrGuide, field.Pattern, err)
		}
	}
	for _, r := range g.Larger {
		if err := r.check(); err != nil {
			return err
		}
	}
	return nil
}

// check returns ErrGuide for a rule that nobody inferred.
func (r Rule) check() error {
	for _, s := range r.Steps {
		known := false
		for _, p := range parts {
			known = known || p == s.In
		}
		if !known || len(s.From)+len(s.By)+len(s.Before)+len(s.Behind) > maxAddress {
			return fmt.Errorf("%w: a rule changes scheme, host, path, name, extension or query, not %q", ErrGuide, s.In)
		}
	}
	return nil
}

// Rest is how long a walk waits between two pages of the host.
func (l Limits) Rest() time.Duration {
	seconds := UsualPause
	if l.Pause != nil {
		seconds = max(0, *l.Pause)
	}
	return time.Duration(seconds * float64(time.Second))
}

// ReadGuide reads a guide from JSON. ErrGuide where it is none, or has a field that nobody knows.
func ReadGuide(b []byte) (g Guide, err error) {
	in := json.NewDecoder(bytes.NewReader(b))
	in.DisallowUnknownFields()
	if err := in.Decode(&g); err != nil {
		return g, fmt.Errorf("%w: %w", ErrGuide, err)
	}
	if in.More() {
		return g, fmt.Errorf("%w: something stands behind it", ErrGuide)
	}
	return g, g.Check()
}
