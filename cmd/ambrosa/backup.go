package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"

	"ambrosa/internal/backup"
	"ambrosa/internal/program"

	"github.com/spf13/cobra"
)

func backupCommand(set *settings) *cobra.Command {
	return &cobra.Command{
		Use:   "backup FOLDER",
		Short: "Copy the database, the pictures and the waiting uploads into a folder, also while the server runs; again, only what is new",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return set.with(cmd.Context(), func(s *program.Program) error {
				m, err := backup.Make(cmd.Context(), backup.From{Database: s.Database, Vault: s.Vault, Uploads: s.Gatherer.Folder}, args[0])
				return held(m, err)
			})
		},
	}
}

func restoreCommand(set *settings) *cobra.Command {
	return &cobra.Command{
		Use:   "restore FOLDER",
		Short: "Bring a backup into an empty data folder (--data), and compare what came",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if set.Database != "" || set.Pictures != "" {
				return usage("a backup is restored into a data folder with its own database and pictures; leave --database and --pictures out")
			}
			m, err := backup.Restore(cmd.Context(), args[0], set.Data)
			if errors.Is(err, backup.ErrIncomplete) {
				return fmt.Errorf("%w: %w", errUnreadable, err)
			}
			return held(m, err)
		},
	}
}

// held writes what a backup holds.
func held(m backup.Manifest, err error) error {
	if err != nil {
		return err
	}
	return json.NewEncoder(os.Stdout).Encode(m)
}
