package main

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"strings"

	"ambrosa/core/page"

	"github.com/spf13/cobra"
)

func pageCommand() *cobra.Command {
	c := &cobra.Command{Use: "page", Short: "Find pictures on web pages; no database is needed"}
	c.AddCommand(tryCommand(), largerCommand())
	return c
}

func largerCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "larger EXAMPLES.tsv",
		Short: "Find the rule that leads from small pictures to large ones, and say where others lead by it",
		Long: "Find the rule that leads from the address of a small picture to that of the large one, and say where\n" +
			"others lead by it. Each line of the file is small<TAB>large, an example, or small alone. The lines that are\n" +
			"small alone are written as small<TAB>large, in their order; the rule is written on standard error as JSON.\n" +
			"Exit code 1: no rule explains all examples, or it does not fit an address; 2: there is no example.",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			f, err := os.Open(args[0])
			if err != nil {
				return fmt.Errorf("%w: %w", errUnreadable, err)
			}
			defer f.Close()
			return larger(f, os.Stdout, os.Stderr)
		},
	}
}

// larger infers a rule from the examples in a list, and writes where the other addresses lead.
func larger(from io.Reader, to, rule io.Writer) error {
	var examples []page.Example
	var small []string
	lines := bufio.NewScanner(from)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		one, other, both := strings.Cut(strings.TrimRight(lines.Text(), "\r"), "\t")
		one, other = strings.TrimSpace(one), strings.TrimSpace(other)
		switch {
		case one == "":
		case both && other != "":
			examples = append(examples, page.Example{Small: one, Large: other})
		default:
			small = append(small, one)
		}
	}
	if err := lines.Err(); err != nil {
		return fmt.Errorf("%w: %w", errUnreadable, err)
	}
	if len(examples) == 0 {
		return usage("the file holds no example: a small address, a tab and the large one")
	}
	r, err := page.Infer(examples)
	if err != nil {
		fmt.Fprintln(os.Stderr, "ambrosa:", err)
		return errSome
	}
	told := newLines(rule)
	if err := told.Encode(r); err != nil {
		return err
	}
	out := bufio.NewWriter(to)
	failed := false
	for _, s := range small {
		if large, ok := r.Apply(s); ok {
			fmt.Fprintf(out, "%s\t%s\n", s, large)
		} else {
			failed = true
			fmt.Fprintf(os.Stderr, "ambrosa: %s: the rule does not fit\n", s)
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	if failed {
		return errSome
	}
	return nil
}
