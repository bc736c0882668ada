package browser

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

// weigh ends a page whose browser takes more memory than it may. Every process below this one that runs the browser's program counts.
func (b *Browser) weigh(ctx context.Context, folder string, stop context.CancelCauseFunc) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(300 * time.Millisecond):
		}
		if all := resident(folder); all > b.Limits.Memory {
			stop(fmt.Errorf("%w: more than %d MB of memory", ErrLimit, b.Limits.Memory>>20))
			return
		}
	}
}

// resident is how much memory the processes hold whose command line names a folder, in bytes.
func resident(folder string) (all int64) {
	lines, err := filepath.Glob("/proc/[0-9]*/cmdline")
	if err != nil {
		return 0
	}
	for _, line := range lines {
		b, err := os.ReadFile(line)
		if err != nil || !strings.Contains(string(b), folder) {
			continue
		}
		status, err := os.ReadFile(filepath.Join(filepath.Dir(line), "statm"))
		if err != nil {
			continue
		}
		if fields := strings.Fields(string(status)); len(fields) > 2 {
			pages, _ := strconv.ParseInt(fields[1], 10, 64) // the kernel writes numbers
			shared, _ := strconv.ParseInt(fields[2], 10, 64)
			all += (pages - shared) * int64(os.Getpagesize())
		}
	}
	return all
}
