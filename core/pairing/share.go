package pairing

import (
	"runtime"
	"sync"
)

// cores is how many work at once.
func cores() int { return min(runtime.GOMAXPROCS(0), 64) }

// share calls do for the places 0 to n - 1, each core its share, and waits for all.
func share(n int, do func(core, from, to int)) {
	workers := cores()
	var wg sync.WaitGroup
	for w := range workers {
		wg.Go(func() { do(w, w*n/workers, (w+1)*n/workers) })
	}
	wg.Wait()
}
