package tables

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"

	"ambrosa/core/placement"
	"ambrosa/core/table"
	"ambrosa/internal/assets"
	"ambrosa/internal/fetch"
	"ambrosa/internal/gather"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/sheet"
	"ambrosa/internal/store/query"

	"github.com/xuri/excelize/v2"
)

// newHouse is a station whose pictures come from uploads, cells and a supplier's server.
func newHouse(t *testing.T) *station {
	t.Helper()
	st := newStation(t)
	vault, err := assets.OpenVault(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/gone.jpg":
			http.NotFound(w, r)
		case "/words.jpg":
			fmt.Fprint(w, "no picture")
		default:
			if _, err := w.Write(jpegOf(r.URL.Path)); err != nil {
				t.Error(err)
			}
		}
	}))
	t.Cleanup(server.Close)
	limits := source.DefaultLimits
	limits.Reserve = 0
	st.Gatherer = &gather.Gatherer{Store: st.Store, Jobs: st.Jobs, Vault: vault, Folder: st.Folder, Limits: limits, Lists: st.Tables, Finished: st.Arrived,
		Kinds: map[string]gather.Opener{SourceKind: st.Source}}
	st.Gatherer.Register()
	pace := fetch.DefaultLimits
	pace.Rate, pace.Burst = 1000, 1000
	st.Fetch = fetch.New(&fetch.Door{Hosts: map[string]string{"pictures.example": server.Listener.Addr().String()}}, pace)
	return st
}

// jpegOf is a picture of its own for each name.
func jpegOf(name string) []byte {
	img := image.NewRGBA(image.Rect(0, 0, 40, 40))
	n := uint8(0)
	for _, c := range name {
		n = n*31 + uint8(c)
	}
	for i := range img.Pix {
		img.Pix[i] = n ^ uint8(i%7*30)
	}
	img.Set(3, 3, color.White)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// deliver sends an archive and takes it in.
func (st *station) deliver(title string, files map[string][]byte) int64 {
	st.t.Helper()
	return st.sent(st.Gatherer.Begin, title, title+".zip", st.zipped(files))
}

func (st *station) zipped(files map[string][]byte) []byte {
	st.t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, bytes := range files {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write(bytes)
		}
		if err != nil {
			st.t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		st.t.Fatal(err)
	}
	return b.Bytes()
}

// sent sends a file into a new delivery and takes it in.
func (st *station) sent(begin func(context.Context, string, int64) (int64, error), title, name string, content []byte) int64 {
	st.t.Helper()
	id, err := begin(ctx, title, st.person)
	if err != nil {
		st.t.Fatal(err)
	}
	upload, err := st.Gatherer.Announce(ctx, id, st.person, name, int64(len(content)))
	if err == nil {
		err = os.WriteFile(st.Gatherer.File(upload), content, 0o600)
	}
	if err == nil {
		err = st.Gatherer.Close(ctx, id, false)
	}
	if err != nil {
		st.t.Fatal(err)
	}
	st.taken(id)
	return id
}

func (st *station) taken(delivery int64) {
	st.t.Helper()
	if job, err := st.Jobs.Finished(ctx, gather.Work, delivery); err != nil || job.State != "done" {
		st.t.Fatalf("%+v, %v", job, err)
	}
}

// report is what became of a table's rows.
func (st *station) report(id int64) string {
	st.t.Helper()
	w, err := st.Store.WorksheetByID(ctx, id)
	if err != nil || w.PlanID == nil {
		st.t.Fatal(w.PlanID, err)
	}
	var b bytes.Buffer
	out, err := sheet.NewWriter(&b, "report.csv")
	if err == nil {
		err = errors.Join(st.Report(ctx, *w.PlanID, out), out.Close())
	}
	if err != nil {
		st.t.Fatal(err)
	}
	_, rows, _ := strings.Cut(b.String(), "\n")
	return strings.NewReplacer("\r", "", ",", "|", `"`, "").Replace(rows)
}

// shows is what stands on owners: SKU and where each picture came from, the newest arrival.
func (st *station) shows() string {
	st.t.Helper()
	var all string
	if err := st.Store.Pool.QueryRow(ctx, `SELECT coalesce(string_agg(o.sku || ':' || p.position || '=' ||
		(SELECT d.title || '/' || a.path FROM arrival a JOIN delivery d ON d.id = a.delivery_id WHERE a.asset_id = p.asset_id ORDER BY a.id LIMIT 1) ||
		coalesce(' ' || w.text, ''), '; ' ORDER BY o.sku, p.position), '') FROM placement p JOIN owner o ON o.id = p.owner_id
		LEFT JOIN wording w ON w.owner_id = o.id AND w.asset_id = p.asset_id`).Scan(&all); err != nil {
		st.t.Fatal(err)
	}
	return all
}

// Pictures at addresses, in formulas and in cells come in as a delivery of the table's own; one that fails is told, and the row's
// others go on.
func TestCollect(t *testing.T) {
	st := newHouse(t)
	book := excelize.NewFile()
	const first = "Sheet1"
	for i, row := range [][]any{{"sku", "title", "picture", "alt text", "photo"}, {"K-1", "One", "http://pictures.example/1.jpg?size=big", "one"},
		{"K-2", "Two", "http://pictures.example/gone.jpg http://pictures.example/2.jpg", "two"}, {"K-3", "Three", nil, "three"}, {"K-4", "Four", nil, "four"},
		{"K-5", "Five", "http://pictures.example/words.jpg", "five"}, {"K-6", "Six", "http://pictures.example/1.jpg?size=big", "six"}} {
		if err := book.SetSheetRow(first, fmt.Sprint("A", i+1), &row); err != nil {
			t.Fatal(err)
		}
	}
	err := errors.Join(book.SetCellFormula(first, "C4", `_xlfn.IMAGE("http://pictures.example/3.jpg","three")`), book.SetCellValue(first, "C4", "x"),
		book.SetCellFormula(first, "C4", `_xlfn.IMAGE("http://pictures.example/3.jpg","three")`),
		book.AddPictureFromBytes(first, "E5", &excelize.Picture{Extension: ".jpg", File: jpegOf("cell")}))
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := book.Write(&b); err != nil {
		t.Fatal(err)
	}
	id := st.bring("links.xlsx", b.String())
	w := st.checked(id)
	if w.Waiting != 6 {
		t.Fatalf("%d pictures wait, want 6: %s", w.Waiting, st.found(id))
	}
	delivery, err := st.Collect(ctx, id, st.person)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := st.Collect(ctx, id, st.person); !errors.Is(err, ErrCollecting) {
		t.Errorf("asked twice: %v", err)
	}
	st.taken(delivery)
	w = st.checked(id)
	if got, want := st.found(id), "2.0 key_unknown, 3.0 key_unknown, 3.2 picture_missing, 4.0 key_unknown, 5.0 key_unknown, 6.0 key_unknown, 6.2 picture_missing, 7.0 key_unknown"; got != want || w.Stopped > 0 {
		t.Errorf("%s, %d stopped; want %s", got, w.Stopped, want)
	}
	var said string
	if err := st.Store.Pool.QueryRow(ctx, "SELECT string_agg(path || ' ' || problem || coalesce(' ' || (said->0->>'text'), ''), '; ' ORDER BY id) FROM arrival WHERE delivery_id = $1", delivery).Scan(&said); err != nil {
		t.Fatal(err)
	}
	if want := "pictures.example/1.jpg  K-1; pictures.example/gone.jpg unreachable K-2; pictures.example/2.jpg  K-2; pictures.example/3.jpg  K-3; E5.jpeg  K-4; pictures.example/words.jpg not_picture K-5"; said != want {
		t.Errorf("the delivery holds\n%s, want\n%s", said, want)
	}
	st.apply(id, placement.AddAfter)
	if got, want := st.report(id), "2|K-1|created|has 1|\n3|K-2|created|has 1|The server at http://pictures.example/gone.jpg answered 404 Not Found. Correct the address| or "+
		"collect again later.\n4|K-3|created|has 1|\n5|K-4|created|has 1|\n6|K-5|created|unchanged|Its bytes are text| which is not taken in as a picture. It is named .jpg.\n7|K-6|created|has 1|\n"; got != want {
		t.Errorf("the report says\n%s, want\n%s", got, want)
	}
	if got, want := st.shows(), "K-1:1=links.xlsx/pictures.example/1.jpg one; K-2:1=links.xlsx/pictures.example/2.jpg two; K-3:1=links.xlsx/pictures.example/3.jpg three; "+
		"K-4:1=links.xlsx/E5.jpeg four; K-6:1=links.xlsx/pictures.example/1.jpg six"; got != want {
		t.Errorf("there stands\n%s, want\n%s", got, want)
	}
	if again, err := st.Collect(ctx, id, st.person); err != nil {
		t.Errorf("what failed is asked for again: %v", err)
	} else {
		st.taken(again)
	}
}

// The list that lies beside its pictures is taken in hand once, with those pictures as its own. Of several pictures of one name its own
// is meant, unless somebody chooses another, for a row or for all, or has it take the place of the other everywhere.
func TestListBesidePictures(t *testing.T) {
	st := newHouse(t)
	st.apply(st.bring("owners.csv", "sku,title\nK-1,One\nK-2,Two\nK-3,Three\n"), placement.AddAfter)
	old := st.deliver("old", map[string][]byte{"x.jpg": jpegOf("old x"), "y.jpg": jpegOf("old y")})
	st.apply(st.bring("first.csv", "sku,picture,alt text\nK-3,x.jpg,old words\n"), placement.AddAfter)
	spring := st.deliver("spring", map[string][]byte{"pictures/x.jpg": jpegOf("new x"), "y.jpg": jpegOf("new y"), "z.jpg": jpegOf("z"),
		"list.csv": []byte("sku;picture\nK-1;x.jpg\nK-2;y.jpg\n"), "broken.xlsx": []byte("no workbook"), "notes.txt": []byte("a;b\n")})
	found, err := st.Store.Worksheets(ctx, worksheetsAll)
	if err != nil || len(found) != 3 || found[0].Name != "list.csv" {
		t.Fatalf("%+v, %v", found, err)
	}
	id := found[0].ID
	st.checked(id)
	if kept, err := st.Found(ctx, spring, itemOf(st, spring, "list.csv"), "list.csv", strings.NewReader("")); err != nil || !kept {
		t.Errorf("told again: %v, %v", kept, err)
	}
	if got, want := st.found(id), "2.1 picture_ambiguous, 3.1 picture_ambiguous, 0.-1 picture_unused"; got != want {
		t.Errorf("%s, want %s", got, want)
	}
	expect := func(what, want string) {
		t.Helper()
		before := st.shows()
		plan, err := st.Plan(ctx, id, st.person, placement.WholeSet)
		if err != nil {
			t.Fatal(err)
		}
		run, err := st.Ledger.Apply(ctx, plan, st.person)
		if err == nil {
			_, err = st.Ledger.Finish(ctx, run)
		}
		if got := st.shows(); got != want || err != nil {
			t.Errorf("%s:\n%s, %v, want\n%s", what, got, err, want)
		}
		undo, err := st.Ledger.PlanUndo(ctx, run, st.person)
		if err == nil {
			run, err = st.Ledger.Apply(ctx, undo, st.person)
		}
		if err == nil {
			_, err = st.Ledger.Finish(ctx, run)
		}
		if got := st.shows(); got != before || err != nil {
			t.Errorf("%s, undone:\n%s, %v, want\n%s", what, got, err, before)
		}
	}
	const third = "; K-3:1=old/x.jpg old words"
	expect("its own come first", "K-1:1=spring/pictures/x.jpg One; K-2:1=spring/y.jpg Two"+third)
	alike, err := st.Alike(ctx, id, "x.jpg")
	if err != nil || len(alike) != 2 || !alike[0].Attached || alike[1].Attached {
		t.Fatalf("%+v, %v", alike, err)
	}
	if err := st.Choose(ctx, id, Chosen{2, "x.jpg", table.Pick{Asset: alike[1].Asset}}); err != nil {
		t.Fatal(err)
	}
	if err := st.Choose(ctx, id, Chosen{2, "y.jpg", table.Pick{Asset: alike[1].Asset}}); !errors.Is(err, ErrNoCell) {
		t.Errorf("another name's picture: %v", err)
	}
	st.checked(id)
	expect("chosen for a row", "K-1:1=old/x.jpg One; K-2:1=spring/y.jpg Two"+third)
	for _, all := range []struct {
		choice table.Choice
		want   string
	}{{table.TakeHere, "K-1:1=old/x.jpg One; K-2:1=old/y.jpg Two" + third}, {table.TakeThis, "K-1:1=old/x.jpg One; K-2:1=spring/y.jpg Two" + third}} {
		if err := st.Describe(ctx, id, Described{Choice: (*string)(&all.choice)}); err != nil {
			t.Fatal(err)
		}
		st.checked(id)
		expect("for all: "+string(all.choice), all.want)
	}
	if err := st.Choose(ctx, id, Chosen{2, "x.jpg", table.Pick{Asset: alike[0].Asset, Everywhere: true}}); err != nil {
		t.Fatal(err)
	}
	st.checked(id)
	if got := st.found(id); got != "0.-1 picture_unused" {
		t.Errorf("chosen, and still told: %s", got)
	}
	expect("in the place of the other", "K-1:1=spring/pictures/x.jpg One; K-2:1=spring/y.jpg Two; K-3:1=spring/pictures/x.jpg old words")
	if err := st.Attach(ctx, id, spring, true); err != nil {
		t.Fatal(err)
	}
	if err := st.Describe(ctx, id, Described{Delivery: &old}); err != nil {
		t.Fatal(err)
	}
	st.checked(id)
	expect("of another delivery alone", "K-1:1=old/x.jpg One; K-2:1=old/y.jpg Two"+third)
}

// A table that is sent in pieces is a table in hand, whatever its header, has no pictures of its own, and its delivery is done with.
func TestTableInPieces(t *testing.T) {
	st := newHouse(t)
	for name, want := range map[string]int{"large.csv": 1, "none.xlsx": 0} {
		content := "a,b\n1,2\n"
		if want == 0 {
			content = "PK\x03\x04 no workbook"
		}
		delivery := st.sent(st.Gatherer.BeginLists, name, name, []byte(content))
		found, err := st.Store.TablesFound(ctx, query.TablesFoundParams{Delivery: delivery, Most: 9})
		if err != nil || len(found) != want {
			t.Fatalf("%s: %v, %v", name, found, err)
		}
		closed := false
		if err := st.Store.Pool.QueryRow(ctx, "SELECT closed_at IS NOT NULL FROM delivery WHERE id = $1", delivery).Scan(&closed); err != nil || closed != (want == 1) {
			t.Errorf("%s: its delivery is closed: %v, %v", name, closed, err)
		}
		for _, w := range found {
			st.checked(w.ID)
			if own, err := st.Store.WorksheetDeliveries(ctx, w.ID); err != nil || len(own) != 0 {
				t.Errorf("its own pictures: %v, %v", own, err)
			}
		}
	}
}

var worksheetsAll = query.WorksheetsParams{Before: 1 << 62, Most: 50}

func itemOf(st *station, delivery int64, path string) (item string) {
	st.t.Helper()
	if err := st.Store.Pool.QueryRow(ctx, "SELECT item FROM arrival WHERE delivery_id = $1 AND path = $2", delivery, path).Scan(&item); err != nil {
		st.t.Fatal(err)
	}
	return item
}

// Pictures of categories by name: a name that two branches have is told with its path, one that is not there is left out, and nothing is
// made where a table only updates.
func TestCategoriesByName(t *testing.T) {
	st := newHouse(t)
	st.apply(st.bring("owners.csv", "sku,title,category\nK-1,One,Kites > Small\nK-2,Two,Kites > Great\nK-3,Three,Reels > Small\n"), placement.AddAfter)
	st.deliver("spring", map[string][]byte{"x.jpg": jpegOf("x"), "y.jpg": jpegOf("y")})
	only := func(name, text, key string) int64 {
		id := st.bring(name, text)
		if err := st.Describe(ctx, id, Described{Key: &key, Mode: new("update")}); err != nil {
			t.Fatal(err)
		}
		st.checked(id)
		return id
	}
	id := only("names.csv", "title,picture\nGreat,x.jpg\nSmall,y.jpg\nNope,x.jpg\n", "title")
	if got := st.found(id); !strings.Contains(got, "3.0 key_ambiguous") || !strings.Contains(got, "4.0 key_unknown") {
		t.Errorf("found %s", got)
	}
	var said string
	if err := st.Store.Pool.QueryRow(ctx, "SELECT why::text FROM worksheet_problem WHERE worksheet_id = $1 AND kind = 'key_ambiguous'", id).Scan(&said); err != nil || !strings.Contains(said, "Kites > Small") || !strings.Contains(said, "Reels > Small") {
		t.Errorf("of a name that two have is said %s, %v", said, err)
	}
	st.apply(id, placement.AddAfter)
	id = only("paths.csv", "kind,sku,parent,title,picture\ncategory,,Kites,Small,y.jpg\ncategory,,Reels,Nope,y.jpg\n", "sku")
	plan, err := st.Plan(ctx, id, st.person, placement.AddAfter)
	if err != nil {
		t.Fatal(err)
	}
	if got, _, err := st.Problems(ctx, plan); err != nil || len(got) != 1 || got[0].Code != "category_unknown" || got[0].Line != 3 {
		t.Errorf("problems %+v, %v", got, err)
	}
	st.apply(id, placement.AddAfter)
	var shown string
	var categories int
	if err := st.Store.Pool.QueryRow(ctx, `SELECT (SELECT count(*) FROM owner WHERE kind = 'category'), (SELECT string_agg(u.title || ' > ' || o.title || ' ' || w.text, '; ' ORDER BY o.id)
		FROM placement p JOIN owner o ON o.id = p.owner_id JOIN owner u ON u.id = o.parent LEFT JOIN wording w ON w.owner_id = o.id AND w.asset_id = p.asset_id)`).Scan(&categories, &shown); err != nil {
		t.Fatal(err)
	}
	if categories != 5 || shown != "Kites > Small Small; Kites > Great Great" {
		t.Errorf("%d categories; %s", categories, shown)
	}
}
