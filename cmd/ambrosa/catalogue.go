package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"ambrosa/internal/runs"
	"ambrosa/internal/service"
	"ambrosa/internal/stock"

	"github.com/spf13/cobra"
)

func catalogueCommand(set *settings) *cobra.Command {
	var dry bool
	var as string
	load := &cobra.Command{
		Use:   "import FILE.csv",
		Short: "Bring a products table into the catalogue; bad rows are listed, good ones go in",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			text, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			return set.with(cmd.Context(), func(s *service.Service) error {
				return load(cmd.Context(), s, as, filepath.Base(args[0]), string(text), dry)
			})
		},
	}
	load.Flags().BoolVar(&dry, "dry-run", false, "only say what would change")
	load.Flags().StringVar(&as, "as", "", "name of the person the ledger shows")
	_ = load.MarkFlagRequired("as") // fails only for a flag that is not there
	catalogue := &cobra.Command{Use: "catalogue", Short: "Look after the catalogue"}
	catalogue.AddCommand(load)
	return catalogue
}

func load(ctx context.Context, s *service.Service, as, name, text string, dry bool) error {
	person, err := s.Store.PersonByName(ctx, as)
	if err != nil {
		return fmt.Errorf("nobody is called %q", as)
	}
	plan, err := stock.PlanImport(ctx, s.Store, s.Runner, name, text, person.ID)
	if errors.Is(err, runs.ErrNothingToDo) {
		fmt.Println("Everything already stands as in the table.")
		return nil
	}
	if err != nil {
		return err
	}
	problems, changes, err := stock.Problems(ctx, s.Store, plan)
	if err != nil {
		return err
	}
	for _, p := range problems {
		fmt.Fprintf(os.Stderr, "%s:%d: %s\n", name, p.Line, p.Why)
	}
	if dry || changes == 0 {
		fmt.Printf("%d changes would be made, %d rows left out (plan %d).\n", changes, len(problems), plan)
		return nil
	}
	run, err := s.Runner.Apply(ctx, plan, person.ID)
	if err != nil {
		return err
	}
	if err := s.Runner.Finish(ctx, run); err != nil {
		return err
	}
	fmt.Printf("%d changes made, %d rows left out (run %d).\n", changes, len(problems), run)
	return nil
}

// with opens the service for one piece of work.
func (set *settings) with(ctx context.Context, work func(*service.Service) error) error {
	set.Join = true
	s, err := service.Open(ctx, set.Settings)
	if err != nil {
		return err
	}
	defer s.Close()
	return work(s)
}
