package gtin_test

import (
	"fmt"

	"ambrosa/core/gtin"
)

// The GTIN of the worked example in the GS1 General Specifications, from memory.
func ExampleParse() {
	fmt.Println(gtin.Parse("629 1041 50021 3"))
	_, err := gtin.Parse("6291041500214")
	fmt.Println(err)
	// Output:
	// 06291041500213 <nil>
	// the barcode's check digit is wrong: it ends in 4, 629104150021 wants 3
}

func ExampleFourteen() {
	long, ok := gtin.Fourteen("6291041500213")
	fmt.Println(long, ok)
	// Output:
	// 06291041500213 true
}
