package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"strings"

	"ambrosa/core/message"
	"ambrosa/internal/drive"
	"ambrosa/internal/jobs"
	"ambrosa/internal/people"
	"ambrosa/internal/program"
	"ambrosa/internal/publish"

	"github.com/jackc/pgx/v5"
	"github.com/spf13/cobra"
)

func publishCommand(set *settings) *cobra.Command {
	var as string
	var dry bool
	c := &cobra.Command{
		Use:   "publish CHANNEL --as NAME",
		Short: "Bring a channel up to date: pictures, list, what is removed; or say what would go",
		Long: "Bring the channel of that name up to date, and write what became of each file as a JSON object: its path; its state, new,\n" +
			"changed, renamed, removed, unchanged or left_out; its bytes, null where it is not made yet; and its problem, null where there is\n" +
			"none. What is held, as by rights, does not go: that is a result. With --dry-run nothing is sent, and all of it stays as it is.\n" +
			"Exit code 1: some files did not go that should have; 2: there is no such channel or person, or its drive can't be reached.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return set.with(cmd.Context(), func(s *program.Program) error { return publishTo(cmd.Context(), s, args[0], as, dry) })
		},
	}
	c.Flags().StringVar(&as, "as", "", "name of the person the ledger shows")
	c.Flags().BoolVar(&dry, "dry-run", false, "only say what would go")
	_ = c.MarkFlagRequired("as") // fails only for a flag that is not there
	return c
}

// publishedFile is a file as it is written: every field is there, null where it says nothing.
type publishedFile struct {
	Path    string  `json:"path"`
	State   string  `json:"state"`
	Bytes   *int64  `json:"bytes"`
	Problem *string `json:"problem"`
}

func publishTo(ctx context.Context, s *program.Program, name, as string, dry bool) error {
	person, err := s.Register.ByName(ctx, as)
	if err != nil {
		return fmt.Errorf("%w: nobody is called %q", errUnreadable, as)
	}
	if !person.Role.May(people.Editor) {
		return fmt.Errorf("%w: %s is %s; publishing needs the role %s", errUnreadable, person.Name, person.Role, people.Editor)
	}
	of, err := s.Publish.Called(ctx, name)
	if errors.Is(err, pgx.ErrNoRows) {
		return fmt.Errorf("%w: there is no channel %q", errUnreadable, name)
	}
	if err != nil {
		return err
	}
	if err := s.Publish.Look(ctx, person.ID, of.ID, false); err != nil && !errors.Is(err, publish.ErrBusy) {
		return err
	}
	job, err := s.Jobs.Finished(ctx, publish.Work, of.ID)
	if err != nil {
		return unreached(err)
	}
	if job.State != string(jobs.Done) {
		return fmt.Errorf("%w: looking at the channel was stopped", errUnreadable)
	}
	var failed error
	if !dry {
		failed = runPlan(ctx, s, of.ID, person.ID)
	}
	some, err := writePublished(ctx, s, of.ID, !dry && failed == nil)
	switch {
	case err != nil:
		return err
	case failed != nil:
		return unreached(failed)
	case some:
		return errSome
	}
	return nil
}

// unreached is an error of a drive as what the whole command ends with.
func unreached(err error) error {
	for _, of := range []error{drive.ErrNoAnswer, drive.ErrSignIn, drive.ErrHostKey, drive.ErrCertificate, drive.ErrNoFolder} {
		if errors.Is(err, of) {
			return fmt.Errorf("%w: %w", errUnreadable, err)
		}
	}
	return err
}

// runPlan runs a channel's plan to its end, where there is something to do.
func runPlan(ctx context.Context, s *program.Program, channel, person int64) error {
	c, err := s.Store.ChannelByID(ctx, channel)
	if err != nil || c.PlanID == nil {
		return err
	}
	run, err := s.Ledger.Apply(ctx, *c.PlanID, person)
	if err == nil {
		_, err = s.Ledger.Finish(ctx, run)
	}
	return err
}

// writePublished writes what became of the files, and reports whether some failed.
func writePublished(ctx context.Context, s *program.Program, channel int64, ran bool) (some bool, err error) {
	out := bufio.NewWriter(os.Stdout)
	lines := newLines(out)
	err = s.Publish.Report(ctx, channel, ran, func(r publish.Reported) error {
		line := publishedFile{Path: r.Path, State: r.State}
		if r.Bytes >= 0 {
			line.Bytes = &r.Bytes
		}
		if says := strings.TrimSpace(message.Texts(r.Says)); says != "" {
			line.Problem = &says
		}
		if r.Failed {
			some = true
			fmt.Fprintf(os.Stderr, "ambrosa: %s: %s\n", r.Path, message.Texts(r.Says))
		}
		return lines.Encode(line)
	})
	return some, errors.Join(err, out.Flush())
}
