package gather

import (
	"archive/zip"
	"bytes"
	"context"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/jobs"
	"ambrosa/internal/store/query"
	"ambrosa/internal/store/storetest"
)

// What waits says why and until when, without the server's addresses and paths, and goes on when it can: by whichever
// process is there then.
func TestWaitingSaysWhy(t *testing.T) {
	t.Setenv("AWS_ACCESS_KEY_ID", "x")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "y")
	t.Setenv("AWS_MAX_ATTEMPTS", "1")
	defer func(before time.Duration) { noRoomPause = before }(noRoomPause)
	noRoomPause = time.Second
	ctx := context.Background()
	s, person := storetest.New(t)
	gone := httptest.NewServer(http.NotFoundHandler())
	gone.Close()
	far, err := assets.OpenVault(ctx, "s3://pictures?region=x&use_path_style=true&endpoint="+gone.URL)
	if err != nil {
		t.Fatal(err)
	}
	near, err := assets.OpenVault(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	folder := t.TempDir()
	full := source.DefaultLimits
	full.Reserve = 1 << 60
	// process works until what it should say is said.
	process := func(vault *assets.Vault, limits source.Limits, delivery int64, state string, says ...string) {
		t.Helper()
		j, err := jobs.New(context.Background(), s)
		if err != nil {
			t.Fatal(err)
		}
		(&Gatherer{Store: s, Jobs: j, Vault: vault, Folder: folder, Limits: limits}).Register()
		work, stop := context.WithCancel(ctx)
		defer func() { stop(); j.Wait() }()
		if err := j.Start(work); err != nil {
			t.Fatal(err)
		}
		deadline := time.Now().Add(40 * time.Second)
		for {
			rows, err := s.Deliveries(ctx, query.DeliveriesParams{ID: &delivery})
			if err != nil {
				t.Fatal(err)
			}
			said := rows[0].State == state
			for _, word := range says {
				said = said && strings.Contains(texts(rows[0].Notes), word)
			}
			if said {
				for _, secret := range []string{folder, "127.0.0.1", "s3:"} {
					if strings.Contains(texts(rows[0].Notes), secret) {
						t.Errorf("%q holds %s", texts(rows[0].Notes), secret)
					}
				}
				return
			}
			if time.Now().After(deadline) {
				t.Fatalf("it is %s, and says %q; want %s with %q", rows[0].State, texts(rows[0].Notes), state, says)
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	// The one that asks for the work has room; the one that does it has not.
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	asks := &Gatherer{Store: s, Jobs: j, Folder: folder, Limits: source.DefaultLimits}
	asks.Register()
	var archive, picture bytes.Buffer
	if err := png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 40))); err != nil {
		t.Fatal(err)
	}
	w := zip.NewWriter(&archive)
	f, err := w.Create("K1.png")
	if err != nil {
		t.Fatal(err)
	}
	f.Write(picture.Bytes())
	w.Close()
	d, err := asks.Begin(ctx, "test", person)
	if err != nil {
		t.Fatal(err)
	}
	id, err := asks.Announce(ctx, d, person, "a.zip", int64(archive.Len()))
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(asks.File(id), archive.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := asks.Close(ctx, d, false); err != nil {
		t.Fatal(err)
	}
	process(near, full, d, "waiting", "disk is nearly full", "continues by itself")
	process(far, source.DefaultLimits, d, "waiting", "storage for pictures", "can't be reached", "tries again at")
	process(near, source.DefaultLimits, d, "ready")
	// Bytes that are gone are not asked for again and again.
	lost, err := asks.Begin(ctx, "lost", person)
	if err != nil {
		t.Fatal(err)
	}
	if id, err = asks.Announce(ctx, lost, person, "b.png", 3); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(asks.File(id), []byte("abc"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := asks.Close(ctx, lost, false); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(asks.File(id)); err != nil {
		t.Fatal(err)
	}
	process(near, source.DefaultLimits, lost, "failed", "The bytes of b.png are gone", "Open the delivery again")
}
