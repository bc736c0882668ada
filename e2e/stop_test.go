package e2e

import (
	"bytes"
	"fmt"
	"image/color"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"
)

// Told to stop in the middle of an upload, a taking in and a run, with a browser listening, the program ends in order within
// 10 s, its database with it, and the next start goes on where it was.
func TestStop(t *testing.T) {
	p := serve(t)
	files := map[string][]byte{}
	for i := range 400 {
		files[fmt.Sprintf("K-%05d.jpg", i)] = numbered(jpegOf(color.RGBA{uint8(i), 90, 99, 255}, 400), i)
	}
	archive := zipOf(t, files)
	var taking, open, plan, r id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "taking in"}, &taking)
	p.me.upload(taking.ID, "all.zip", archive, 3)
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", taking.ID), nil, nil)
	var table strings.Builder
	table.WriteString("sku,title\n")
	for i := range 40_000 {
		fmt.Fprintf(&table, "K-%05d,Kite %d\n", i, i)
	}
	plan.ID = p.me.plan(table.String())
	p.me.do("POST", "/api/deliveries", map[string]string{"title": "being sent"}, &open)
	address := p.me.announce(open.ID, "b.zip", len(archive))

	// A piece that is cut off in its middle, by hand: it says that more comes.
	piece, _ := http.NewRequest("PATCH", address, &slowly{data: archive, pause: 200 * time.Millisecond})
	p.me.tus(piece)
	piece.ContentLength = int64(len(archive))
	piece.Header.Set("Upload-Offset", "0")
	piece.Header.Set("Content-Type", "application/offset+octet-stream")
	go func() {
		if answer, err := http.DefaultClient.Do(piece); err == nil {
			answer.Body.Close()
		}
	}()
	events, _ := http.NewRequest("GET", p.url()+"/api/events", nil)
	p.me.tus(events)
	stream, err := http.DefaultClient.Do(events)
	if err != nil {
		t.Fatal(err)
	}
	defer stream.Body.Close()
	p.me.do("POST", fmt.Sprintf("/api/plans/%d/apply", plan.ID), nil, &r)
	await(t, time.Minute, "all three to be on their way", func() bool {
		var at run
		var d delivery
		p.me.do("GET", fmt.Sprintf("/api/runs/%d", r.ID), nil, &at)
		p.me.do("GET", fmt.Sprintf("/api/deliveries/%d", taking.ID), nil, &d)
		return at.Done > 0 && d.Lines > 0 && sent(p, address) > 0
	})
	postgres := postmaster(t, p)
	begun := time.Now()
	if err := p.cmd.Process.Signal(syscall.SIGTERM); err != nil {
		t.Fatal(err)
	}
	if err := p.cmd.Wait(); err != nil {
		t.Errorf("it ended with %v\n%s", err, p.out)
	}
	took := time.Since(begun)
	t.Logf("stopped in %v", took.Round(time.Millisecond))
	if took > 10*time.Second || strings.Contains(p.out.String(), "panic") {
		t.Errorf("it took %v:\n%s", took, p.out)
	}
	if err := syscall.Kill(postgres, 0); err == nil {
		t.Error("the database goes on")
	}
	p.start("serve")
	if done := p.me.finished(r.ID); done.Applied != 40_000 {
		t.Errorf("%+v", done)
	}
	if d := p.me.taken(taking.ID); d.Lines != 400 {
		t.Errorf("%+v", d)
	}
	at := p.me.offset(address)
	if at == 0 || at >= len(archive) {
		t.Errorf("%d of %d bytes had come", at, len(archive))
	}
	p.me.patch(address, at, archive[at:])
	p.me.do("POST", fmt.Sprintf("/api/deliveries/%d/close", open.ID), nil, nil)
	if d := p.me.taken(open.ID); d.Lines != 400 || d.Seen != 400 {
		t.Errorf("%+v", d)
	}
}

// sent is how much of an upload lies on the disk while it comes: the upload itself is locked meanwhile.
func sent(p *program, address string) int64 {
	info, err := os.Stat(filepath.Join(p.data, "uploads", filepath.Base(address)))
	if err != nil {
		return 0
	}
	return info.Size()
}

// slowly returns a few bytes at a time.
type slowly struct {
	data  []byte
	pause time.Duration
	at    int
}

func (s *slowly) Read(b []byte) (int, error) {
	time.Sleep(s.pause)
	n := copy(b[:min(len(b), 4096)], s.data[s.at:])
	s.at += n
	return n, nil
}

func postmaster(t *testing.T, p *program) int {
	t.Helper()
	b, err := os.ReadFile(filepath.Join(p.data, "postgres", "postmaster.pid"))
	if err != nil {
		t.Fatal(err)
	}
	first, _, _ := bytes.Cut(b, []byte("\n"))
	pid, err := strconv.Atoi(string(first))
	if err != nil {
		t.Fatal(err)
	}
	return pid
}

// Where the private database dies, it is started again and the server goes on; where it can't, the server ends and says so.
func TestDatabaseDies(t *testing.T) {
	p := serve(t)
	p.me.load("sku,title\nK1,One\n")
	first := postmaster(t, p)
	if err := syscall.Kill(first, syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	// The killed one's own processes answer a moment longer, so what counts is that another is there.
	await(t, 30*time.Second, "the database to be back", func() bool {
		b, err := os.ReadFile(filepath.Join(p.data, "postgres", "postmaster.pid"))
		if err != nil || strings.HasPrefix(string(b), fmt.Sprintln(first)) || !strings.Contains(string(b), "ready") {
			return false
		}
		status, _ := p.me.try("GET", "/api/products", nil, nil)
		return status == 200
	})
	p.me.load("sku,title\nK2,Two\n") // work goes on too
	second := postmaster(t, p)
	if second == first {
		t.Fatal("nothing was killed")
	}
	if err := os.Rename(filepath.Join(p.data, "postgres", "PG_VERSION"), filepath.Join(p.data, "PG_VERSION")); err != nil {
		t.Fatal(err)
	}
	if err := syscall.Kill(second, syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	ended := make(chan error, 1)
	go func() { ended <- p.cmd.Wait() }()
	select {
	case err := <-ended:
		if err == nil || !strings.Contains(p.out.String(), "PostgreSQL died and does not start again") {
			t.Errorf("%v\n%s", err, p.out)
		}
	case <-time.After(40 * time.Second):
		t.Error("it lives on without its database")
	}
}
