// Package sources keeps where deliveries come from, named once and collected from as often as one likes: drives, drop folders, lists of
// addresses, and uploads of one supplier.
package sources

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"ambrosa/core/rights"
	"ambrosa/internal/drive"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pages"
	"ambrosa/internal/seal"
	"ambrosa/internal/store"
	"ambrosa/internal/store/query"
	"ambrosa/internal/tables"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

var (
	// ErrName is returned for a name that another source has.
	ErrName = errors.New("another source has this name")
	// ErrSettings is returned for settings that can't be.
	ErrSettings = errors.New("the source can't be kept so")
	// ErrHost is returned for a drive at a host that no admin allowed.
	ErrHost = errors.New("no admin has allowed drives at this host")
	// ErrFolder is returned for a folder of the server that its operator does not allow.
	ErrFolder = errors.New("this folder of the server is not allowed; who runs the server allows folders by AMBROSA_FOLDERS")
	// ErrBusy is returned for a visit to a source that is being collected from.
	ErrBusy = errors.New("the source is being collected from already")
	// ErrNotCollected is returned for a visit to a source to which files are sent.
	ErrNotCollected = errors.New("files are sent to this source; there is nothing to collect")
	// ErrNoGuide is returned for a walk where nobody said how the pages are read.
	ErrNoGuide = errors.New("nobody said yet where its pages are; make a guide first")
	// ErrNothingToAsk is returned for a lookup where no product without a picture has a barcode that could be asked for.
	ErrNothingToAsk = errors.New("no product without a picture has a barcode that could be asked for")
	// ErrNotMine is returned where an editor changes a source of somebody else.
	ErrNotMine = errors.New("only who made a source, or an admin, may change it")
)

// Kind is a kind of source.
type Kind string

const (
	Upload    Kind = "upload"
	Drive     Kind = "drive"
	Drop      Kind = "drop"
	Addresses Kind = "addresses"
	Pages     Kind = "pages"
	Lookup    Kind = "lookup"
)

// isVisited reports whether there is something to collect from sources of a kind, by anybody at any time.
func (k Kind) isVisited() bool { return k == Drive || k == Addresses || k == Pages }

// Kinds are all that there are.
var Kinds = []Kind{Upload, Drive, Drop, Addresses, Pages, Lookup}

// Settings are what a source of a kind needs; secrets lie elsewhere.
type Settings struct {
	Protocol    string            `json:"protocol,omitempty"` // of a drive
	Values      map[string]string `json:"values,omitempty"`   // of the protocol's fields
	Folder      string            `json:"folder,omitempty"`
	HostKey     string            `json:"hostKey,omitempty"`     // that an SFTP host had when it was first met
	Certificate string            `json:"certificate,omitempty"` // that is trusted by its fingerprint
	Connections int               `json:"connections,omitempty"` // at once; 0 for the usual number
	Login       string            `json:"login,omitempty"`       // of a drop folder: its name in the address
	Quiet       int               `json:"quiet,omitempty"`       // seconds without a file after which a drop folder's are taken in
	Tables      string            `json:"tables,omitempty"`      // what is done with tables that come: TablesPlan, TablesApply, or nothing by itself
	Quota       int64             `json:"quota,omitempty"`       // bytes a drop folder holds; 0 for the usual
	Lookup      *Service          `json:"lookup,omitempty"`      // of a lookup
}

// Filters say which files of a source are collected.
type Filters struct {
	Names string   `json:"names,omitempty"` // a glob over the path
	Types []string `json:"types,omitempty"` // extensions, as jpg
	Least int      `json:"least,omitempty"` // pixels of the longer side
	Newer string   `json:"newer,omitempty"` // a day, as 2026-12-31
}

// Source is what is said of a source.
type Source struct {
	Name     string
	Kind     Kind
	Settings Settings
	Secrets  map[string]string // those that change; nil keeps all
	Filters  Filters
	Supplier string
	Rights   rights.Rights
}

// Asker is who asks: an editor changes their own sources, an admin all.
type Asker struct {
	Person int64
	Admin  bool
}

// Sources keeps sources. Folders are those of the server below which drives may be.
type Sources struct {
	Store    *store.Store
	Jobs     *jobs.Jobs
	Gatherer *gather.Gatherer
	Ledger   *ledger.Ledger
	Tables   *tables.Tables
	Keeper   *seal.Keeper
	Door     *fetch.Door
	Fetch    *fetch.Fetcher
	Pages    *pages.Reader
	Kept     pages.Kept
	Folders  []string
	Drops    string // where what comes into drop folders lies
	doors    doorkeeper
}

// Register registers the work that the clock does on sources.
func (s *Sources) Register() {
	s.Jobs.Register(jobs.Kind{Name: "visits_due", Every: 20 * time.Second, Work: func(ctx context.Context, _ int64) error {
		return errors.Join(s.Due(ctx), s.takeTables(ctx))
	}})
	s.Jobs.Register(jobs.Kind{Name: Reconciling, Unit: "files", Workers: 2, Topic: "delivery", Trouble: gather.Meaning, Work: s.reconcile})
	s.Jobs.Register(jobs.Kind{Name: "drops_due", Every: 10 * time.Second, Work: func(ctx context.Context, _ int64) error { return s.TakeDrops(ctx) }})
}

// Openers are the kinds of deliveries that it collects.
func (s *Sources) Openers() map[string]gather.Opener {
	return map[string]gather.Opener{string(Drive): s.open, string(Addresses): s.open, string(Pages): s.open, string(Lookup): s.open, string(Drop): s.openDrop}
}

// usual settings.
const (
	connections     = 4
	mostConnections = 16
	mostName        = 200
)

func (s Source) check() error {
	if err := checkRights(s.Rights); err != nil {
		return err
	}
	problem := ""
	switch {
	case strings.TrimSpace(s.Name) == "" || len(s.Name) > mostName:
		problem = "it needs a name"
	case !slices.Contains(Kinds, s.Kind):
		problem = "there is no such kind"
	case s.Filters.Newer != "" && !isDay(s.Filters.Newer):
		problem = "a day is written as 2026-12-31"
	case s.Settings.Connections < 0 || s.Settings.Connections > mostConnections:
		problem = fmt.Sprintf("it may use 1 to %d connections", mostConnections)
	case !slices.Contains([]string{"", TablesPlan, TablesApply}, s.Settings.Tables):
		problem = "tables are planned, applied, or left to people"
	case s.Filters.Least < 0:
		problem = "pixels are counted from 0"
	}
	if problem != "" {
		return fmt.Errorf("%w: %s", ErrSettings, problem)
	}
	return nil
}

func isDay(text string) bool {
	_, err := time.Parse(time.DateOnly, text)
	return err == nil
}

// Add adds a source and returns its number.
func (s *Sources) Add(ctx context.Context, by Asker, of Source) (id int64, err error) {
	if of.Kind == Lookup && of.Rights.May == rights.Unsaid {
		of.Rights.May = rights.NotCleared // but for what it states a licence for
	}
	if err := s.admit(ctx, of, of.Secrets); err != nil {
		return 0, err
	}
	settings, filters, err := of.json()
	if err != nil {
		return 0, err
	}
	err = s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error {
		id, err = q.AddSource(ctx, query.AddSourceParams{Name: strings.TrimSpace(of.Name), Kind: string(of.Kind), Settings: settings, Filters: filters, Supplier: of.Supplier,
			May: string(of.Rights.May), Until: of.Rights.Until, Holder: of.Rights.Holder, Proof: of.Rights.Proof, CreatedBy: by.Person})
		if err != nil {
			return taken(err)
		}
		return s.set(ctx, q, id, of, settings, filters)
	})
	return id, err
}

// Set changes a source; secrets that are not named stay.
func (s *Sources) Set(ctx context.Context, by Asker, id int64, of Source) error {
	now, err := s.mine(ctx, by, id)
	if err != nil {
		return err
	}
	of.Kind = Kind(now.Kind)
	secrets, err := s.secrets(now)
	if err != nil && of.Secrets == nil {
		return err
	}
	if of.Secrets != nil {
		kept := map[string]string{}
		maps.Copy(kept, secrets)
		maps.Copy(kept, of.Secrets)
		of.Secrets = kept
		secrets = kept
	}
	if err := s.admit(ctx, of, secrets); err != nil {
		return err
	}
	settings, filters, err := of.json()
	if err != nil {
		return err
	}
	return s.Store.Tx(ctx, func(q *query.Queries, _ pgx.Tx) error { return s.set(ctx, q, id, of, settings, filters) })
}

func (s *Sources) set(ctx context.Context, q *query.Queries, id int64, of Source, settings, filters json.RawMessage) error {
	var sealed []byte
	if of.Secrets != nil {
		plain, err := json.Marshal(of.Secrets)
		if err != nil {
			return err
		}
		sealed = s.Keeper.Seal(plain, sealedFor(id))
	}
	n, err := q.SetSource(ctx, query.SetSourceParams{ID: id, Name: strings.TrimSpace(of.Name), Settings: settings, Secrets: sealed, Filters: filters, Supplier: of.Supplier,
		May: string(of.Rights.May), Until: of.Rights.Until, Holder: of.Rights.Holder, Proof: of.Rights.Proof})
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return taken(err)
}

// sealedFor names what a source's secrets belong to.
func sealedFor(id int64) string { return fmt.Sprintf("source %d", id) }

func taken(err error) error {
	var of *pgconn.PgError
	if errors.As(err, &of) && of.Code == "23505" {
		return ErrName
	}
	return err
}

func (s Source) json() (settings, filters json.RawMessage, err error) {
	settings, err = json.Marshal(s.Settings)
	if err != nil {
		return nil, nil, err
	}
	filters, err = json.Marshal(s.Filters)
	return settings, filters, err
}

// Remove removes a source: what is being collected from it stops, and what came stays.
func (s *Sources) Remove(ctx context.Context, by Asker, id int64) error {
	if _, err := s.mine(ctx, by, id); err != nil {
		return err
	}
	if n, err := s.Store.RemoveSource(ctx, id); err != nil || n == 0 {
		return errors.Join(err, pgx.ErrNoRows)
	}
	visits, err := s.Store.VisitsAtWork(ctx, id)
	if err != nil {
		return err
	}
	for _, v := range visits {
		if err := s.Gatherer.Stop(ctx, v); err != nil && !errors.Is(err, gather.ErrState) {
			return err
		}
	}
	return s.Store.DropSchedule(ctx, query.DropScheduleParams{What: scheduled, Subject: id})
}

// mine returns a source that who asks may change.
func (s *Sources) mine(ctx context.Context, by Asker, id int64) (query.Source, error) {
	of, err := s.Store.SourceByID(ctx, id)
	switch {
	case err != nil:
		return of, err
	case of.RemovedAt != nil:
		return of, pgx.ErrNoRows
	case of.CreatedBy != by.Person && !by.Admin:
		return of, ErrNotMine
	}
	return of, nil
}

// Bind makes a delivery one of a source: its supplier and rights are those of the source, and it is paired as the last of it was.
func (s *Sources) Bind(ctx context.Context, delivery, id int64) error {
	of, err := s.Store.SourceByID(ctx, id)
	if err == nil && of.RemovedAt != nil {
		err = pgx.ErrNoRows
	}
	if err != nil {
		return err
	}
	return s.Store.BindDelivery(ctx, query.BindDeliveryParams{Delivery: delivery, Source: id})
}

// SetDeliveryRights says what the pictures of a delivery may be used for.
func (s *Sources) SetDeliveryRights(ctx context.Context, delivery int64, r rights.Rights) error {
	if err := checkRights(r); err != nil {
		return err
	}
	n, err := s.Store.SetDeliveryRights(ctx, query.SetDeliveryRightsParams{ID: delivery, May: string(r.May), Until: r.Until, Holder: r.Holder, Proof: r.Proof})
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}

// SetRights says what a picture may be used for, whatever it came by.
func (s *Sources) SetRights(ctx context.Context, person int64, sha []byte, r rights.Rights) error {
	if err := checkRights(r); err != nil {
		return err
	}
	if r.May == rights.Unsaid {
		return fmt.Errorf("%w: say what the picture may be used for", ErrSettings)
	}
	asset, err := s.Store.AssetBySha(ctx, sha)
	if err != nil {
		return err
	}
	return s.Store.SetRights(ctx, query.SetRightsParams{Asset: asset, May: string(r.May), Until: r.Until, Holder: r.Holder, Proof: r.Proof, Person: person})
}

func checkRights(r rights.Rights) error {
	if !slices.Contains([]rights.May{rights.Unsaid, rights.Cleared, rights.Internal, rights.NotCleared}, r.May) || r.Until != "" && !isDay(r.Until) {
		return fmt.Errorf("%w: rights are cleared, internal or not_cleared, until a day such as 2026-12-31", ErrSettings)
	}
	return nil
}

func settingsOf(of query.Source) (set Settings, err error) {
	return set, json.Unmarshal(of.Settings, &set)
}

func (s *Sources) secrets(of query.Source) (map[string]string, error) {
	if of.Secrets == nil {
		return nil, nil
	}
	plain, err := s.Keeper.Open(of.Secrets, sealedFor(of.ID))
	if err != nil {
		return nil, err
	}
	var secrets map[string]string
	return secrets, json.Unmarshal(plain, &secrets)
}

// admit returns an error for a source that may not be: of a drive, one at a host or folder that nobody allowed.
func (s *Sources) admit(ctx context.Context, of Source, secrets map[string]string) error {
	if err := of.check(); err != nil {
		return err
	}
	switch of.Kind {
	case Drive:
		spec, err := specOf(of.Settings, secrets)
		if err != nil {
			return err
		}
		_, err = s.door(ctx, spec)
		return err
	case Drop:
		return of.Settings.checkDrop()
	case Lookup:
		return of.Settings.Lookup.check()
	}
	return nil
}

// specOf is the drive that settings mean. ErrSettings where a field is missing, or unknown.
func specOf(set Settings, secrets map[string]string) (drive.Spec, error) {
	spec := drive.Spec{Kind: set.Protocol, Root: set.Folder, HostKey: set.HostKey, Certificate: set.Certificate, Values: map[string]string{}, Secrets: map[string]string{}}
	protocol, known := drive.ProtocolOf(set.Protocol)
	if !known {
		return spec, fmt.Errorf("%w: there is no protocol %q", ErrSettings, set.Protocol)
	}
	asked := map[string]bool{}
	for _, f := range protocol.Fields {
		asked[f.Name] = true
		value := set.Values[f.Name]
		if f.Secret {
			value = secrets[f.Name]
			spec.Secrets[f.Name] = value
		} else {
			spec.Values[f.Name] = value
		}
		if f.Required && strings.TrimSpace(value) == "" {
			return spec, fmt.Errorf("%w: %q is missing", ErrSettings, f.Name)
		}
	}
	for name := range set.Values {
		if !asked[name] {
			return spec, fmt.Errorf("%w: the protocol has no field %q", ErrSettings, name)
		}
	}
	return spec, nil
}
