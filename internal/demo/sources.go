package demo

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ambrosa/core/rights"
	"ambrosa/internal/program"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"
)

// bringSources names the demo's sources, where they are not there yet, and collects from the first.
func bringSources(ctx context.Context, s *program.Program, person, admin int64) error {
	for kind, host := range map[string]string{"webdav": TarnHost, "sftp": FellsideHost} {
		if err := s.Store.AddDriveHost(ctx, query.AddDriveHostParams{Kind: kind, Host: host, AddedBy: admin}); err != nil {
			return err
		}
	}
	soon := time.Now().AddDate(0, 0, 20).Format(time.DateOnly)
	tarn, fellside := "Tarn & Daughter Spars", "Fellside Reels"
	by := sources.Asker{Person: person}
	added := map[string]int64{}
	for _, of := range []sources.Source{
		{Name: tarn + ", drive", Kind: sources.Drive, Supplier: tarn, Secrets: map[string]string{"pass": DriveSecret},
			Settings: sources.Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + TarnHost + "/", "user": DriveUser}},
			Rights:   rights.Rights{May: rights.Cleared, Until: soon, Holder: tarn, Proof: "Contract of 2025, page 4"}},
		{Name: fellside + ", server", Kind: sources.Drive, Supplier: fellside, Secrets: map[string]string{"pass": DriveSecret},
			Settings: sources.Settings{Protocol: "sftp", Values: map[string]string{"host": FellsideHost, "user": DriveUser}},
			Rights:   rights.Rights{May: rights.NotCleared, Holder: fellside, Proof: "Asked by mail, no answer yet"}},
		{Name: fellside + ", links", Kind: sources.Addresses, Supplier: fellside},
		{Name: "Corrie Sailcloth, drop folder", Kind: sources.Drop, Supplier: "Corrie Sailcloth", Settings: sources.Settings{Login: "corrie"},
			Rights: rights.Rights{May: rights.Cleared, Holder: "Corrie Sailcloth"}},
		{Name: "Windhover Remnants, by hand", Kind: sources.Upload, Supplier: "Windhover Remnants", Rights: rights.Rights{May: rights.Internal}},
	} {
		id, err := s.Sources.Add(ctx, by, of)
		if errors.Is(err, sources.ErrName) {
			continue
		}
		if err != nil {
			return fmt.Errorf("the source %s: %w", of.Name, err)
		}
		added[of.Name] = id
	}
	if id := added[fellside+", links"]; id > 0 {
		all, _ := sources.ReadAddresses(Addresses())
		if err := s.Sources.SetAddresses(ctx, by, id, all); err != nil {
			return err
		}
	}
	if id := added[fellside+", server"]; id > 0 {
		var entries []sources.Entry
		for i, a := range of("LIN")[:16] {
			entries = append(entries, sources.Entry{Code: fellsideCode(i), SKU: a.sku})
		}
		if _, _, err := s.Sources.AddEntries(ctx, person, id, entries); err != nil {
			return err
		}
	}
	if id := added[tarn+", drive"]; id > 0 {
		if _, err := s.Sources.Collect(ctx, person, id, nil); err != nil {
			return err
		}
	}
	return nil
}
