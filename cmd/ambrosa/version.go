package main

import (
	"encoding/json"
	"os"
	"runtime"

	"github.com/spf13/cobra"
)

// version is set when the program is built: see the Makefile.
var version = "unknown"

func versionCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "Say which version this is",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			return json.NewEncoder(os.Stdout).Encode(struct {
				Version string `json:"version"`
				Go      string `json:"go"`
				System  string `json:"system"`
			}{version, runtime.Version(), runtime.GOOS + "/" + runtime.GOARCH})
		},
	}
}
