package main

import (
	"log/slog"
	"os"
)

// setLog has the program log on standard error from a level on.
func setLog(level string) error {
	var l slog.Level
	if err := l.UnmarshalText([]byte(level)); err != nil {
		return usage("there is no log level %q; there are debug, info, warn and error", level)
	}
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: l})))
	return nil
}
