// Package cores shares work among the machine's cores.
package cores

import (
	"runtime"
	"sync"
)

// Count is how many work at once.
func Count() int { return min(runtime.GOMAXPROCS(0), 64) }

// Share calls do for the places 0 to n - 1, each core its share, and waits for all. core is 0 to Count - 1.
func Share(n int, do func(core, from, to int)) {
	count := Count()
	var wg sync.WaitGroup
	for c := range count {
		wg.Go(func() { do(c, c*n/count, (c+1)*n/count) })
	}
	wg.Wait()
}
