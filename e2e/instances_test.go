package e2e

import (
	"bufio"
	"context"
	"fmt"
	"image/color"
	"net/http"
	"net/http/httptest"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"

	"ambrosa/internal/cluster"
	"ambrosa/internal/killpoint"
)

// instances starts two servers on one database, one bucket and one folder for uploads. The first dies in the middle of the first
// run's chunk that it works on.
func instances(t *testing.T) (a, b *program, database *pgx.Conn, objects func() int) {
	t.Helper()
	folder := dataFolder(t)
	db, err := cluster.Start(context.Background(), filepath.Join(folder, "postgres-of-both"), cluster.Options{Throwaway: true})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(db.Stop)
	address, objects := pictureBucket(t, func(of http.Handler) http.Handler { return of })
	shared := []string{"--database", db.URL, "--pictures", address}
	add := exec.Command("../bin/ambrosa", append([]string{"user", "add", adminName, "--role", "admin", "--data", folder}, shared...)...)
	add.Stdin = strings.NewReader(adminPassword + "\n")
	if out, err := add.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	for i, p := range []**program{&a, &b} {
		*p = &program{t: t, data: folder, args: shared}
		if i == 0 {
			(*p).env = []string{"AMBROSA_KILL_AT=" + killpoint.ChunkWritten}
		}
		(*p).start("serve")
		t.Cleanup((*p).stop)
		(*p).me = signIn(t, (*p).url(), adminName, adminPassword)
	}
	if database, err = pgx.Connect(context.Background(), db.URL); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { database.Close(context.Background()) })
	return a, b, database, objects
}

// pictureBucket is a bucket for pictures that speaks S3 through what is put before it, and how many objects lie in it.
func pictureBucket(t *testing.T, before func(http.Handler) http.Handler) (address string, objects func() int) {
	store := s3mem.New()
	if err := store.CreateBucket("pictures"); err != nil {
		t.Fatal(err)
	}
	bucket := httptest.NewServer(before(gofakes3.New(store).Server()))
	t.Cleanup(bucket.Close)
	t.Setenv("AWS_ACCESS_KEY_ID", "AKIAPELLMOOR")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "kites")
	return "s3://pictures?region=eu&use_path_style=true&request_checksum_calculation=when_required&endpoint=" + bucket.URL, func() int {
		listed, err := store.ListBucket("pictures", nil, gofakes3.ListBucketPage{MaxKeys: 1000})
		if err != nil {
			t.Fatal(err)
		}
		return len(listed.Contents)
	}
}

// hears opens what changed as a browser would, and tells when a word comes that begins so.
func (c *client) hears(word string) <-chan bool {
	c.t.Helper()
	r, _ := http.NewRequestWithContext(c.t.Context(), "GET", c.url+"/api/events", nil)
	r.Header.Set("Cookie", c.cookie)
	answer, err := http.DefaultClient.Do(r)
	if err != nil || answer.StatusCode != http.StatusOK {
		c.t.Fatal(answer, err)
	}
	heard := make(chan bool, 1)
	go func() {
		defer answer.Body.Close()
		for lines := bufio.NewScanner(answer.Body); lines.Scan(); {
			if strings.HasPrefix(lines.Text(), "data: "+word) {
				heard <- true
				return
			}
		}
	}()
	return heard
}

// Two servers share the work: an upload begun on one is continued on the other and paired there; each hears of the other's
// decisions; a run whose server is killed is taken over, and nothing is lost or doubled.
func TestTwoInstances(t *testing.T) {
	a, b, database, objects := instances(t)
	count := func(sql string) (n int) {
		t.Helper()
		if err := database.QueryRow(context.Background(), sql).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	// The catalogue is brought in through either; whoever works on the run is left to chance, so the first may die here already.
	var table strings.Builder
	table.WriteString("sku,title\n")
	for i := range 12 {
		fmt.Fprintf(&table, "PK-%d,Drift %d\n", 100+i, i)
	}
	b.me.load(table.String())
	if n := count("SELECT count(*) FROM owner"); n != 12 {
		t.Fatalf("%d owners, the first server lives: %v", n, a.lives())
	}
	if !a.lives() {
		a.env = append(a.env, "AMBROSA_KILL_AT="+killpoint.ChunkWritten)
		a.start("serve")
	}

	files := map[string][]byte{}
	for i := range 12 {
		files[fmt.Sprintf("PK-%d.jpg", 100+i)] = jpegOf(color.RGBA{uint8(20 * i), 90, 60, 255}, 200)
	}
	archive := zipOf(t, files)
	var d id
	a.me.do("POST", "/api/deliveries", map[string]string{"title": "spring"}, &d)
	address := a.me.announce(d.ID, "spring.zip", len(archive))
	half := len(archive) / 2
	a.me.patch(address, 0, archive[:half])
	there := strings.Replace(address, a.url(), b.url(), 1)
	if at := b.me.offset(there); at != half {
		t.Fatalf("the other server has %d bytes, sent were %d", at, half)
	}
	b.me.patch(there, half, archive[half:])
	b.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", d.ID), nil, nil)
	if got := a.me.taken(d.ID); got.Pictures != 12 || objects() != 3*12 {
		t.Errorf("%+v, with %d objects in the bucket", got, objects())
	}

	type lines struct {
		Version string
		Lines   []struct {
			ID    int64
			Path  string
			Grade string
		}
		Changes []struct{ ID int64 }
	}
	paired := func(c *client, since string) (p lines) {
		c.do("GET", fmt.Sprintf("/api/deliveries/%d/pairing?since=%s", d.ID, since), nil, &p)
		return p
	}
	onA, onB := paired(a.me, ""), paired(b.me, "")
	if len(onB.Lines) != 12 || onB.Lines[0].Grade != "sure" || fmt.Sprint(onA.Lines) != fmt.Sprint(onB.Lines) {
		t.Errorf("paired on one: %+v, on the other: %+v", onA, onB)
	}
	for _, way := range []struct{ decides, hears *client }{{a.me, b.me}, {b.me, a.me}} {
		had := paired(way.hears, "")
		heard := way.hears.hears(fmt.Sprintf("bench:%d", d.ID))
		line := had.Lines[3].ID
		way.decides.do("PUT", fmt.Sprintf("/api/deliveries/%d/decisions", d.ID), []map[string]any{{"arrival": line, "aside": true}}, nil)
		select {
		case <-heard:
		case <-time.After(10 * time.Second):
			t.Fatal("a decision on one server is not heard of on the other")
		}
		if news := paired(way.hears, had.Version); len(news.Changes) != 1 || news.Changes[0].ID != line {
			t.Errorf("after the decision changed %+v", news.Changes)
		}
		way.decides.do("POST", fmt.Sprintf("/api/deliveries/%d/decisions/take-back", d.ID), map[string]any{"arrivals": []int64{line}}, nil)
	}

	// Runs, until one falls to the first server: it is killed in the middle of a transaction, and the other takes the run over.
	for try := 1; a.lives(); try++ {
		if try > 30 {
			t.Fatal("the first server works on no run")
		}
		var plan, made, undo id
		b.me.do("POST", fmt.Sprintf("/api/deliveries/%d/plans", d.ID), map[string]string{"rule": "whole_set"}, &plan)
		b.me.do("POST", fmt.Sprintf("/api/plans/%d/apply", plan.ID), nil, &made)
		if got := b.me.finished(made.ID); got.Applied != 12 || got.LeftAlone != 0 {
			t.Fatalf("the run: %+v", got)
		}
		if n := count("SELECT count(*) FROM placement"); n != 12 {
			t.Fatalf("%d pictures are placed", n)
		}
		b.me.do("POST", fmt.Sprintf("/api/runs/%d/undo", made.ID), nil, &undo)
		if got := b.me.apply(undo.ID); got.Applied != 12 || count("SELECT count(*) FROM placement") != 0 {
			t.Fatalf("undone: %+v", got)
		}
	}
	if twice := count("SELECT count(*) FROM (SELECT r.id FROM run r JOIN run_entry e ON e.run_id = r.id JOIN plan p ON p.id = r.plan_id GROUP BY r.id, p.changes HAVING count(*) <> p.changes) x"); twice != 0 {
		t.Errorf("%d runs have lines twice or not at all", twice)
	}
}
