package main

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"

	"ambrosa/core/colour"
	"ambrosa/core/wording"

	"github.com/spf13/cobra"
)

const wordingHelp = `Make a text of each record by a pattern, and tell what is wrong with it. No database is needed.

FILE.json holds the pattern:

  {
    "pattern":  "{product.title}[ in {variant.colour}], {role|front view}",
    "field":    "alt",
    "language": "en",
    "limit":    125,
    "case":     "sentence"
  }

  field     alt (if left out), title, caption, description or file_name
  language  by BCP 47; en if left out
  limit     characters at most; 2000 if left out
  case      upper, lower, title or sentence; as it is if left out

A pattern is a text with fields:

  {product.title}               a field of the record
  {variant.colour|plain}        what stands behind | where it is empty; it may hold fields
                                again: {variant.title|{product.title}}
  {product.title:upper:max 40}  upper, lower, title or sentence case; at most 40 characters
  {number:00}                   a number with at least two digits
  [ in {variant.colour}]        left out where a field in it is empty
  \{ \} \[ \] \| \: \\          these characters themselves

Standard input holds one record a line, fields by name or objects within each other:

  {"product": {"title": "Drift Delta", "sku": "PK-DLT"}, "variant": {"colour": "amber"}, "role": ""}
  {"product.title": "Drift Delta", "variant.colour": "teal", "picture.colours": ["#1b6b72"]}
  {"product.title": "Drift Delta", "product.title.de": "Drift-Delta", "file": "DSC_0412.jpg"}

A field of another language stands behind its name (product.title.de). Besides what a pattern
names these are used:

  owner            whose picture it is; else product.sku, variant.sku, category.code, product.title
  file             what the picture's file is called
  picture.colours  what it shows, as #rrggbb or {"hex": "#rrggbb", "share": 0.6}
  variant.colour   its own colour word

Standard output holds one line a record, in their order:

  {"text": "Drift Delta in amber, front view", "problems": []}

Problems are results: the exit code is 0. All records are held until the last is read.

  alt_missing     the alt text is empty
  alt_long        it has more than 125 characters
  says_image_of   it begins with "image of"
  same_on_owner   another record of the owner has the same text
  only_key        it is nothing but a SKU, barcode or code
  is_file_name    it is the name of a file
  colour_differs  it names a colour that the picture isn't
  field_unknown   the pattern names a field that the record has not, and nothing to put in its place`

func wordingCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "wording FILE.json < records.jsonl",
		Short: "Make texts of pictures from a pattern and records, and tell what is wrong with them; no database is needed",
		Long:  wordingHelp,
		Args:  cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			pattern, err := readPattern(args[0])
			if err != nil {
				return err
			}
			return wordAll(pattern, os.Stdin, os.Stdout)
		},
	}
}

// readPattern reads the file of a pattern.
func readPattern(path string) (*wording.Pattern, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errUnreadable, err)
	}
	of := struct {
		Pattern  string        `json:"pattern"`
		Field    wording.Field `json:"field"`
		Language string        `json:"language"`
		Limit    int           `json:"limit"`
		Case     string        `json:"case"`
	}{Field: wording.Alt}
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields() // a misspelt name would change nothing, and nobody would see why
	if err := d.Decode(&of); err != nil {
		return nil, fmt.Errorf("%w: %s: %w", errUnreadable, path, err)
	}
	p, err := wording.Parse(of.Pattern, of.Field, of.Language)
	switch {
	case err != nil:
		return nil, usage("%s: %v", path, err)
	case !wording.IsCase(of.Case):
		return nil, usage("%s: there is no case %q; there are upper, lower, title, sentence", path, of.Case)
	case of.Limit < 0:
		return nil, usage("%s: the limit is below 0", path)
	}
	if _, err := wording.InOrder(map[wording.Field]*wording.Pattern{of.Field: p}); err != nil {
		return nil, usage("%s: %v", path, err)
	}
	p.Limit, p.Case = of.Limit, of.Case
	return p, nil
}

// worded is a record's text, and what is wrong with it.
type worded struct {
	Text     string            `json:"text"`
	Problems []wording.Problem `json:"problems"`
}

// wordAll makes the texts of all records. They are held, as the same text may come again at the end.
func wordAll(pattern *wording.Pattern, from io.Reader, to io.Writer) error {
	in := bufio.NewReaderSize(from, 64<<10)
	all, failed := []worded(nil), 0
	type place struct{ owner, text string }
	seen, owners, given := map[place]int{}, []string(nil), map[string]bool{}
	for n := 1; ; n++ {
		line, err := in.ReadBytes('\n')
		if len(strings.TrimSpace(string(line))) > 0 {
			record, said, owner, wrong := readRecord(line)
			if wrong != nil {
				failed++
				fmt.Fprintf(os.Stderr, "ambrosa: line %d: %v\n", n, wrong)
			} else {
				w := word(pattern, record, said)
				if pattern.Field == wording.FileName && w.Text != "" {
					w.Text = wording.Free(w.Text, func(name string) bool { return given[name] })
					given[w.Text] = true
				}
				all, owners = append(all, w), append(owners, owner)
				seen[place{owner, wording.Same(w.Text)}]++
			}
		}
		if err != nil && err != io.EOF {
			return fmt.Errorf("%w: standard input: %w", errUnreadable, err)
		}
		if err == io.EOF {
			break
		}
	}
	out := bufio.NewWriter(to)
	lines := newLines(out)
	for i, w := range all {
		if w.Text != "" && owners[i] != "" && seen[place{owners[i], wording.Same(w.Text)}] > 1 {
			w.Problems = wording.Add(w.Problems, wording.SameOnOwner)
		}
		if err := lines.Encode(w); err != nil {
			return err
		}
	}
	switch {
	case failed > 0 && len(all) == 0:
		return errors.Join(errUnreadable, fmt.Errorf("no line of standard input is a record"))
	case failed > 0:
		return errors.Join(out.Flush(), errSome)
	}
	return out.Flush()
}

func word(pattern *wording.Pattern, record wording.Record, said wording.Said) worded {
	text, unknown := pattern.Fill(record)
	said.Field, said.Text = pattern.Field, text
	w := worded{text, append([]wording.Problem{}, wording.Check(said, nil)...)}
	if unknown {
		w.Problems = append(w.Problems, wording.FieldUnknown)
	}
	return w
}

// keyFields are the fields of a record that say which owner it is, and nothing of what is to be seen.
var keyFields = []string{"product.sku", "product.barcode", "product.code", "variant.sku", "variant.barcode", "variant.code", "category.code", "sku",
	"barcode"}

// readRecord reads a record, what is known of its picture, and whose it is.
func readRecord(line []byte) (record wording.Record, said wording.Said, owner string, err error) {
	var fields map[string]any
	d := json.NewDecoder(strings.NewReader(string(line)))
	d.UseNumber()
	if err := d.Decode(&fields); err != nil {
		return nil, said, "", fmt.Errorf("it is no JSON object: %w", err)
	}
	record = wording.Record{}
	picture, _ := fields["picture"].(map[string]any)
	for _, colours := range []any{fields["picture.colours"], fields["picture.colors"], picture["colours"], picture["colors"]} {
		if list, is := colours.([]any); is {
			said.Shows = append(said.Shows, swatches(list)...)
		}
	}
	flatten(record, "", fields)
	said.File = cmp.Or(record["file"], record["picture.file"])
	said.Colour = cmp.Or(record["variant.colour"], record["variant.color"])
	for _, name := range keyFields {
		if record[name] != "" {
			said.Keys = append(said.Keys, record[name])
		}
	}
	owner = cmp.Or(record["owner"], record["product.sku"], record["variant.sku"], record["sku"], record["category.code"], record["product.title"])
	return record, said, owner, nil
}

// flatten puts the fields of objects within each other under their names, joined by points.
func flatten(record wording.Record, under string, fields map[string]any) {
	for name, v := range fields {
		name = under + wording.Name(name)
		switch v := v.(type) {
		case map[string]any:
			flatten(record, name+".", v)
		case string:
			record[name] = v
		case nil:
			record[name] = ""
		case []any:
			var texts []string
			for _, one := range v {
				if text, is := one.(string); is {
					texts = append(texts, text)
				}
			}
			record[name] = strings.Join(texts, ", ")
		default:
			record[name] = fmt.Sprint(v)
		}
	}
}

// swatches reads colours: "#rrggbb", or {"hex": "#rrggbb", "share": 0.6}. What can't be read is left out.
func swatches(list []any) (all []colour.Swatch) {
	for _, one := range list {
		share := 1 / float64(len(list))
		text, _ := one.(string)
		if of, is := one.(map[string]any); is {
			text, _ = of["hex"].(string)
			if n, is := of["share"].(json.Number); is {
				share, _ = n.Float64()
			}
		}
		if c, ok := colour.ReadHex(text); ok {
			all = append(all, colour.Swatch{Lab: c.Lab(), Share: share})
		}
	}
	slices.SortStableFunc(all, func(a, b colour.Swatch) int { return cmp.Compare(b.Share, a.Share) })
	return all
}
