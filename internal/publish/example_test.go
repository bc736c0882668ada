package publish

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/core/channel"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

// Examples of shops' tables, made up: what list would be like each.
func TestReadExample(t *testing.T) {
	for name, c := range map[string]struct{ text, want string }{
		"shop.csv": {"\xef\xbb\xbfSKU;Image file;Is main;Alt text;Currency\r\nA-1;a.jpg;Y;x;EUR\r\nA-1;b.jpg;N;y;EUR\r\nA-2;c.jpg;Y;z;EUR\r\nA-2;d.jpg;N;z;EUR\r\nA-2;e.jpg;N;z;EUR\r\n",
			"shop.csv ; utf-8-bom crlf Y/N false: SKU=sku Image file=file Is main=main Alt text=alt Currency=text(EUR)"},
		"export.txt": {"Artikelnummer\tHauptbild\tWeitere Bilder\nA-1\thttps://shop.example/a.jpg\thttps://shop.example/b.jpg\n",
			"pictures.csv \t utf-8 lf / true: Artikelnummer=sku Hauptbild=main_address Weitere Bilder=other_addresses"},
		"../../x.csv": {"Price list\n\nsku,picture,season\nK-1,k.jpg,\n", "x.csv , utf-8 lf / false: sku=sku picture=file season=text()"},
	} {
		file := filepath.Join(t.TempDir(), "example")
		if err := os.WriteFile(file, []byte(c.text), 0o644); err != nil {
			t.Fatal(err)
		}
		l, err := ReadExample(file, name)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		got := fmt.Sprintf("%s %s %s %s %s/%s %v:", l.Name, l.Separator, l.Encoding, l.LineEnd, l.Yes, l.No, l.PerOwner)
		for _, column := range l.Columns {
			got += " " + column.Header + "=" + column.Field
			if column.Field == "text" {
				got += "(" + column.Text + ")"
			}
		}
		if got != c.want {
			t.Errorf("%s: got\n%s\nwant\n%s", name, got, c.want)
		}
		of := shop(0)
		of.List = &l
		if err := of.Check(); err != nil {
			t.Errorf("%s: the list can't be: %v", name, err)
		}
	}
	for name, text := range map[string]string{"empty.csv": "", "picture.csv": strings.Repeat("\xff\xd8\x01\x02JFIF\x10", 40)} {
		file := filepath.Join(t.TempDir(), "example")
		if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		if l, err := ReadExample(file, name); err == nil {
			t.Errorf("%s became %+v", name, l)
		}
	}
	var many strings.Builder
	for i := range channel.MostColumns + 20 {
		fmt.Fprintf(&many, "column %d,", i)
	}
	file := filepath.Join(t.TempDir(), "many.csv")
	if err := os.WriteFile(file, []byte(many.String()+"\n1,2,3\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	if l, err := ReadExample(file, "many.csv"); err != nil || len(l.Columns) != channel.MostColumns {
		t.Errorf("%d columns, %v", len(l.Columns), err)
	}
}

// A list is saved under a name whatever the sizes of its channel; one of that name is replaced, and one that can't be is refused.
func TestSavedLists(t *testing.T) {
	h := newHouse(t, 1)
	list := channel.List{Name: "a.csv", Columns: []channel.Column{{Field: "file", Header: "file", Size: "huge"}}}
	first, err := h.SaveList(ctx, h.person, " Shop ", list)
	if err != nil {
		t.Fatal(err)
	}
	list.Name = "b.xlsx"
	if again, err := h.SaveList(ctx, h.person, "Shop", list); err != nil || again != first {
		t.Errorf("saved again: %d, %v", again, err)
	}
	if _, err := h.SaveList(ctx, h.person, " ", list); !errors.Is(err, ErrListName) {
		t.Errorf("without a name: %v", err)
	}
	if _, err := h.SaveList(ctx, h.person, "Other", channel.List{Name: "a.csv"}); !errors.Is(err, channel.ErrChannel) {
		t.Errorf("without columns: %v", err)
	}
	saved, err := h.Store.ListPresets(ctx, query.ListPresetsParams{Most: 9})
	if err != nil || len(saved) != 1 || saved[0].Name != "Shop" || !strings.Contains(string(saved[0].Says), "b.xlsx") {
		t.Errorf("saved: %+v, %v", saved, err)
	}
	if err := h.RemoveList(ctx, first); err != nil {
		t.Error(err)
	}
	if err := h.RemoveList(ctx, first); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("removed twice: %v", err)
	}
}
