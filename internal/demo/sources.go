package demo

import (
	"context"
	"errors"
	"fmt"
	"time"

	"ambrosa/core/page"
	"ambrosa/core/rights"
	"ambrosa/internal/program"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"
)

// shopSource is what the source of the shop's pages is called.
const shopSource = "Windhover Remnants, shop"

// ShopGuide says how the shop's pages are read. It was pointed at, not written.
func ShopGuide() page.Guide {
	pause := 0.0
	return page.Guide{Form: 1, Start: []string{"http://" + ShopHost + "/remnants?page=1"}, Next: page.Next{Selector: "a.later"}, Items: page.Items{Selector: "li.good"},
		Title: page.Field{Selector: "h1.title"}, SKU: page.Field{Selector: "b.code"}, Pictures: page.Pictures{Selector: "a.shot img"}, Not: page.Not{Least: 500}, Limits: page.Limits{Pause: &pause}}
}

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
		{Name: shopSource, Kind: sources.Pages, Supplier: "Windhover Remnants", Rights: rights.Rights{May: rights.Internal, Holder: "Windhover Remnants"}},
		{Name: "Fellmap, barcodes", Kind: sources.Lookup, Secrets: map[string]string{"key": LookupKey}, Settings: sources.Settings{Lookup: &sources.Service{
			Address: "http://" + LookupHost + "/v1/gtin/{gtin}", Header: LookupHeader, Pictures: "$.items[*].photos[*].href", Title: "$.items[0].name", Licence: "$.items[0].licence", ADay: 40}}},
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
	if id := added[shopSource]; id > 0 {
		if _, err := s.Sources.SetGuide(ctx, by, id, ShopGuide()); err != nil {
			return err
		}
		if _, err := s.Sources.CollectAs(ctx, person, id, nil, sources.Wish{}); err != nil {
			return err
		}
	}
	return nil
}
