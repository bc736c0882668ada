package e2e

import (
	"fmt"
	"image/color"
	"net/http"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"ambrosa/core/message"
	"ambrosa/internal/killpoint"
)

// The program is killed in every step of a deletion: after each restart it goes on by itself, and in the end there is a row for each blob and a
// blob for each row. A picture that comes in again between the steps is stored anew.
func TestDeletionKilled(t *testing.T) {
	p := serve(t)
	for round, k := range []kill{{killpoint.AssetsDoomed, 1}, {killpoint.BlobDeleted, 7}, {killpoint.BytesDeleted, 1}, {killpoint.OutsideDone, 1}, {killpoint.ChunkWritten, 1}, {killpoint.ChunkCommitted, 1}} {
		t.Run(k.point, func(t *testing.T) { p.killDeletion(t, round, k) })
	}
}

// A bucket that refuses to delete, and answers slowly then: the run says so and is tried again; nothing is lost meanwhile, and a picture that comes
// in again is whole. In the end there is nothing left of the others.
func TestDeletionRefused(t *testing.T) {
	const pictures = 10
	var refuses, slow atomic.Bool
	address, objects := pictureBucket(t, func(of http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			switch {
			case refuses.Load() && r.Method == http.MethodDelete:
				http.Error(w, "<Error><Code>AccessDenied</Code></Error>", http.StatusForbidden)
				return
			case slow.Load():
				time.Sleep(100 * time.Millisecond)
			}
			of.ServeHTTP(w, r)
		})
	})
	p := (&program{t: t, args: []string{"--pictures", address}}).served()
	files := map[string][]byte{}
	for i := range pictures {
		files[fmt.Sprintf("R-%03d.jpg", i)] = numbered(jpegOf(color.RGBA{uint8(10 * i), 20, 90, 255}, 60), 7000+i)
	}
	ids := p.assetsOf(p.me.deliver("spring", files).ID)
	stored := objects()
	var plan struct{ Plan int64 }
	p.me.do("POST", "/api/gallery/plans", map[string]any{"act": "bin", "pictures": ids}, &plan)
	p.me.finished(p.me.apply(plan.Plan).ID)
	refuses.Store(true)
	var emptied id
	p.me.do("POST", "/api/tidy/empty", map[string]any{"count": pictures}, &emptied)
	var r run
	await(t, time.Minute, "the run to say that it is refused", func() bool {
		p.me.do("GET", fmt.Sprintf("/api/runs/%d", emptied.ID), nil, &r)
		return strings.Contains(message.Texts(r.Notes), "refuses access")
	})
	if now, rows := objects(), one[int](p, "SELECT count(*) FROM asset"); now != stored || rows != pictures {
		t.Errorf("%d objects of %d, %d rows of %d while the bucket refuses", now, stored, rows, pictures)
	}
	refuses.Store(false)
	slow.Store(true)
	again := p.me.deliver("again", map[string][]byte{"R-000.jpg": files["R-000.jpg"]})
	await(t, 2*time.Minute, "the deletion to end", func() bool {
		p.me.do("GET", fmt.Sprintf("/api/runs/%d", emptied.ID), nil, &r)
		return r.State == "done"
	})
	slow.Store(false)
	if now, rows := objects(), one[int](p, "SELECT count(*) FROM asset"); now != stored/pictures || rows != 1 || r.LeftAlone != 1 {
		t.Errorf("%d objects, %d rows, %d left alone in the end", now, rows, r.LeftAlone)
	}
	if p.me.weigh("/api/assets/"+p.shasOf(again.ID)[0]+"/original") == 0 {
		t.Error("what came in again has no bytes")
	}
}

func (p *program) killDeletion(t *testing.T, round int, k kill) {
	const pictures = 20
	files := map[string][]byte{}
	for i := range pictures {
		files[fmt.Sprintf("D-%03d.jpg", i)] = numbered(jpegOf(color.RGBA{uint8(10 * i), 120, 30, 255}, 60), 5000+round*pictures+i)
	}
	d := p.me.deliver(fmt.Sprint("round ", round), files)
	ids := p.assetsOf(d.ID)
	if len(ids) != pictures {
		t.Fatalf("%d pictures", len(ids))
	}
	var plan struct{ Plan int64 }
	p.me.do("POST", "/api/gallery/plans", map[string]any{"act": "bin", "pictures": ids}, &plan)
	p.me.finished(p.me.apply(plan.Plan).ID)
	p.arm(k)
	var run id
	p.me.try("POST", "/api/tidy/empty", map[string]any{"count": pictures}, &run) // its answer may be lost with the program
	p.dead(k)
	if round == 1 { // while some bytes are gone and the rows stand, or the run has gone on already
		again := p.me.deliver("again", map[string][]byte{"D-000.jpg": files["D-000.jpg"], "D-019.jpg": files["D-019.jpg"]})
		for _, sha := range p.shasOf(again.ID) {
			if p.me.weigh("/api/assets/"+sha+"/original") == 0 {
				t.Error("a picture that came in again has no bytes")
			}
		}
	}
	await(t, time.Minute, "the deletion to end", func() bool {
		return one[int64](p, "SELECT count(*) FROM job WHERE kind = 'run' AND state NOT IN ('done', 'failed', 'stopped')") == 0 &&
			one[int64](p, "SELECT count(*) FROM asset WHERE doomed_at IS NOT NULL") == 0
	})
	p.vaultAgrees(k)
	if lost := one[int64](p, "SELECT count(*) FROM arrival WHERE asset_id IS NULL AND problem = ''"); lost > 0 {
		t.Errorf("%d lines lost their picture without a word", lost)
	}
	if failed := one[int64](p, "SELECT count(*) FROM job WHERE kind = 'run' AND state <> 'done'"); failed > 0 {
		t.Errorf("%d runs did not end well", failed)
	}
}

// assetsOf are the numbers of a delivery's pictures.
func (p *program) assetsOf(delivery int64) []int64 {
	return one[[]int64](p, "SELECT array_agg(DISTINCT asset_id) FROM arrival WHERE delivery_id = $1", delivery)
}

func (p *program) shasOf(delivery int64) []string {
	return one[[]string](p, "SELECT array_agg(encode(s.sha256, 'hex')) FROM arrival a JOIN asset s ON s.id = a.asset_id WHERE a.delivery_id = $1", delivery)
}
