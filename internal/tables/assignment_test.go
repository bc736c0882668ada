package tables

import (
	"encoding/json"
	"errors"
	"testing"

	"ambrosa/core/table"

	"github.com/jackc/pgx/v5"
)

// How a table is read is saved under a name, offered for tables with the same header alone, and read so again.
func TestAssignments(t *testing.T) {
	st := newStation(t)
	first := st.bring("prices.csv", "Item,Colour,Weight,Seen,More\nK-1,red,12 grams,2026-01-02,a;b\nK-2,red,13 grams,2026-02-03,b;c\nK-3,red,14.5,03.04.2026,c;d\nK-4,red,007,x,d\n")
	w := st.checked(first)
	var types map[int]table.Type
	if err := json.Unmarshal(w.Types, &types); err != nil || types[1] != table.TextType || types[2] != table.TextType || types[3] != table.TextType || types[4] != table.ListType {
		t.Errorf("the types found are %v, %v", types, err)
	}
	key := "code"
	fields := map[int]string{0: "code", 1: "attribute:tint", 2: "attribute:weight", 3: "attribute:seen"}
	if err := st.Describe(ctx, first, Described{Fields: fields, Key: &key, Types: map[int]table.Type{2: table.NumberType, 3: table.DateType}}); err != nil {
		t.Fatal(err)
	}
	if err := st.Describe(ctx, first, Described{Types: map[int]table.Type{2: "colour"}}); !errors.Is(err, ErrField) {
		t.Errorf("a type that there is not: %v", err)
	}
	if w = st.checked(first); w.Stopped > 0 {
		t.Errorf("%d rows are stopped by a type", w.Stopped)
	}
	const found = "2.0 key_unknown, 2.2 number_unreadable, 3.0 key_unknown, 3.2 number_unreadable, 4.0 key_unknown, 5.0 key_unknown, 5.3 number_unreadable"
	if got := st.found(first); got != found {
		t.Errorf("%s, want %s", got, found)
	}
	if _, err := st.SaveAssignment(ctx, first, st.person, " \u200b "); !errors.Is(err, ErrName) {
		t.Errorf("without a name: %v", err)
	}
	saved, err := st.SaveAssignment(ctx, first, st.person, "Fellside prices")
	if err != nil {
		t.Fatal(err)
	}
	if again, err := st.SaveAssignment(ctx, first, st.person, "Fellside prices"); err != nil || again != saved {
		t.Errorf("saved again: %d, %v", again, err)
	}
	second := st.bring("april.csv", "item;COLOUR;Weight;Seen ;More\nK-1;red;12 grams;2026-01-02;a\nK-2;red;13 grams;2026-02-03;b\nK-3;red;14.5;03.04.2026;c\nK-4;red;007;x;d\n")
	other := st.bring("other.csv", "item,colour\nK-1,red\n")
	for id, want := range map[int64]int{second: 1, other: 0} {
		if offered, err := st.Assignments(ctx, id); err != nil || len(offered) != want {
			t.Errorf("table %d is offered %v, %v", id, offered, err)
		}
	}
	if err := st.UseAssignment(ctx, other, saved); !errors.Is(err, ErrHeader) {
		t.Errorf("another header: %v", err)
	}
	if err := st.UseAssignment(ctx, second, saved); err != nil {
		t.Fatal(err)
	}
	if w := st.checked(second); w.Key != key || st.found(second) != found {
		t.Errorf("read as saved: %s, %s", w.Key, st.found(second))
	}
	if err := errors.Join(st.RemoveAssignment(ctx, saved)); err != nil {
		t.Fatal(err)
	}
	if err := st.RemoveAssignment(ctx, saved); !errors.Is(err, pgx.ErrNoRows) {
		t.Errorf("removed twice: %v", err)
	}
}
