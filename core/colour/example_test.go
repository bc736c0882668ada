package colour_test

import (
	"fmt"

	"ambrosa/core/colour"
)

func ExampleNamed() {
	rgb, ok := colour.Named("navy")
	fmt.Println(rgb, ok)
	_, ok = colour.Named("parka")
	fmt.Println(ok)
	// Output:
	// {0 0 128} true
	// false
}

// Three quarters of the picture are one colour, the rest another.
func ExamplePalette() {
	const width = 40
	pixels := make([]colour.RGB, width*width)
	for i := range pixels {
		pixels[i] = colour.RGB{R: 200}
		if i%width < width/4 {
			pixels[i] = colour.RGB{B: 160}
		}
	}
	for _, s := range colour.Palette(pixels, width) {
		fmt.Printf("%s %.2f\n", colour.Nearest(s.Lab), s.Share)
	}
	// Output:
	// brown 0.75
	// navy 0.25
}
