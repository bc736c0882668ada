package likeness

import (
	"image"
	"image/color"
	"math/rand/v2"
	"testing"

	"github.com/corona10/goimagehash"
)

// Checked against github.com/corona10/goimagehash on pictures of the size that is hashed.
func TestHash(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 200 {
		var grey [Width * Height]uint8
		img := image.NewGray(image.Rect(0, 0, Width, Height))
		for i := range grey {
			grey[i] = uint8(r.IntN(80) * 3) // levels that differ by less are noise here
			img.SetGray(i%Width, i/Width, color.Gray{Y: grey[i]})
		}
		want, err := goimagehash.DifferenceHash(img)
		if err != nil {
			t.Fatal(err)
		}
		if got := Hash(grey); got != want.GetHash() {
			t.Fatalf("%016x, the reference says %016x", got, want.GetHash())
		}
	}
	if Distance(0b1011, 0b0001) != 2 {
		t.Error("two bits differ")
	}
}
