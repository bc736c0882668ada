package demo

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"maps"
	"slices"
	"time"

	"ambrosa/core/placement"
	"ambrosa/core/schedule"
	core "ambrosa/core/tidy"
	"ambrosa/internal/ledger"
	"ambrosa/internal/pair"
	"ambrosa/internal/program"
	"ambrosa/internal/store/query"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tidy"

	"golang.org/x/image/draw"
)

// oldDays is how long ago the leftovers came, so that nothing young speaks for them.
const oldDays = 120

// otherBarcode stands on a pack, and in no catalogue.
const otherBarcode = "9520000123451"

const leftoversTitle = "Windhover Remnants, leftovers of last year"

// leftovers are what an old crate holds: pictures in three sizes, small ones made large, borders, one on its side, a placeholder, and some that
// nobody ever placed.
func leftovers() []file {
	all := of("SLD", "BOX")
	var files []file
	add := func(name string, made func() []byte) { files = append(files, file{"leftovers/" + name, made}) }
	for _, a := range all[:3] {
		add(a.sku+".jpg", func() []byte { return scaled(drawing(a, front, 1200), 600, 80) })
		add(a.sku+" large.png", func() []byte { return asPNG(decoded(drawing(a, front, 1200))) })
		add(a.sku+" thumb.jpg", func() []byte { return scaled(drawing(a, front, 1200), 240, 75) })
	}
	for _, a := range all[3:5] {
		add(a.sku+" big.jpg", func() []byte { return scaled(drawing(a, front, 420), 1260, 88) })
	}
	for _, a := range all[5:7] {
		add(a.sku+" framed.jpg", func() []byte { return framed(drawing(a, back, 900), 260) })
	}
	add(all[7].sku+" side.jpg", func() []byte { return sideways(drawing(all[7], front, 1100)) })
	add("picture follows.png", placeholder)
	add(all[11].sku+" pack.jpg", func() []byte { return labelled(all[11], otherBarcode) })
	more, _ := sleds()
	files = append(files, more...)
	for i, a := range all[8:20] {
		add("unsorted/IMG_"+string(rune('A'+i))+".jpg", func() []byte { return drawing(a, detail, 1000+10*i) })
	}
	return files
}

func decoded(b []byte) image.Image {
	m, _, err := image.Decode(bytes.NewReader(b))
	if err != nil {
		panic(err) // it was drawn here
	}
	return m
}

// scaled is a picture made larger or smaller, as JPEG.
func scaled(b []byte, side, quality int) []byte {
	from := decoded(b)
	to := image.NewRGBA(image.Rect(0, 0, side, side))
	draw.CatmullRom.Scale(to, to.Bounds(), from, from.Bounds(), draw.Src, nil)
	return asJPEG(to, quality)
}

// framed is a picture with a border of one colour.
func framed(b []byte, wide int) []byte {
	from := decoded(b)
	to := image.NewRGBA(image.Rect(0, 0, from.Bounds().Dx()+2*wide, from.Bounds().Dy()+2*wide))
	draw.Draw(to, to.Bounds(), image.NewUniform(color.RGBA{0x5a, 0x6b, 0x7c, 255}), image.Point{}, draw.Src)
	draw.Draw(to, from.Bounds().Add(image.Pt(wide, wide)), from, image.Point{}, draw.Src)
	return asJPEG(to, 90)
}

// placeholder is what shops show where a picture is missing: a grey plate with three dots.
func placeholder() []byte {
	c := image.NewRGBA(image.Rect(0, 0, 800, 800))
	draw.Draw(c, c.Bounds(), image.NewUniform(color.RGBA{0xdd, 0xdd, 0xdd, 255}), image.Point{}, draw.Src)
	for i := range 3 {
		draw.Draw(c, image.Rect(250+i*120, 380, 310+i*120, 440), image.NewUniform(color.RGBA{0x99, 0x99, 0x99, 255}), image.Point{}, draw.Src)
	}
	return asPNG(c)
}

func asJPEG(m image.Image, quality int) []byte {
	var b bytes.Buffer
	_ = jpeg.Encode(&b, m, &jpeg.Options{Quality: quality})
	return b.Bytes()
}

func asPNG(m image.Image) []byte {
	var b bytes.Buffer
	_ = png.Encode(&b, m) // into memory it always goes
	return b.Bytes()
}

// toTidy brings the leftovers, and does with them what was done in a year: some are placed, one is replaced by another, one belonged to a product
// that is gone, one is set aside.
func toTidy(ctx context.Context, s *program.Program, there map[string]int64, person int64) error {
	if there[leftoversTitle] != 0 {
		return nil
	}
	id, err := deliver(ctx, s, leftoversTitle, "leftovers.zip", leftovers(), person)
	if err != nil {
		return err
	}
	arrivals, err := s.Store.Arrivals(ctx, query.ArrivalsParams{Delivery: id})
	if err != nil {
		return err
	}
	asset := map[string]int64{}
	for _, a := range arrivals {
		asset[a.Path] = *a.AssetID
	}
	l := left{ctx: ctx, s: s, person: person, asset: asset}
	all := of("SLD", "BOX")
	_, owners := sleds()
	for _, a := range all[:3] {
		owners[a.sku+".jpg"] = a.sku
	}
	for _, a := range all[3:5] {
		owners[a.sku+" big.jpg"] = a.sku
	}
	for _, a := range all[5:7] {
		owners[a.sku+" framed.jpg"] = a.sku
	}
	owners[all[7].sku+" side.jpg"] = all[7].sku
	owners[all[11].sku+" pack.jpg"] = all[11].sku
	owners["unsorted/IMG_A.jpg"] = all[9].sku
	owners["picture follows.png"] = all[10].sku
	l.place(owners)
	l.place(map[string]string{all[3].sku + " big.jpg": all[20].sku}) // a mistake: another product's
	l.replace("unsorted/IMG_A.jpg", "unsorted/IMG_B.jpg")
	l.withdrawn("PK-OLD-001", "unsorted/IMG_C.jpg")
	l.describe("picture follows.png", func(a core.Asset) core.Asset { a.Placeholder = true; return a })
	l.describe("unsorted/IMG_F.jpg", func(a core.Asset) core.Asset { a.Binned = true; return a })
	l.describe("unsorted/IMG_G.jpg", func(a core.Asset) core.Asset { a.Binned = true; return a })
	l.describe("unsorted/IMG_D.jpg", func(a core.Asset) core.Asset { return a.Tagged(core.Keep, true) })
	for _, a := range arrivals {
		if l.err == nil && a.Path == "leftovers/unsorted/IMG_E.jpg" {
			l.err = s.Pairer.Decide(ctx, id, person, []pair.Decision{{Arrival: a.ID, Aside: true}})
		}
	}
	if l.err != nil {
		return l.err
	}
	return l.age(id)
}

// left does one thing after the other with the leftovers; the first error ends it.
type left struct {
	ctx    context.Context
	s      *program.Program
	person int64
	asset  map[string]int64
	runs   []int64
	err    error
}

func (l *left) of(name string) int64 { return l.asset["leftovers/"+name] }

// apply applies a plan and keeps its run.
func (l *left) apply(plan int64, err error) {
	if l.err != nil || err != nil {
		l.err = err
		return
	}
	run, err := l.s.Ledger.Apply(l.ctx, plan, l.person)
	if err == nil {
		_, err = l.s.Ledger.Finish(l.ctx, run)
	}
	l.runs, l.err = append(l.runs, run), err
}

func (l *left) owners(sku string) []int64 {
	ids, _, err := l.s.Tidy.OwnersBySKU(l.ctx, []string{sku})
	if err != nil {
		l.err = err
	}
	return ids
}

// place puts pictures on owners, by their names and SKUs, behind those that are there: one run.
func (l *left) place(owners map[string]string) {
	if l.err != nil {
		return
	}
	var ids []int64
	wishes := map[int64][]placement.Wish{}
	for _, name := range slices.Sorted(maps.Keys(owners)) {
		for _, owner := range l.owners(owners[name]) {
			ids = append(ids, owner)
			wishes[owner] = append(wishes[owner], placement.Wish{Picture: placement.Picture{Asset: l.of(name)}})
		}
	}
	standing, err := pictures.Placed(l.ctx, l.s.Store.Queries, ids)
	if err != nil {
		l.err = err
		return
	}
	l.apply(l.s.Ledger.Keep(l.ctx, ledger.Draft{Kind: tidy.Plan, Title: "Leftovers by hand", Person: l.person}, placement.Plan(ids, standing, wishes, placement.AddAfter)))
}

func (l *left) replace(name, by string) {
	if l.err == nil {
		l.apply(l.s.Tidy.Replace(l.ctx, l.person, "A better picture", map[int64]int64{l.of(name): l.of(by)}, false))
	}
}

func (l *left) describe(name string, becomes func(core.Asset) core.Asset) {
	if l.err == nil {
		l.apply(l.s.Tidy.Describe(l.ctx, l.person, "Leftovers by hand", []int64{l.of(name)}, becomes))
	}
}

// withdrawn brings a product, gives it a picture, and takes both back.
func (l *left) withdrawn(sku, name string) {
	if l.err != nil {
		return
	}
	l.apply(l.s.Tables.PlanText(l.ctx, "withdrawn.csv", "sku,title\n"+sku+",Old kite that is withdrawn\n", l.person))
	if l.err != nil {
		return
	}
	made := l.runs[len(l.runs)-1]
	l.place(map[string]string{name: sku})
	for _, run := range []int64{l.runs[len(l.runs)-1], made} {
		if l.err == nil {
			l.apply(l.s.Ledger.PlanUndo(l.ctx, run, l.person))
		}
	}
}

// age makes all of it as old as the crate, closes its delivery, and has the clock look every Monday.
func (l *left) age(delivery int64) error {
	ids := slices.Collect(maps.Values(l.asset))
	for _, aged := range []struct {
		sql string
		ids []int64
	}{
		{"UPDATE asset SET created_at = created_at - make_interval(days => $2) WHERE id = ANY ($1)", ids},
		{"UPDATE run SET created_at = created_at - make_interval(days => $2) WHERE id = ANY ($1)", l.runs},
		{"UPDATE delivery SET created_at = created_at - make_interval(days => $2), closed_at = now() WHERE id = ANY ($1)", []int64{delivery}},
	} {
		if _, err := l.s.Store.Pool.Exec(l.ctx, aged.sql, aged.ids, oldDays); err != nil {
			return err
		}
	}
	when := schedule.Schedule{Each: schedule.Week, Minute: 7 * 60, Weekday: int(time.Monday), Zone: time.UTC}
	_, err := l.s.Tidy.AddRule(l.ctx, l.person, "orphans", "Pictures on no owner, each Monday", 90, when)
	return err
}
