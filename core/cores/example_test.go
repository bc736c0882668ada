package cores_test

import (
	"fmt"

	"ambrosa/core/cores"
)

// Each core has a stretch of its own, so that what it writes there needs no lock.
func ExampleShare() {
	squares := make([]int, 1000)
	cores.Share(len(squares), func(_, from, to int) {
		for i := from; i < to; i++ {
			squares[i] = i * i
		}
	})
	fmt.Println(squares[0], squares[31], squares[999])
	// Output:
	// 0 961 998001
}
