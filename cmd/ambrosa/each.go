package main

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"slices"

	"ambrosa/core/cores"

	"golang.org/x/sync/errgroup"
)

// each looks at files, as many at once as there are cores, and writes what is seen of each as JSON, one a line, in their order. What can't be looked at
// is told, and the rest goes on. errSome where that is so of some, errNone where of all.
func each[T any](ctx context.Context, files []string, look func(context.Context, string) (T, error)) error {
	out := bufio.NewWriter(os.Stdout)
	lines := newLines(out)
	seen := 0
	for some := range slices.Chunk(files, cores.Count()) {
		found, troubles := make([]T, len(some)), make([]error, len(some))
		var group errgroup.Group
		for i, file := range some {
			group.Go(func() error {
				found[i], troubles[i] = look(ctx, file)
				return nil
			})
		}
		_ = group.Wait() // each keeps its own trouble
		if err := ctx.Err(); err != nil {
			return err
		}
		for i, file := range some {
			if troubles[i] != nil {
				fmt.Fprintf(os.Stderr, "ambrosa: %s: %v\n", file, troubles[i])
				continue
			}
			seen++
			if err := lines.Encode(found[i]); err != nil {
				return err
			}
		}
		if err := out.Flush(); err != nil {
			return err
		}
	}
	switch {
	case seen == 0:
		return errNone
	case seen < len(files):
		return errSome
	}
	return nil
}
