package catalogue

import (
	"errors"
	"fmt"
	"strings"
	"testing"
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
	changes, more := Plan(nil, rows, func() int64 { next++; return next })
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
		lines[p.Line] = p.Why
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
	if again, _ := Plan(standing, rows, func() int64 { t.Error("an owner is made twice"); return 0 }); len(again) != 0 {
		t.Errorf("the same table again changes %d", len(again))
	}
	other, _, _ := Read("sku,title,category\nK4,Kite IV,Kites\n")
	if again, _ := Plan(standing, other, nil); len(again) != 1 || again[0].Before.Title != "Kite; four" || again[0].After.Title != "Kite IV" {
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
