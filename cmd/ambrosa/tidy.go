package main

import (
	"bufio"
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"ambrosa/internal/program"
	"ambrosa/internal/tidy"

	"github.com/spf13/cobra"
)

func tidyCommand(set *settings) *cobra.Command {
	var format string
	c := &cobra.Command{
		Use:   "tidy " + strings.Join(tidy.Listings, "|"),
		Short: "Write what is to tidy, one find a line; nothing is changed",
		Long: "Write what is to tidy as JSON objects or CSV, one find a line, in the order of the pictures' or owners' numbers. orphans are pictures\n" +
			"that no owner shows; twice those that are there in other bytes, with the best of each; unfit those on owners that are unfit; missing\n" +
			"owners that miss something; scrub reads all stored bytes and writes what is missing or differs. Nothing is changed.\n" +
			"Finds are results: exit 0. Exit 2: there is no such list, or no data.",
		Args:      cobra.ExactArgs(1),
		ValidArgs: tidy.Listings,
		RunE: func(cmd *cobra.Command, args []string) error {
			if !slices.Contains(tidy.Listings, args[0]) {
				return usage("%q is no list; there are %s", args[0], strings.Join(tidy.Listings, ", "))
			}
			if format != "json" && format != "csv" {
				return usage("%q is no format; there are json and csv", format)
			}
			return writeFinds(cmd.Context(), set, args[0], format, os.Stdout)
		},
	}
	c.Flags().StringVar(&format, "format", "json", "json or csv")
	return c
}

// tidyLine is a find as it is written: every field is there, null where it says nothing.
type tidyLine struct {
	Check     string   `json:"check"`
	Asset     *int64   `json:"asset"`
	SHA256    *string  `json:"sha256"`
	Owner     *string  `json:"owner"`
	Figure    *float64 `json:"figure"`
	Why       string   `json:"why"`
	SpeaksFor []string `json:"speaks_for"`
}

func findLine(f tidy.Found) tidyLine {
	l := tidyLine{Check: f.Check, Figure: f.Figure, Why: f.Why, SpeaksFor: append([]string{}, f.SpeaksFor...)}
	if f.Asset != 0 {
		l.Asset, l.SHA256 = &f.Asset, &f.SHA256
	}
	if f.Owner != "" {
		l.Owner = &f.Owner
	}
	return l
}

// writeFinds writes a list to its end.
func writeFinds(ctx context.Context, set *settings, listing, format string, to io.Writer) error {
	if _, err := os.Stat(filepath.Join(set.Data, "postgres")); set.Database == "" && err != nil {
		return fmt.Errorf("%w: there are no data in %s", errUnreadable, set.Data)
	}
	return set.with(ctx, func(s *program.Program) error { return writeListing(ctx, s, listing, format, to) })
}

func writeListing(ctx context.Context, s *program.Program, listing, format string, to io.Writer) error {
	out := bufio.NewWriter(to)
	write, end := jsonFinds(out), out.Flush
	if format == "csv" {
		write, end = csvFinds(out)
	}
	if err := s.Tidy.List(ctx, listing, func(f tidy.Found) error { return write(findLine(f)) }); err != nil {
		return err
	}
	return end()
}

func jsonFinds(out io.Writer) func(tidyLine) error {
	lines := newLines(out)
	return func(l tidyLine) error { return lines.Encode(l) }
}

func csvFinds(out *bufio.Writer) (write func(tidyLine) error, end func() error) {
	w := csv.NewWriter(out)
	first := true
	row := func(l tidyLine) error {
		if first {
			first = false
			if err := w.Write([]string{"check", "asset", "sha256", "owner", "figure", "why", "speaks_for"}); err != nil {
				return err
			}
		}
		asset, sha, owner, figure := "", "", "", ""
		if l.Asset != nil {
			asset, sha = strconv.FormatInt(*l.Asset, 10), *l.SHA256
		}
		if l.Owner != nil {
			owner = *l.Owner
		}
		if l.Figure != nil {
			figure = strconv.FormatFloat(*l.Figure, 'g', 6, 64)
		}
		return w.Write([]string{l.Check, asset, sha, owner, figure, l.Why, strings.Join(l.SpeaksFor, "|")})
	}
	return row, func() error {
		w.Flush()
		if err := w.Error(); err != nil {
			return err
		}
		return out.Flush()
	}
}
