package change_test

import (
	"encoding/json"
	"fmt"

	"ambrosa/core/change"
)

// A change holds the fields that change, and nothing else.
func ExampleBetween() {
	before, after, _ := change.Between(json.RawMessage(`{"title":"Kite","sku":"K1"}`), json.RawMessage(`{"title":"Drift kite","sku":"K1","barcode":"95200017"}`))
	fmt.Println(string(before), string(after))
	// Output: {"barcode":null,"title":"Kite"} {"barcode":"95200017","title":"Drift kite"}
}

// Undo is the inverse, last first.
func ExampleInverse() {
	made := []change.Change{{Seq: 1, ID: 1, After: json.RawMessage(`{"sku":"K1"}`)}, {Seq: 2, ID: 2, Before: json.RawMessage(`{"sku":"K2"}`)}}
	for _, c := range change.Inverse(made) {
		fmt.Println(c.Seq, c.ID, string(c.Before), string(c.After))
	}
	// Output:
	// 1 2  {"sku":"K2"}
	// 2 1 {"sku":"K1"}
}
