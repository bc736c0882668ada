package main

import (
	"bufio"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"ambrosa/internal/program"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

func resetCommand(set *settings) *cobra.Command {
	var yes bool
	reset := &cobra.Command{
		Use:   "reset",
		Short: "Remove everything in the data folder: catalogue, pictures, ledger",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if set.Database != "" || set.Pictures != "" {
				return usage("only a private data folder can be reset, not a database or bucket of its own")
			}
			if !yes {
				if err := ask(set.Data); err != nil {
					return err
				}
			}
			return program.Reset(set.Data)
		},
	}
	reset.Flags().BoolVar(&yes, "yes", false, "remove without asking")
	return reset
}

// ask has a person at a terminal write the folder's name; nobody else is asked.
func ask(data string) error {
	if !term.IsTerminal(int(os.Stdin.Fd())) {
		return usage("nobody is there to be asked; give --yes to remove everything in %s", data)
	}
	name := filepath.Base(data)
	fmt.Fprintf(os.Stderr, "This removes catalogue, pictures and ledger in %s, for good. Write %s to go on: ", data, name)
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil || strings.TrimSpace(line) != name {
		return usage("nothing was removed")
	}
	return nil
}
