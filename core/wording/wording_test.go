package wording_test

import (
	"errors"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"ambrosa/core/colour"
	"ambrosa/core/wording"

	"golang.org/x/text/language"
)

func pattern(t *testing.T, source string, field wording.Field, tag string) *wording.Pattern {
	t.Helper()
	p, err := wording.Parse(source, field, tag)
	if err != nil {
		t.Fatalf("%s: %v", source, err)
	}
	return p
}

func TestFill(t *testing.T) {
	kite := wording.Record{"product.title": "Drift Delta", "product.title.de": "Drift-Delta", "variant.colour": "amber", "role": "", "number": "7",
		"product.sku": "PK-DLT", "variant.size": "", "product.note": "{product.sku} [x]", "product.long": strings.Repeat("word ", 3000), "product.turkish": "istanbul",
		"product.thai": "ว่าวสามเหลี่ยมสีเหลือง", "product.emoji": "🪁👩🏽‍🔧👨‍👩‍👧🪁", "product.arabic": "طائرة ورقية"}
	for _, c := range []struct{ name, source, tag, want string }{
		{"fields and a fallback", "{product.title} in {variant.colour}, {role|front view}", "en", "Drift Delta in amber, front view"},
		{"another language", "{product.title}", "de-AT", "Drift-Delta"},
		{"another language that is not there", "{product.title}", "fr", "Drift Delta"},
		{"names without case", "{ Product.TITLE }", "en", "Drift Delta"},
		{"fallbacks in turn", "{variant.size|{role}|{product.title|x}}", "en", "Drift Delta"},
		{"left out", "{product.title}[, size {variant.size}][ ({variant.colour})]", "en", "Drift Delta (amber)"},
		{"left behind", "{product.title}, {role}, {variant.size} ({variant.size})", "en", "Drift Delta"},
		{"nothing left", "[{role}]", "en", ""},
		{"case", "{product.title:upper} {variant.colour:title}, {product.title:lower}", "en", "DRIFT DELTA Amber, drift delta"},
		{"case of a language", "{product.turkish:upper}", "tr", "İSTANBUL"},
		{"limit between words", "{product.title:max 8}", "en", "Drift"},
		{"number", "{number:000} {product.sku:00}", "en", "007 PK-DLT"},
		{"escapes", `\{{product.sku}\} \[a\|b\] \\`, "en", `{PK-DLT} [a|b] \`},
		{"values are data", "{product.note}", "en", "{product.sku} [x]"},
		{"Thai is cut between characters", "{product.thai:max 10}", "th", "ว่าวสามเห"},
		{"emoji are cut between characters", "{product.emoji:max 4}", "en", "🪁"},
		{"Arabic", "{product.arabic}، {variant.colour}", "ar", "طائرة ورقية، amber"},
	} {
		if got, unknown := pattern(t, c.source, wording.Alt, c.tag).Fill(kite); got != c.want || unknown {
			t.Errorf("%s: %q makes %q (unknown %v), not %q", c.name, c.source, got, unknown, c.want)
		}
	}
	long, _ := pattern(t, strings.Repeat("{product.long}", 60), wording.Description, "en").Fill(kite)
	if n := utf8.RuneCountInString(long); n > wording.MostText || n < wording.MostText/2 {
		t.Errorf("a text of a million letters has %d characters", n)
	}
	for source, want := range map[string]bool{"{product.titel}": true, "{variant.colour} {nope}": true, "{product.barcode}": false, "{nope|x}": false, "[{nope}]": false} {
		if _, unknown := pattern(t, source, wording.Alt, "").Fill(kite); unknown != want {
			t.Errorf("%s: unknown is %v", source, unknown)
		}
	}
}

func TestParse(t *testing.T) {
	for source, want := range map[string]error{"": wording.ErrPattern, "{": wording.ErrPattern, "{}": wording.ErrPattern, "{a": wording.ErrPattern, "a}": wording.ErrPattern,
		"[a": wording.ErrPattern, "a]": wording.ErrPattern, "{a:loud}": wording.ErrPattern, "{a:max 0}": wording.ErrPattern, "{a|{b}": wording.ErrPattern,
		strings.Repeat("[", 20): wording.ErrPattern, strings.Repeat("x", 1001): wording.ErrPattern, "a\xff": wording.ErrPattern, `\`: nil, "{a|b|c}": nil} {
		if _, err := wording.Parse(source, wording.Alt, "en"); !errors.Is(err, want) || want == nil && err != nil {
			t.Errorf("%.30q gives %v", source, err)
		}
	}
	// The tags and their canonical forms are those of RFC 5646, section 4.5 and appendix A (iw is he, as IANA's registry prefers).
	for tag, want := range map[string]string{"": "en", "de": "de", "zh-hant-tw": "zh-Hant-TW", "PT-br": "pt-BR", "iw": "he", "de_AT": "de-AT", "x": "", "english!": "", "und": ""} {
		if got, err := wording.Language(tag); (err != nil) != (want == "") || err == nil && got.String() != want {
			t.Errorf("%q is %v (%v), not %q", tag, got, err, want)
		}
	}
	loop := map[wording.Field]*wording.Pattern{wording.Alt: pattern(t, "{title}", wording.Alt, ""), wording.Title: pattern(t, "[{caption}]", wording.Title, ""),
		wording.Caption: pattern(t, "{x|{alt}}", wording.Caption, "")}
	if _, err := wording.InOrder(loop); !errors.Is(err, wording.ErrLoop) || !strings.Contains(err.Error(), "alt → title → caption → alt") {
		t.Errorf("a circle gives %v", err)
	}
	loop[wording.Caption] = pattern(t, "{label}", wording.Caption, "")
	if order, err := wording.InOrder(loop); err != nil || !slices.Equal(order, []wording.Field{wording.Caption, wording.Title, wording.Alt}) {
		t.Errorf("the order is %v (%v)", order, err)
	}
}

func TestProblems(t *testing.T) {
	amber, teal := colour.RGB{R: 226, G: 154, B: 22}, colour.RGB{R: 27, G: 107, B: 114}
	shows := func(c colour.RGB) []colour.Swatch { return []colour.Swatch{{Lab: c.Lab(), Share: .8}} }
	for _, c := range []struct {
		said wording.Said
		want []wording.Problem
	}{
		{wording.Said{Text: " "}, []wording.Problem{wording.Missing}},
		{wording.Said{Field: wording.Title}, nil},
		{wording.Said{Text: strings.Repeat("x", 126)}, []wording.Problem{wording.Long}},
		{wording.Said{Text: strings.Repeat("ü", 125)}, nil},
		{wording.Said{Text: "An image of a kite"}, []wording.Problem{wording.SaysImageOf}},
		{wording.Said{Text: "Bild einer Winde"}, []wording.Problem{wording.SaysImageOf}},
		{wording.Said{Text: "Photo d’un cerf-volant"}, []wording.Problem{wording.SaysImageOf}},
		{wording.Said{Text: "Picture frame of oak"}, nil},
		{wording.Said{Text: "Imagen de una cometa"}, []wording.Problem{wording.SaysImageOf}},
		{wording.Said{Text: "pk dlt 140", Keys: []string{"PK-DLT-140"}}, []wording.Problem{wording.OnlyKey}},
		{wording.Said{Text: "SKU PK-DLT-140 2", Keys: []string{"PK-DLT-140"}}, []wording.Problem{wording.OnlyKey}},
		{wording.Said{Text: "Delta PK-DLT-140", Keys: []string{"PK-DLT-140", ""}}, nil},
		{wording.Said{Text: "DSC_0412"}, []wording.Problem{wording.IsFileName}},
		{wording.Said{Text: "Kite back view", File: "set/kite back view.JPG"}, []wording.Problem{wording.IsFileName}},
		{wording.Said{Text: "A delta in red", Shows: shows(teal)}, []wording.Problem{wording.ColourDiffers}},
		{wording.Said{Text: "Ein roter Drachen", Shows: shows(teal)}, []wording.Problem{wording.ColourDiffers}},
		{wording.Said{Text: "A delta in teal", Shows: shows(teal)}, nil},
		{wording.Said{Text: "A snow kite", Shows: shows(teal)}, nil},
		{wording.Said{Text: "A delta in orange", Shows: shows(amber)}, nil},
	} {
		if c.said.Field == "" {
			c.said.Field = wording.Alt
		}
		if got := wording.Check(c.said, nil); !slices.Equal(got, c.want) {
			t.Errorf("%+v has %v, not %v", c.said, got, c.want)
		}
	}
}

// TestGuideline checks the examples that WCAG 2.2 gives itself: of failure F30 what is no text alternative, of techniques H37 and G95
// what is one. From memory, as the pages can't be reached.
func TestGuideline(t *testing.T) {
	for _, text := range []string{"spacer", "image", "picture", "picture 1", "picture 2", "0001", "0002", "Intro#1", "Intro#2", "Oct.jpg", "Chart.jpg", `sales\oct\top3.jpg`} {
		if !wording.IsNoAlternative(text, "") {
			t.Errorf("%q counts as a text alternative", text)
		}
	}
	for _, text := range []string{"Free newsletter. Get free recipes, news, and more. Learn more.", "Map of the shop's way in", "October", "Chart of the sales in October"} {
		if got := wording.Check(wording.Said{Field: wording.Alt, Text: text}, nil); len(got) > 0 {
			t.Errorf("%q has %v", text, got)
		}
	}
}

func TestSlug(t *testing.T) {
	for _, c := range []struct{ text, tag, want string }{
		{"Drift Delta, amber & teal", "en", "drift-delta-amber-and-teal"}, {"Größe für Übergänge", "de", "groesse-fuer-uebergaenge"},
		{"Gro\u0308ße", "de-AT", "groesse"}, {"Größe", "en", "grosse"}, {"a__b--c_", "en", "a-b-c"}, {"🪁", "en", ""}, {"ＤＥＬＴＡ １４０", "en", "delta-140"},
		{"İstanbul ığ", "tr", "istanbul-ig"}, {"../../etc/passwd", "en", "etc-passwd"}, {"ว่าว", "th", "waaw"},
	} {
		tag, err := wording.Language(c.tag)
		if err != nil {
			t.Fatal(err)
		}
		if got := wording.Slug(c.text, tag, 100); got != c.want {
			t.Errorf("%q in %s is %q, not %q", c.text, c.tag, got, c.want)
		}
	}
	if got := wording.Slug(strings.Repeat("kite ", 40), language.English, 100); len(got) > 100 || strings.HasSuffix(got, "-") {
		t.Errorf("a long text is %q", got)
	}
	taken := map[string]bool{"kite": true, "kite-2": true}
	if got := wording.Free("kite", func(n string) bool { return taken[n] }); got != "kite-3" {
		t.Errorf("the third kite is %q", got)
	}
}

// TestSlugAgainstICU compares Latin letters with the transliteration of ICU (uconv) in a language without rules of its own.
func TestSlugAgainstICU(t *testing.T) {
	uconv, err := exec.LookPath("uconv")
	if err != nil {
		t.Skip("uconv of Debian's icu-devtools is missing")
	}
	// × and ÷ are no letters; ŀ is l and a point by its compatibility form (Unicode), and a point parts words here; of kra and eng the two
	// libraries have other letters.
	const differs = "×÷ĿŀĸŊŋŉ"
	var letters []string
	for r := rune('À'); r <= 'ž'; r++ {
		if !strings.ContainsRune(differs, r) {
			letters = append(letters, "a"+string(r)+"b")
		}
	}
	c := exec.Command(uconv, "-f", "utf-8", "-t", "utf-8", "-x", "Any-Latin; Latin-ASCII; Lower")
	c.Stdin = strings.NewReader(strings.Join(letters, "\n"))
	out, err := c.Output()
	if err != nil {
		t.Fatal(err)
	}
	want := strings.Split(strings.TrimSpace(string(out)), "\n")
	for i, text := range letters {
		if got := wording.Slug(text, language.MustParse("is"), 100); got != want[i] {
			t.Errorf("%s is %s, in ICU %s", text, got, want[i])
		}
	}
	if len(want) != len(letters) || len(want) < 150 {
		t.Errorf("%d of %d letters were compared", len(want), len(letters))
	}
}

func TestChoose(t *testing.T) {
	alt := pattern(t, "x", wording.Alt, "en")
	rules := []wording.Rule{{ID: 1, Pattern: alt}, {ID: 2, Kind: "variant", Pattern: alt}, {ID: 3, Branch: 10, Pattern: alt}, {ID: 4, Branch: 11, Pattern: alt},
		{ID: 5, Kind: "variant", Branch: 10, Pattern: alt}, {ID: 6, Pattern: pattern(t, "x", wording.Alt, "de")}}
	for _, c := range []struct {
		kind string
		path []int64
		want int64
	}{{"product", nil, 1}, {"variant", nil, 2}, {"variant", []int64{12, 10}, 5}, {"product", []int64{12, 10}, 3}, {"variant", []int64{11, 10}, 4}, {"category", []int64{99}, 1}} {
		if got := wording.Choose(rules, wording.Alt, "en", c.kind, c.path); got == nil || got.ID != c.want {
			t.Errorf("%+v takes %+v", c, got)
		}
	}
	if got := wording.Choose(rules, wording.Title, "en", "product", nil); got != nil {
		t.Errorf("a title takes %+v", got)
	}
}
