package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"

	core "ambrosa/core/catalogue"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/fetch"
	"ambrosa/internal/ledger"
	"ambrosa/internal/people"
	"ambrosa/internal/program"

	"github.com/spf13/cobra"
)

func catalogueCommand(set *settings) *cobra.Command {
	var dry bool
	var as string
	load := &cobra.Command{
		Use:   "import FILE.csv|ADDRESS",
		Short: "Bring a products table into the catalogue; bad rows are listed, good ones go in",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			name, text, err := readTable(cmd.Context(), args[0], set)
			if err != nil {
				return fmt.Errorf("%w: %w", errUnreadable, err)
			}
			return set.with(cmd.Context(), func(s *program.Program) error {
				return load(cmd.Context(), s, as, name, string(text), dry)
			})
		},
	}
	load.Flags().BoolVar(&dry, "dry-run", false, "only say what would change")
	load.Flags().StringVar(&as, "as", "", "name of the person the ledger shows")
	_ = load.MarkFlagRequired("as") // fails only for a flag that is not there
	look := &cobra.Command{Use: "catalogue", Short: "Look after the catalogue"}
	look.AddCommand(load)
	return look
}

// largestTable is how large a table may be that is fetched from an address.
const largestTable = 256 << 20

// readTable reads a table from a file, or from an address of the web.
func readTable(ctx context.Context, from string, set *settings) (name string, text []byte, err error) {
	if !strings.HasPrefix(from, "http://") && !strings.HasPrefix(from, "https://") {
		text, err = os.ReadFile(from)
		return filepath.Base(from), text, err
	}
	f := fetch.New(&fetch.Door{Allow: set.allowed}, fetch.DefaultLimits)
	got, err := f.Get(ctx, fetch.Request{URL: from, Bytes: largestTable})
	if err != nil {
		return "", nil, err
	}
	defer got.Body.Close()
	text, err = io.ReadAll(got.Body)
	return path.Base(strings.TrimSuffix(got.URL, "?…")), text, err
}

func load(ctx context.Context, s *program.Program, as, name, text string, dry bool) error {
	person, err := s.Register.ByName(ctx, as)
	if err != nil {
		return err
	}
	if !person.Role.May(people.Editor) {
		return fmt.Errorf("%s is %s; bringing in a table needs the role %s", person.Name, person.Role, people.Editor)
	}
	if dry {
		changes, problems, err := catalogue.Look(ctx, s.Store, text)
		if err != nil {
			return fmt.Errorf("%w: %s: %w", errUnreadable, name, err)
		}
		fmt.Printf("%d changes would be made, %d rows left out.\n", len(changes), core.LeftOut(problems))
		return complain(name, problems)
	}
	plan, err := s.Importer.PlanImport(ctx, name, text, person.ID)
	if errors.Is(err, ledger.ErrNothingToDo) {
		fmt.Println("Everything already stands as in the table.")
		return nil
	}
	if err != nil {
		return fmt.Errorf("%w: %s: %w", errUnreadable, name, err)
	}
	problems, changes, err := catalogue.Problems(ctx, s.Store, plan)
	if err != nil {
		return err
	}
	left := complain(name, problems)
	if changes == 0 {
		fmt.Printf("0 changes made, %d rows left out (plan %d).\n", core.LeftOut(problems), plan)
		return left
	}
	run, err := s.Ledger.Apply(ctx, plan, person.ID)
	if err != nil {
		return err
	}
	done, err := s.Ledger.Finish(ctx, run)
	if err != nil {
		return err
	}
	fmt.Printf("%d changes made, %d left alone, %d rows left out (run %d).\n", done.Applied, done.LeftAlone, core.LeftOut(problems), run)
	if done.State == "stopped" {
		return fmt.Errorf("run %d was stopped after %d of %d lines; resume it in the ledger", run, done.Done, done.Changes)
	}
	if done.LeftAlone > 0 {
		fmt.Fprintf(os.Stderr, "%s: %d lines were left alone; the ledger says why, under run %d\n", name, done.LeftAlone, run)
		return errSome
	}
	return left
}

// complain tells what is wrong with lines; the error says that some were left out.
func complain(name string, problems []core.Problem) error {
	for _, p := range problems {
		fmt.Fprintf(os.Stderr, "%s:%d: %s\n", name, p.Line, p.Text())
	}
	if core.LeftOut(problems) > 0 {
		return errSome
	}
	return nil
}

// with opens the service for one piece of work.
func (set *settings) with(ctx context.Context, work func(*program.Program) error) error {
	set.Join = true
	s, err := program.Open(ctx, set.Settings)
	if err != nil {
		return err
	}
	defer s.Close()
	return work(s)
}
