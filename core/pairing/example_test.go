package pairing_test

import (
	"fmt"

	"ambrosa/core/pairing"
)

func worldOfTwo() *pairing.Index {
	return pairing.NewIndex([]pairing.Owner{
		{ID: 1, Kind: pairing.Product, Keys: []pairing.Key{{Field: pairing.SKU, Text: "PK-100"}}},
		{ID: 2, Kind: pairing.Product, Keys: []pairing.Key{{Field: pairing.SKU, Text: "TR-200"}}},
	})
}

func ExamplePair() {
	files := []pairing.File{{Path: "pk100_2.jpg"}, {Path: "PK-100 and TR-200.jpg"}, {Path: "IMG_4711.jpg"}}
	for i, claim := range pairing.Pair(worldOfTwo(), files, nil) {
		fmt.Printf("%s: %s", files[i].Path, claim.Grade)
		if r := claim.Reading; r != nil {
			fmt.Printf(", owner %d", r.Owner)
			if r.Number != nil {
				fmt.Printf(", number %d", *r.Number)
			}
		}
		fmt.Println()
	}
	// Output:
	// pk100_2.jpg: sure, owner 1, number 2
	// PK-100 and TR-200.jpg: contested
	// IMG_4711.jpg: unclaimed
}

// A ladder that lets only whole names count gives up what stands within longer ones.
func ExampleStudy_Claims() {
	study := pairing.NewStudy(worldOfTwo(), []pairing.File{{Path: "Spring/meadow PK-100.jpg"}})
	whole := pairing.Ladder{{Field: pairing.SKU, Fit: pairing.Whole}}
	fmt.Println(study.Claims(pairing.Choice{})[0].Grade)
	fmt.Println(study.Claims(pairing.Choice{Ladder: whole})[0].Grade)
	// Output:
	// likely
	// unclaimed
}
