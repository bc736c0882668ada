package symbol

import (
	"fmt"
	"testing"
)

// What symbols say of a trade item. The worked examples are those of the GS1 General Specifications: the check digit of 6291041500213 (7.9.1,
// from memory), UPC-E 01234565 for 012345000065 (5.2.1.4, from memory), and of GS1 Digital Link: URI Syntax, 3 and 4.11 (from memory); what
// must not be taken for one is common practice, no source.
func TestGTIN(t *testing.T) {
	for _, c := range []struct {
		format Format
		text   string
		gs1    bool
		want   string
	}{
		{EAN13, "6291041500213", false, "06291041500213"},
		{EAN13, "6291041500214", false, ""},
		{EAN8, "95201238", false, "00000095201238"},
		{UPCA, "012345678905", false, "00012345678905"},
		{UPCE, "01234565", false, "00012345000065"},
		{UPCE, "01234566", false, ""},
		{ITF14, "19520123456785", false, "19520123456785"},
		{Code128, "010952012345678810AB-12", true, "09520123456788"},
		{Code128, "10AB-12" + FNC1 + "0109520123456788", true, "09520123456788"},
		{Code128, "0209520123456788370024", true, ""}, // what a pallet holds
		{Code128, "010952012345678810AB-12", false, ""},
		{Code128, "PK-DLT-140", false, ""},
		{DataMatrix, "0109520123456788217", true, "09520123456788"},
		{QR, "https://id.gs1.org/01/09506000134352/10/ABC?17=261231", false, "09506000134352"},
		{QR, "https://example.com/some/path/01/9506000134352", false, "09506000134352"},
		{QR, "HTTPS://EXAMPLE.COM/01/9506000134352", false, "09506000134352"},
		{QR, "https://example.com/01/9506000134353", false, ""},
		{QR, "https://example.com/shop?01/9506000134352", false, ""},
		{QR, "javascript://x/01/9506000134352", false, ""},
		{QR, "wifi:T:WPA;S:x;P:01", false, ""},
	} {
		if got := (Symbol{Format: c.format, Text: c.text, GS1: c.gs1}).GTIN(); got != c.want {
			t.Errorf("%s %q: %q, want %q", c.format, c.text, got, c.want)
		}
	}
}

// UPC-E stands for twelve digits by its sixth: one of each rule. Source: GS1 General Specifications, 5.2.1.4, from memory.
func TestExpand(t *testing.T) {
	for short, long := range map[string]string{"01234505": "012000003455", "01234515": "012100003455", "01234525": "012200003455", "01234535": "012300000455",
		"01234545": "012340000055", "01234555": "012345000055", "01234595": "012345000095", "21234595": "", "0123459": "", "0123459x": ""} {
		if got := Expand(short); got != long {
			t.Errorf("%s: %q, want %q", short, got, long)
		}
	}
}

// Element strings of fixed length need no separator, all others end with one. Source: GS1 General Specifications, 3 and 7.8.5.
func TestElements(t *testing.T) {
	for text, want := range map[string]string{
		"0109520123456788" + "17261231" + "10AB": "[{01 09520123456788} {17 261231} {10 AB}]",
		"10AB" + FNC1 + "0109520123456788":       "[{10 AB} {01 09520123456788}]",
		"3103000750" + "21X1" + FNC1:             "[{3103 000750} {21 X1}]",
		"0109520123456788" + FNC1 + "8005001234": "[{01 09520123456788} {8005 001234}]",
		"010952012345":                           "error",
		"AB12":                                   "error",
		"1":                                      "error",
		"":                                       "[]",
	} {
		got := "error"
		if all, err := Elements(text); err == nil {
			got = fmt.Sprint(all)
		}
		if got != want {
			t.Errorf("%q: %s, want %s", text, got, want)
		}
	}
}

// Any bytes are parted, or refused, and never more is said than was given.
func FuzzElements(f *testing.F) {
	f.Add("0109520123456788" + FNC1 + "10AB")
	f.Fuzz(func(t *testing.T, text string) {
		all, err := Elements(text)
		n := 0
		for _, e := range all {
			n += len(e.AI) + len(e.Value)
		}
		if err != nil && len(all) > 0 || n > len(text) {
			t.Errorf("%q: %v, %v", text, all, err)
		}
		_ = Symbol{Format: QR, Text: text}.GTIN()
	})
}
