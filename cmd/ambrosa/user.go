package main

import (
	"bufio"
	"fmt"
	"os"
	"strings"

	"ambrosa/internal/people"
	"ambrosa/internal/program"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

func userCommand(set *settings) *cobra.Command {
	var role string
	add := &cobra.Command{
		Use:   "add NAME",
		Short: "Add a person; the password is asked for, or read from standard input",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			password, err := readPassword()
			if err != nil {
				return err
			}
			return set.with(cmd.Context(), func(s *program.Program) error {
				if _, err := s.Register.Add(cmd.Context(), 0, args[0], password, people.Role(role)); err != nil {
					return err
				}
				fmt.Printf("%s can sign in as %s.\n", args[0], role)
				return nil
			})
		},
	}
	add.Flags().StringVar(&role, "role", "editor", "viewer, editor or admin")
	user := &cobra.Command{Use: "user", Short: "Look after who may sign in"}
	user.AddCommand(add)
	return user
}

func readPassword() (string, error) {
	if term.IsTerminal(int(os.Stdin.Fd())) {
		fmt.Fprint(os.Stderr, "Password: ")
		password, err := term.ReadPassword(int(os.Stdin.Fd()))
		fmt.Fprintln(os.Stderr)
		return string(password), err
	}
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if line == "" {
		return "", fmt.Errorf("no password on standard input: %w", err)
	}
	return strings.TrimRight(line, "\r\n"), nil
}
