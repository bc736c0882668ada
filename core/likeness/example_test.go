package likeness_test

import (
	"fmt"

	"ambrosa/core/likeness"
)

// A darker print of a picture is like it; the same upside down is not.
func ExampleDistance() {
	var picture, darker, turned [likeness.Width * likeness.Height]uint8
	for i := range picture {
		picture[i] = uint8(i * 37 % 200)
		darker[i] = picture[i] / 2
	}
	for i := range picture {
		turned[len(turned)-1-i] = picture[i]
	}
	hash := likeness.Hash(picture)
	fmt.Println(likeness.Distance(hash, likeness.Hash(darker)) <= likeness.Same)
	fmt.Println(likeness.Distance(hash, likeness.Hash(turned)) <= likeness.Same)
	// Output:
	// true
	// false
}
