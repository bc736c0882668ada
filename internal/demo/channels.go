package demo

import (
	"context"
	"encoding/hex"
	"errors"

	"ambrosa/core/channel"
	"ambrosa/core/rendition"
	"ambrosa/core/rights"
	"ambrosa/internal/ledger"
	"ambrosa/internal/program"
	"ambrosa/internal/publish"
	"ambrosa/internal/sources"
	"ambrosa/internal/store/query"
)

// FloorHost is the shop's own drive, from which it reads its pictures.
const FloorHost = "files.pellmoorshop.example"

const floorSource = "Pellmoor shop, picture folder"

// packageChannel is in the way of a made-up shop that takes an archive with a list beside it: its own headers, semicolons, and no alt text on variants.
func packageChannel() channel.Channel {
	return channel.Channel{Path: "{sku}/{sku}_{number:00}_{size}", Renditions: []channel.Rendition{
		{Name: "zoom", Size: "1200", Fit: rendition.Inside, Format: rendition.JPEG, Keep: rendition.KeepRights},
		{Name: "tile", Size: "320x320", Fit: rendition.Pad, Format: rendition.WebP, MostBytes: 24_000},
	}, NeedsAlt: true, List: &channel.List{Name: "pictures.csv", Separator: ";", Encoding: "utf-8-bom", LineEnd: "crlf", Yes: "Y", No: "N", NoVariantAlt: true, Columns: []channel.Column{
		{Field: "sku", Header: "SKU"}, {Field: "file", Header: "Picture"}, {Field: "file", Size: "tile", Header: "Tile"}, {Field: "position", Header: "Position"},
		{Field: "main", Header: "Main flag"}, {Field: "alt", Header: "Alt text"}}}}
}

// floorChannel is a folder that a shop reads, flat, which tells capital letters from small ones.
func floorChannel(source int64) channel.Channel {
	return channel.Channel{Source: source, Folder: "pictures", Path: "{sku}-{number}", Removes: true, DifferByCase: true, Least: 300,
		Renditions: []channel.Rendition{{Name: "web", Size: "800", Fit: rendition.Inside, Format: rendition.JPEG, Quality: 80}},
		List: &channel.List{Name: "pictures.csv", PerOwner: true, Columns: []channel.Column{{Field: "sku", Header: "sku"}, {Field: "main_file", Header: "main image"},
			{Field: "other_files", Header: "further images"}}}}
}

// bringChannels makes the demo's channels where they are not there yet. The package is published, but for a picture whose rights hold it back; what would
// go to the folder waits as a plan.
func bringChannels(ctx context.Context, s *program.Program, person, admin int64) error {
	if _, err := s.Publish.Called(ctx, "Kite shop, package"); err == nil {
		return nil
	}
	if err := s.Store.AddDriveHost(ctx, query.AddDriveHostParams{Kind: "webdav", Host: FloorHost, AddedBy: admin}); err != nil {
		return err
	}
	source, err := s.Sources.Add(ctx, sources.Asker{Person: person}, sources.Source{Name: floorSource, Kind: sources.Drive, Secrets: map[string]string{"pass": DriveSecret},
		Settings: sources.Settings{Protocol: "webdav", Values: map[string]string{"url": "http://" + FloorHost + "/", "user": DriveUser}}})
	if err != nil && !errors.Is(err, sources.ErrName) {
		return err
	}
	if err := holdOne(ctx, s, admin); err != nil {
		return err
	}
	for _, c := range []publish.Channel{{Name: "Kite shop, package", Channel: packageChannel()}, {Name: "Shop floor, folder", Channel: floorChannel(source)}} {
		if c.Categories, err = deltas(ctx, s); err != nil {
			return err
		}
		id, err := s.Publish.Add(ctx, person, c)
		if err != nil {
			return err
		}
		if err := s.Publish.Look(ctx, person, id, false); err != nil {
			return err
		}
		if _, err := s.Jobs.Finished(ctx, publish.Work, id); err != nil {
			return err
		}
		of, err := s.Store.ChannelByID(ctx, id)
		if err != nil || of.PlanID == nil || !c.IsPackage() {
			return err
		}
		if err := apply(ctx, s, *of.PlanID, person); err != nil && !errors.Is(err, ledger.ErrApplied) {
			return err
		}
	}
	return nil
}

// deltas is the category that the channels show.
func deltas(ctx context.Context, s *program.Program) ([]int64, error) {
	rows, err := s.Store.AllCategories(ctx)
	for _, r := range rows {
		if r.Title == "Classic deltas" {
			return []int64{r.ID}, err
		}
	}
	return nil, err
}

// holdOne says of one picture that it is not cleared.
func holdOne(ctx context.Context, s *program.Program, admin int64) error {
	rows, err := s.Store.ShotsOfOwners(ctx, query.ShotsOfOwnersParams{Ordinal: -1 << 31, Categories: []int64{}, Most: 12})
	if err != nil || len(rows) == 0 {
		return err
	}
	sha, err := hex.DecodeString(rows[len(rows)-1].Sha)
	if err != nil {
		return err
	}
	return s.Sources.SetRights(ctx, admin, sha, rights.Rights{May: rights.NotCleared, Holder: "Corrie Sailcloth", Proof: "Asked by mail, no answer yet"})
}
