package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"runtime/debug"
	"slices"
	"strings"

	"ambrosa/core/pairing"
	"ambrosa/internal/pairfiles"

	"github.com/spf13/cobra"
)

func pairCommand() *cobra.Command {
	var owners, files string
	var keys, fits []string
	var trial bool
	pair := &cobra.Command{
		Use:   "pair --owners owners.csv --files names.txt",
		Short: "Pair names with owners from two lists, without a database; writes a JSON object a line",
		Long: "Pair names with owners from two lists, without a database. Writes a JSON object a line, in the order of the names.\n" +
			"A byte of a name that is no UTF-8 is written as \\udc80 to \\udcff, its value behind \\udc, so that the name can be had back.",
		Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if err := knownFits(fits); err != nil {
				return err
			}
			collectSeldom(owners, files)
			left := 0
			all, names, err := readLists(owners, files, keys, &left)
			if errors.Is(err, pairfiles.ErrKey) {
				return usage("%v", err)
			}
			if err != nil {
				return fmt.Errorf("%w: %w", errUnreadable, err)
			}
			if trial {
				err = json.NewEncoder(os.Stdout).Encode(pairing.NewStudy(all.Index(), names).Trial(nil))
			} else {
				err = pairfiles.Write(os.Stdout, all, names, ladder(all, fits))
			}
			if err == nil && left > 0 {
				err = errSome
			}
			return err
		},
	}
	pair.Flags().StringVar(&owners, "owners", "", "table of owners: id,kind,parent_id,sku,barcode,title and attributes")
	pair.Flags().StringVar(&files, "files", "", "list of names, a relative path a line")
	pair.Flags().StringSliceVar(&keys, "keys", nil, "columns to pair by (sku,barcode,code,title)")
	pair.Flags().StringSliceVar(&fits, "fits", nil, "fits to allow (whole,within,part,folder,words,near)")
	pair.Flags().BoolVar(&trial, "trial", false, "write the trial board instead: each key in each fit")
	for _, needed := range []string{"owners", "files"} {
		_ = pair.MarkFlagRequired(needed) // fails only for a flag that is not there
	}
	return pair
}

// perByte is how much memory pairing needs for a byte of its lists, when garbage is collected in time.
const perByte = 12

// collectSeldom has garbage collected less often, as the lists stand in memory till the end: not at all where they are
// small, else as seldom as a million lines leave below 1 GiB.
func collectSeldom(lists ...string) {
	size := int64(0)
	for _, path := range lists {
		if info, err := os.Stat(path); err == nil {
			size += info.Size()
		}
	}
	debug.SetGCPercent(-1)
	debug.SetMemoryLimit(max(850<<20, perByte*size))
}

// knownFits refuses a fit that there is not.
func knownFits(fits []string) error {
	for _, fit := range fits {
		if !slices.Contains(pairing.Fits, pairing.Fit(fit)) {
			return usage("there is no fit %q; there are %s", fit, join(pairing.Fits))
		}
	}
	return nil
}

func join[T ~string](all []T) string {
	texts := make([]string, len(all))
	for i, t := range all {
		texts[i] = string(t)
	}
	return strings.Join(texts, ", ")
}

// readLists reads the owners and, meanwhile, the names. left counts the owners' rows that were left out.
func readLists(owners, files string, keys []string, left *int) (*pairfiles.Owners, []pairing.File, error) {
	var names []pairing.File
	failed := make(chan error, 1)
	go func() {
		list, err := os.Open(files)
		if err == nil {
			defer list.Close()
			if names, err = pairfiles.ReadNames(list); err != nil {
				err = fmt.Errorf("%s: %w", files, err)
			}
		}
		failed <- err
	}()
	all, err := readOwners(owners, keys, left)
	if err := errors.Join(err, <-failed); err != nil {
		return nil, nil, err
	}
	return all, names, nil
}

func readOwners(owners string, keys []string, left *int) (*pairfiles.Owners, error) {
	table, err := os.Open(owners)
	if err != nil {
		return nil, err
	}
	defer table.Close()
	all, err := pairfiles.ReadOwners(table, keys, func(line int, why string) {
		*left++
		fmt.Fprintf(os.Stderr, "%s:%d: %s\n", owners, line, why)
	})
	if err != nil {
		return nil, fmt.Errorf("%s: %w", owners, err)
	}
	return all, nil
}

// ladder allows the fits for every key that the owners have; none named is every one.
func ladder(owners *pairfiles.Owners, fits []string) pairing.Ladder {
	var l pairing.Ladder
	if len(fits) == 0 {
		return l
	}
	for _, o := range owners.All {
		for _, k := range o.Keys {
			for _, fit := range fits {
				if cell := (pairing.Cell{Field: k.Field, Fit: pairing.Fit(fit)}); !slices.Contains(l, cell) {
					l = append(l, cell)
				}
			}
		}
	}
	return l
}
