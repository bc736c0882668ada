package main

import (
	"fmt"

	"ambrosa/internal/service"

	"github.com/spf13/cobra"
)

func resetCommand(set *settings) *cobra.Command {
	return &cobra.Command{
		Use:   "reset",
		Short: "Remove everything in the data folder: catalogue, pictures, ledger",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if set.Database != "" || set.Pictures != "" {
				return fmt.Errorf("only a private data folder can be reset, not a database or bucket of its own")
			}
			return service.Reset(set.Data)
		},
	}
}
