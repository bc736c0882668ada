package catalogue

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"
)

const table = "SKU;product;Title;barcode;category;colour\r\n" +
	"K1;;Kite one;;Kites > Small;\r\n" +
	"K1-R;K1;;6291041500213;;red\r\n" +
	"K1-B;K1;;6291041500214;;blue\r\n" + // check digit
	"K1-G;K1;;6.29E+12;;green\r\n" + // a spreadsheet's
	";;no sku;;;\r\n" +
	"k1;;again;;;\r\n" + // the same SKU
	"K2-R;K2;;;;red\r\n" + // its product is nowhere
	"K3;;;;;\r\n" + // no title
	"\r\n" +
	"K4;;\"Kite; four\";;Kites;\r\n" +
	"K5;K1-R;;;;x\r\n" + // a variant of a variant
	"K6;;Kite six;06291041500213;;\r\n" + // the barcode of K1-R
	"K7;;a;b;c;d;e;f\r\n"

func TestReadAndPlan(t *testing.T) {
	rows, problems, err := Read("\ufeff" + table)
	if err != nil {
		t.Fatal(err)
	}
	next := int64(100)
	changes, more := Plan(nil, rows, 0, func() int64 { next++; return next })
	var made []string
	for _, c := range changes {
		made = append(made, fmt.Sprintf("%s %s %s in %d of %d %v", c.After.Kind, c.After.SKU, c.After.Title, c.After.Category, c.After.Parent, c.After.Options))
	}
	want := "category  Kites in 0 of 0 map[]\n" +
		"category  Small in 0 of 101 map[]\n" +
		"product K1 Kite one in 102 of 0 map[]\n" +
		"product K4 Kite; four in 101 of 0 map[]\n" +
		"variant K1-R  in 0 of 103 map[colour:red]"
	if got := strings.Join(made, "\n"); got != want {
		t.Errorf("made\n%s\nwant\n%s", got, want)
	}
	lines := map[int]string{}
	for _, p := range append(problems, more...) {
		lines[p.Line] = p.Text()
	}
	for line, word := range map[int]string{4: "check digit", 5: "scientific", 6: "no SKU", 7: "line 2", 8: "neither in the file", 9: "title", 12: "variant itself", 13: "line 3", 14: "8 cells"} {
		if !strings.Contains(lines[line], word) {
			t.Errorf("line %d: %q does not speak of %q", line, lines[line], word)
		}
	}
	if len(lines) != 9 {
		t.Errorf("%d lines are bad: %v", len(lines), lines)
	}
	// What stands is not made again; what differs is changed and nothing else.
	var standing []Owner
	for _, c := range changes {
		o := *c.After
		o.ID = c.ID
		standing = append(standing, o)
	}
	if again, _ := Plan(standing, rows, 0, func() int64 { t.Error("an owner is made twice"); return 0 }); len(again) != 0 {
		t.Errorf("the same table again changes %d", len(again))
	}
	other, _, _ := Read("sku,title,category\nK4,Kite IV,Kites\n")
	if again, _ := Plan(standing, other, 0, nil); len(again) != 1 || again[0].Before.Title != "Kite; four" || again[0].After.Title != "Kite IV" {
		t.Errorf("another title changes %+v", again)
	}
}

func TestReadNothing(t *testing.T) {
	for text, want := range map[string]error{"": ErrNoTable, " \n": ErrNoTable, "a,b\n1,2\n": ErrNoSKU, "PK\x03\x04\x00": ErrNotText, "sku\n\xff": ErrNotText} {
		if _, _, err := Read(text); !errors.Is(err, want) {
			t.Errorf("Read(%q): %v, want %v", text, err, want)
		}
	}
}

// bring puts a table into a catalogue and returns what stands then, by SKU, and the problems by line.
func bring(t *testing.T, standing []Owner, table string) (map[string]Owner, map[int]string) {
	t.Helper()
	rows, problems, err := Read(table)
	if err != nil {
		t.Fatal(err)
	}
	next := int64(1000 * (1 + len(standing)))
	changes, more := Plan(standing, rows, 0, func() int64 { next++; return next })
	stands := map[int64]Owner{}
	for _, o := range standing {
		stands[o.ID] = o
	}
	for _, c := range changes {
		o := *c.After
		o.ID = c.ID
		stands[c.ID] = o
	}
	bySKU := map[string]Owner{}
	for _, o := range stands {
		if o.Kind == Category {
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

func all(bySKU map[string]Owner) (owners []Owner) {
	for _, o := range bySKU {
		owners = append(owners, o)
	}
	return owners
}

const (
	one = "9521234500018"
	two = "9521234500025"
)

// What a table does not say stays; what it says with an empty cell goes.
func TestAbsentIsNotEmpty(t *testing.T) {
	first, lines := bring(t, nil, "sku,product,title,barcode,category,colour,size\nK1,,One,,Kites,,\nK1-R,K1,Own,"+one+",,red,L\n")
	if len(lines) > 0 {
		t.Fatal(lines)
	}
	kites := first["category Kites"].ID
	for _, c := range []struct {
		table            string
		barcode, options string
		category         int64
	}{
		{"sku,title\nK1-R,New\nK1,New\n", one, "map[colour:red size:L]", kites},                                // columns that are not there
		{"sku,title,product,barcode,category,colour,size\nK1-R\nK1\n", one, "map[colour:red size:L]", kites},   // rows that end early
		{"sku,product,barcode,category,colour\nK1-R,K1,,,\nK1,,,,\n", "", "map[size:L]", 0},                    // empty cells
		{"sku,product,colour\nK1-R,K1,blue\n", one, "map[colour:blue size:L]", kites},                          // one of several options
		{"sku\tproduct\tbarcode\nK1-R\tK1\t" + two + "\n", two, "map[colour:red size:L]", kites},               // tabs
		{"sku;product;colour\rK1-R;K1;green\rK1;;\r", one, "map[colour:green size:L]", kites},                  // old line ends
		{"sku,product,colour\r\n\r\nK1-R,K1,\"a \"\"b\"\"\nc\"\r\n", one, `map[colour:a "b" c size:L]`, kites}, // a cell of two lines
	} {
		got, lines := bring(t, all(first), c.table)
		if len(lines) > 0 || got["K1-R"].Barcode != c.barcode || fmt.Sprint(got["K1-R"].Options) != c.options || got["K1"].Category != c.category || got["K1-R"].Parent != first["K1"].ID {
			t.Errorf("%q: %v, %+v, %+v", c.table, lines, got["K1-R"], got["K1"])
		}
	}
}

// Tables as they come: what each line becomes, and what is said of it.
func TestTables(t *testing.T) {
	standing, _ := bring(t, nil, "sku,product,title,barcode,category\nA,,A,"+one+",Kites\nB,,B,"+two+",\nA-1,A,,,\n")
	deep := strings.Repeat("x > ", 500) + "y"
	for _, c := range []struct {
		name, table string
		stand       []string // SKUs that must stand
		not         []string // and those that must not
		says        map[int]string
	}{
		{"a loose quote costs its line alone", "sku,title\nC,\"12 inch\nD,Four\nE,\"5\"\" reel\"\nF,6\" reel\nG,\"x\"y\nH,Last\n", []string{"D", "E", "F", "H"}, []string{"C", "G"}, map[int]string{2: "quotes", 6: "quotes"}},
		{"a quote that is never closed", "sku,title\nC,Three\nD,\"four\nE,Five\n", []string{"C", "E"}, []string{"D"}, map[int]string{3: "quotes"}},
		{"a refused row leaves no category", "sku,product,title,category\nA-1,,x,Empty > Deep\nC,,,Nothing\n", nil, []string{"category Empty", "category Deep", "category Nothing", "C"}, map[int]string{2: "is a variant", 3: "title"}},
		{"a barcode moves", "sku,barcode\nA,\nB," + one + "\n", []string{"A", "B"}, nil, map[int]string{}},
		{"barcodes change places", "sku,barcode\nA," + two + "\nB," + one + "\n", []string{"A", "B"}, nil, map[int]string{}},
		{"a barcode that somebody keeps", "sku,title,barcode\nC,Three," + one + "\n", nil, []string{"C"}, map[int]string{2: "belongs to A"}},
		{"one that would be given away by a row that is refused", "sku,product,title,barcode\nC,,Three," + one + "\nA,B,x,\n", nil, []string{"C"}, map[int]string{2: "belongs to A", 3: "is a product"}},
		{"and what stands on a refused product", "sku,product,title,barcode\nC,,Three," + one + "\nC-1,C,,\n", nil, []string{"C", "C-1"}, map[int]string{2: "belongs to A", 3: "line 2, is left out"}},
		{"a category too deep", "sku,title,category\nC,Three," + deep + "\n", nil, []string{"C"}, map[int]string{2: "501 levels"}},
		{"a variant's own category", "sku,product,category\nA-2,A,Reels\nA-3,A,kites\n", []string{"A-2", "A-3"}, []string{"category Reels"}, map[int]string{2: "kept: A variant is in"}},
		{"what can't be seen makes no second product", "sku,title\nA\u200b,Again\n\u2060B\ufeff,Again\nA\u00ad,x\n\ufe0fB\x07,x\n", nil, []string{"A\u200b"}, map[int]string{4: "line 2", 5: "line 3"}},
		{"zeros are no barcode", "sku,title,barcode\nC,Three,0000000000000\nD,Four,00000000\n", nil, []string{"C", "D"}, map[int]string{2: "zeros", 3: "zeros"}},
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
	got, _ := bring(t, all(standing), "sku,barcode\nA,"+two+"\nB,"+one+"\n")
	if got["A"].Barcode != two || got["B"].Barcode != one {
		t.Errorf("the barcodes did not change places: %+v", got)
	}
	if _, _, err := Read("sku" + strings.Repeat(",x", MaxColumns) + "\n"); !errors.Is(err, ErrColumns) {
		t.Errorf("too many columns: %v", err)
	}
}

// Reading and planning take time by the rows, not by their product: also for deep categories and chains of barcodes.
func TestPlanGrows(t *testing.T) {
	table := func(n int) string {
		var b strings.Builder
		b.WriteString("sku,title,category\n")
		for i := range n {
			fmt.Fprintf(&b, "K%d,T,%s\n", i, strings.Repeat("deep > ", MaxLevels-1)+fmt.Sprint(i))
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
	for _, seed := range []string{table, "sku\n\"\n\"\"\n\"", "sku,a\r\"\r", "sku;x\n\"a\"b;c\n", "\ufeffsku\n\n\n1"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		rows, problems, err := Read(text)
		if err != nil {
			return
		}
		seen := map[string]bool{}
		for _, r := range rows {
			if id := Identity(r.SKU); id == "" || seen[id] || r.Line < 2 {
				t.Fatalf("row %+v of %q", r, text)
			} else {
				seen[id] = true
			}
		}
		next := int64(0)
		changes, more := Plan(nil, rows, 0, func() int64 { next++; return next })
		there := map[int64]bool{0: true}
		for _, c := range changes {
			if !there[c.After.Parent] || !there[c.After.Category] || there[c.ID] {
				t.Fatalf("%+v stands on nothing, or twice, in the plan of %q", c.After, text)
			}
			there[c.ID] = true
		}
		products := 0
		for _, c := range changes {
			if c.After.Kind != Category {
				products++
			}
		}
		if products+LeftOut(more) < len(rows) {
			t.Fatalf("%d rows give %d owners and %v; %v", len(rows), products, more, problems)
		}
	})
}
