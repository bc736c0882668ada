package publish

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ambrosa/core/channel"
)

func TestToDrive(t *testing.T) {
	h := newHouse(t, 2)
	id := h.add(shop(1))
	plan, counts := h.look(id)
	if counts != "new 5" {
		t.Fatalf("at first: %s", counts)
	}
	first, left := h.run(plan)
	const all = "shop/pictures/K-1_01.jpg shop/pictures/K-1_02.jpg shop/pictures/K-2_01.jpg shop/pictures/K-2_02.jpg shop/pictures/list.csv"
	there := h.there()
	if left != "" || names(there) != all {
		t.Fatalf("it sent %s, left %s", names(there), left)
	}
	if got := h.file("shop/pictures/list.csv"); got != "sku,file,position\r\nK-1,K-1_01.jpg,1\r\nK-1,K-1_02.jpg,2\r\nK-2,K-2_01.jpg,1\r\nK-2,K-2_02.jpg,2\r\n" {
		t.Errorf("the list: %q", got)
	}
	if plan, counts := h.look(id); plan != 0 || counts != "unchanged 5" {
		t.Errorf("again: %d, %s", plan, counts)
	}

	// Pictures exchange their places, so their files exchange their names; one has another name, one is gone, one is new.
	h.exec("UPDATE placement SET position = 12 - position WHERE owner_id = 1 AND position <= 2")
	h.exec("UPDATE placement SET position = position - 9 WHERE owner_id = 1")
	h.exec("UPDATE owner SET sku = 'K-2b' WHERE id = 2")
	h.exec("DELETE FROM placement WHERE owner_id = 2 AND position = 2")
	positions := h.one("SELECT string_agg(asset_id || ':' || position, ' ' ORDER BY position) FROM placement WHERE owner_id = 1")
	plan, counts = h.look(id)
	if counts != "changed 1, removed 1, renamed 3" {
		t.Fatalf("after changes (%s): %s", positions, counts)
	}
	second, left := h.run(plan)
	if left != "" || names(h.there()) != "shop/pictures/K-1_01.jpg shop/pictures/K-1_02.jpg shop/pictures/K-2b_01.jpg shop/pictures/list.csv" {
		t.Fatalf("after changes: %s, left %s", names(h.there()), left)
	}
	was := strings.Split(there, "\n")
	is := strings.Split(h.there(), "\n")
	if was[0][len(was[0])-8:] != is[1][len(is[1])-8:] || was[1][len(was[1])-8:] != is[0][len(is[0])-8:] {
		t.Errorf("names were exchanged, files were not:\n%s\n%s", there, h.there())
	}
	if plan, counts := h.look(id); plan != 0 {
		t.Errorf("again: %s", counts)
	}

	// Taken back, all stands as it stood before, to the byte.
	if left := h.undo(second); left != "" || h.there() != there {
		t.Errorf("undone, left %s:\n%s\nwas\n%s", left, h.there(), there)
	}
	if left := h.undo(first); left != "" || h.there() != "" {
		t.Errorf("undone all, left %s: %s", left, h.there())
	}
	if got := h.one("SELECT files || ' ' || bytes FROM channel WHERE id = $1", id); got != "0 0" {
		t.Errorf("it counts %s", got)
	}
}

// What others do at the drive is seen, and what they put there is theirs.
func TestOthersAtTheDrive(t *testing.T) {
	h := newHouse(t, 2)
	id := h.add(shop(1))
	at := func(name string) string { return filepath.Join(h.folder, "shop/pictures", name) }
	write := func(name, text string) {
		t.Helper()
		if err := os.MkdirAll(filepath.Dir(at(name)), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(at(name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	write("K-1_01.jpg", "theirs")
	write("notes.txt", "theirs too")
	write("list.csv", "theirs")
	if plan, counts := h.look(id); counts != "held 2, new 5" {
		t.Fatalf("two files that stand there: %s", counts)
	} else if _, left := h.run(plan); left != "publish_stands_there,publish_stands_there" || h.file("shop/pictures/list.csv") != "theirs" {
		t.Fatalf("two files that stand there: left %s", left)
	}
	h.exec("UPDATE channel_file SET path = NULL, key = NULL")
	if err := os.RemoveAll(h.folder); err != nil {
		t.Fatal(err)
	}
	write("K-1_01.jpg", "theirs")
	write("notes.txt", "theirs too")
	plan, counts := h.look(id)
	if counts != "held 1, new 5" {
		t.Fatalf("a file that stands there: %s", counts)
	}
	run, left := h.run(plan)
	if left != "publish_stands_there" || h.file("shop/pictures/K-1_01.jpg") != "theirs" || strings.Contains(h.file("shop/pictures/list.csv"), "K-1_01") {
		t.Errorf("it left %s, and the list says %s", left, h.file("shop/pictures/list.csv"))
	}
	if left := h.undo(run); left != "" || names(h.there()) != "shop/pictures/K-1_01.jpg shop/pictures/notes.txt" {
		t.Errorf("undone: %s, left %s", names(h.there()), left)
	}

	// Somebody lets it go: it goes.
	plan, _ = h.look(id)
	if n, err := h.Ledger.Release(ctx, plan, h.person, nil, "the shop's people say so"); n != 1 || err != nil {
		t.Fatal(n, err)
	}
	if _, left := h.run(plan); left != "" || !strings.Contains(h.file("shop/pictures/list.csv"), "K-1_01") {
		t.Errorf("let go: left %s", left)
	}
	if plan, counts := h.look(id); plan != 0 {
		t.Errorf("again: %s", counts)
	}

	// One is lost there, one is changed there: both are sent again. What was changed is not removed.
	if err := os.Remove(at("K-2_01.jpg")); err != nil {
		t.Fatal(err)
	}
	write("K-2_02.jpg", "changed")
	if plan, counts = h.look(id); counts != "changed 2, unchanged 3" {
		t.Fatalf("lost and changed: %s", counts)
	}
	if _, left := h.run(plan); left != "" || h.file("shop/pictures/K-2_02.jpg") == "changed" {
		t.Errorf("sent again: left %s", left)
	}
	write("K-2_02.jpg", "changed again")
	h.exec("DELETE FROM placement WHERE owner_id = 2")
	plan, _ = h.look(id)
	if _, left := h.run(plan); left != "publish_not_ours" || h.file("shop/pictures/K-2_02.jpg") != "changed again" {
		t.Errorf("removing: left %s", left)
	}
}

// Rights hold pictures back: when the plan is made, and when it runs.
func TestRights(t *testing.T) {
	h := newHouse(t, 2)
	id := h.add(shop(0))
	h.exec("INSERT INTO rights (asset_id, may, holder) VALUES ($1, 'not_cleared', 'Fellside')", h.assets[0])
	plan, counts := h.look(id)
	if counts != "held 1, new 5" {
		t.Fatalf("one is held: %s", counts)
	}
	h.exec("INSERT INTO rights (asset_id, may, until) VALUES ($1, 'cleared', current_date - 1)", h.assets[3])
	run, left := h.run(plan)
	if left != "rights_not_cleared,rights_ended" {
		t.Errorf("left %s", left)
	}
	stands := func() string {
		return h.one("SELECT coalesce(string_agg(path, ' ' ORDER BY path), '') FROM channel_file WHERE channel_id = $1", id)
	}
	if got := stands(); got != "K-1_02.jpg K-2_01.jpg list.csv" {
		t.Errorf("it has %s", got)
	}
	// Rights of what stands end: it is taken out; and without leave to remove it is told.
	h.exec("INSERT INTO rights (asset_id, may, until) VALUES ($1, 'cleared', current_date - 1)", h.assets[2])
	if _, counts := h.look(id); counts != "changed 1, held 2, new 2, removed 1, unchanged 1" {
		t.Errorf("rights ended: %s", counts)
	}
	c, err := h.ByID(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	c.Removes = false
	if err := h.Set(ctx, c); err != nil {
		t.Fatal(err)
	}
	if plan, counts = h.look(id); counts != "changed 1, held 2, held_standing 1, new 2, unchanged 1" ||
		!strings.Contains(h.one("SELECT problems::text FROM plan WHERE id = $1", plan), "publish_stands_held") {
		t.Errorf("rights ended, nothing is removed: %s", counts)
	}
	// Taken back, nothing comes back that may not be seen any more.
	h.exec("DELETE FROM placement WHERE owner_id = 2")
	c.Removes = true
	if err := h.Set(ctx, c); err != nil {
		t.Fatal(err)
	}
	plan, _ = h.look(id)
	second, _ := h.run(plan)
	if left := h.undo(second); left != "rights_ended" {
		t.Errorf("undone, left %s", left)
	}
	_ = run
}

// TestAnyChannel has a catalogue and a channel change at random. After each run the drive has what is wanted, a second look finds nothing, and an
// undo brings back what stood.
func TestAnyChannel(t *testing.T) {
	h := newHouse(t, 4)
	c := shop(1)
	id := h.add(c)
	random := rand.New(rand.NewPCG(16, 1))
	for round := range 24 {
		switch random.IntN(5) {
		case 0:
			c.Path = []string{"{sku}_{number:00}", "{number}/{sku:lower}", "all/{sku}-{number}", "{sku}_{number}"}[random.IntN(4)]
		case 1:
			c.Renditions[0].Size = []string{"200", "100x100", "120"}[random.IntN(3)]
		case 2:
			o := random.IntN(4) + 1
			h.exec("DELETE FROM placement WHERE owner_id = $1", o)
			h.exec("INSERT INTO placement (owner_id, position, asset_id) SELECT $1, row_number() OVER (ORDER BY md5(id::text || $2)), id FROM asset ORDER BY md5(id::text || $2) LIMIT $3",
				o, fmt.Sprint(round), random.IntN(4))
		case 3:
			h.exec("UPDATE owner SET sku = $2 WHERE id = $1", random.IntN(4)+1, fmt.Sprintf("K-%d", random.IntN(90)))
		case 4:
			c.Folder = []string{"", "a", "shop/pictures"}[random.IntN(3)]
			h.exec("UPDATE channel_file SET path = NULL, key = NULL WHERE channel_id = $1", id) // a folder that it was never in
			if err := os.RemoveAll(h.folder); err != nil || os.Mkdir(h.folder, 0o755) != nil {
				t.Fatal(err)
			}
		}
		if err := h.Set(ctx, Channel{ID: id, Name: "Shop", Channel: c}); err != nil {
			t.Fatal(err)
		}
		before := h.there()
		plan, counts := h.look(id)
		if plan == 0 {
			continue
		}
		run, left := h.run(plan)
		if left != "" {
			t.Fatalf("round %d (%s): left %s", round, counts, left)
		}
		after := h.there()
		if got := h.one("SELECT coalesce(string_agg(path, ' ' ORDER BY path), '') FROM (SELECT ltrim($2 || '/' || path, '/') COLLATE \"C\" AS path FROM channel_file WHERE channel_id = $1 AND path IS NOT NULL) f",
			id, c.Folder); got != names(after) {
			t.Fatalf("round %d (%s): it has %s, and should have %s", round, counts, names(after), got)
		}
		if again, counts := h.look(id); again != 0 {
			t.Fatalf("round %d: a second look finds %s", round, counts)
		}
		if random.IntN(2) == 0 {
			if left := h.undo(run); left != "" || h.there() != before {
				t.Fatalf("round %d (%s): undone, left %s:\n%s\nwas\n%s", round, counts, left, h.there(), before)
			}
		}
	}
}

func TestChannels(t *testing.T) {
	h := newHouse(t, 1)
	id := h.add(shop(0))
	if _, err := h.Add(ctx, h.person, Channel{Name: "shop 0{SKU}_{number:00}", Channel: shop(0)}); !errors.Is(err, ErrName) {
		t.Errorf("a second of the same name: %v", err)
	}
	for _, name := range []string{"", " ", "a\r\nX: y"} {
		if _, err := h.Add(ctx, h.person, Channel{Name: name, Channel: shop(0)}); !errors.Is(err, ErrName) {
			t.Errorf("%q: %v", name, err)
		}
	}
	bad := shop(0)
	bad.Renditions = nil
	if _, err := h.Add(ctx, h.person, Channel{Name: "bad", Channel: bad}); !errors.Is(err, channel.ErrChannel) {
		t.Errorf("without a size: %v", err)
	}
	if err := h.Remove(ctx, id); err != nil {
		t.Fatal(err)
	}
	if err := h.Look(ctx, h.person, id, false); err == nil {
		t.Error("a removed channel is published to")
	}
}
