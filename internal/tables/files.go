package tables

import (
	"context"
	"strings"

	"ambrosa/core/message"
	"ambrosa/core/table"
	"ambrosa/internal/store/query"
)

// mostNames is how many pictures are looked through by name: of more, the newest.
const mostNames = 500_000

// files are the pictures that a table may name: those of the deliveries that belong to it first, then those of a delivery, or of all.
func (t *Tables) files(ctx context.Context, w query.WorksheetByIDRow) (*table.Files, error) {
	own, err := t.Store.OwnPictures(ctx, query.OwnPicturesParams{ID: w.ID, Most: mostNames})
	if err != nil {
		return nil, err
	}
	var l fileList
	for _, r := range own {
		f := table.File{Path: r.Path, Asset: r.Asset, SHA: r.Sha, Attached: true, Address: r.Address}
		if r.Asset == 0 {
			m := message.New("fetch_failed", "address", r.Address)
			if len(r.Message) > 0 {
				if m, err = readMessage(r.Message); err != nil {
					return nil, err
				}
			}
			f.Failed = &m
		}
		l.add(f)
	}
	of := int64(0)
	if w.DeliveryID != nil {
		of = *w.DeliveryID
	}
	rows, err := t.Store.PictureNames(ctx, query.PictureNamesParams{Delivery: of, Most: mostNames})
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		l.add(table.File{Path: r.Path, Asset: r.Asset, SHA: r.Sha, Else: of == 0})
	}
	choices, err := t.Store.WorksheetChoices(ctx, w.ID)
	if err != nil {
		return nil, err
	}
	files := table.FilesOf(l.files)
	files.Choice, files.Chosen = table.Choice(w.Choice), make(map[table.Named]table.Pick, len(choices))
	for _, c := range choices {
		files.Chosen[table.Named{Row: int(c.Row), Name: c.Name}] = table.Pick{Asset: c.AssetID, Everywhere: c.Everywhere}
	}
	return files, nil
}

// fileList gathers files, those that are meant first. Another one of the same name and bytes is no other, and of one path in several
// deliveries the newest is meant.
type fileList struct {
	files []table.File
	alike map[nameOf]bool
	paths map[pathIn]bool
}

type nameOf struct {
	base  string
	asset int64
}

type pathIn struct {
	path     string
	attached bool
}

func (l *fileList) add(f table.File) {
	if l.alike == nil {
		l.alike, l.paths = map[nameOf]bool{}, map[pathIn]bool{}
	}
	if f.Address == "" {
		base, path := nameOf{f.Path[strings.LastIndexByte(f.Path, '/')+1:], f.Asset}, pathIn{f.Path, f.Attached}
		if l.alike[base] || l.paths[path] {
			return
		}
		l.alike[base], l.paths[path] = true, true
	}
	l.files = append(l.files, f)
}
