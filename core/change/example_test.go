package change_test

import (
	"fmt"

	"ambrosa/core/change"
)

func ExamplePlan() {
	standing := map[int64][]change.Picture{1: {{Asset: 10}}}
	wishes := map[int64][]change.Wish{1: {{Picture: change.Picture{Asset: 20}}}, 2: {{Picture: change.Picture{Asset: 30}}}}
	for _, c := range change.Plan([]int64{1, 2}, standing, wishes, change.AddAfter) {
		fmt.Println(c.Owner, c.Before, c.After)
	}
	fmt.Println(len(change.Plan([]int64{1, 2}, standing, wishes, change.OnlyWhereEmpty)))
	// Output:
	// 1 [{10 }] [{10 } {20 }]
	// 2 [] [{30 }]
	// 1
}

// Undo is the inverse, last first.
func ExampleInverse() {
	made := []change.Change{{Owner: 1, After: []change.Picture{{Asset: 10}}}, {Owner: 2, Before: []change.Picture{{Asset: 20}}}}
	for _, c := range change.Inverse(made) {
		fmt.Println(c.Owner, c.Before, c.After)
	}
	// Output:
	// 2 [] [{20 }]
	// 1 [{10 }] []
}
