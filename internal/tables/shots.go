package tables

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"ambrosa/core/catalogue"
	"ambrosa/core/table"
	"ambrosa/internal/assets"
	owners "ambrosa/internal/catalogue"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"

	"github.com/jackc/pgx/v5"
)

var (
	// ErrShotColumns is returned for a picture table without a column, or with one that there is not.
	ErrShotColumns = errors.New("a picture table needs at least one column, each of those that there are")
	// ErrManyShots is returned for more pictures than a workbook with previews may hold.
	ErrManyShots = fmt.Errorf("a workbook with previews, or one that is written into, may hold at most %d pictures; choose fewer, or leave the preview out", mostShots)
)

const (
	// mostShots is how many pictures a workbook may hold that stands in memory.
	mostShots = 10_000
	// mostPresets is how many presets are listed.
	mostPresets = 200
)

// ShotColumn is a column of a picture table, and what its header says; empty for the column's own name.
type ShotColumn struct {
	Column table.ShotColumn `json:"column"`
	Header string           `json:"header"`
}

// Shots says what a picture table holds: some pictures, else those of a delivery, else those on owners, of a category or of all.
type Shots struct {
	Columns  []ShotColumn
	Side     int     // of previews in pixels
	Pictures []int64 // in this order
	Delivery int64
	Category int64
	Site     string // before links to pictures: https://shop.example
	// Book is a workbook to write into, at Cell of Sheet or below its rows; nil for a new table.
	Book        io.Reader
	Sheet, Cell string
}

// PictureTable writes a picture table in the format of the name. Errors: ErrShotColumns, ErrManyShots, those of sheet.OpenInto and
// sheet.Into, pgx.ErrNoRows.
func (t *Tables) PictureTable(ctx context.Context, s Shots, name string, to io.Writer) error {
	if len(s.Columns) == 0 {
		return ErrShotColumns
	}
	previews := false
	for _, c := range s.Columns {
		if _, ok := table.ReadShotColumn(string(c.Column)); !ok {
			return fmt.Errorf("%w: %q", ErrShotColumns, c.Column)
		}
		previews = previews || c.Column == table.Preview
	}
	if s.Book == nil && (!previews || !strings.HasSuffix(strings.ToLower(name), ".xlsx")) {
		w, err := sheet.NewWriter(to, name)
		if err != nil {
			return err
		}
		if err := w.Row(s.headers()); err != nil {
			return err
		}
		return errors.Join(t.eachShot(ctx, s, func(shot table.Shot) error { return w.Row(s.texts(shot)) }), w.Close())
	}
	into, err := s.open()
	if err != nil {
		return err
	}
	if err := t.fill(ctx, s, into); err != nil {
		return errors.Join(err, into.Close())
	}
	return into.Write(to)
}

func (s Shots) open() (*sheet.Into, error) {
	if s.Book != nil {
		return sheet.OpenInto(s.Book, s.Sheet, s.Cell)
	}
	return sheet.NewInto("Pictures")
}

// numbers are the columns that hold numbers.
var numbers = map[table.ShotColumn]bool{"width": true, "height": true, "bytes": true, "position": true}

// fill writes the header and the rows with their previews.
func (t *Tables) fill(ctx context.Context, s Shots, into *sheet.Into) error {
	var head []sheet.Shown
	for _, h := range s.headers() {
		head = append(head, sheet.Shown{Text: h})
	}
	if err := into.Row(head); err != nil {
		return err
	}
	n := 0
	err := t.eachShot(ctx, s, func(shot table.Shot) error {
		if n++; n > mostShots {
			return ErrManyShots
		}
		row := make([]sheet.Shown, len(s.Columns))
		for i, c := range s.Columns {
			row[i] = sheet.Shown{Text: shot.Text(c.Column), Number: numbers[c.Column]}
			if c.Column == table.Preview {
				picture, err := t.preview(ctx, shot.SHA, s.Side)
				if err != nil {
					return err
				}
				row[i] = sheet.Shown{Text: shot.Alt, Picture: picture, Side: s.Side}
			}
		}
		return into.Row(row)
	})
	if err != nil {
		return err
	}
	for i, c := range s.Columns {
		width := 120
		if c.Column == table.Preview {
			width = s.Side
		}
		if err := into.Wide(i, width); err != nil {
			return err
		}
	}
	return nil
}

// preview is a picture as a small JPEG.
func (t *Tables) preview(ctx context.Context, sha string, side int) ([]byte, error) {
	size := assets.Sizes[len(assets.Sizes)-1]
	for _, larger := range assets.Sizes {
		if larger >= side {
			size = larger
		}
	}
	if side > size {
		size = assets.Sizes[0]
	}
	r, _, err := t.Gatherer.Vault.Open(ctx, assets.DerivativeKey(sha, size))
	if err != nil {
		return nil, err
	}
	defer r.Close()
	webp, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	return assets.Preview(webp, side)
}

func (s Shots) headers() (all []string) {
	for _, c := range s.Columns {
		h := c.Header
		if h == "" {
			h = string(c.Column)
		}
		all = append(all, h)
	}
	return all
}

func (s Shots) texts(shot table.Shot) (all []string) {
	for _, c := range s.Columns {
		all = append(all, shot.Text(c.Column))
	}
	return all
}

// eachShot tells the pictures one after the other.
func (t *Tables) eachShot(ctx context.Context, s Shots, use func(table.Shot) error) error {
	switch {
	case len(s.Pictures) > 0:
		return t.eachPicture(ctx, s, use)
	case s.Delivery != 0:
		return t.eachOfDelivery(ctx, s, use)
	}
	categories, err := owners.Below(ctx, t.Store, s.Category)
	if err != nil {
		return err
	}
	p := query.ShotsOfOwnersParams{Ordinal: -1 << 31, Categories: categories, Most: piece}
	for {
		rows, err := t.Store.ShotsOfOwners(ctx, p)
		if err != nil {
			return err
		}
		for _, r := range rows {
			shot := table.Shot{SHA: r.Sha, Format: r.Format, Path: r.Path, Address: r.Address, Width: int(r.Width), Height: int(r.Height), Bytes: r.Bytes,
				SKU: r.Sku, Title: r.Title, Kind: r.Kind, Position: int(r.Position), Alt: r.Alt, Delivery: r.Delivery, Supplier: r.Supplier}
			if err := use(s.named(shot)); err != nil {
				return err
			}
			p.Ordinal, p.Owner, p.Position = r.Ordinal, r.Owner, r.Position
		}
		if len(rows) < piece {
			return nil
		}
	}
}

func (t *Tables) eachOfDelivery(ctx context.Context, s Shots, use func(table.Shot) error) error {
	if _, err := t.Store.DeliveryTitle(ctx, s.Delivery); err != nil {
		return err
	}
	for after := int64(0); ; {
		rows, err := t.Store.ShotsOfDelivery(ctx, query.ShotsOfDeliveryParams{Delivery: s.Delivery, After: after, Most: piece})
		if err != nil {
			return err
		}
		for _, r := range rows {
			shot := table.Shot{SHA: r.Sha, Format: r.Format, Path: r.Path, Address: r.Address, Width: int(r.Width), Height: int(r.Height), Bytes: r.Bytes,
				SKU: r.Sku, Title: r.Title, Kind: r.Kind, Position: int(r.Position), Alt: r.Alt, Delivery: r.Delivery, Supplier: r.Supplier}
			if err := use(s.named(shot)); err != nil {
				return err
			}
			after = r.Arrival
		}
		if len(rows) < piece {
			return nil
		}
	}
}

func (t *Tables) eachPicture(ctx context.Context, s Shots, use func(table.Shot) error) error {
	for some := range slices.Chunk(s.Pictures, piece) {
		rows, err := t.Store.ShotsOfPictures(ctx, some)
		if err != nil {
			return err
		}
		for _, r := range rows {
			shot := table.Shot{SHA: r.Sha, Format: r.Format, Path: r.Path, Address: r.Address, Width: int(r.Width), Height: int(r.Height), Bytes: r.Bytes,
				SKU: r.Sku, Title: r.Title, Kind: r.Kind, Position: int(r.Position), Alt: r.Alt, Delivery: r.Delivery, Supplier: r.Supplier}
			if err := use(s.named(shot)); err != nil {
				return err
			}
		}
	}
	return nil
}

// named adds what a picture is called and where it is seen.
func (s Shots) named(shot table.Shot) table.Shot {
	shot.Name = shot.Path[strings.LastIndexByte(shot.Path, '/')+1:]
	shot.Link = s.Site + "/api/assets/" + shot.SHA + "/original"
	return shot
}

// Preset is what a picture table holds, saved under a name.
type Preset struct {
	Name    string
	Columns []ShotColumn
	Side    int
}

// SavePreset saves a preset; one of that name is replaced. Errors: ErrName, ErrShotColumns.
func (t *Tables) SavePreset(ctx context.Context, person int64, p Preset) (int64, error) {
	name := strings.TrimSpace(catalogue.CleanText(p.Name))
	if name == "" {
		return 0, ErrName
	}
	for _, c := range p.Columns {
		if _, ok := table.ReadShotColumn(string(c.Column)); !ok {
			return 0, fmt.Errorf("%w: %q", ErrShotColumns, c.Column)
		}
	}
	columns, err := json.Marshal(p.Columns)
	if err != nil || len(p.Columns) == 0 {
		return 0, errors.Join(err, ErrShotColumns)
	}
	return t.Store.SaveShotPreset(ctx, query.SaveShotPresetParams{Name: name, Columns: columns, Side: int32(p.Side), Person: person})
}

// Presets are those that were saved, by name.
func (t *Tables) Presets(ctx context.Context) ([]query.ShotPresetsRow, error) {
	return t.Store.ShotPresets(ctx, mostPresets)
}

// RemovePreset removes one. Errors: pgx.ErrNoRows.
func (t *Tables) RemovePreset(ctx context.Context, id int64) error {
	n, err := t.Store.RemoveShotPreset(ctx, id)
	if err == nil && n == 0 {
		err = pgx.ErrNoRows
	}
	return err
}
