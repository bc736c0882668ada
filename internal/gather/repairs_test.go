package gather

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/internal/assets"
	"ambrosa/internal/gather/source"
	"ambrosa/internal/gather/source/archive/archivetest"
)

// folderBytes is how much the files of a folder hold.
func folderBytes(t *testing.T, folder string) (total int64) {
	t.Helper()
	err := filepath.WalkDir(folder, func(_ string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		info, err := e.Info()
		if err == nil {
			total += info.Size()
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return total
}

// An archive of files with holes is small and returns much. What counts is what it gives: no picture with a hollow tail is
// kept, and the disk is not filled on the way.
func TestHoles(t *testing.T) {
	g, person, _ := house(t, source.DefaultLimits)
	folder := t.TempDir()
	picture := jpegOf(7, 300)
	for name, size := range map[string]int64{"huge-1.jpg": 1600 << 20, "huge-2.jpg": 1600 << 20, "tail.jpg": 30 << 20, "honest.jpg": int64(len(picture))} {
		path := filepath.Join(folder, name)
		if err := errors.Join(os.WriteFile(path, []byte(picture), 0o600), os.Truncate(path, size)); err != nil {
			t.Fatal(err)
		}
	}
	for _, format := range []string{"gnu", "posix"} {
		archive := filepath.Join(t.TempDir(), "a.tar")
		if out, err := exec.Command("tar", "-c", "--sparse", "--format="+format, "-f", archive, "-C", folder, "honest.jpg", "huge-1.jpg", "huge-2.jpg", "tail.jpg").CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		b, err := os.ReadFile(archive)
		if err != nil || len(b) > 100<<10 {
			t.Fatalf("the archive has %d bytes, %v", len(b), err)
		}
		d := send(t, g, person, format+".tar", string(b))
		if err := g.TakeIn(context.Background(), d); err != nil {
			t.Fatal(err)
		}
		lines, _ := arrivals(t, g, d)
		for name, l := range lines {
			if hollow := name != "honest.jpg"; hollow != (l.AssetID == nil) || hollow && !strings.Contains(text(l.Message), "holes") {
				t.Errorf("%s, %s: %q %s, its picture is %v", format, name, l.Problem, text(l.Message), l.AssetID)
			}
		}
		if len(lines) != 4 {
			t.Errorf("%s: %d lines", format, len(lines))
		}
		if left := folderBytes(t, g.Folder); left > 0 {
			t.Errorf("%s: %d bytes are left behind", format, left)
		}
	}
}

// A taking in ends before the reserve of free disk is touched, and goes on when there is room.
func TestNoRoom(t *testing.T) {
	g, person, _ := house(t, source.DefaultLimits)
	pairs := []string{}
	for i := range 120 {
		pairs = append(pairs, fmt.Sprintf("K-%03d.jpg", i), jpegOf(uint8(i), 40))
	}
	d := send(t, g, person, "a.zip", string(archivetest.Zip(t, zip.Store, pairs...)))
	g.Limits.Reserve = 1 << 60
	err := g.TakeIn(context.Background(), d)
	if !errors.Is(err, ErrNoRoom) || !strings.Contains(err.Error(), "are free") {
		t.Fatalf("with a full disk: %v", err)
	}
	if _, n := arrivals(t, g, d); n > 0 {
		t.Errorf("%d lines came all the same", n)
	}
	if _, err := g.Announce(context.Background(), d, person, "x.jpg", 5); !errors.Is(err, ErrNoRoom) {
		t.Errorf("announcing a file: %v", err)
	}
	g.Limits.Reserve = 0
	if err := g.TakeIn(context.Background(), d); err != nil {
		t.Fatal(err)
	}
	if _, n := arrivals(t, g, d); n != 120 {
		t.Errorf("%d lines", n)
	}
}

// A picture whose bytes are lost is stored again when it comes again.
func TestLostBytes(t *testing.T) {
	g, person, _ := house(t, source.DefaultLimits)
	vaultFolder := t.TempDir()
	v, err := assets.OpenVault(context.Background(), vaultFolder)
	if err != nil {
		t.Fatal(err)
	}
	defer v.Close()
	g.Vault = v
	for range 2 {
		d := send(t, g, person, "K7.jpg", jpegOf(9, 80))
		if err := g.TakeIn(context.Background(), d); err != nil {
			t.Fatal(err)
		}
		if folderBytes(t, vaultFolder) == 0 {
			t.Error("the picture is not in the vault")
		}
		if err := os.RemoveAll(filepath.Join(vaultFolder, "original")); err != nil {
			t.Fatal(err)
		}
	}
}

// A delivery whose bytes are gone says so without the server's paths, is opened again, and takes in what is sent again,
// nothing twice.
func TestReopen(t *testing.T) {
	ctx := context.Background()
	g, person, _ := house(t, source.DefaultLimits)
	archive := string(archivetest.Zip(t, zip.Store, "K1.jpg", jpegOf(1, 50), "K2.jpg", jpegOf(2, 50)))
	d := send(t, g, person, "first.jpg", jpegOf(3, 50), "a.zip", archive)
	uploads, err := g.Store.Uploads(ctx, d)
	if err != nil {
		t.Fatal(err)
	}
	if err := g.Reopen(ctx, d); !errors.Is(err, ErrState) {
		t.Errorf("opening what lacks nothing: %v", err)
	}
	lost := ""
	for _, u := range uploads {
		if u.Path == "a.zip" {
			lost = u.ID
			if err := os.Remove(g.File(u.ID)); err != nil {
				t.Fatal(err)
			}
		}
	}
	err = g.TakeIn(ctx, d)
	if !errors.Is(err, source.ErrGone) || strings.Contains(err.Error(), g.Folder) || !strings.Contains(err.Error(), "a.zip") {
		t.Fatalf("%v", err)
	}
	if _, err := g.Store.Pool.Exec(ctx, "UPDATE job SET state = 'failed', worker = 0"); err != nil {
		t.Fatal(err)
	}
	if err := g.Reopen(ctx, d); err != nil {
		t.Fatal(err)
	}
	if err := g.Close(ctx, d, false); !errors.Is(err, ErrMissing) {
		t.Errorf("closing while a file is missing: %v", err)
	}
	if _, err := os.Stat(g.File(lost) + ".info"); err != nil {
		t.Errorf("the upload can't be sent on under its name: %v", err)
	}
	if err := os.WriteFile(g.File(lost), []byte(archive), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := g.Close(ctx, d, false); err != nil {
		t.Fatal(err)
	}
	if err := g.TakeIn(ctx, d); err != nil {
		t.Fatal(err)
	}
	if lines, n := arrivals(t, g, d); n != 3 || lines["K2.jpg"].AssetID == nil {
		t.Errorf("%d lines: %+v", n, lines)
	}
}

// Nothing that was sent stays on the disk for ever: not what a delivery closed without, nor what is removed with it.
func TestRemove(t *testing.T) {
	ctx := context.Background()
	g, person, _ := house(t, source.DefaultLimits)
	half := func() (delivery int64) {
		delivery, err := g.Begin(ctx, "half", person)
		if err != nil {
			t.Fatal(err)
		}
		for path, size := range map[string]int64{"a.jpg": 3, "b.jpg": 9} {
			id, err := g.Announce(ctx, delivery, person, path, size)
			if err != nil {
				t.Fatal(err)
			}
			if err := errors.Join(os.WriteFile(g.File(id), []byte("abc"), 0o600), os.WriteFile(g.File(id)+".info", []byte("{}"), 0o600)); err != nil {
				t.Fatal(err)
			}
		}
		return delivery
	}
	files := func() int {
		entries, err := os.ReadDir(g.Folder)
		if err != nil {
			t.Fatal(err)
		}
		return len(entries)
	}
	d := half()
	if err := g.Close(ctx, d, true); err != nil || files() != 2 {
		t.Errorf("closed partly: %v, %d files are left", err, files())
	}
	if err := g.Remove(ctx, d); !errors.Is(err, ErrKept) {
		t.Errorf("removing one that waits: %v", err)
	}
	if err := g.TakeIn(ctx, d); err != nil {
		t.Fatal(err)
	}
	if err := g.Remove(ctx, d); !errors.Is(err, ErrKept) {
		t.Errorf("removing one that is ready: %v", err)
	}
	open := half()
	if err := g.Remove(ctx, open); err != nil || files() != 0 {
		t.Errorf("removing an open one: %v, %d files are left", err, files())
	}
	if uploads, err := g.Store.Uploads(ctx, open); err != nil || len(uploads) > 0 {
		t.Errorf("its uploads: %v, %v", uploads, err)
	}
	// One that somebody has decided on stays, whatever its state.
	if _, err := g.Store.Pool.Exec(ctx, "UPDATE job SET state = 'failed' WHERE subject = $1", d); err != nil {
		t.Fatal(err)
	}
	if _, err := g.Store.Pool.Exec(ctx, "INSERT INTO decision (arrival_id, aside, person_id) SELECT id, true, $1 FROM arrival LIMIT 1", person); err != nil {
		t.Fatal(err)
	}
	if err := g.Remove(ctx, d); !errors.Is(err, ErrKept) {
		t.Errorf("removing one that is decided on: %v", err)
	}
}
