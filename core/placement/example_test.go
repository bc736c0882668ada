package placement_test

import (
	"fmt"

	"ambrosa/core/placement"
)

func ExamplePlan() {
	standing := map[int64][]placement.Picture{1: {{Asset: 10}}}
	wishes := map[int64][]placement.Wish{1: {{Picture: placement.Picture{Asset: 20}}}, 2: {{Picture: placement.Picture{Asset: 30, Instead: 29}}}}
	for _, c := range placement.Plan([]int64{1, 2}, standing, wishes, placement.AddAfter) {
		fmt.Println(c.Seq, c.ID, string(c.Before), string(c.After))
	}
	fmt.Println(len(placement.Plan([]int64{1, 2}, standing, wishes, placement.OnlyWhereEmpty)))
	// Output:
	// 1 1 {"pictures":[{"asset":10}]} {"pictures":[{"asset":10},{"asset":20}]}
	// 2 2 {"pictures":[]} {"pictures":[{"asset":30,"instead":29}]}
	// 1
}

// One picture takes the place its name says; what stood there is gone.
func ExampleGone() {
	second := 2
	before := []placement.Picture{{Asset: 10}, {Asset: 11}}
	after := placement.Apply(before, []placement.Wish{{Picture: placement.Picture{Asset: 20}, Number: &second}}, placement.SamePlace)
	fmt.Println(string(placement.JSON(after)), string(placement.JSON(placement.Gone(before, after))))
	// Output: {"pictures":[{"asset":10},{"asset":20}]} {"pictures":[{"asset":11}]}
}
