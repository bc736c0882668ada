package e2e

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"
)

// house is how large the catalogue and the ledger of BenchmarkHouse are.
const (
	houseProducts   = 1_000_000
	houseVariants   = 100_000
	houseCategories = 2_000
	housePlacements = 3 // on each product
	houseDeliveries = 300
	houseLines      = 1_000 // of each delivery but the three large ones
	boardLines      = 100_000
	houseRuns       = 2_000
	housePeople     = 20
)

func fillHouse(b *testing.B, p *program) {
	b.Helper()
	conn := p.database()
	defer conn.Close(context.Background())
	const products = houseCategories
	for _, sql := range []string{
		fmt.Sprintf("INSERT INTO owner (id, kind, title, ordinal) SELECT n, 'category', 'Category ' || n, n FROM generate_series(1, %d) n", houseCategories),
		fmt.Sprintf(`INSERT INTO owner (id, kind, category, sku, identity, barcode, title, ordinal)
			SELECT %d + n, 'product', 1 + n %% %d, 'PK-' || n, 'pk-' || n, lpad((9520000000000 + n)::text, 13, '0'),
				(ARRAY['Drift','Lark','Moss','Fell','Tarn','Heron','Swift','Kestrel','Gull','Merlin'])[1 + (n / 8) %% 10] || ' ' ||
				(ARRAY['Delta','Box','Sled','Parafoil','Reel','Diamond','Tail','Line'])[1 + n %% 8] || ' ' || n, n FROM generate_series(1, %d) n`,
			products, houseCategories, houseProducts),
		fmt.Sprintf(`INSERT INTO owner (id, kind, parent, sku, identity, options, ordinal)
			SELECT %d + n, 'variant', %d + n * 7, 'PK-' || n * 7 || '-AMB', 'pk-' || n * 7 || '-amb', '{"colour": "amber"}', n FROM generate_series(1, %d) n`,
			products+houseProducts, products, houseVariants),
		"INSERT INTO asset (sha256, bytes, format, width, height, likeness, palette) SELECT sha256(n::text::bytea), 1, 'JPEG', 900, 900, n, '' FROM generate_series(1, 1000) n",
		fmt.Sprintf("INSERT INTO placement (owner_id, position, asset_id) SELECT %d + n, k, 1 + (n + k) %% 1000 FROM generate_series(1, %d) n, generate_series(1, %d) k",
			products, houseProducts*9/10, housePlacements),
		fmt.Sprintf("INSERT INTO delivery (title, open, created_by) SELECT 'Delivery ' || n, false, 1 FROM generate_series(1, %d) n", houseDeliveries),
		"INSERT INTO job (kind, subject, title, state, done, total, unit, ended_at) SELECT 'take_in', id, title, 'done', 1000, 1000, 'files', now() - interval '2 days' FROM delivery",
		"INSERT INTO upload (id, delivery_id, path, bytes, entries, done, created_by) SELECT 'u' || id, id, 'spring.zip', 1, 1000, true, 1 FROM delivery",
		fmt.Sprintf(`INSERT INTO arrival (delivery_id, item, path, bytes, asset_id)
			SELECT d.id, n, 'Spring/PK-' || (d.id * 1000 + n) || '_' || n %% 4 || '.jpg', 2000, 1 + n %% 1000
			FROM delivery d, generate_series(1, %d) n WHERE n <= CASE WHEN d.id <= 3 THEN %d ELSE %d END`, boardLines, boardLines, houseLines),
		fmt.Sprintf(`INSERT INTO plan (kind, title, changes, source, created_by) SELECT 'pairing', 'Delivery ' || n, 50, jsonb_build_object('delivery', 4 + n %% 290), 1 FROM generate_series(1, %d) n`, houseRuns),
		fmt.Sprintf(`INSERT INTO plan_change (plan_id, seq, subject, subject_id, before, after) SELECT p.id, n, 'pictures', %d + (p.id * 50 + n) %% 900000, '{"pictures": []}',
			'{"pictures": [{"asset": 1}, {"asset": 2}]}' FROM plan p, generate_series(1, 50) n`, products),
		"INSERT INTO run (plan_id, applied, created_by) SELECT id, 50, 1 FROM plan",
		"INSERT INTO run_entry (run_id, seq) SELECT r.id, n FROM run r, generate_series(1, 50) n",
		"INSERT INTO job (kind, subject, title, state, done, total, unit, ended_at) SELECT 'run', r.id, p.title, 'done', 50, 50, 'changes', now() - interval '2 days' FROM run r JOIN plan p ON p.id = r.plan_id",
		"UPDATE catalogue_state SET owners = owners + 1, pictures = pictures + 1",
		"VACUUM ANALYZE",
	} {
		if _, err := conn.Exec(context.Background(), sql); err != nil {
			b.Fatalf("%s: %v", sql, err)
		}
	}
}

// houseQuestion is what people look for: a SKU, in large or small letters, words of a title, a barcode; one in ten with a slip.
func houseQuestion(r *rand.Rand) string {
	n := 1 + r.IntN(houseProducts)
	switch r.IntN(10) {
	case 0:
		return fmt.Sprintf("PK-%dO", n)
	case 1:
		return fmt.Sprint(9520000000000 + n)
	case 2, 3:
		return fmt.Sprintf("pk-%d", n)
	case 4, 5:
		bird := []string{"drift", "lark", "moss", "fell", "tarn", "heron", "swift", "kestrel", "gull", "merlin"}[n/8%10]
		return bird + " " + []string{"delta", "box", "sled", "parafoil", "reel", "diamond", "tail", "line"}[n%8] + fmt.Sprintf(" %d", n)
	}
	return fmt.Sprintf("PK-%d", n)
}

// BenchmarkHouse asks for all that the screens show, in a house of a million products: first one after the other, then by twenty
// people who ask for one thing a second each. It reports for each question the 99th of a hundred times, and the largest answer.
func BenchmarkHouse(b *testing.B) {
	p := serve(b)
	fillHouse(b, p)
	r := rand.New(rand.NewPCG(7, 7))
	product := func() int { return houseCategories + 1 + r.IntN(houseProducts) }
	asks := []struct {
		name string
		path func() string
	}{
		{"session", func() string { return "/api/session" }},
		{"trail", func() string { return "/api/trail" }},
		{"jobs", func() string { return "/api/jobs" }},
		{"deliveries", func() string { return "/api/deliveries?most=100" }},
		{"older-deliveries", func() string { return "/api/deliveries?most=100&before=120" }},
		{"delivery", func() string { return fmt.Sprint("/api/deliveries/", 1+r.IntN(houseDeliveries)) }},
		{"arrivals", func() string { return fmt.Sprintf("/api/deliveries/%d/arrivals?most=1000", 1+r.IntN(houseDeliveries)) }},
		{"uploads", func() string { return fmt.Sprintf("/api/deliveries/%d/uploads", 1+r.IntN(houseDeliveries)) }},
		{"catalogue", func() string { return "/api/catalogue" }},
		{"categories", func() string { return "/api/categories?most=1000" }},
		{"products", func() string { return fmt.Sprintf("/api/products?after=%d.0", r.IntN(houseProducts)) }},
		{"products-in", func() string { return fmt.Sprintf("/api/products?in=%d", 1+r.IntN(houseCategories)) }},
		{"products-without", func() string { return "/api/products?without=true" }},
		{"products-found", func() string { return fmt.Sprintf("/api/products?q=PK-%d", r.IntN(houseProducts)) }},
		{"product", func() string { return fmt.Sprint("/api/products/", product()) }},
		{"owners", func() string {
			return "/api/owners?q=" + url.QueryEscape(houseQuestion(r))
		}},
		{"runs", func() string { return "/api/runs?most=100" }},
		{"older-runs", func() string { return fmt.Sprintf("/api/runs?most=100&before=%d", 1+r.IntN(houseRuns)) }},
		{"run", func() string { return fmt.Sprint("/api/runs/", 1+r.IntN(houseRuns)) }},
		{"plan", func() string { return fmt.Sprint("/api/plans/", 1+r.IntN(houseRuns)) }},
		{"changes", func() string { return fmt.Sprintf("/api/plans/%d/changes", 1+r.IntN(houseRuns)) }},
	}
	for b.Loop() {
		largest := 0
		var slowest float64
		for _, ask := range asks {
			var took []time.Duration
			size := 0
			for range 100 {
				begun := time.Now()
				size = max(size, p.me.weigh(ask.path()))
				took = append(took, time.Since(begun))
				time.Sleep(35 * time.Millisecond)
			}
			b.Logf("%-18s p50 %6.1f ms  p99 %6.1f ms  %4d kB", ask.name, percentile(took, .5), percentile(took, .99), size/1000)
			largest, slowest = max(largest, size), max(slowest, percentile(took, .99))
		}
		b.ReportMetric(slowest, "ms-p99-alone")
		b.ReportMetric(float64(largest)/1000, "kB-largest")
		var mu sync.Mutex
		took := map[string][]time.Duration{}
		var wg sync.WaitGroup
		paths := make([][]string, housePeople)
		for n := range paths {
			for k := range 60 {
				ask := asks[(n*7+k)%len(asks)]
				paths[n] = append(paths[n], ask.name+" "+ask.path())
			}
		}
		for n := range housePeople {
			name := fmt.Sprint("colleague ", n)
			p.me.do("POST", "/api/people", map[string]string{"name": name, "password": "long-enough-for-this", "role": "viewer"}, nil)
			who := signIn(b, p.url(), name, "long-enough-for-this")
			wg.Go(func() {
				for _, next := range paths[n] {
					ask, path, _ := strings.Cut(next, " ")
					begun := time.Now()
					who.weigh(path)
					spent := time.Since(begun)
					mu.Lock()
					took[ask] = append(took[ask], spent)
					mu.Unlock()
					time.Sleep(time.Second - min(spent, time.Second))
				}
			})
		}
		wg.Wait()
		var all []time.Duration
		for _, some := range took {
			all = append(all, some...)
		}
		b.ReportMetric(percentile(all, .99), "ms-p99-of-twenty")
		b.Logf("server: %d MiB after lists", p.memory()>>20)

		// Three boards of a hundred thousand lines.
		for d := 1; d <= 3; d++ {
			begun := time.Now()
			size := p.me.weigh(fmt.Sprintf("/api/deliveries/%d/pairing", d))
			b.Logf("board %d: %.1f s, %d kB; server %d MiB", d, time.Since(begun).Seconds(), size/1000, p.memory()>>20)
		}
		b.ReportMetric(float64(p.memory())/(1<<20), "MiB-three-boards")
	}
}

// weigh asks for something and returns how many bytes the answer has, as they are before they are packed.
func (c *client) weigh(path string) int {
	c.t.Helper()
	r, _ := http.NewRequest("GET", c.url+path, nil)
	r.Header.Set("Cookie", c.cookie)
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		c.t.Error(err)
		return 0
	}
	defer answer.Body.Close()
	n, err := io.Copy(io.Discard, answer.Body)
	if err != nil || answer.StatusCode != http.StatusOK {
		c.t.Errorf("%s: %d %v", path, answer.StatusCode, err)
	}
	return int(n)
}

// memory is how many bytes of the server are in memory now.
func (p *program) memory() (bytes int64) {
	p.t.Helper()
	status, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", p.cmd.Process.Pid))
	if err != nil {
		p.t.Fatal(err)
	}
	lines := strings.Split(string(status), "\n")
	at := slices.IndexFunc(lines, func(l string) bool { return strings.HasPrefix(l, "VmRSS:") })
	fmt.Sscanf(lines[at], "VmRSS: %d kB", &bytes)
	return bytes << 10
}
