package names_test

import (
	"fmt"
	"slices"

	"ambrosa/core/names"
)

func ExampleRead() {
	n := names.Read("Spring/PK-100_Front.JPG.jpg")
	fmt.Println(n.StemText(), n.Extension)
	for _, t := range n.Tokens {
		fmt.Println(t.Folded, t.Digits)
	}
	fmt.Println(names.Read("__MACOSX/._PK-100.jpg").Litter)
	// Output:
	// PK-100_Front .jpg.jpg
	// pk false
	// 100 true
	// front false
	// litter_folder
}

func ExampleLexicon_ReadTail() {
	const path = "back_03"
	tail := names.Trade.ReadTail(path, names.Tokens(path, 0))
	fmt.Println(tail.Number, tail.Role, len(tail.Rest))
	// Output:
	// 3 back 0
}

func ExampleNatural() {
	files := []string{"T-100_10.jpg", "T-100_2.jpg", "T-100_1.jpg"}
	slices.SortFunc(files, names.Natural)
	fmt.Println(files)
	// Output:
	// [T-100_1.jpg T-100_2.jpg T-100_10.jpg]
}
