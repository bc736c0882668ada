package pairing

import (
	"fmt"
	"testing"
)

// What codes in a photo say beside its name: alone they are sure; who the name says wins over a pack in the background, and contests a code that
// says another. Common practice, no source.
func TestInPhoto(t *testing.T) {
	index := NewIndex([]Owner{
		{ID: 1, Kind: Product, Keys: []Key{{SKU, "PK-140"}, {Barcode, "9521234500001"}}},
		{ID: 2, Kind: Variant, Parent: 1, Keys: []Key{{SKU, "PK-140-AMB"}, {Barcode, "9521234500018"}}},
		{ID: 3, Kind: Product, Keys: []Key{{SKU, "PK-150"}, {Barcode, "9521234500025"}}},
		{ID: 4, Kind: Product, Keys: []Key{{SKU, "PK-160"}, {Barcode, "9521234500032"}}},
		{ID: 5, Kind: Product, Keys: []Key{{SKU, "PK-170"}, {Barcode, "9521234500049"}}},
	})
	const product, variant, other, third, fourth, nobody = "9521234500001", "9521234500018", "9521234500025", "9521234500032", "9521234500049", "9521234500056"
	for _, c := range []struct {
		path  string
		codes []string
		want  string
	}{
		{"IMG_0412.jpg", []string{other}, "sure 3 by 9521234500025"},
		{"IMG_0412.jpg", []string{"0" + other, other}, "sure 3 by 09521234500025"},
		{"IMG_0412.jpg", []string{nobody}, "unclaimed"},
		{"IMG_0412.jpg", []string{other, third}, "contested 3 4: doubt_photo_several"},
		{"IMG_0412.jpg", []string{variant, other, third, fourth}, "unclaimed"}, // a poster
		{"PK-150_2.jpg", []string{other}, "sure 3 by 9521234500025"},
		{"PK-150_2.jpg", []string{nobody}, "sure 3"},
		{"PK-150_2.jpg", []string{third, other}, "sure 3 by 9521234500025"}, // a pack in the background
		{"PK-150_2.jpg", []string{third}, "contested 4 3: doubt_photo_differs"},
		{"PK-150_2.jpg", []string{variant, other, third, fourth}, "sure 3"},
		{"PK-140_2.jpg", []string{variant}, "sure 2 by 9521234500018"},
		{"PK-140-AMB.jpg", []string{product}, "sure 2 by 9521234500001"},
		{"PK-150 PK-160.jpg", []string{third}, "sure 4 by 9521234500032"},
	} {
		f := File{Path: c.path}
		for _, code := range c.codes {
			f.Said = append(f.Said, Statement{Field: Barcode, Text: code, By: code, Photo: true})
		}
		claim := NewStudy(index, []File{f}).Claims(Choice{})[0]
		got := string(claim.Grade)
		if r := claim.Reading; r != nil {
			got += fmt.Sprint(" ", r.Owner)
			if r.Photo != "" {
				got += " by " + r.Photo
			}
		} else if claim.Grade == Contested {
			for _, r := range claim.Candidates {
				got += fmt.Sprint(" ", r.Owner)
			}
			got += ": " + claim.Doubt.Code
		}
		if got != c.want {
			t.Errorf("%s with %v: %s, want %s", c.path, c.codes, got, c.want)
		}
	}
}
