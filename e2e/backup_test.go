package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"image/color"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
)

// A backup of a program that serves, restored into an empty folder, is the same program: its people, products, pictures, ledger,
// and an upload that is half sent. Done again it copies only what is new. What can't be restored is said.
func TestBackup(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	files := map[string][]byte{}
	for i, name := range []string{"PK-DLT-140-AMB_1.jpg", "PK-DLT-140-AMB_2.jpg", "PK-DLT-140-PLM.jpg", "nobody.jpg"} {
		files[name] = jpegOf(color.RGBA{uint8(60 * i), 90, 60, 255}, 120)
	}
	d := p.me.deliver("first", map[string][]byte{"a.zip": zipOf(t, files)})
	var plan id
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]string{"rule": "whole_set"}, &plan)
	p.me.apply(plan.ID)
	var open id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "half sent"}, &open)
	half := jpegOf(color.RGBA{1, 2, 3, 255}, 300)
	address := p.me.announce(open.ID, "half.jpg", len(half))
	p.me.patch(address, 0, half[:len(half)/2])

	folder := filepath.Join(t.TempDir(), "backup")
	type manifest struct {
		Rows              map[string]int64
		Pictures, Uploads int64
	}
	back := func() (m manifest) {
		t.Helper()
		out, complaints, code := command(t, nil, "", "backup", folder, "--data", p.data)
		if err := json.Unmarshal([]byte(out), &m); err != nil || code != 0 {
			t.Fatalf("exit %d, %v: %s%s", code, err, out, complaints)
		}
		return m
	}
	if m := back(); m.Rows["asset"] != 4 || m.Pictures < 12 || m.Uploads == 0 || m.Rows["run_entry"] == 0 {
		t.Errorf("it holds %+v", m)
	}
	old := modified(t, filepath.Join(folder, "pictures"))
	p.me.deliver("second", map[string][]byte{"x.jpg": jpegOf(color.RGBA{9, 200, 9, 255}, 130)})
	second := back()
	for path, at := range modified(t, filepath.Join(folder, "pictures")) {
		if before, there := old[path]; there && before != at {
			t.Errorf("%s was copied again", path)
		}
	}

	restored := dataFolder(t)
	if _, complaints, code := command(t, nil, "", "restore", t.TempDir(), "--data", restored); code != 2 || !strings.Contains(complaints, "no finished backup") {
		t.Errorf("restoring nothing: exit %d, %q", code, complaints)
	}
	if out, complaints, code := command(t, nil, "", "restore", folder, "--data", restored); code != 0 || !strings.Contains(out, fmt.Sprintf(`"pictures":%d`, second.Pictures)) {
		t.Fatalf("restoring: exit %d, %s%s", code, out, complaints)
	}
	if _, complaints, code := command(t, nil, "", "restore", folder, "--data", restored); code != 1 || !strings.Contains(complaints, "the data folder is not empty") {
		t.Errorf("restoring twice: exit %d, %q", code, complaints)
	}

	q := &program{t: t, data: restored}
	q.start("serve")
	t.Cleanup(q.stop)
	q.me = signIn(t, q.url(), adminName, adminPassword)
	if got, want := q.placements(), p.placements(); len(want) != 3 || !slices.Equal(got, want) {
		t.Errorf("placements %v, had %v", got, want)
	}
	for _, table := range []string{"person", "asset", "delivery", "arrival", "owner", "placement", "plan", "plan_change", "run", "run_entry", "upload", "access_token"} {
		const all = "SELECT coalesce(md5(string_agg(t::text, '|' ORDER BY t::text)), '') FROM %s t"
		if got, want := one[string](q, fmt.Sprintf(all, table)), one[string](p, fmt.Sprintf(all, table)); got != want {
			t.Errorf("the table %s differs", table)
		}
	}
	// Every picture is there byte for byte, and the upload goes on where it stood.
	conn := q.database()
	defer conn.Close(context.Background())
	rows, err := conn.Query(context.Background(), "SELECT encode(sha256, 'hex') FROM asset")
	if err != nil {
		t.Fatal(err)
	}
	shas, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil || len(shas) != 5 {
		t.Fatalf("%d pictures, %v", len(shas), err)
	}
	for _, sha := range shas {
		key := filepath.Join("pictures", "original", sha[:2], sha)
		got, err := os.ReadFile(filepath.Join(q.data, key))
		want, _ := os.ReadFile(filepath.Join(p.data, key))
		if err != nil || string(got) != string(want) {
			t.Errorf("%s: %d bytes, had %d, %v", sha, len(got), len(want), err)
		}
	}
	there := q.url() + strings.TrimPrefix(address, p.url())
	if at := q.me.offset(there); at != len(half)/2 {
		t.Errorf("the upload stands at %d, was %d", at, len(half)/2)
	}
	q.me.patch(there, len(half)/2, half[len(half)/2:])
	q.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", open.ID), map[string]any{}, nil)
	if got := q.me.taken(open.ID); got.Pictures != 1 {
		t.Errorf("what was half sent: %+v", got)
	}
}

// modified returns when each file of a folder was written.
func modified(t *testing.T, folder string) map[string]int64 {
	t.Helper()
	at := map[string]int64{}
	err := filepath.WalkDir(folder, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		info, err := d.Info()
		at[path] = info.ModTime().UnixNano()
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return at
}
