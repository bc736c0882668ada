package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	core "ambrosa/core/catalogue"
	"ambrosa/core/placement"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/fetch"
	"ambrosa/internal/ledger"
	"ambrosa/internal/people"
	"ambrosa/internal/program"
	"ambrosa/internal/sheet"
	"ambrosa/internal/tables"

	"github.com/spf13/cobra"
)

func catalogueCommand(set *settings) *cobra.Command {
	var dry bool
	var as, rule string
	load := &cobra.Command{
		Use:   "import FILE|ADDRESS",
		Short: "Import a table of owners (CSV, XLSX, ODS); bad rows are listed, good ones go in",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			name, at, done, err := tableAt(cmd.Context(), args[0], set)
			if err != nil {
				return fmt.Errorf("%w: %w", errUnreadable, err)
			}
			defer done()
			if !slices.Contains(placement.Rules, placement.Rule(rule)) {
				return usage("there is no house rule %q", rule)
			}
			if err := tables.CheckFile(at); err != nil {
				return fmt.Errorf("%w: %s: %w", errUnreadable, args[0], err)
			}
			return set.with(cmd.Context(), func(s *program.Program) error {
				return load(cmd.Context(), s, as, name, at, placement.Rule(rule), dry)
			})
		},
	}
	load.Flags().BoolVar(&dry, "dry-run", false, "only say what would change")
	load.Flags().StringVar(&rule, "rule", string(placement.OnlyWhereEmpty), "for owners that have pictures: only_where_empty, add_after, same_place or whole_set")
	load.Flags().StringVar(&as, "as", "", "name of the person the ledger shows")
	_ = load.MarkFlagRequired("as") // fails only for a flag that is not there
	look := &cobra.Command{Use: "catalogue", Short: "Look after the catalogue"}
	look.AddCommand(load, exportCommand(set))
	return look
}

func exportCommand(set *settings) *cobra.Command {
	return &cobra.Command{
		Use:   "export FILE.csv|FILE.xlsx|FILE.ods",
		Short: "Write the catalogue as a table; imported unchanged, it changes nothing",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return set.with(cmd.Context(), func(s *program.Program) error {
				return writeTable(args[0], func(w sheet.Writer) error { return catalogue.Export(cmd.Context(), s.Store, w) })
			})
		},
	}
}

// largestTable is how large a table may be that is fetched from an address.
const largestTable = 1 << 30

// tableAt is the path of a table that is a file, or is fetched from an address of the web into one; done removes it.
func tableAt(ctx context.Context, from string, set *settings) (name, at string, done func(), err error) {
	if !strings.HasPrefix(from, "http://") && !strings.HasPrefix(from, "https://") {
		return filepath.Base(from), from, func() {}, nil
	}
	f := fetch.New(&set.Door, fetch.DefaultLimits)
	got, err := f.Get(ctx, fetch.Request{URL: from, Bytes: largestTable})
	if err != nil {
		return "", "", nil, err
	}
	defer got.Body.Close()
	kept, err := os.CreateTemp("", "ambrosa-table-*")
	if err != nil {
		return "", "", nil, err
	}
	done = func() { os.Remove(kept.Name()) }
	_, err = io.Copy(kept, got.Body)
	if err := errors.Join(err, kept.Close()); err != nil {
		done()
		return "", "", nil, err
	}
	return path.Base(strings.TrimSuffix(got.URL, "?…")), kept.Name(), done, nil
}

func load(ctx context.Context, s *program.Program, as, name, at string, rule placement.Rule, dry bool) error {
	person, err := s.Register.ByName(ctx, as)
	if err != nil {
		return err
	}
	if !person.Role.May(people.Editor) {
		return fmt.Errorf("%s is %s; bringing in a table needs the role %s", person.Name, person.Role, people.Editor)
	}
	if dry {
		changes, problems, err := s.Tables.LookFile(ctx, at, rule)
		if err != nil {
			return fmt.Errorf("%w: %s: %w", errUnreadable, name, err)
		}
		fmt.Printf("%d changes would be made, %d rows left out.\n", len(changes), core.LeftOut(problems))
		return complain(name, problems)
	}
	plan, err := s.Tables.PlanFile(ctx, name, at, person.ID, rule)
	if errors.Is(err, ledger.ErrNothingToDo) {
		fmt.Println("Everything already stands as in the table.")
		return nil
	}
	if err != nil {
		return fmt.Errorf("%w: %s: %w", errUnreadable, name, err)
	}
	problems, changes, err := s.Tables.Problems(ctx, plan)
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
