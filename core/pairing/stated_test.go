package pairing

import (
	"fmt"
	"testing"
)

// What is said of a file beside its name is sure where it names one owner; where it names two, or the name stands for another, a person
// decides.
func TestStated(t *testing.T) {
	owners := []Owner{
		{ID: 1, Kind: Product, Keys: []Key{{SKU, "PK-140"}, {Title, "Drift Delta 140"}}},
		{ID: 2, Kind: Variant, Parent: 1, Keys: []Key{{SKU, "PK-140-AMB"}, {Barcode, "9521234500018"}}},
		{ID: 3, Kind: Product, Keys: []Key{{SKU, "PK/150"}, {Code, "C7"}}},
		{ID: 4, Kind: Product, Keys: []Key{{SKU, "PK-160"}, {Code, "C7"}, {Theirs, "FR-2100"}}},
	}
	index := NewIndex(owners)
	for _, c := range []struct {
		path  string
		field Field
		text  string
		want  string
	}{
		{"4711.jpg", SKU, "PK-140-AMB", "sure 2"},
		{"4711.jpg", SKU, "pk 140 amb", "sure 2"},
		{"4711.jpg", SKU, "PK/150", "sure 3"},
		{"4711.jpg", Barcode, "09521234500018", "sure 2"},
		{"4711.jpg", Code, "C7", "contested"},
		{"4711.jpg", SKU, "PK-14", "unclaimed"},
		{"4711.jpg", SKU, "", "unclaimed"},
		{"4711.jpg", Title, "PK-140", "unclaimed"},
		{"PK-160_2.jpg", SKU, "PK-160", "sure 4"},
		{"PK-160_2.jpg", SKU, "PK-140-AMB", "contested"},
		{"PK-160_2.jpg", SKU, "unknown", "sure 4"},
		{"FR-2100_1.jpg", "", "", "sure 4"},
	} {
		claim := NewStudy(index, []File{{Path: c.path, Said: []Statement{{Field: c.field, Text: c.text, By: "the list"}, {Field: Place, Text: "7"}}}}).Claims(Choice{})[0]
		got := string(claim.Grade)
		if claim.Reading != nil {
			got += fmt.Sprint(" ", claim.Reading.Owner)
			if c.text != "" && claim.Reading.Said == "" && c.text != "unknown" {
				t.Errorf("%s: nobody says it", c.path)
			}
		}
		if got != c.want {
			t.Errorf("%s, %s %q: %s, want %s", c.path, c.field, c.text, got, c.want)
		}
	}
}

// What a lookup says is worth a look, also where the name says the same; where the name is another's for sure, that is so.
func TestWeakStatement(t *testing.T) {
	index := NewIndex([]Owner{{ID: 1, Keys: []Key{{SKU, "PK-140"}, {Barcode, "9520123456788"}}}, {ID: 2, Keys: []Key{{SKU, "PK-160"}}}})
	for path, want := range map[string]string{"photo.jpg": "likely 1", "9520123456788.jpg": "likely 1", "PK-160.jpg": "likely 2"} {
		claim := NewStudy(index, []File{{Path: path, Said: []Statement{{Field: Barcode, Text: "9520123456788", By: "the service", Weak: true}}}}).Claims(Choice{})[0]
		if got := fmt.Sprint(claim.Grade, " ", claim.Reading.Owner); got != want || claim.Doubt.Code == "" {
			t.Errorf("%s: %s, want %s", path, got, want)
		}
	}
}

func TestCodeOf(t *testing.T) {
	for path, same := range map[string]string{"FR-2100_1.jpg": "x/fr 2100.png", "A-100 front.jpg": "A-100", "4711-2.jpg": "4711"} {
		if got, want := CodeOf(path), CodeOf(same); got == "" || got != want {
			t.Errorf("%s: %q, %q", path, got, want)
		}
	}
	if got := CodeOf("readme.txt"); got != "" {
		t.Errorf("a word is no code: %q", got)
	}
}
