package channel

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ambrosa/core/rendition"
	"ambrosa/core/rights"
	"ambrosa/core/table"
	"ambrosa/core/wording"
)

const today = "2026-11-26"

// shop is a channel of two sizes.
func shop() Channel {
	return Channel{Path: "{sku}/{sku}_{number:00}_{size}", Renditions: []Rendition{
		{Name: "large", Size: "1200", Fit: rendition.Inside, Format: rendition.JPEG}, {Name: "box", Size: "400x400", Fit: rendition.Pad, Format: rendition.WebP}},
		List: &List{Name: "pictures.csv", Columns: []Column{{Field: "sku", Header: "Item"}, {Field: "file", Header: "File"}, {Field: "main", Header: "Main"}, {Field: "alt", Header: "Alt"}}}}
}

// kite is an owner with so many pictures.
func kite(id int64, sku string, pictures int) Owner {
	o := Owner{ID: id, Kind: "product", SKU: sku, Title: "Kite " + sku}
	for i := range pictures {
		o.Pictures = append(o.Pictures, Picture{Asset: id*100 + int64(i), SHA: fmt.Sprintf("%064d", id*100+int64(i)), Name: "a/" + sku + ".jpg", Width: 2000, Height: 1000, Alt: "A kite",
			Record: wording.Record{"number": fmt.Sprint(i + 1), "label": o.Title}})
	}
	return o
}

func files(t *testing.T, c Channel, owners ...Owner) (all []File, same []string) {
	t.Helper()
	w, err := NewWanter(c, today)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range owners {
		all = append(all, w.Files(o, func(f File) { same = append(same, f.Path) })...)
	}
	return all, same
}

func TestFiles(t *testing.T) {
	set := func(change func(*Channel, *Owner)) (Channel, Owner) {
		c, o := shop(), kite(1, "PK-1", 2)
		change(&c, &o)
		return c, o
	}
	for name, test := range map[string]struct {
		change func(*Channel, *Owner)
		want   string // path, why it is held, what is said; line by line
	}{
		"as they are": {func(*Channel, *Owner) {}, `PK-1/PK-1_01_large.jpg
			PK-1/PK-1_01_box.webp||publish_padded
			PK-1/PK-1_02_large.jpg
			PK-1/PK-1_02_box.webp||publish_padded`},
		"not cleared, and so no main picture": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures[0].Rights = c.Renditions[:1], rights.Rights{May: rights.NotCleared}
		}, `PK-1/PK-1_01_large.jpg|rights_not_cleared
			PK-1/PK-1_02_large.jpg||publish_no_main`},
		"placed but never published": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures = c.Renditions[:1], o.Pictures[:1]
			o.Pictures[0].Rights = rights.Rights{May: rights.Internal}
		}, "PK-1/PK-1_01_large.jpg|rights_internal"},
		"nothing is said of it, and all must be cleared": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures, c.ClearedOnly = c.Renditions[:1], o.Pictures[:1], true
		}, "PK-1/PK-1_01_large.jpg|rights_unsaid"},
		"until yesterday": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures = c.Renditions[:1], o.Pictures[:1]
			o.Pictures[0].Rights = rights.Rights{May: rights.Cleared, Until: "2026-11-25"}
		}, "PK-1/PK-1_01_large.jpg|rights_ended"},
		"below the least": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures, c.Least = c.Renditions[:1], o.Pictures[:1], 2001
		}, "PK-1/PK-1_01_large.jpg|publish_small"},
		"never enlarged, and without alt text": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures, c.NeedsAlt = c.Renditions[:1], o.Pictures[:1], true
			o.Pictures[0].Width, o.Pictures[0].Height, o.Pictures[0].Alt = 900, 450, ""
		}, "PK-1/PK-1_01_large.jpg||publish_own_size publish_no_alt"},
		"fields make no folders, whatever they hold": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures, c.Path = c.Renditions[:1], o.Pictures[:1], "x/{label}"
			o.Pictures[0].Record["label"] = "../../etc/passwd\r\nX: y"
		}, "x/..-..-etc-passwd X_ y.jpg"},
		"by the file that came": {func(c *Channel, o *Owner) {
			c.Renditions, o.Pictures, c.Path = c.Renditions[:1], o.Pictures[:1], "{file}-{sha}"
		}, "PK-1-0000000000000000.jpg"},
	} {
		c, o := set(test.change)
		all, same := files(t, c, o)
		var got []string
		for _, f := range all {
			line := f.Path + "|" + f.Held.Code + "|"
			for i, s := range f.Says {
				line += strings.Repeat(" ", min(i, 1)) + s.Code
			}
			got = append(got, strings.TrimRight(line, "|"))
		}
		if want := strings.Fields(strings.ReplaceAll(test.want, " ", "~")); len(same) > 0 || strings.Join(got, "\n") != strings.ReplaceAll(strings.Join(clean(want), "\n"), "~", " ") {
			t.Errorf("%s: got\n%s\n%v", name, strings.Join(got, "\n"), same)
		}
	}
}

func clean(lines []string) (all []string) {
	for _, l := range lines {
		if l = strings.Trim(l, "~"); l != "" {
			all = append(all, l)
		}
	}
	return all
}

func TestPathsMeet(t *testing.T) {
	c := shop()
	c.Path, c.Renditions = "{sku}", c.Renditions[:1]
	a, b, again := kite(1, "PK-a", 1), kite(2, "PK-A", 1), kite(3, "PK-a", 1)
	all, same := files(t, c, a, b, again)
	if len(all) != 2 || all[1].Held.Code != "publish_other_case" || !slices.Equal(same, []string{"PK-a.jpg"}) {
		t.Errorf("a place that does not tell cases apart: %+v, %v", all, same)
	}
	c.DifferByCase = true
	if all, same = files(t, c, a, b, again); len(all) != 2 || all[1].Held.Code != "" || len(same) != 1 {
		t.Errorf("a place that tells cases apart: %+v, %v", all, same)
	}
}

// TestBecome has random channels change at random: making what became of each file leaves what is wanted, and then nothing is to do.
func TestBecome(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 16))
	counts := map[State]int{}
	for range 2000 {
		any := func(of ...string) string { return of[random.IntN(len(of))] }
		stands, wants, there := Stands{Path: any("", "a.jpg", "b.jpg"), Key: any("1", "2")}, File{Path: any("", "a.jpg", "b.jpg"), Key: any("1", "2")}, There(random.IntN(3))
		state := Become(stands, wants, there)
		counts[state]++
		after := stands
		switch state {
		case New, Changed:
			after = Stands{Path: wants.Path, Key: wants.Key}
		case Renamed:
			after.Path = wants.Path
		case Removed:
			after = Stands{}
		}
		if after.Path != wants.Path || wants.Path != "" && after.Key != wants.Key || Become(after, wants, AsSent) != Unchanged {
			t.Fatalf("%+v becomes %+v: %s", stands, wants, state)
		}
	}
	if len(counts) != len(States) {
		t.Errorf("not all were met: %v", counts)
	}
}

func TestKeys(t *testing.T) {
	base := Recipe{Form: 1, SHA: "a", Wish: rendition.Wish{Width: 10, Height: 10, Fit: rendition.Inside, Format: rendition.JPEG}}
	seen := map[string]bool{base.Key(): true}
	for _, change := range []func(*Recipe){func(r *Recipe) { r.Form++ }, func(r *Recipe) { r.SHA = "b" }, func(r *Recipe) { r.Wish.Width++ }, func(r *Recipe) { r.Wish.Fit = rendition.Pad },
		func(r *Recipe) { r.Wish.Format = rendition.AVIF }, func(r *Recipe) { r.Wish.Quality = 1 }, func(r *Recipe) { r.Wish.Background[2] = 1 }, func(r *Recipe) { r.From.Height = 1 }, func(r *Recipe) { r.Wish.Keep = rendition.KeepRights }} {
		r := base
		change(&r)
		if seen[r.Key()] {
			t.Errorf("%+v has the key of another", r)
		}
		seen[r.Key()] = true
	}
}

func TestChannelCheck(t *testing.T) {
	if err := shop().Check(); err != nil {
		t.Fatal(err)
	}
	for name, change := range map[string]func(*Channel){
		"no size":                  func(c *Channel) { c.Renditions = nil },
		"two of one name":          func(c *Channel) { c.Renditions[1].Name = "LARGE" },
		"names that are the same":  func(c *Channel) { c.Path = "{sku}" },
		"a pattern of nothing":     func(c *Channel) { c.Path = "" },
		"a bracket":                func(c *Channel) { c.Path = "{sku" },
		"a colour":                 func(c *Channel) { c.Renditions[0].Background = "red" },
		"a size":                   func(c *Channel) { c.Renditions[0].Size = "big" },
		"metadata":                 func(c *Channel) { c.Renditions[0].Keep = "some" },
		"a list that is no table":  func(c *Channel) { c.List.Name = "list.txt" },
		"a list in a folder":       func(c *Channel) { c.List.Name = "../list.csv" },
		"a list of no column":      func(c *Channel) { c.List.Columns = nil },
		"a field":                  func(c *Channel) { c.List.Columns[0].Field = "colour" },
		"a header with a line end": func(c *Channel) { c.List.Columns[0].Header = "a\r\nb" },
		"a size in the list":       func(c *Channel) { c.List.Columns[1].Size = "tiny" },
		"an encoding":              func(c *Channel) { c.List.Encoding = "ebcdic" },
	} {
		c := shop()
		change(&c)
		if c.Check() == nil {
			t.Errorf("%s was taken", name)
		}
	}
}

func TestLines(t *testing.T) {
	c, o := shop(), kite(1, "PK-1", 3)
	variant := o
	variant.Kind = "variant"
	rows := func(o Owner, from int) (all []Row) {
		for i := from; i <= 3; i++ {
			all = append(all, Row{Owner: o, Position: i - from + 1, Alt: fmt.Sprint("alt ", i), Paths: map[string]string{"large": fmt.Sprintf("%d.jpg", i), "box": fmt.Sprintf("%d.webp", i)}})
		}
		return all
	}
	one := func(l *List, rows []Row) string {
		var b strings.Builder
		for _, line := range l.Lines(c, rows) {
			b.WriteString(strings.Join(line, ";") + "\n")
		}
		return b.String()
	}
	if got := one(c.List, rows(o, 2)); got != "PK-1;2.jpg;1;alt 2\nPK-1;3.jpg;;alt 3\n" {
		t.Errorf("a row a picture, the first does not go:\n%s", got)
	}
	l := &List{PerOwner: true, Between: ", ", Yes: "Y", No: "N", NoVariantAlt: true, Columns: []Column{{Field: "sku"}, {Field: "main_file", Size: "box"}, {Field: "other_files"},
		{Field: "main"}, {Field: "alt"}, {Text: "EUR"}}}
	if got := one(l, rows(o, 1)); got != "PK-1;1.webp;2.jpg, 3.jpg;Y, N, N;alt 1, alt 2, alt 3;EUR\n" {
		t.Errorf("a row an owner:\n%s", got)
	}
	if got := one(l, rows(variant, 3)); got != "PK-1;3.webp;;Y;;EUR\n" {
		t.Errorf("a row a variant, whose alt text is unwanted:\n%s", got)
	}
}

// TestColumns reads examples of shops' tables, made up.
func TestColumns(t *testing.T) {
	row := func(cells ...string) (r table.Row) {
		for _, c := range cells {
			r.Cells = append(r.Cells, table.Cell{Text: c, Kind: table.Text})
		}
		return r
	}
	for name, test := range map[string]struct {
		rows []table.Row
		want string
	}{
		"in English": {[]table.Row{row("SKU", "Image file", "Is main", "Alt text", "Currency"), row("A-1", "a.jpg", "Y", "x", "EUR"), row("A-1", "b.jpg", "N", "y", "EUR"), row("A-1", "c.jpg", "N", "z", "EUR")},
			"sku file main alt text:EUR Y/N"},
		"in German, by address": {[]table.Row{row("Artikelnummer", "Bild URL", "Hauptbild ja nein"), row("A-1", "https://shop.example/a.jpg", "ja"), row("A-1", "https://shop.example/b.jpg", "nein")},
			"sku address main ja/nein"},
		"a header alone": {[]table.Row{row("Item no", "Main image", "Further images", "Season")}, "sku main_file other_files text /"},
	} {
		columns, yes, no := Columns(test.rows[0], test.rows[1:])
		var got []string
		for _, c := range columns {
			got = append(got, strings.TrimSuffix(c.Field+":"+c.Text, ":"))
		}
		if text := strings.Join(got, " ") + " " + yes + "/" + no; text != strings.TrimSpace(test.want) && text != test.want+"/" {
			t.Errorf("%s: got %q, want %q", name, text, test.want)
		}
	}
}
