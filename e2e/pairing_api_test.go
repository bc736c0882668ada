package e2e

import (
	"fmt"
	"image/color"
	"strings"
	"testing"
)

// What the screens do is done over the documented interface: who may, what is refused with which words, and that an answer
// holds just what changed.
func TestPairingInterface(t *testing.T) {
	p := serve(t)
	p.me.load(table)
	d := p.me.deliver("api", map[string][]byte{"a.zip": zipOf(t, map[string][]byte{
		"PK-DLT-140-AMB_1.jpg": jpegOf(color.RGBA{200, 130, 30, 255}, 90), "PK-DLT-140-PLM_1.jpg": jpegOf(color.RGBA{120, 40, 90, 255}, 90), "mystery.jpg": jpegOf(color.RGBA{9, 9, 9, 255}, 90),
		"🪁/PK-DLT-140-AMB + PK-DLT-140-PLM.jpg": jpegOf(color.RGBA{90, 9, 9, 255}, 90)})})
	at := func(rest string) string { return fmt.Sprintf("/api/deliveries/%d/%s", d.ID, rest) }
	type pairing struct {
		Version string
		Whole   bool
		Lines   []struct {
			ID          int64
			Path, Grade string
			Owner       int64
			Spans       [][2]int
		}
		Changes []struct {
			ID    int64
			Grade string
			Owner int64
			Also  []struct{ Owner, Place int64 }
		}
		Owners []struct {
			ID  int64
			SKU string
		}
		Whys [][]struct{ Code string }
	}
	var first pairing
	p.me.do("GET", at("pairing"), nil, &first)
	if !first.Whole || len(first.Lines) != 4 || len(first.Owners) != 2 || len(first.Whys) == 0 {
		t.Fatalf("%+v", first)
	}
	owner, line := map[string]int64{}, map[string]int64{}
	for _, o := range first.Owners {
		owner[o.SKU] = o.ID
	}
	// What of a path met a key is counted as browsers count; where two keys contest it, both are told.
	spans := map[string]string{"PK-DLT-140-AMB_1.jpg": "[[0 14]]", "PK-DLT-140-PLM_1.jpg": "[[0 14]]", "mystery.jpg": "[]", "🪁/PK-DLT-140-AMB + PK-DLT-140-PLM.jpg": "[[3 17] [20 34]]"}
	for _, l := range first.Lines {
		line[l.Path] = l.ID
		if got := fmt.Sprint(l.Spans); got != spans[l.Path] {
			t.Errorf("%s: keys stand at %s, want %s", l.Path, got, spans[l.Path])
		}
	}
	amber, plum := owner["PK-DLT-140-AMB"], owner["PK-DLT-140-PLM"]
	p.me.do("PUT", at("decisions"), []map[string]any{{"arrival": line["mystery.jpg"], "owner": amber, "also": []map[string]any{{"owner": plum, "rank": 1}}}}, nil)
	var next pairing
	p.me.do("GET", at("pairing?since="+first.Version), nil, &next)
	// The shared picture goes first where a person said so; the two it pushes on are told too where their place changed.
	if next.Whole || len(next.Lines) > 0 || len(next.Changes) == 0 {
		t.Fatalf("%+v", next)
	}
	for _, c := range next.Changes {
		if c.ID == line["mystery.jpg"] && (c.Owner != amber || len(c.Also) != 1 || c.Also[0].Owner != plum) {
			t.Errorf("the shared line is told as %+v", c)
		}
	}
	var views struct {
		Version string
		Views   []struct {
			Owner     int64
			Now, Then []string
		}
	}
	p.me.do("GET", at("owners?rule=add_after"), nil, &views)
	if len(views.Views) != 2 || len(views.Views[0].Then) != 2 || len(views.Views[1].Then) != 2 || views.Version != next.Version {
		t.Errorf("by owner: %+v", views)
	}

	cells := func(key, fit string, off ...string) map[string]any {
		if off == nil {
			off = []string{}
		}
		return map[string]any{"cells": []map[string]string{{"key": key, "fit": fit}}, "off": off}
	}
	for _, c := range []struct {
		what, method, path string
		body               any
		status             int
		says               string
	}{
		{"an unknown fit", "PUT", at("ladder"), cells("sku", "roughly"), 422, "expected value to be one of"},
		{"an unknown habit", "PUT", at("ladder"), cells("sku", "whole", "weather"), 422, "expected value to be one of"},
		{"a ladder for a delivery that is not there", "PUT", "/api/deliveries/99/ladder", cells("sku", "whole"), 404, "Not found, or deleted"},
		{"a pairing that is not there", "GET", "/api/deliveries/99/pairing", nil, 404, "Not found, or deleted"},
		{"an unknown rule", "GET", at("owners?rule=mine"), nil, 422, "expected value to be one of"},
		{"a line of no delivery", "PUT", at("decisions"), []map[string]any{{"arrival": 999, "owner": amber}}, 409, "no longer in the catalogue"},
		{"no decision at all", "PUT", at("decisions"), []map[string]any{}, 422, "length >= 1"},
		{"a ladder", "PUT", at("ladder"), cells("barcode", "whole", "prefix"), 204, ""},
	} {
		status, text := p.me.try(c.method, c.path, c.body, nil)
		if status != c.status || !strings.Contains(text, c.says) {
			t.Errorf("%s: %d %s, want %d with %q", c.what, status, text, c.status, c.says)
		}
	}
	var last pairing
	p.me.do("GET", at("pairing?since="+next.Version), nil, &last)
	for _, c := range last.Changes {
		if (c.ID == line["mystery.jpg"]) != (c.Owner != 0) {
			t.Errorf("by barcode alone only what was decided by hand has an owner: %+v", c)
		}
	}
	// An owner that is called otherwise is told to who has the board open, though no line changed.
	p.me.load("sku,product,title\nPK-DLT-140-AMB,PK-DLT-140,Drift in amber\n")
	var renamed struct {
		Whole  bool
		Owners []struct{ SKU, Label string }
	}
	p.me.do("GET", at("pairing?since="+last.Version), nil, &renamed)
	told := false
	for _, o := range renamed.Owners {
		told = told || o.SKU == "PK-DLT-140-AMB" && o.Label == "Drift in amber, amber" || o.Label == "Drift in amber"
	}
	if renamed.Whole || !told {
		t.Errorf("after a new title: %+v", renamed)
	}
}
