package gallery

import (
	"context"
	"strings"
	"time"

	"ambrosa/core/colour"
	"ambrosa/core/gallery"
	"ambrosa/core/rights"
	"ambrosa/core/tidy"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"

	"github.com/jackc/pgx/v5"
)

// picturesSQL reads what pictures are. Each of these reads all, or some where their numbers are given; by hand, as they come row by row.
const picturesSQL = `SELECT a.id, a.format, a.width, a.height, a.likeness, a.palette, a.created_at, a.placeholder, a.binned_at IS NOT NULL, a.tags, a.note,
	EXISTS (SELECT 1 FROM placement p WHERE p.asset_id = a.id), coalesce(f.version, 0), coalesce(f.true_width, 0), coalesce(f.padded, 0), coalesce(f.sideways, 0),
	coalesce(f.profile, '-'), coalesce(f.model, ''), coalesce(f.transparent, false)
	FROM asset a LEFT JOIN asset_fact f ON f.asset_id = a.id WHERE a.doomed_at IS NULL AND ($1::bigint[] IS NULL OR a.id = ANY ($1))`

// writtenSQL reads what is written of pictures, a thing a row: where they came from, whose they are, their texts.
const writtenSQL = `SELECT v.asset_id, v.path || E'\n' || d.supplier || E'\n' || coalesce(s.name, ''), coalesce(d.source_id, 0), v.id
	FROM arrival v JOIN delivery d ON d.id = v.delivery_id LEFT JOIN source s ON s.id = d.source_id
	WHERE v.asset_id IS NOT NULL AND ($1::bigint[] IS NULL OR v.asset_id = ANY ($1))
	UNION ALL SELECT p.asset_id, o.sku || E'\n' || o.title || E'\n' || coalesce(f.sku || E'\n' || f.title, ''), 0, 9223372036854775807
	FROM placement p JOIN owner o ON o.id = p.owner_id LEFT JOIN owner f ON f.id = o.parent AND o.kind = 'variant' WHERE $1::bigint[] IS NULL OR p.asset_id = ANY ($1)
	UNION ALL SELECT w.asset_id, w.text, 0, 9223372036854775807 FROM wording w
	WHERE w.field = 'alt' AND EXISTS (SELECT 1 FROM placement p WHERE p.owner_id = w.owner_id AND p.asset_id = w.asset_id) AND ($1::bigint[] IS NULL OR w.asset_id = ANY ($1))
	ORDER BY 1, 4`

// read returns lines of all pictures, or of some that are there.
func read(ctx context.Context, tx pgx.Tx, ids []int64) ([]gallery.Line, error) {
	rows, err := tx.Query(ctx, picturesSQL, ids)
	if err != nil {
		return nil, err
	}
	now := time.Now()
	lines, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (gallery.Line, error) { return line(row, now) })
	if err != nil {
		return nil, err
	}
	at := make(map[int64]int, len(lines))
	for i, l := range lines {
		at[l.ID] = i
	}
	if err := written(ctx, tx, ids, lines, at); err != nil {
		return nil, err
	}
	return lines, allowed(ctx, query.New(tx), ids, lines, at)
}

func line(row pgx.CollectableRow, now time.Time) (l gallery.Line, err error) {
	var (
		format, profile, model, note       string
		width, height                      int
		likeness                           *int64
		palette                            []byte
		came                               time.Time
		placeholder, binned, placed, alpha bool
		tags                               []string
		version, trueWidth, padded, turned int
	)
	if err := row.Scan(&l.ID, &format, &width, &height, &likeness, &palette, &came, &placeholder, &binned, &tags, &note, &placed, &version, &trueWidth, &padded, &turned,
		&profile, &model, &alpha); err != nil {
		return l, err
	}
	l.Facets = gallery.ShapeOf(width, height) | gallery.FormatOf(format) | gallery.AgeOf(came, now) | gallery.RightsUnsaid
	if likeness != nil {
		l.Likeness, l.HasLook = uint64(*likeness), true
	}
	add := func(is bool, f gallery.Facets) {
		if is {
			l.Facets |= f
		}
	}
	add(binned, gallery.Binned)
	add(!binned && placed, gallery.Placed)
	add(!binned && !placed, gallery.Unplaced)
	add(placeholder && !binned, gallery.Placeholder)
	add(tidy.Asset{Tags: tags}.IsKept(), gallery.Kept)
	add(version == 0, gallery.Unchecked)
	add(version > 0 && trueWidth > 0 && trueWidth < width, gallery.Enlarged)
	add(padded >= tidy.Usual.PaddedPercent*10, gallery.Padded)
	add(turned != 0, gallery.Sideways)
	add(model == "cmyk" || profile != "-" && !tidy.IsSRGB(profile), gallery.OtherColours)
	add(alpha, gallery.Transparent)
	l.Facets |= toneOf(colour.Unpack(palette))
	l.Text = strings.Join(append(tags, note), "\n")
	return l, nil
}

// toneOf is what a picture's main colour is. Common practice, no source.
func toneOf(palette []colour.Swatch) gallery.Facets {
	if len(palette) == 0 {
		return 0
	}
	const grey, light = 14, 55
	switch main := palette[0].Lab; {
	case main.Chroma() > grey:
		return gallery.Coloured
	case main.L >= light:
		return gallery.Light
	}
	return gallery.Dark
}

// written adds what is written of pictures to their lines, and the source that each came from first.
func written(ctx context.Context, tx pgx.Tx, ids []int64, lines []gallery.Line, at map[int64]int) error {
	rows, err := tx.Query(ctx, writtenSQL, ids)
	if err != nil {
		return err
	}
	var id, source, order int64
	var text string
	var builder strings.Builder
	open := -1
	end := func() {
		if open >= 0 {
			lines[open].Text = builder.String()
			builder.Reset()
		}
	}
	_, err = pgx.ForEachRow(rows, []any{&id, &text, &source, &order}, func() error {
		i, there := at[id]
		if !there {
			return nil
		}
		if i != open {
			end()
			open = i
			builder.WriteString(lines[i].Text)
			lines[i].Source = source
		}
		if builder.Len() < mostText {
			builder.WriteByte('\n')
			builder.WriteString(text)
		}
		return nil
	})
	end()
	return err
}

// mostText is how many bytes are kept of what is written of one picture: one that thousands of owners show is found by the first of them.
const mostText = 4000

// allowed adds what is said of the pictures' rights.
func allowed(ctx context.Context, q *query.Queries, ids []int64, lines []gallery.Line, at map[int64]int) error {
	if ids == nil {
		var err error
		if ids, err = q.AssetsWithRights(ctx); err != nil {
			return err
		}
	}
	of, err := pictures.Rights(ctx, q, ids)
	for id, r := range of {
		i, there := at[id]
		if !there {
			continue
		}
		f := gallery.RightsUnsaid
		switch r.May {
		case rights.Cleared:
			f = gallery.Cleared
		case rights.Internal:
			f = gallery.Internal
		case rights.NotCleared:
			f = gallery.NotCleared
		}
		lines[i].Facets = lines[i].Facets&^gallery.RightsUnsaid | f
	}
	return err
}
