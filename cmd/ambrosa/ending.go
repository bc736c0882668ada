package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"
)

// How the program ends: 0 all well, 1 some failed, 2 wrong usage or nothing readable or reachable.
const (
	endedSome  = 1
	endedWrong = 2
)

var (
	// errUsage is a command that is called in a way that means nothing.
	errUsage = errors.New("")
	// errUnreadable is that nothing could be read.
	errUnreadable = errors.New("nothing can be read")
	// errSome is that some failed, each of which was told already.
	errSome = errors.New("some failed")
	// errNone is that nothing could be read, which was told already.
	errNone = errors.New("nothing could be read")
)

// usage says what is wrong with how the program was called.
func usage(format string, args ...any) error {
	return fmt.Errorf("%w%s", errUsage, fmt.Sprintf(format, args...))
}

// code is the program's exit code for an error.
func code(err error) int {
	switch {
	case err == nil:
		return 0
	case errors.Is(err, errUsage), errors.Is(err, errUnreadable), errors.Is(err, errNone):
		return endedWrong
	}
	return endedSome
}

// strict has a command, and all under it, take wrong usage for an error: unknown flags, arguments and commands, and a
// command that only holds others.
func strict(c *cobra.Command) {
	c.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return usage("%v", err) })
	if args := c.Args; args != nil {
		c.Args = func(c *cobra.Command, given []string) error {
			if err := args(c, given); err != nil {
				return usage("%v", err)
			}
			return nil
		}
	}
	if c.HasSubCommands() && c.RunE == nil {
		c.Args = func(c *cobra.Command, given []string) error {
			if len(given) > 0 {
				return usage("unknown command %q for %q; see %s --help", given[0], c.CommandPath(), c.CommandPath())
			}
			return nil
		}
		c.RunE = func(c *cobra.Command, _ []string) error {
			return usage("%s needs a command; see %s --help", c.CommandPath(), c.CommandPath())
		}
	}
	for _, sub := range c.Commands() {
		strict(sub)
	}
}
