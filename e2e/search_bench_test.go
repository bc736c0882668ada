package e2e

import (
	"context"
	"fmt"
	"math/rand/v2"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
)

// fillCatalogue puts a million owners into the database: 250,000 products with three variants each, and a picture.
func fillCatalogue(b *testing.B, p *program, owners int) {
	b.Helper()
	conn := p.database()
	defer conn.Close(context.Background())
	for _, sql := range []string{
		fmt.Sprintf(`INSERT INTO owner (id, kind, parent, sku, identity, barcode, title, options, ordinal)
			SELECT n, kind, CASE WHEN kind = 'variant' THEN n - (n - 1) %% 4 END, sku, lower(sku), CASE WHEN kind = 'variant' THEN lpad((9520000000000 + n)::text, 13, '0') ELSE '' END,
				CASE WHEN kind = 'product' THEN (ARRAY['Drift','Lark','Moss','Fell','Tarn','Heron','Swift','Kestrel','Gull','Merlin'])[1 + (n / 28) %% 10] || ' ' ||
					(ARRAY['Delta','Box','Sled','Parafoil','Reel','Diamond','Tail','Line'])[1 + (n / 4) %% 8] || ' ' || (n / 4) %% 900 || ' kite' ELSE '' END,
				CASE WHEN kind = 'variant' THEN jsonb_build_object('colour', (ARRAY['amber','plum','teal','ink'])[1 + n %% 4]) ELSE '{}' END, n
			FROM (SELECT n, kind, 'PK-' || (ARRAY['DLT','BOX','SLD','PFL','REL','DMD','TAL','LIN'])[1 + (n / 4) %% 8] || '-' || n / 4 || CASE WHEN kind = 'variant' THEN '-' || (ARRAY['AMB','PLM','TEA','INK'])[1 + n %% 4] ELSE '' END AS sku
				FROM (SELECT n, CASE WHEN n %% 4 = 1 THEN 'product' ELSE 'variant' END AS kind FROM generate_series(1, %d) n) k) s
			ON CONFLICT DO NOTHING`, owners),
		"INSERT INTO asset (sha256, bytes, format, width, height) VALUES (sha256('x'), 1, 'JPEG', 1, 1)",
		"ANALYZE owner",
	} {
		if _, err := conn.Exec(context.Background(), sql); err != nil {
			b.Fatal(err)
		}
	}
}

// questions are what people ask for: a SKU, a part of one, a barcode, words of a title, a variant by its product's words, a
// slip of the finger, and a word that a quarter of the catalogue has.
func questions(r *rand.Rand, owners int) string {
	n := r.IntN(owners/4) + 1
	kind, bird := []string{"DLT", "BOX", "SLD", "PFL", "REL", "DMD", "TAL", "LIN"}[n%8], []string{"drift", "lark", "moss", "fell", "tarn", "heron", "swift", "kestrel"}[n%8]
	switch r.IntN(10) {
	case 0, 1:
		return fmt.Sprintf("PK-%s-%d", kind, n)
	case 2:
		return fmt.Sprintf("pk-%s-%d-amb", strings.ToLower(kind), n)
	case 3, 4:
		return fmt.Sprintf("%s-%d", kind, n)
	case 5:
		return fmt.Sprint(9520000000000 + n*4)
	case 6:
		return fmt.Sprintf("%s delta %d", bird, n%900)
	case 7:
		return fmt.Sprintf("%s sled %d amber", bird, n%900)
	case 8:
		return fmt.Sprintf("PK-%s-%dO", kind, n)
	}
	return []string{"kite", "delta kite", "amber", "pk"}[r.IntN(4)]
}

func percentile(took []time.Duration, p float64) float64 {
	slices.Sort(took)
	return float64(took[min(len(took)-1, int(p*float64(len(took))))].Microseconds()) / 1000
}

// BenchmarkSearch looks for owners among a million, one after the other, against PostgreSQL's own time for the plain
// question by the same index; then asks who is signed in while four people search with long questions of common words and
// four runs write.
func BenchmarkSearch(b *testing.B) {
	const owners = 1_000_000
	p := serve(b)
	fillCatalogue(b, p, owners)
	r := rand.New(rand.NewPCG(1, 2))
	conn := p.database()
	defer conn.Close(context.Background())
	b.Run("alone", func(b *testing.B) {
		for b.Loop() {
			var took, plain []time.Duration
			for range 400 {
				q := questions(r, owners)
				begun := time.Now()
				p.me.do("GET", "/api/owners?q="+url.QueryEscape(q), nil, nil)
				took = append(took, time.Since(begun))
				begun = time.Now()
				if _, err := conn.Exec(context.Background(), "SELECT id FROM owner WHERE kind <> 'category' AND lower(sku || ' ' || barcode || ' ' || title || ' ' || options::text) LIKE '%' || $1 || '%' LIMIT 12", pgx.QueryExecModeExec, strings.ToLower(q)); err != nil {
					b.Fatal(err)
				}
				plain = append(plain, time.Since(begun))
			}
			b.ReportMetric(percentile(took, .5), "ms-p50")
			b.ReportMetric(percentile(took, .95), "ms-p95")
			b.ReportMetric(percentile(took, 1), "ms-most")
			b.ReportMetric(percentile(plain, .95), "ms-p95-postgres")
			b.ReportMetric(percentile(took, .95)/percentile(plain, .95), "÷postgres")
		}
	})
	b.Run("besieged", func(b *testing.B) {
		for b.Loop() {
			besieged(b, p, owners)
		}
	})
}

func besieged(b *testing.B, p *program, owners int) {
	b.Helper()
	conn := p.database()
	defer conn.Close(context.Background())
	for n := range 4 {
		var plan int64
		if err := conn.QueryRow(context.Background(), "INSERT INTO plan (kind, title, changes, created_by) VALUES ('pairing', 'siege', $1, 1) RETURNING id", owners/4).Scan(&plan); err != nil {
			b.Fatal(err)
		}
		if _, err := conn.Exec(context.Background(), `INSERT INTO plan_change (plan_id, seq, subject, subject_id, before, after)
			SELECT $1, row_number() OVER (ORDER BY id), 'pictures', id, '{"pictures": []}', '{"pictures": [{"asset": 1}]}' FROM owner WHERE id % 4 = $2 ORDER BY id LIMIT $3`, plan, n, owners/4); err != nil {
			b.Fatal(err)
		}
		p.me.do("POST", fmt.Sprintf("/api/plans/%d/apply", plan), nil, nil)
	}
	ended := make(chan bool)
	var wg sync.WaitGroup
	var searched sync.Map
	for n := range 4 {
		name := fmt.Sprint("searcher ", string(rune('a'+n)))
		p.me.do("POST", "/api/people", map[string]string{"name": name, "password": "long-enough-for-this", "role": "viewer"}, nil)
		who := signIn(b, p.url(), name, "long-enough-for-this")
		wg.Go(func() {
			words := []string{"kite", "delta", "amber", "pk", "a", "e", "drift", "teal", "plum", "ink", "sled", "box"}
			r := rand.New(rand.NewPCG(uint64(n), 1))
			count := 0
			for {
				select {
				case <-ended:
					searched.Store(n, count)
					return
				default:
				}
				r.Shuffle(len(words), func(i, j int) { words[i], words[j] = words[j], words[i] })
				q := strings.Join(slices.Repeat(words, 3)[:30], " ")
				if r.IntN(2) == 0 {
					q = words[0] + " " + words[1] + "zz"
				}
				who.try("GET", "/api/owners?q="+url.QueryEscape(q[:min(len(q), 200)]), nil, nil)
				count++
			}
		})
	}
	var took []time.Duration
	for begun := time.Now(); time.Since(begun) < 20*time.Second; time.Sleep(20 * time.Millisecond) {
		asked := time.Now()
		p.me.do("GET", "/api/session", nil, nil)
		took = append(took, time.Since(asked))
	}
	working := one[int](p, "SELECT count(*) FROM job WHERE kind = 'run' AND state IN ('waiting', 'working')")
	close(ended)
	wg.Wait()
	searches := 0
	searched.Range(func(_, n any) bool { searches += n.(int); return true })
	b.ReportMetric(percentile(took, .5), "ms-session-p50")
	b.ReportMetric(percentile(took, .99), "ms-session-p99")
	b.ReportMetric(float64(searches)/20, "searches/s")
	b.ReportMetric(float64(working), "runs-at-work")
}
