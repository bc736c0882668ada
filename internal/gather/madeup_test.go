package gather

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"testing"

	"ambrosa/internal/gather/source"
	"ambrosa/internal/store/query"
)

// wall is a made-up source: pictures that hang on a wall, numbered. It shows what a new kind takes: this type, and naming it
// where kinds are named. Its cursor is the number of the next picture.
type wall struct {
	pictures int
	fall     int   // which picture the wall falls at, once; 0 for none
	shown    []int // which were shown, in order, over all walks
	opened   map[int]int
}

func (w *wall) Check(context.Context) error { return nil }

func (w *wall) Walk(_ context.Context, from source.Cursor, tell func(source.Progress) error, visit func(source.Item) error) error {
	if err := tell(source.Progress{Items: int64(w.pictures)}); err != nil {
		return err
	}
	first, _ := strconv.Atoi(string(from))
	for n := max(first, 1); n <= w.pictures; n++ {
		if n == w.fall {
			w.fall = 0
			return errors.New("the wall fell")
		}
		w.shown = append(w.shown, n)
		it := source.Item{ID: fmt.Sprint("nail ", n), Path: fmt.Sprintf("wall/K%d.jpg", n), Bytes: -1, Version: "1", Next: source.Cursor(strconv.Itoa(n + 1)),
			Said: []source.Said{{Field: "sku", Text: fmt.Sprint("K", n), By: "the label below"}}, From: json.RawMessage(fmt.Sprintf(`{"nail": %d}`, n)),
			Open: func(context.Context) (io.ReadCloser, error) {
				w.opened[n]++
				return io.NopCloser(strings.NewReader(jpegOf(uint8(n), 40))), nil
			}}
		if n%50 == 0 {
			it.Open, it.Problem = nil, source.NewProblem(source.Damaged, "file_checksum")
		}
		if err := visit(it); err != nil {
			return err
		}
	}
	return nil
}

// A made-up source is collected, falls in the middle, and goes on from its cursor: nothing is read again that is taken in, but
// for the last batch, and nothing is there twice. What it says of its items is kept.
func TestMadeUpSource(t *testing.T) {
	ctx := context.Background()
	g, person, _ := house(t, source.DefaultLimits)
	w := &wall{pictures: 230, fall: 200, opened: map[int]int{}}
	g.Kinds = map[string]Opener{"wall": func(int64, json.RawMessage) (source.Source, error) { return w, nil }}
	if _, err := g.Collect(ctx, "no such", json.RawMessage(`{"kind": "ceiling"}`), person); err == nil {
		t.Error("a kind that is not there is collected")
	}
	d, err := g.Collect(ctx, "the hall", json.RawMessage(`{"kind": "wall", "side": "north"}`), person)
	if err != nil {
		t.Fatal(err)
	}
	if err := g.TakeIn(ctx, d); err == nil || !strings.Contains(err.Error(), "fell") {
		t.Fatalf("the wall stands: %v", err)
	}
	_, before := arrivals(t, g, d)
	if before == 0 || before >= 200 {
		t.Fatalf("%d pictures are taken in before it fell", before)
	}
	fallen := len(w.shown)
	if err := g.TakeIn(ctx, d); err != nil {
		t.Fatal(err)
	}
	lines, count := arrivals(t, g, d)
	if count != 230 || len(lines) != 230 || lines["wall/K7.jpg"].AssetID == nil || lines["wall/K50.jpg"].Problem != string(source.Damaged) {
		t.Errorf("%d lines of %d paths, K7 %+v, K50 %+v", count, len(lines), lines["wall/K7.jpg"], lines["wall/K50.jpg"])
	}
	again := 0
	for n, times := range w.opened {
		if times > 1 && n <= before {
			again++
		}
	}
	if first := w.shown[fallen]; first == 1 || first > before+1 || again > 0 {
		t.Errorf("with %d taken in it goes on at %d, and %d of them are read again", before, first, again)
	}
	job, err := g.Store.JobOf(ctx, query.JobOfParams{Kind: Work, Subject: d})
	if err != nil || job.State != "done" || job.Total != 230 {
		t.Errorf("%+v, %v", job, err)
	}
	var said, origin string
	if err := g.Store.Pool.QueryRow(ctx, "SELECT said->0->>'text', origin->>'nail' FROM arrival WHERE item = 'nail 9'").Scan(&said, &origin); err != nil || said != "K9" || origin != "9" {
		t.Errorf("nail 9 says %q, lies at %q, %v", said, origin, err)
	}
}
