package wording_test

import (
	"fmt"

	"ambrosa/core/wording"
)

// A pattern is read once and filled for each picture; what is empty leaves nothing behind.
func ExamplePattern_Fill() {
	p, err := wording.Parse("{product.title}[ in {variant.colour}], {role|front view}", wording.Alt, "en")
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, record := range []wording.Record{{"product.title": "Drift Delta", "variant.colour": "amber", "role": "back view"}, {"product.title": "Hand reel"}} {
		text, _ := p.Fill(record)
		fmt.Println(text, wording.Check(wording.Said{Field: wording.Alt, Text: text}, nil))
	}
	// Output:
	// Drift Delta in amber, back view []
	// Hand reel, front view []
}
