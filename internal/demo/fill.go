package demo

import (
	"context"
	"errors"
	"fmt"
	"os"
	"time"

	"ambrosa/core/placement"
	"ambrosa/internal/people"
	"ambrosa/internal/program"
	"ambrosa/internal/store/query"

	"golang.org/x/sync/errgroup"
)

// users of the demo, one of each role.
var users = []struct {
	name, password string
	role           people.Role
}{
	{"ines", "kites-over-pellmoor", people.Admin},
	{"mo", "a-steady-wind", people.Editor},
	{"vera", "only-looking-up", people.Viewer},
}

// People adds the demo's users where they are not there.
func People(ctx context.Context, s *program.Program) error {
	for _, u := range users {
		if _, err := s.Register.Add(ctx, 0, u.name, u.password, u.role); err != nil && !errors.Is(err, people.ErrTaken) {
			return err
		}
	}
	return nil
}

// Greet prints how to sign in.
func Greet() {
	fmt.Println()
	for _, u := range users {
		fmt.Printf("  sign in as %-5s with %-20s (%s)\n", u.name, u.password, u.role)
	}
	fmt.Println()
}

// Fill makes what is not there yet of the world: the catalogue, the deliveries, and the first of them applied.
// Each step is looked for before it is done, so a fill that was ended goes on at the next start.
func Fill(ctx context.Context, s *program.Program) error {
	mo, err := s.Store.PersonByName(ctx, "mo")
	if err != nil {
		return err
	}
	counts, err := s.Store.CatalogueCounts(ctx)
	if err != nil {
		return err
	}
	if counts.Products == 0 {
		plan, err := s.Tables.PlanText(ctx, "pellmoor-products.csv", Table(), mo.ID)
		if err != nil {
			return err
		}
		if err := apply(ctx, s, plan, mo.ID); err != nil {
			return err
		}
	}
	there := map[string]int64{}
	deliveries, err := s.Store.Deliveries(ctx, query.DeliveriesParams{})
	if err != nil {
		return err
	}
	for _, d := range deliveries {
		if d.State != "open" {
			there[d.Title] = d.ID
		}
	}
	for _, d := range []struct {
		title, archive string
		files          func() []file
		apply          bool
	}{
		{"Corrie Sailcloth, spring", "corrie-spring.zip", corrie, true},
		{"Fellside Reels, by barcode", "fellside.zip", fellside, false},
		{"Windhover Remnants", "windhover.zip", windhover, false},
		{"Corrie Sailcloth, details", "corrie-details.zip", corrieDetails, false},
		{"Tarn & Daughter Spars, autumn", "tarn-autumn.zip", tarn, false},
		{sessionTitle, "studio-session.zip", session, false},
	} {
		id, ok := there[d.title]
		if !ok {
			fmt.Printf("Drawing the pictures of %s …\n", d.title)
			if id, err = deliver(ctx, s, d.title, d.archive, d.files(), mo.ID); err != nil {
				return err
			}
		}
		there[d.title] = id
		if !d.apply {
			continue
		}
		plan, err := s.Pairer.Plan(ctx, id, mo.ID, d.title, placement.OnlyWhereEmpty)
		if ok && err != nil {
			continue // applied before: nothing is left to do
		}
		if err != nil {
			return err
		}
		if err := apply(ctx, s, plan, mo.ID); err != nil {
			return err
		}
	}
	if err := bringLists(ctx, s, there["Fellside Reels, by barcode"], mo.ID); err != nil {
		return err
	}
	if err := byHand(ctx, s, mo.ID); err != nil {
		return err
	}
	if err := toTidy(ctx, s, there, mo.ID); err != nil {
		return err
	}
	ines, err := s.Store.PersonByName(ctx, "ines")
	if err != nil {
		return err
	}
	if err := bringSources(ctx, s, mo.ID, ines.ID); err != nil {
		return err
	}
	if err := bringMessages(ctx, s, mo.ID, ines.ID); err != nil {
		return err
	}
	return bringChannels(ctx, s, mo.ID, ines.ID)
}

func apply(ctx context.Context, s *program.Program, plan, person int64) error {
	run, err := s.Ledger.Apply(ctx, plan, person)
	if err != nil {
		return err
	}
	_, err = s.Ledger.Finish(ctx, run)
	return err
}

// deliver draws the files and brings them in by the way every upload goes.
func deliver(ctx context.Context, s *program.Program, title, archive string, files []file, person int64) (int64, error) {
	if err := drawAll(ctx, files); err != nil {
		return 0, err
	}
	temp, err := os.CreateTemp(s.Gatherer.Folder, "demo-*")
	if err != nil {
		return 0, err
	}
	defer os.Remove(temp.Name())
	defer temp.Close()
	if err := writeZip(temp, files); err != nil {
		return 0, err
	}
	size, err := temp.Seek(0, 1)
	if err != nil {
		return 0, err
	}
	id, err := s.Gatherer.Begin(ctx, title, person)
	if err != nil {
		return 0, err
	}
	upload, err := s.Gatherer.Announce(ctx, id, person, archive, size)
	if err != nil {
		return 0, err
	}
	if err := os.Rename(temp.Name(), s.Gatherer.File(upload)); err != nil {
		return 0, err
	}
	if err := s.Gatherer.Close(ctx, id, false); err != nil {
		return 0, err
	}
	for {
		state, err := s.Store.DeliveryState(ctx, id)
		switch {
		case err != nil:
			return 0, err
		case state == "ready":
			return id, nil
		case state == "failed":
			return 0, fmt.Errorf("taking in %s failed", title)
		}
		select {
		case <-ctx.Done():
			return 0, ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// drawAll draws side by side.
func drawAll(ctx context.Context, files []file) error {
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(4)
	for i := range files {
		group.Go(func() error {
			bytes := files[i].make()
			files[i].make = func() []byte { return bytes }
			return ctx.Err()
		})
	}
	return group.Wait()
}
