// Package program puts the parts together into one running program.
package program

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"

	"ambrosa/internal/api"
	"ambrosa/internal/assets"
	"ambrosa/internal/browser"
	"ambrosa/internal/catalogue"
	"ambrosa/internal/cluster"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gallery"
	"ambrosa/internal/gather"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/saved"
	"ambrosa/internal/gather/source/upload"
	"ambrosa/internal/hand"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pages"
	"ambrosa/internal/pair"
	"ambrosa/internal/people"
	"ambrosa/internal/photo"
	"ambrosa/internal/publish"
	"ambrosa/internal/seal"
	"ambrosa/internal/sources"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/asset"
	"ambrosa/internal/subject/channel"
	"ambrosa/internal/subject/delivery"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/symbols"
	"ambrosa/internal/tables"
	"ambrosa/internal/tell"
	"ambrosa/internal/tidy"
	"ambrosa/internal/wording"

	"github.com/jackc/pgx/v5"
)

// ErrPort is returned where another program listens on the port.
var ErrPort = errors.New("the port is taken by another program; choose one with --port or PORT")

// Settings of a start.
type Settings struct {
	Data     string // folder of everything that is kept
	Database string // address of a server; empty for a private one in the data folder
	Pictures string // folder or bucket of the pictures; empty for one in the data folder
	Limits   source.Limits
	Join     bool        // use the private server of a process that runs already
	Folders  []string    // of this machine, below which drives may be
	Key      string      // with which secrets are kept; empty for one in the data folder
	Outside  api.Outside // the demo's outside world; nil for the real one
	Door     fetch.Door  // to what comes from addresses
	Browser  string      // a program that shows pages; empty for none
	Secure   bool        // the address before it is https
	Site     string      // where it is reached, where no admin says another address
	Proxies  api.Proxies
	Web      fs.FS
}

// Program is everything but the listening.
type Program struct {
	Database   string // its address
	Store      *store.Store
	requests   *store.Store // the same, over connections kept for requests
	Vault      *assets.Vault
	Register   *people.Register
	Gatherer   *gather.Gatherer
	Jobs       *jobs.Jobs
	Ledger     *ledger.Ledger
	Pairer     *pair.Pairer
	Tables     *tables.Tables
	Sources    *sources.Sources
	Wording    *wording.Wording
	Hand       *hand.Hand
	Collecting *hand.Collecting
	Gallery    *gallery.Gallery
	Tidy       *tidy.Tidy
	Photos     *photo.Photos
	Publish    *publish.Publish
	Tell       *tell.Tell
	Demo       bool // whether it shows the demo world; set before Serve
	settings   Settings
	cluster    *cluster.Cluster
	end        context.CancelFunc
}

// softMemory keeps the garbage collector ahead of taking in large archives; libvips' own memory is beside it.
const softMemory = 900 << 20

// Open opens the database, the pictures and the work on them. Close ends it.
func Open(ctx context.Context, set Settings) (*Program, error) {
	debug.SetMemoryLimit(softMemory)
	s := &Program{settings: set}
	ctx, s.end = context.WithCancel(ctx)
	if err := s.open(ctx); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

func (s *Program) open(ctx context.Context) (err error) {
	uploads := filepath.Join(s.settings.Data, "uploads")
	if err := os.MkdirAll(uploads, 0o755); err != nil {
		return fmt.Errorf("the data folder: %w", err)
	}
	url := s.settings.Database
	if url == "" {
		if s.cluster, err = cluster.Start(ctx, filepath.Join(s.settings.Data, "postgres"), cluster.Options{Join: s.settings.Join}); err != nil {
			return err
		}
		url = s.cluster.URL
	}
	place := s.settings.Pictures
	if place == "" {
		place = filepath.Join(s.settings.Data, "pictures")
	}
	if s.Vault, err = assets.OpenVault(ctx, place); err != nil {
		return err
	}
	s.Database = url
	if s.Store, err = store.Open(ctx, url); err != nil {
		return err
	}
	if s.requests, err = s.Store.ForRequests(ctx); err != nil {
		return err
	}
	s.Register = &people.Register{Store: s.requests}
	if s.Jobs, err = jobs.New(ctx, s.Store); err != nil {
		return err
	}
	s.Gatherer = &gather.Gatherer{Store: s.Store, Jobs: s.Jobs, Vault: s.Vault, Folder: uploads, Limits: s.settings.Limits}
	s.Gatherer.Register()
	s.Ledger = ledger.New(s.Store, s.Jobs, owner.Subject{}, pictures.Subject{}, asset.Subject{Store: s.Store, Vault: s.Vault}, delivery.Subject{})
	s.Publish = &publish.Publish{Store: s.Store, Jobs: s.Jobs, Ledger: s.Ledger, Vault: s.Vault, MaxPixels: s.settings.Limits.Pixels, Usual: s.settings.Site}
	s.Ledger.Register(channel.Subject{Sender: s.Publish}, channel.Subject{Sender: s.Publish, Lists: true})
	s.Wording = wording.New(s.Store, s.Ledger)
	s.Hand = &hand.Hand{Store: s.Store, Ledger: s.Ledger}
	s.Tables = &tables.Tables{Store: s.Store, Ledger: s.Ledger, Jobs: s.Jobs, Folder: uploads, Gatherer: s.Gatherer,
		Fetch: fetch.New(&s.settings.Door, fetch.DefaultLimits)}
	s.Tables.Register()
	keeper, err := seal.New(s.settings.Key, filepath.Join(s.settings.Data, "key"))
	if err != nil {
		return err
	}
	s.Sources = &sources.Sources{Store: s.Store, Jobs: s.Jobs, Gatherer: s.Gatherer, Ledger: s.Ledger, Keeper: keeper, Door: &s.settings.Door, Fetch: s.Tables.Fetch,
		Folders: s.settings.Folders, Drops: filepath.Join(uploads, "drops")}
	s.Sources.Pages = &pages.Reader{Fetch: s.Tables.Fetch, Pixels: s.settings.Limits.Pixels}
	if s.settings.Browser != "" {
		shown, err := browser.New(s.settings.Browser, &s.settings.Door, browser.DefaultLimits)
		if err != nil {
			return err
		}
		s.Sources.Pages.Browser = shown
	}
	s.Gatherer.Saved = func(sent *upload.Source) source.Source {
		return &saved.Source{Sent: sent, Reader: s.Sources.Pages, Guide: s.Sources.GuideFor}
	}
	s.Sources.Kept = pages.Kept{Folder: filepath.Join(uploads, "pages")}
	s.Sources.Tables, s.Tables.Ready = s.Tables, s.Sources.TableReady
	s.Sources.Register()
	s.Gatherer.Lists, s.Gatherer.Kinds = s.Tables, s.Sources.Openers()
	s.Gatherer.Kinds[tables.SourceKind] = s.Tables.Source
	s.Collecting = &hand.Collecting{Gatherer: s.Gatherer, Fetch: s.Tables.Fetch}
	s.Gatherer.Kinds[hand.SourceKind] = s.Collecting.Source
	s.Gatherer.Finished = func(ctx context.Context, q *query.Queries, tx pgx.Tx, delivery int64) error {
		return errors.Join(s.Tables.Arrived(ctx, q, tx, delivery), s.Sources.Arrived(ctx, q, tx, delivery), s.Photos.Arrived(ctx, q, tx))
	}
	s.Gallery = &gallery.Gallery{Store: s.Store}
	s.Tidy = &tidy.Tidy{Store: s.Store, Jobs: s.Jobs, Ledger: s.Ledger, Vault: s.Vault, Gallery: s.Gallery, MaxPixels: s.settings.Limits.Pixels}
	s.Tidy.Register()
	s.Photos = &photo.Photos{Store: s.Store, Jobs: s.Jobs, Vault: s.Vault, Reader: &symbols.Reader{}, MaxPixels: s.settings.Limits.Pixels}
	s.Photos.Register()
	s.Publish.Wording, s.Publish.Drives = s.Wording, s.Sources
	s.Publish.Keeps = func(ctx context.Context) (int, error) {
		l, err := s.Tidy.Limits(ctx)
		return l.BinDays, err
	}
	s.Publish.Register()
	s.Tell = &tell.Tell{Store: s.Store, Jobs: s.Jobs, Door: &s.settings.Door, Keeper: keeper, Site: func(ctx context.Context) (string, error) {
		h, err := s.Publish.House(ctx)
		return h.Site, err
	}}
	s.Tell.Register()
	s.Ledger.Final = []string{tidy.Empty}
	s.Pairer = &pair.Pairer{Store: s.Store, Ledger: s.Ledger, Snapshots: &catalogue.Snapshots{Store: s.Store}}
	daily := func(name string, clear func(context.Context) error) {
		s.Jobs.Register(jobs.Kind{Name: name, Every: 24 * time.Hour, Work: func(ctx context.Context, _ int64) error { return clear(ctx) }})
	}
	daily("clear_people", s.Register.Clear)
	daily("clear_owner_log", func(ctx context.Context) error { return catalogue.ClearLog(ctx, s.Store) })
	daily("clear_asset_log", s.Gallery.ClearLog)
	daily("clear_stale", s.Tidy.ClearStale)
	daily("clear_worksheets", s.Tables.Clear)
	daily("clear_pages", s.Sources.Kept.Clear)
	daily("clear_steps", s.Pairer.ClearSteps)
	daily("clear_downloads", s.Gatherer.ClearDownloads)
	return nil
}

// Stopping: requests in hand may end, then they are ended.
const grace = 3 * time.Second

// Serve works and answers on the listener until ctx ends, then lets work in hand come to a safe place. It ends with an
// error where the database is gone for good.
func (s *Program) Serve(ctx context.Context, listener net.Listener) error {
	if err := s.Vault.Ready(ctx); err != nil {
		slog.Error("pictures can't be taken in", "error", err)
	}
	requests, end := context.WithCancel(context.WithoutCancel(ctx))
	defer end()
	work, stop := context.WithCancel(ctx)
	defer stop()
	server := api.Server{Base: requests, Stopping: work.Done(), Store: s.requests, Vault: s.Vault, Register: s.Register, Gatherer: s.Gatherer,
		Pairer: s.Pairer, Tables: s.Tables, Sources: s.Sources, Wording: s.Wording, Hand: s.Hand, Collecting: s.Collecting, Ledger: s.Ledger, Jobs: s.Jobs, Gallery: s.Gallery, Tidy: s.Tidy, Photos: s.Photos, Publish: s.Publish, Tell: s.Tell,
		Web: s.settings.Web, Secure: s.settings.Secure, Demo: s.Demo, Outside: s.settings.Outside, Proxies: s.settings.Proxies}
	app, err := server.App()
	if err != nil {
		return err
	}
	if err := s.Jobs.Start(work); err != nil {
		return err
	}
	go func() {
		if err := s.Gallery.Warm(work); err != nil && work.Err() == nil {
			slog.Warn("reading the pictures ahead", "error", err)
		}
	}()
	served := make(chan error, 1)
	go func() { served <- app.Listener(listener) }()
	var ended error
	select {
	case err := <-served:
		return err
	case ended = <-s.gone():
	case <-ctx.Done():
	}
	slog.Info("stopping")
	stop()
	if err := app.ShutdownWithTimeout(grace); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		slog.Warn("ending the requests in hand", "error", err)
	}
	end()
	if ended == nil {
		s.Jobs.Wait()
	}
	return ended
}

// gone tells of a private database that does not come back.
func (s *Program) gone() <-chan error {
	if s.cluster == nil {
		return nil
	}
	return s.cluster.Gone()
}

// Close ends what Open began.
func (s *Program) Close() {
	s.end()
	if s.Store != nil {
		s.Store.Close()
	}
	if s.Vault != nil {
		s.Vault.Close()
	}
	if s.cluster != nil {
		s.cluster.Stop()
	}
}

// Listen takes the address, or says that it is taken.
func Listen(address string) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("%w (%s)", ErrPort, address)
	}
	return l, err
}

// Reset removes everything a data folder keeps. cluster.ErrInUse where a server runs with it.
func Reset(data string) error {
	if err := cluster.Remove(filepath.Join(data, "postgres")); err != nil {
		return err
	}
	for _, part := range []string{"pictures", "uploads", "key", "outside"} {
		if err := os.RemoveAll(filepath.Join(data, part)); err != nil {
			return err
		}
	}
	return nil
}
