package e2e

import (
	"fmt"
	"image/color"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/killpoint"
)

// kill is a point at which the program ends as in a power cut, when it passes it for the n-th time.
type kill struct {
	point string
	n     int
}

// The points of a taking in of 240 files, and those of a run of three chunks and of its undo.
var (
	takingIn = []kill{{killpoint.DeliveryClosed, 1}, {killpoint.BatchRead, 2}, {killpoint.BatchStored, 1}, {killpoint.BatchStored, 4}, {killpoint.BatchCommitted, 3}, {killpoint.DeliveryReady, 1}}
	running  = []kill{{killpoint.ChunkWritten, 2}, {killpoint.ChunkCommitted, 1}}
	undoing  = []kill{{killpoint.ChunkWritten, 1}, {killpoint.ChunkCommitted, 2}}
)

// The program is killed at named points of a taking in, a run and an undo. After each restart the work goes on by itself:
// nothing is lost, nothing is there twice, and the vault holds what the database says. AMBROSA_KILLS asks for so many kills
// at points chosen by chance instead.
func TestKill(t *testing.T) {
	p := serve(t)
	many, _ := strconv.Atoi(os.Getenv("AMBROSA_KILLS"))
	if many == 0 {
		for i, k := range takingIn {
			p.killTakingIn(i, k)
		}
		p.killRun(0, running, undoing)
		return
	}
	r := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 9))
	some := func(points []string, most int) kill { return kill{points[r.IntN(len(points))], 1 + r.IntN(most)} }
	for i, kills := 0, 0; kills < many; i++ {
		if i%3 < 2 {
			p.killTakingIn(i, some(killpoint.Points[1:4], 5))
			kills++
		} else {
			p.killRun(i, []kill{some(killpoint.Points[5:], 3)}, []kill{some(killpoint.Points[5:], 3)})
			kills += 2
		}
		t.Logf("%d kills", kills)
	}
}

// arm starts the program so that it ends at a point.
func (p *program) arm(k kill) {
	p.t.Helper()
	p.stop()
	p.env = []string{fmt.Sprintf("AMBROSA_KILL_AT=%s:%d", k.point, k.n)}
	p.start("serve")
}

// dead waits until the program has ended itself, and starts it again without a point.
func (p *program) dead(k kill) {
	p.t.Helper()
	ended := make(chan error, 1)
	go func() { ended <- p.cmd.Wait() }()
	select {
	case err := <-ended:
		if err == nil || !strings.Contains(err.Error(), "killed") {
			p.t.Fatalf("at %v it ended by itself: %v\n%s", k, err, p.out)
		}
	case <-time.After(time.Minute):
		p.t.Fatalf("it was never at %v", k)
	}
	p.env = nil
	p.start("serve")
}

func (p *program) killTakingIn(round int, k kill) {
	p.t.Helper()
	const pictures = 240
	files := map[string][]byte{}
	for i := range pictures {
		files[fmt.Sprintf("K-%05d.jpg", i)] = numbered(jpegOf(color.RGBA{uint8(i), 90, 99, 255}, 60), round*pictures+i)
	}
	archive := zipOf(p.t, files)
	p.arm(k)
	var d id
	p.me.do("POST", "/api/deliveries", map[string]string{"title": fmt.Sprint(round, k)}, &d)
	// The first half is sent, the program is killed, and the rest goes on from there.
	address := p.me.announce(d.ID, "all.zip", len(archive))
	p.me.patch(address, 0, archive[:len(archive)/2])
	if round == 0 {
		p.kill()
		p.start("serve")
	}
	if at := p.me.offset(address); at != len(archive)/2 {
		p.t.Fatalf("%d bytes are there, %d were sent", at, len(archive)/2)
	}
	p.me.patch(address, len(archive)/2, archive[len(archive)/2:])
	p.me.try("POST", fmt.Sprintf("/api/deliveries/%d/close", d.ID), nil, nil) // its answer may be lost with the program
	p.dead(k)
	now := p.me.taken(d.ID)
	var arrivals []struct {
		Path, Sha string
		Seen      bool
	}
	p.me.do("GET", fmt.Sprintf("/api/deliveries/%d/arrivals", d.ID), nil, &arrivals)
	names := map[string]bool{}
	for _, a := range arrivals {
		names[a.Path] = true
		if a.Sha == "" || a.Seen {
			p.t.Errorf("%v: %+v", k, a)
		}
	}
	if now.Lines != pictures || len(names) != pictures {
		p.t.Errorf("%v: %d lines with %d names, want %d", k, now.Lines, len(names), pictures)
	}
	p.vaultAgrees(k)
}

// vaultAgrees compares the vault with the database: each asset's bytes and derivatives are there, and nothing else.
func (p *program) vaultAgrees(k kill) {
	p.t.Helper()
	count := func(folder string) (n int) {
		err := filepath.WalkDir(filepath.Join(p.data, "pictures", folder), func(_ string, e fs.DirEntry, err error) error {
			if err == nil && !e.IsDir() {
				n++
			}
			return err
		})
		if err != nil {
			p.t.Fatal(err)
		}
		return n
	}
	rows := one[int](p, "SELECT count(*) FROM asset")
	if originals, large, small := count("original"), count("derived/480"), count("derived/96"); originals != rows || large != rows || small != rows {
		p.t.Errorf("%v: %d assets, %d originals, %d and %d derivatives", k, rows, originals, large, small)
	}
}

func (p *program) killRun(round int, running, undoing []kill) {
	p.t.Helper()
	const products = 5000
	before := one[int](p, "SELECT count(*) FROM owner")
	var table strings.Builder
	table.WriteString("sku,title\n")
	for i := range products {
		fmt.Fprintf(&table, "K-%d-%05d,Kite %d\n", round, i, i)
	}
	var plan, r id
	plan.ID = p.me.plan(table.String())
	// As it is killed more than once, each kill counts from where the one before left it.
	work := func(plan int64, kills []kill) run {
		for i, k := range kills {
			p.arm(k)
			if i == 0 {
				p.me.try("POST", fmt.Sprintf("/api/plans/%d/apply", plan), nil, &r)
			}
			p.dead(k)
		}
		if r.ID = one[int64](p, "SELECT id FROM run WHERE plan_id = $1", plan); r.ID == 0 {
			p.t.Fatal("the run is lost")
		}
		return p.me.finished(r.ID)
	}
	done := work(plan.ID, running[:1])
	entries := func(run int64) int { return one[int](p, "SELECT count(*) FROM run_entry WHERE run_id = $1", run) }
	if stand := one[int](p, "SELECT count(*) FROM owner"); done.Applied != products || done.LeftAlone != 0 || stand != before+products || entries(done.ID) != products {
		p.t.Errorf("%v: %+v, %d owners after %d, %d ledger lines", running, done, stand, before, entries(done.ID))
	}
	made := done.ID
	for i := range max(len(running), len(undoing)) {
		// Undone, and, where there are more kills, done again and undone again: the last undo stands.
		var undo id
		p.me.do("POST", fmt.Sprintf("/api/runs/%d/undo", made), nil, &undo)
		back := work(undo.ID, undoing[min(i, len(undoing)-1):][:1])
		if stand := one[int](p, "SELECT count(*) FROM owner"); back.Applied != products || stand != before {
			p.t.Errorf("%v: %+v, %d owners stand, %d did before", undoing[i], back, stand, before)
		}
		if undone := one[int](p, "SELECT undone FROM run WHERE id = $1", made); undone != products {
			p.t.Errorf("%v: the run says that %d of its lines are taken back", undoing[i], undone)
		}
		if i+1 < len(running) {
			p.me.do("POST", fmt.Sprintf("/api/runs/%d/undo", back.ID), nil, &undo)
			redo := work(undo.ID, running[i+1:][:1])
			if stand := one[int](p, "SELECT count(*) FROM owner"); redo.Applied != products || stand != before+products {
				p.t.Errorf("%v: %+v, %d owners stand", running[i+1], redo, stand)
			}
			made = redo.ID
		} else {
			break
		}
	}
}
