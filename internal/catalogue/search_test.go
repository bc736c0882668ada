package catalogue_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"ambrosa/internal/catalogue"
	"ambrosa/internal/jobs"
	"ambrosa/internal/ledger"
	"ambrosa/internal/store/storetest"
	"ambrosa/internal/subject/owner"
	"ambrosa/internal/subject/pictures"
	"ambrosa/internal/tables"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// What people ask for, and what must come first.
func TestSearch(t *testing.T) {
	s, person := storetest.New(t)
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	r := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	var table strings.Builder
	table.WriteString("sku,product,title,barcode,category,colour\n" +
		"PK-DLT-140,,Drift Delta 140,,Kites,\nPK-DLT-140-AMB,PK-DLT-140,,9521234500018,,amber\nPK-DLT-140-PLM,PK-DLT-140,,,,plum\n" +
		"PK-DLT-1400,,Drift Delta 1400,,Kites,\nQ%_\\x,,Odd 100% name,,Kites,\nAB-7,,Short,,,\n")
	for i := range 50 {
		fmt.Fprintf(&table, "BOX-%03d,,Lark Box %d,,Kites,\n", i, i)
	}
	plan, err := (&tables.Tables{Store: s, Ledger: r}).PlanText(ctx, "", table.String(), person)
	if err != nil {
		t.Fatal(err)
	}
	run, err := r.Apply(ctx, plan, person)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := r.Finish(ctx, run); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ q, first string }{
		{"PK-DLT-140", "PK-DLT-140"}, {"pk-dlt-140-amb", "PK-DLT-140-AMB"}, {"ＰＫ-dlt-140", "PK-DLT-140"},
		{"9521234500018", "PK-DLT-140-AMB"}, {"09521234500018", "PK-DLT-140-AMB"}, {"952 1234 5000 18", "PK-DLT-140-AMB"},
		{"drift 140 amber", "PK-DLT-140-AMB"}, {"amber delta", "PK-DLT-140-AMB"}, {"plum", "PK-DLT-140-PLM"}, {"1400", "PK-DLT-1400"},
		{"drfit delta 1400", "PK-DLT-1400"}, {"PK-DTL-140", "PK-DLT-140"}, {"PK-DLT-14O", "PK-DLT-140"}, {"box 7", "BOX-007"},
		{"ab", "AB-7"}, {"ab 7", "AB-7"}, {"%", "Q%_\\x"}, {"100%", "Q%_\\x"}, {"q%_\\x", "Q%_\\x"}, {"Q%", "Q%_\\x"},
		{"zzzz", ""}, {"___", ""}, {"drift lark", "*"}, {strings.Repeat("drift ", 40), "PK-DLT-140"},
	} {
		got, err := catalogue.Search(ctx, s, c.q, 12)
		if err != nil {
			t.Errorf("%q: %v", c.q, err)
			continue
		}
		first := ""
		if len(got) > 0 {
			first = got[0].SKU
		}
		if c.first != "*" && first != c.first {
			t.Errorf("%q gives %q first of %d, want %q", c.q, first, len(got), c.first)
		}
	}
	if got, err := catalogue.Search(ctx, s, "lark box", 12); err != nil || len(got) != 12 {
		t.Errorf("%d found, %v; twelve were asked for", len(got), err)
	}
}

// Two imports that are planned side by side make one category, and both come in.
func TestTwoImports(t *testing.T) {
	s, person := storetest.New(t)
	j, err := jobs.New(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	r := ledger.New(s, j, owner.Subject{}, pictures.Subject{})
	var plans []int64
	for _, table := range []string{"sku,title,category\nA,One,Kites > Deltas\n", "sku,title,category\nB,Two,kites > DELTAS > Large\n"} {
		plan, err := (&tables.Tables{Store: s, Ledger: r}).PlanText(ctx, "", table, person)
		if err != nil {
			t.Fatal(err)
		}
		plans = append(plans, plan)
	}
	for _, plan := range plans {
		run, err := r.Apply(ctx, plan, person)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := r.Finish(ctx, run); err != nil {
			t.Fatal(err)
		}
	}
	var tree string
	if err := s.Pool.QueryRow(ctx, `WITH RECURSIVE path AS (SELECT id, title AS path FROM owner WHERE kind = 'category' AND parent IS NULL
		UNION ALL SELECT o.id, p.path || ' > ' || o.title FROM owner o JOIN path p ON o.parent = p.id WHERE o.kind = 'category')
		SELECT string_agg(path || coalesce(': ' || (SELECT string_agg(sku, ' ') FROM owner WHERE category = path.id), ''), ', ' ORDER BY path) FROM path`).Scan(&tree); err != nil {
		t.Fatal(err)
	}
	if want := "Kites, Kites > Deltas: A, Kites > Deltas > Large: B"; tree != want {
		t.Errorf("the categories are %s, want %s", tree, want)
	}
}
