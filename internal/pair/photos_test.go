package pair

import (
	"fmt"
	"strings"
	"testing"

	"ambrosa/core/pairing"
)

// shows says in the database what a line's photo shows, and when it was taken.
func (st *station) shows(name, taken, code string) {
	st.t.Helper()
	asset := "(SELECT asset_id FROM arrival WHERE path = $1)"
	st.exec("INSERT INTO photo (asset_id, version, taken_at, camera) VALUES ("+asset+", 1, nullif($2, '')::timestamp, 'A')", name, taken)
	if code != "" {
		st.exec("INSERT INTO photo_code (asset_id, n, format, text, gtin, x, y, width, height) VALUES ("+asset+", 0, 'EAN-13', $2, '0' || $2, 1, 1, 5, 5)", name, code)
	}
	rows, err := st.Store.TouchPhotographed(ctx, []int64{st.asset(name)})
	if err != nil || len(rows) != 1 {
		st.t.Fatal(rows, err)
	}
}

func (st *station) asset(name string) (id int64) {
	st.t.Helper()
	if err := st.Store.Pool.QueryRow(ctx, "SELECT asset_id FROM arrival WHERE path = $1", name).Scan(&id); err != nil {
		st.t.Fatal(err)
	}
	return id
}

// told are a delivery's series in a short writing.
func (st *station) series() (text string) {
	st.t.Helper()
	p, err := st.Pair(ctx, st.delivery)
	if err != nil {
		st.t.Fatal(err)
	}
	for _, s := range p.Series {
		text += string(s.Why)
		if s.Owner != 0 {
			text += " " + st.skuOf(s.Owner)
		}
		for _, i := range s.Pictures {
			text += " " + strings.TrimSuffix(p.Lines[i].Arrival.Path, ".jpg")
		}
		text += "; "
	}
	return text
}

func (st *station) skuOf(owner int64) (sku string) {
	st.t.Helper()
	if err := st.Store.Pool.QueryRow(ctx, "SELECT sku FROM owner WHERE id = $1", owner).Scan(&sku); err != nil {
		st.t.Fatal(err)
	}
	return sku
}

// Codes in photos pair as soon as they are read: a slate gives its series an owner, and goes to nobody; borders that were moved by hand stay so.
func TestPhotos(t *testing.T) {
	names := []string{"IMG_1.jpg", "IMG_0001.jpg", "IMG_0002.jpg", "IMG_0003.jpg", "IMG_0004.jpg", "IMG_0005.jpg", "IMG_0006.jpg", "PK-150.jpg", "pack.jpg"}
	st := newStation(t, names...)
	st.exec("UPDATE asset SET likeness = (SELECT CASE WHEN path IN ('IMG_0001.jpg', 'IMG_0004.jpg') THEN -1 ELSE 0 END FROM arrival WHERE asset_id = asset.id)")
	st.exec("UPDATE owner SET barcode = '9521234500025' WHERE sku = 'PK-150'")
	st.exec("UPDATE catalogue_state SET owners = owners + 1")
	line := func(name string) *Line {
		t.Helper()
		p, err := st.Pair(ctx, st.delivery)
		if err != nil {
			t.Fatal(err)
		}
		for i := range p.Lines {
			if p.Lines[i].Arrival.Path == name {
				return &p.Lines[i]
			}
		}
		t.Fatal("no line ", name)
		return nil
	}
	grades := func(want map[string]string) {
		t.Helper()
		for name, w := range want {
			l := line(name)
			got := string(l.Grade())
			if l.Owner() != 0 {
				got += " " + st.skuOf(l.Owner())
			}
			if got += " " + l.Claim.Doubt.Code; strings.TrimSpace(got) != w {
				t.Errorf("%s: %s, want %s", name, got, w)
			}
		}
	}
	grades(map[string]string{"IMG_0001.jpg": "unclaimed doubt_no_match", "PK-150.jpg": "sure PK-150"})
	for i, name := range names[1:7] {
		code := map[int]string{0: "9521234500018", 3: "9521234500025"}[i]
		st.shows(name, fmt.Sprintf("2026-11-20 10:00:%02d.%d", 5*i, i), code)
	}
	st.shows("PK-150.jpg", "", "9521234500018")
	st.shows("pack.jpg", "", "9521234500018")
	grades(map[string]string{"IMG_0001.jpg": "ignored slate_card", "IMG_0002.jpg": "likely PK-140-AMB doubt_slate", "IMG_0003.jpg": "likely PK-140-AMB doubt_slate",
		"IMG_0004.jpg": "ignored slate_card", "IMG_0006.jpg": "likely PK-150 doubt_slate", "PK-150.jpg": "contested doubt_photo_differs", "pack.jpg": "sure PK-140-AMB"})
	if got, want := st.series(), "slate PK-140-AMB IMG_0002 IMG_0003; slate PK-150 IMG_0005 IMG_0006; "; got != want {
		t.Errorf("series: %s, want %s", got, want)
	}
	if l := line("IMG_0002.jpg"); l.Claim.Reading.Slate != "IMG_0001.jpg" || l.Claim.Reading.Photo != "9521234500018" {
		t.Errorf("by which slate: %+v", l.Claim.Reading)
	}
	amber := line("pack.jpg").Owner()
	if err := st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: st.arrivals["IMG_0005.jpg"], Owners: []Share{{Owner: amber}}}}); err != nil {
		t.Fatal(err)
	}
	if got, want := st.series(), "slate PK-140-AMB IMG_0002 IMG_0003 IMG_0005; slate PK-150 IMG_0006; "; got != want {
		t.Errorf("after the border was moved: %s, want %s", got, want)
	}
	// The slate is placed where somebody says so.
	if err := st.Decide(ctx, st.delivery, st.person, []Decision{{Arrival: st.arrivals["IMG_0001.jpg"], Owners: []Share{{Owner: amber}}}}); err != nil {
		t.Fatal(err)
	}
	if l := line("IMG_0001.jpg"); l.Grade() != pairing.Sure || !l.Ready() {
		t.Errorf("a slate that shall be placed: %s", l.Grade())
	}
	if codes, err := st.Store.PhotoCodes(ctx, []int64{st.asset("pack.jpg")}); err != nil || len(codes) != 1 || codes[0].Gtin != "09521234500018" {
		t.Errorf("codes: %+v, %v", codes, err)
	}
	if owners, err := st.Store.OwnersOfGTINs(ctx, []string{"09521234500018"}); err != nil || len(owners) != 1 || owners[0].ID != amber {
		t.Errorf("whose code it is: %+v, %v", owners, err)
	}
}
