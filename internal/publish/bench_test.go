package publish

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"hash/crc32"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/store/query"
)

// BenchmarkPackage writes a package of 10,000 pictures of 80 kB into a file, and divides its bytes a second by those of Info-ZIP's zip -0 -r (Debian) over
// the same files.
func BenchmarkPackage(b *testing.B) {
	if _, err := exec.LookPath("zip"); err != nil {
		b.Skip("zip is not installed")
	}
	const count, size = 10_000, 80_000
	h := newHouse(b, 1)
	c := shop(0)
	c.List = nil
	id := h.add(c)
	folder := b.TempDir()
	random := rand.NewChaCha8([32]byte{16})
	content := make([]byte, size)
	var want query.WantRenditionsParams
	for n := range count {
		_, _ = random.Read(content)
		key := fmt.Sprintf("%064x", sha256.Sum256(fmt.Append(nil, n)))
		if err := h.Vault.PutBlob(ctx, assets.RenditionKey(key), bytes.NewReader(content)); err != nil {
			b.Fatal(err)
		}
		name := fmt.Sprintf("K-%05d_01.jpg", n)
		if err := os.WriteFile(filepath.Join(folder, name), content, 0o644); err != nil {
			b.Fatal(err)
		}
		want.Keys, want.Recipes, want.Assets = append(want.Keys, key), append(want.Recipes, "null"), append(want.Assets, 0)
		h.exec("INSERT INTO rendition (key, sum, crc, bytes) VALUES (decode($1, 'hex'), decode($1, 'hex'), $2, $3)", key, int64(crc32.ChecksumIEEE(content)), size)
		h.exec("INSERT INTO channel_file (channel_id, owner_id, asset_id, size, path, key, bytes) VALUES ($1, $2, 1, 'large', $3, decode($4, 'hex'), $5)", id, n, name, key, size)
	}
	h.exec("UPDATE channel SET files = $2, bytes = $3 WHERE id = $1", id, count, count*size)
	for b.Loop() {
		began := time.Now()
		if out, err := exec.Command("zip", "-0", "-r", "-q", filepath.Join(b.TempDir(), "theirs.zip"), folder).CombinedOutput(); err != nil {
			b.Fatal(err, string(out))
		}
		theirs := time.Since(began)
		f, err := os.Create(filepath.Join(b.TempDir(), "ours.zip"))
		if err != nil {
			b.Fatal(err)
		}
		began = time.Now()
		if err := h.Package(ctx, id, f); err != nil || f.Close() != nil {
			b.Fatal(err)
		}
		ours := time.Since(began)
		b.ReportMetric(count*size/1e6/ours.Seconds(), "MB/s")
		b.ReportMetric(count*size/1e6/theirs.Seconds(), "MB/s-zip")
		b.ReportMetric(theirs.Seconds()/ours.Seconds(), "ratio")
		if out, err := exec.Command("unzip", "-tq", f.Name()).CombinedOutput(); err != nil {
			b.Fatal(err, string(out))
		}
	}
}
