package catalogue_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ambrosa/core/catalogue"
	tables "ambrosa/core/table"
)

const table = "SKU;product;Title;barcode;category;colour\n" +
	"K1;;Kite one;;Kites > Small;\n" +
	"K1-R;K1;;6291041500213;;red\n" +
	"K1-B;K1;;6291041500214;;blue\n" + // check digit: a house code
	"K1-G;K1;;6.29E+12;;green\n" + // a spreadsheet's
	";;no sku;;;\n" +
	"k1;;again;;;\n" + // the same SKU
	"K2-R;K2;;;;red\n" + // its product is nowhere
	"K3;;;;;\n" + // no title
	"\n" +
	"K4;;Kite, four;;Kites;\n" +
	"K5;K1-R;;;;x\n" + // a variant of a variant
	"K6;;Kite six;06291041500213;;\n" // the barcode of K1-R

// read reads a table whose cells are apart by semicolons.
func read(text string, clear bool) ([]catalogue.Row, []catalogue.Problem) {
	var rows []tables.Row
	for i, line := range strings.Split(strings.TrimSuffix(text, "\n"), "\n") {
		row := tables.Row{Number: i + 1}
		for cell := range strings.SplitSeq(line, ";") {
			if line != "" {
				row.Cells = append(row.Cells, tables.Cell{Text: cell})
			}
		}
		rows = append(rows, row)
	}
	fields := tables.Assign(rows[0], rows[1:])
	fields.Rest(rows[0], rows[1:])
	r := tables.NewReader(rows[0], tables.Options{Fields: fields}, clear)
	for _, row := range rows[1:] {
		r.Row(row)
	}
	all, problems := r.End()
	sound, more := catalogue.Sound(all)
	return sound, append(problems, more...)
}

func TestReadAndPlan(t *testing.T) {
	rows, problems := read(table, false)
	next := int64(100)
	changes, more := catalogue.Plan(nil, rows, 0, func() int64 { next++; return next })
	var made []string
	for _, c := range changes {
		made = append(made, fmt.Sprintf("%s %s %s in %d of %d %v", c.After.Kind, c.After.SKU, c.After.Title, c.After.Category, c.After.Parent, c.After.Options))
	}
	want := "category  Kites in 0 of 0 map[]\n" +
		"category  Small in 0 of 101 map[]\n" +
		"product K1 Kite one in 102 of 0 map[]\n" +
		"product K4 Kite, four in 101 of 0 map[]\n" +
		"variant K1-R  in 0 of 103 map[colour:red]\n" +
		"variant K1-B  in 0 of 103 map[colour:blue]"
	if got := strings.Join(made, "\n"); got != want {
		t.Errorf("made\n%s\nwant\n%s", got, want)
	}
	lines := map[int]string{}
	for _, p := range append(problems, more...) {
		lines[p.Line] = p.Text()
	}
	for line, word := range map[int]string{4: "check digit", 5: "exponent", 6: "no key", 7: "row 2", 8: "neither in the file", 9: "title", 12: "variant itself", 13: "line 3"} {
		if !strings.Contains(lines[line], word) {
			t.Errorf("line %d: %q does not speak of %q", line, lines[line], word)
		}
	}
	if len(lines) != 8 {
		t.Errorf("%d lines are bad: %v", len(lines), lines)
	}
	// What stands is not made again; what differs is changed and nothing else.
	var standing []catalogue.Owner
	for _, c := range changes {
		o := *c.After
		o.ID = c.ID
		standing = append(standing, o)
	}
	if again, _ := catalogue.Plan(standing, rows, 0, func() int64 { t.Error("an owner is made twice"); return 0 }); len(again) != 0 {
		t.Errorf("the same table again changes %d", len(again))
	}
	other, _ := read("sku;title;category\nK4;Kite IV;Kites\n", false)
	if again, _ := catalogue.Plan(standing, other, 0, nil); len(again) != 1 || again[0].Before.Title != "Kite, four" || again[0].After.Title != "Kite IV" {
		t.Errorf("another title changes %+v", again)
	}
}

// bring puts a table into a catalogue and returns what stands then, by SKU, and the problems by line.
func bring(t *testing.T, standing []catalogue.Owner, table string, clear ...bool) (map[string]catalogue.Owner, map[int]string) {
	t.Helper()
	rows, problems := read(table, len(clear) > 0)
	next := int64(1000 * (1 + len(standing)))
	changes, more := catalogue.Plan(standing, rows, 0, func() int64 { next++; return next })
	stands := map[int64]catalogue.Owner{}
	for _, o := range standing {
		stands[o.ID] = o
	}
	for _, c := range changes {
		o := *c.After
		o.ID = c.ID
		stands[c.ID] = o
	}
	bySKU := map[string]catalogue.Owner{}
	for _, o := range stands {
		if o.Kind == catalogue.Category {
			bySKU["category "+o.Title] = o
		} else {
			bySKU[o.SKU] = o
		}
	}
	lines := map[int]string{}
	for _, p := range append(problems, more...) {
		lines[p.Line] = p.Text()
		if p.Kept {
			lines[p.Line] = "kept: " + p.Text()
		}
	}
	return bySKU, lines
}

func all(bySKU map[string]catalogue.Owner) (owners []catalogue.Owner) {
	for _, o := range bySKU {
		owners = append(owners, o)
	}
	return owners
}

const (
	one = "9521234500018"
	two = "9521234500025"
)

// What a table does not say stays, a column that is not there or an empty cell; where it is told to, an empty cell takes away.
func TestEmptyIsNotCleared(t *testing.T) {
	first, lines := bring(t, nil, "sku;product;title;barcode;category;colour;size;attribute:note\nK1;;One;;Kites;;;\nK1-R;K1;Own;"+one+";;red;L;soft\n")
	if len(lines) > 0 {
		t.Fatal(lines)
	}
	kites := first["category Kites"].ID
	for _, c := range []struct {
		table                  string
		clear                  bool
		barcode, options, note string
		category               int64
	}{
		{"sku;title\nK1-R;New\nK1;New\n", false, one, "map[colour:red size:L]", "soft", kites},
		{"sku;title\nK1-R;New\nK1;New\n", true, one, "map[colour:red size:L]", "soft", kites},
		{"sku;title;product;barcode;category;colour;size\nK1-R\nK1\n", false, one, "map[colour:red size:L]", "soft", kites},
		{"sku;product;barcode;category;colour;attribute:note\nK1-R;K1;;;;\nK1;;;;;\n", false, one, "map[colour:red size:L]", "soft", kites},
		{"sku;product;barcode;category;colour;attribute:note\nK1-R;K1;;;;\nK1;;;;;\n", true, "", "map[size:L]", "", 0},
		{"sku;product;colour\nK1-R;K1;blue\n", false, one, "map[colour:blue size:L]", "soft", kites},
		{"sku;product;barcode\nK1-R;;" + two + "\n", false, two, "map[colour:red size:L]", "soft", kites},
	} {
		var how []bool
		if c.clear {
			how = []bool{true}
		}
		got, lines := bring(t, all(first), c.table, how...)
		if len(lines) > 0 || got["K1-R"].Barcode != c.barcode || fmt.Sprint(got["K1-R"].Options) != c.options || got["K1"].Category != c.category ||
			got["K1-R"].Parent != first["K1"].ID || got["K1-R"].Attribute("note") != c.note {
			t.Errorf("%q: %v, %+v, %+v", c.table, lines, got["K1-R"], got["K1"])
		}
	}
}

// Tables as they come: what each line becomes, and what is said of it.
func TestTables(t *testing.T) {
	standing, _ := bring(t, nil, "sku;product;title;barcode;category\nA;;A;"+one+";Kites\nB;;B;"+two+";\nA-1;A;;;\n")
	deep := strings.Repeat("x > ", 500) + "y"
	for _, c := range []struct {
		name, table string
		stand       []string // SKUs that must stand
		not         []string // and those that must not
		says        map[int]string
	}{
		{"a refused row leaves no category", "sku;product;title;category\nA-1;B;x;Empty > Deep\nC;;;Nothing\n", nil, []string{"category Nothing", "C"}, map[int]string{2: "kept: A variant is in", 3: "title"}},
		{"a barcode that is not said stays", "sku;barcode\nA;\nC;" + one + "\n", []string{"A"}, []string{"C"}, map[int]string{3: "title"}},
		{"barcodes change places", "sku;barcode\nA;" + two + "\nB;" + one + "\n", []string{"A", "B"}, nil, map[int]string{}},
		{"a variant above its product", "sku;product;title\nC-1;C;\nC;;Three\n", []string{"C", "C-1"}, nil, map[int]string{}},
		{"a barcode that somebody keeps", "sku;title;barcode\nC;Three;" + one + "\n", nil, []string{"C"}, map[int]string{2: "belongs to A"}},
		{"one that would be given away by a row that is refused", "sku;product;title;barcode\nC;;Three;" + one + "\nA;B;x;" + two + "\n", nil, []string{"C"}, map[int]string{2: "belongs to A", 3: "is a product"}},
		{"and what stands on a refused product", "sku;product;title;barcode\nC;;Three;" + one + "\nC-1;C;;\n", nil, []string{"C", "C-1"}, map[int]string{2: "belongs to A", 3: "line 2, is left out"}},
		{"a category too deep", "sku;title;category\nC;Three;" + deep + "\n", nil, []string{"C"}, map[int]string{2: "501 levels"}},
		{"a variant's own category", "sku;product;category\nA-2;A;Reels\nA-3;A;kites\n", []string{"A-2", "A-3"}, []string{"category Reels"}, map[int]string{2: "kept: A variant is in"}},
		{"what can't be seen makes no second product", "sku;title\nA\u200b;Again\nA\u00ad;x\n", nil, []string{"A\u200b"}, map[int]string{2: "kept", 3: "row 2"}},
		{"zeros are no barcode", "sku;title;barcode\nC;Three;0000000000000\n", nil, []string{"C"}, map[int]string{2: "zeros"}},
		{"categories by rows", "sku;kind;title;parent;code\n;category;Small > great;;7\n;category;Deltas;Small \\> great;8\n;category;Kites;;9\nC;product;Three;;\n", []string{"C", "category Deltas"}, []string{"category great"}, map[int]string{}},
		{"a variant without a product", "sku;kind;title\nC;variant;Three\n", nil, []string{"C"}, map[int]string{2: "product"}},
	} {
		got, lines := bring(t, all(standing), c.table)
		for _, sku := range c.stand {
			if _, ok := got[sku]; !ok {
				t.Errorf("%s: %s is not there: %v", c.name, sku, lines)
			}
		}
		for _, sku := range c.not {
			if _, ok := got[sku]; ok {
				t.Errorf("%s: %s is there", c.name, sku)
			}
		}
		for line, why := range c.says {
			if !strings.Contains(lines[line], why) {
				t.Errorf("%s: line %d says %q, not %q", c.name, line, lines[line], why)
			}
		}
		if len(lines) != len(c.says) {
			t.Errorf("%s: %v", c.name, lines)
		}
	}
	got, _ := bring(t, all(standing), "sku;barcode\nA;"+two+"\nB;"+one+"\n")
	if got["A"].Barcode != two || got["B"].Barcode != one {
		t.Errorf("the barcodes did not change places: %+v", got)
	}
	got, _ = bring(t, all(standing), "sku;kind;title;parent;code\n;category;Small > great;;7\n;category;Kites;;9\n")
	if got["category Kites"].Code != "9" {
		t.Errorf("the code of a category that stands: %+v", got["category Kites"])
	}
}

// A path is read as it was written, whatever its titles hold.
func TestPaths(t *testing.T) {
	for _, titles := range [][]string{{"Kites"}, {"Kites", "Deltas"}, {"a > b", `c\`, `\>`}, nil} {
		if got := catalogue.SplitPath(catalogue.JoinPath(titles)); fmt.Sprintf("%q", got) != fmt.Sprintf("%q", titles) {
			t.Errorf("%q comes back as %q by %s", titles, got, catalogue.JoinPath(titles))
		}
	}
}

// Reading and planning take time by the rows, not by their product: also for deep categories and chains of barcodes.
func TestPlanGrows(t *testing.T) {
	table := func(n int) string {
		var b strings.Builder
		b.WriteString("sku;title;category\n")
		for i := range n {
			fmt.Fprintf(&b, "K%d;T;%s\n", i, strings.Repeat("deep > ", catalogue.MaxLevels-1)+fmt.Sprint(i))
		}
		return b.String()
	}
	begun := time.Now()
	if got, lines := bring(t, nil, table(20_000)); len(lines) > 0 || len(got) < 20_000 {
		t.Error(len(got), lines)
	}
	if took := time.Since(begun); took > 5*time.Second {
		t.Errorf("20,000 rows took %v", took)
	}
}

func FuzzRead(f *testing.F) {
	for _, seed := range []string{table, "sku;kind;parent\nx;category;a > b", "sku\n\n\n1"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		rows, problems := read(text, true)
		seen := map[string]bool{}
		for _, r := range rows {
			if r.Kind == catalogue.Category {
				continue
			}
			if id := catalogue.Identity(r.SKU); id == "" || seen[id] || r.Line < 2 {
				t.Fatalf("row %+v of %q", r, text)
			} else {
				seen[id] = true
			}
		}
		next := int64(0)
		changes, more := catalogue.Plan(nil, rows, 0, func() int64 { next++; return next })
		there := map[int64]bool{0: true}
		for _, c := range changes {
			if !there[c.After.Parent] || !there[c.After.Category] || there[c.ID] {
				t.Fatalf("%+v stands on nothing, or twice, in the plan of %q", c.After, text)
			}
			there[c.ID] = true
		}
		products := 0
		for _, c := range changes {
			if c.After.Kind != catalogue.Category {
				products++
			}
		}
		rows = slices.DeleteFunc(rows, func(r catalogue.Row) bool { return r.Kind == catalogue.Category })
		if products+catalogue.LeftOut(more) < len(rows) {
			t.Fatalf("%d rows give %d owners and %v; %v", len(rows), products, more, problems)
		}
	})
}
