package assets

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/davidbyttow/govips/v2/vips"
)

// noise is a picture that does not pack well, so that damage hits its data.
func noise(seed uint64, side int) image.Image {
	r := rand.New(rand.NewPCG(seed, 1))
	m := image.NewNRGBA(image.Rect(0, 0, side, side))
	for y := range side {
		for x := range side {
			m.Set(x, y, color.NRGBA{uint8(r.IntN(256)), uint8(r.IntN(256)), uint8(r.IntN(256)), 255})
		}
	}
	return m
}

// What is said of a damaged picture is said of that one, in the trade's words, whatever else fails beside it.
func TestFailureIsItsOwn(t *testing.T) {
	var j, p bytes.Buffer
	if err := errors.Join(jpeg.Encode(&j, noise(1, 300), nil), png.Encode(&p, noise(2, 300))); err != nil {
		t.Fatal(err)
	}
	broken := bytes.Clone(p.Bytes())
	broken[len(broken)/2] ^= 0xff
	kinds := []struct {
		bytes []byte
		want  string
	}{
		{j.Bytes()[:j.Len()/2], "cut off"},
		{broken, "its data is damaged"},
		{j.Bytes(), ""}, {p.Bytes(), ""},
	}
	var wg sync.WaitGroup
	for i := range 60 {
		wg.Go(func() {
			k := kinds[i%len(kinds)]
			_, err := Probe(context.Background(), Source{Bytes: k.bytes}, 1e8)
			switch {
			case k.want == "" && err != nil:
				t.Errorf("a whole picture: %v", err)
			case k.want != "" && (!errors.Is(err, ErrDamaged) || !strings.Contains(err.Error(), k.want) || strings.Contains(err.Error(), "Stack") || strings.Contains(err.Error(), "vips") || strings.Contains(err.Error(), "\n")):
				t.Errorf("%v, want that it speaks of %q", err, k.want)
			}
		})
	}
	wg.Wait()
}

// Pictures that must be decoded whole wait for each other where they are large, and those that need not, don't.
func TestDecodedAtOnce(t *testing.T) {
	var inside, most atomic.Int64
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			done, err := decoding(context.Background(), 3*decodedAtOnce)
			if err != nil {
				t.Error(err)
				return
			}
			defer done()
			if n := inside.Add(1); n > most.Load() {
				most.Store(n)
			}
			time.Sleep(time.Millisecond)
			inside.Add(-1)
		})
	}
	wg.Wait()
	if most.Load() != 1 {
		t.Errorf("%d large ones at once", most.Load())
	}
	done, err := decoding(context.Background(), decodedAtOnce)
	if err != nil {
		t.Fatal(err)
	}
	defer done()
	if free, err := decoding(context.Background(), 0); err != nil {
		t.Error(err)
	} else {
		free()
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := decoding(ctx, 1); !errors.Is(err, context.Canceled) {
		t.Errorf("waiting does not end with its work: %v", err)
	}
	// What must be decoded whole is seen by the header alone.
	for name, interlaced := range map[string]bool{"interlaced": true, "plain": false} {
		header, err := Source{Bytes: interlacedPNG(t, interlaced)}.load(vips.NewImportParams())
		if err != nil {
			t.Fatal(err)
		}
		if got := decodedWhole(header) > 0; got != interlaced {
			t.Errorf("a %s PNG is decoded whole: %v", name, got)
		}
		header.Close()
	}
}

// interlacedPNG is a grey pixel, by hand where it is interlaced: Go writes none. Source: PNG (Third Edition), 11.2.1.
func interlacedPNG(t *testing.T, interlaced bool) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 1, 1))); err != nil {
		t.Fatal(err)
	}
	if interlaced {
		b.Bytes()[28] = 1 // the interlace method, last of the header's fields
		binary.BigEndian.PutUint32(b.Bytes()[29:], crc32.ChecksumIEEE(b.Bytes()[12:29]))
	}
	return b.Bytes()
}

// bucketServer speaks as much of S3 as storing takes, by path-style addresses alone: /bucket/key.
func bucketServer(t *testing.T, refuses *atomic.Bool) *httptest.Server {
	t.Helper()
	var mu sync.Mutex
	kept := map[string][]byte{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mu.Lock()
		defer mu.Unlock()
		key, ours := strings.CutPrefix(r.URL.Path, "/pictures/")
		switch b, there := kept[key]; {
		case refuses.Load():
			w.WriteHeader(http.StatusForbidden)
			fmt.Fprint(w, `<Error><Code>AccessDenied</Code><Message>key AKIASECRET may not</Message></Error>`)
		case !ours:
			w.WriteHeader(http.StatusNotFound)
		case r.Method == "PUT":
			b, _ := io.ReadAll(r.Body)
			kept[key] = b
			w.Header().Set("ETag", `"x"`)
		case !there:
			w.WriteHeader(http.StatusNotFound)
			fmt.Fprint(w, `<Error><Code>NoSuchKey</Code></Error>`)
		case r.Method == "DELETE":
			delete(kept, key)
			w.WriteHeader(http.StatusNoContent)
		default:
			w.Header().Set("Content-Length", fmt.Sprint(len(b)))
			w.Header().Set("Last-Modified", "Wed, 25 Nov 2026 10:00:00 GMT")
			if r.Method == "GET" {
				w.Write(b)
			}
		}
	}))
	t.Cleanup(s.Close)
	return s
}

// A place for pictures says at once whether it works, in words without keys, addresses and paths: a folder, and a bucket of
// a server that wants path-style addresses, as the README writes it.
func TestReady(t *testing.T) {
	t.Setenv("AWS_ACCESS_KEY_ID", "AKIASECRET")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "verysecret")
	t.Setenv("AWS_MAX_ATTEMPTS", "1")
	ctx := context.Background()
	var refuses atomic.Bool
	server := bucketServer(t, &refuses)
	address := func(endpoint string) string {
		return "s3://pictures?endpoint=" + endpoint + "&region=local&use_path_style=true&request_checksum_calculation=when_required&response_checksum_validation=when_required"
	}
	v, err := OpenVault(ctx, address(server.URL))
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	if err := v.Ready(ctx); err != nil {
		t.Fatalf("a bucket by path-style addresses: %v", err)
	}
	refuses.Store(true)
	if err := v.Ready(ctx); err != nil {
		t.Errorf("the answer does not count for a while: %v", err)
	}
	gone := httptest.NewServer(http.NotFoundHandler())
	gone.Close()
	folder := filepath.Join(t.TempDir(), "secret-folder")
	for name, open := range map[string]func() (*Vault, error){
		"refused":       func() (*Vault, error) { return OpenVault(ctx, address(server.URL)) },
		"not reachable": func() (*Vault, error) { return OpenVault(ctx, address(gone.URL)) },
		"a folder that is gone": func() (*Vault, error) {
			v, err := OpenVault(ctx, folder)
			return v, errors.Join(err, os.RemoveAll(folder), os.WriteFile(folder, []byte("a file"), 0o600))
		},
	} {
		v, err := open()
		if err != nil {
			t.Fatal(err)
		}
		err = v.Ready(ctx)
		if !errors.Is(err, ErrVault) {
			t.Errorf("%s: %v", name, err)
			continue
		}
		for _, secret := range []string{"SECRET", "verysecret", "127.0.0.1", "secret-folder", "\n"} {
			if strings.Contains(err.Error(), secret) {
				t.Errorf("%s: %q holds %q", name, err, secret)
			}
		}
		v.Close()
	}
}
