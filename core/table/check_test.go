package table

import (
	"fmt"
	"strings"
	"testing"

	"ambrosa/core/catalogue"
)

// known is a catalogue of a few owners, found by SKU, title and barcode.
type known map[Field]map[string][]Known

func (k known) Find(by Field, key string) []Known { return k[by][key] }

func (k known) add(title string, o Known) known {
	for by, key := range map[Field]string{SKU: o.SKU, Title: title, Barcode: "0" + o.Barcode} {
		if by != Barcode {
			key = catalogue.Identity(key)
		}
		if k[by] == nil {
			k[by] = map[string][]Known{}
		}
		k[by][key] = append(k[by][key], o)
	}
	return k
}

func pellmoor() known {
	return known{}.add("Alpha", Known{Kind: "product", SKU: "0012", Barcode: "9520123456788", Label: "Kites > Alpha (0012)"}).
		add("Beta", Known{Kind: "product", SKU: "K-2", Label: "Kites > Beta (K-2)"}).
		add("Beta", Known{Kind: "product", SKU: "K-9", Label: "Reels > Beta (K-9)"}).
		add("Beta red", Known{Kind: "variant", SKU: "K-2-R", Parent: "K-2", Label: "Beta red (K-2-R)"})
}

// rowsOf are rows of texts, cells apart by | and blanks around them as they are; stored values behind ~.
func rowsOf(text string) (rows []Row) {
	for i, line := range strings.Split(text, "\n") {
		row := Row{Number: i + 1}
		for cell := range strings.SplitSeq(line, "|") {
			shown, stored, _ := strings.Cut(cell, "~")
			c := Cell{Text: shown, Stored: stored}
			if stored != "" {
				c.Kind = Number
			}
			row.Cells = append(row.Cells, c)
		}
		if line == "" {
			row.Cells = nil
		}
		rows = append(rows, row)
	}
	return rows
}

// problemsOf checks a table and tells its problems: row, header, kind, ! where it stops, and the repair.
func problemsOf(text string, o Options) string {
	rows := rowsOf(text)
	at := Header(rows)
	o.Fields = Assign(rows[at], rows[at+1:])
	c := NewChecker(rows[at], o)
	for _, r := range rows[at+1:] {
		c.Row(r)
	}
	var all []string
	for _, p := range c.End() {
		s := fmt.Sprintf("%d %s %s", p.Row, p.Header, p.Kind)
		if p.Stops {
			s += "!"
		}
		if p.Repair != nil {
			s += " → " + *p.Repair
		}
		if p.Why.Text() == "" {
			s += " without why"
		}
		all = append(all, s)
	}
	return strings.Join(all, "\n")
}

func TestCheck(t *testing.T) {
	pictures := []string{"x-1.jpg", "Kite Amber.JPG", "a/reel.png", "b/reel.png", "Drift-Delta_03.jpg", "é.jpg", "list.xlsx"}
	long := strings.Repeat("x", 126)
	for name, of := range map[string]struct {
		table    string
		o        Options
		pictures []string
		want     string
	}{
		"nothing": {table: "sku|title\nK-2|Beta"},
		// GS1's worked example of a check digit: 629104150021 has 3 (General Specifications, 7.9.1).
		"barcode from its stored value": {table: "sku|ean\nK-2|6.29104E+12~6291041500213\nK-9|6,29E+12",
			want: "2 ean barcode_damaged! → 6291041500213\n3 ean barcode_damaged!"},
		"barcode as the catalogue has it": {table: "sku|ean\n0012|9.52012E+12\nK-2|9.52E+12\n0012x|9.52012E+12",
			want: "2 ean barcode_damaged! → 9520123456788\n3 ean barcode_damaged!\n4 sku key_unknown\n4 ean barcode_damaged!"},
		"rounded barcode":   {table: "sku|ean\n0012|9.52012346E+12", want: "2 ean barcode_damaged! → 9520123456788"},
		"another barcode":   {table: "sku|ean\n0012|9.52013E+12", want: "2 ean barcode_damaged!"},
		"zeros of a GTIN-8": {table: "sku|ean\nK-2|1234565\nK-9|12345670", want: "2 ean zeros_lost! → 01234565"},
		"house codes":       {table: "sku|barcode\nK-2|123\nK-9|ABC-77\nK-2-R|1234567890", want: ""},
		"check digit":       {table: "sku|ean\nK-2|9520123456787", want: "2 ean barcode_wrong"},
		"zeros of a SKU":    {table: "sku|title\n12|Alpha\n13|Gamma", want: "2 sku zeros_lost! → 0012\n3 sku key_unknown"},
		"keys": {table: "sku|title\n|Alpha\nK-2|Beta\nk-2|Beta\n\u200bK-9 |Beta\n'00123|x\n9.52E+12|y", want: "2 sku key_missing!\n4 sku key_twice!\n" +
			"5 sku blank_trimmed → K-9\n6 sku blank_trimmed → 00123\n6 sku key_unknown\n7 sku barcode_damaged!"},
		"only what is there": {table: "sku|title\nK-8|x", o: Options{Mode: Update}, want: "2 sku key_unknown!"},
		"only what is new":   {table: "sku|title\nK-8|x", o: Options{Mode: Create}},
		"title as the key":   {table: "title|price\nBeta|1\nAlpha|2", o: Options{Key: Title}, want: "2 title key_ambiguous!"},
		"parents": {table: "sku|parent\nK-2-R|K-9\nK-5|K-6\nK-7|K-8\nK-8|\nK-2|K-2",
			want: "2 parent parent_changed\n3 sku key_unknown\n3 parent parent_unknown!\n4 sku key_unknown\n5 sku key_unknown"},
		"a product that is stopped": {table: "sku|parent|price\nA-1-R|A-1|1\nA-1||one\nA-2||2\nA-2-R|A-2|3", o: Options{Mode: Create},
			want: "2 parent parent_unknown!\n3 price number_unreadable!"},
		"numbers": {table: "sku|price|position\nK-2|12,50 €|1\nK-9|abc|-1\nK-2-R|1.234,5|1.5\n0012|(3)|x",
			want: "3 price number_unreadable!\n3 position number_negative\n4 position number_unreadable!\n5 price number_negative\n5 position number_unreadable!"},
		"formulas": {table: "sku|title|note\n#REF!|a|#REF!\nK-2|#N/A|", want: "2 sku formula_error!\n3 title formula_error!"},
		"long":     {table: "sku|title\nK-2|" + strings.Repeat("é", 2049), want: "2 title text_long!"},
		"extra":    {table: "sku|title\nK-2|Beta||left over|more", want: "2  cells_extra"},
		"addresses": {table: "sku|image\nK-2|http://127.0.0.1/a.jpg\nK-9|ftp://h/b.jpg\n0012|https://h.example/c.jpg\nK-2-R|http://u:p@h.example/d.jpg\n" +
			"K-3|http://[::1]/x.jpg\nK-4|http://localhost./x.jpg\nK-5|javascript:alert(1)\nK-6|http:///x.jpg",
			want: "2 image address_refused!\n3 image address_refused!\n5 image address_refused!\n6 sku key_unknown\n6 image address_refused!\n" +
				"7 sku key_unknown\n7 image address_refused!\n8 sku key_unknown\n8 image address_refused!\n9 sku key_unknown\n9 image address_refused!"},
		"pictures": {table: "sku|image\nK-2|x 1.jpg\nK-2|KITE-AMBER.png\nK-2|reel.png\nK-2|b/reel.png\nK-2|drift-delta-3.jpg\nK-2|drft delta 03.jpg\nK-2|x-2.jpg\nK-2|E\u0301.jpg\nK-2|nix.jpg\nK-2|x-1",
			pictures: pictures, want: "2 image picture_near! → x-1.jpg\n3 image picture_near! → Kite Amber.JPG\n4 image picture_ambiguous!\n" +
				"6 image picture_near! → Drift-Delta_03.jpg\n7 image picture_near! → Drift-Delta_03.jpg\n8 image picture_missing!\n9 image picture_near! → é.jpg\n" +
				"10 image picture_missing!\n11 image picture_near! → x-1.jpg"},
		"two letters in the other order": {table: "sku|image\nK-2|detial-06.jpg\nK-9|edtail-07.jpg", pictures: []string{"detail-06.jpg", "detail-07.jpg"},
			want: "2 image picture_near! → detail-06.jpg\n3 image picture_near! → detail-07.jpg"},
		"lists": {table: "sku|main image|images\nK-2|x-1.jpg|Kite Amber.JPG; drift delta_03.jpg\nK-9||é.jpg, x-1.jpg", pictures: pictures[:2:2],
			want: "2 images picture_missing!\n3 main image main_missing\n3 images picture_missing!\n3 images picture_shared"},
		"unused": {table: "sku|image\nK-2|x-1.jpg", pictures: pictures[4:], want: "2 image picture_missing!\n0  picture_unused\n0  picture_unused"},
		// WCAG 2.2, failure F30: what is no text alternative.
		"no alternatives": {table: "sku|image|alt\nK-2|x-1.jpg|DSC_0412.jpg\nK-9|x-1.jpg|Image 3\nK-2-R|x-1.jpg|Foto\n0012|x-1.jpg|A photo of a reel",
			want: "2 alt alt_missing\n3 alt alt_missing\n4 alt alt_missing"},
		"main flags": {table: "sku|image|main|alt\nK-2|x-1.jpg|yes|a\nK-2|é.jpg|x|a\nK-9|x-1.jpg|no|\nK-9|é.jpg||" + long, pictures: []string{"x-1.jpg", "é.jpg"},
			want: "3 main main_many\n4 image picture_shared\n4 main main_missing\n4 alt alt_missing\n5 image picture_shared\n5 alt alt_long"},
	} {
		of.o.Catalogue = pellmoor()
		if of.pictures != nil {
			of.o.Files = NewFiles(of.pictures)
		}
		if got := problemsOf(of.table, of.o); got != of.want {
			t.Errorf("%s:\n%s\nwant\n%s", name, got, of.want)
		}
	}
}

func TestHeaderAndFields(t *testing.T) {
	for name, of := range map[string]struct{ table, want string }{
		"under a title":  {"Price list of spring||\n||\nItem no. (SKU)|Title|EAN\nK-1|Kite|9520123456788", "3 sku title barcode"},
		"German":         {"Artikelnummer|Bezeichnung|Strichcode|Preis|Warengruppe|Hauptbild|Weitere Bilder\nK-1|K|9520123456788|1|x|a.jpg|b.jpg", "1 sku title barcode price category main pictures"},
		"French":         {"Référence|Désignation|Code-barres|Prix unitaire|Catégorie|Fichier|Texte alternatif\nK-1|K|1|1|x|a.jpg|b", "1 sku title barcode price category picture alt"},
		"Italian":        {"Codice articolo|Descrizione|Prezzo|Immagine|Posizione\nK-1|K|1|a.jpg|1", "1 sku title price picture position"},
		"Spanish":        {"Referencia|Nombre|Precio|Código de barras|Imagen principal\nK-1|K|1|1|a.jpg", "1 sku title price barcode main"},
		"Dutch":          {"Artikelcode|Naam|Prijs|Afbeelding|Volgorde\nK-1|K|1|a.jpg|1", "1 sku title price picture position"},
		"by look":        {"sku|number\nK-1|9520123456788\nK-2|9520123456795", "1 sku barcode"},
		"product's SKU":  {"sku|product|title\nK-1|K-0|Kite\nK-0||Kites", "1 sku parent title"},
		"product's name": {"sku|product\nK-1|Kite\nK-0|Reel", "1 sku title"},
		"a description":  {"sku|description\nK-1|Kite", "1 sku title"},
		"beside a title": {"sku|title|description\nK-1|Kite|Long", "1 sku title -"},
		"own":            {"sku|option:colour|attribute:weight|note\nK-1|red|3|x", "1 sku option:colour attribute:weight -"},
		"flags":          {"sku|image|main\nK-1|a.jpg|yes\nK-1|b.jpg|no", "1 sku picture main_flag"},
		"main picture":   {"sku|main|pictures\nK-1|a.jpg|b.jpg|", "1 sku main pictures"},
		"list in one":    {"sku|image\nK-1|a.jpg, b.jpg\nK-2|c.jpg;d.jpg", "1 sku pictures"},
		"a type":         {"sku|type\nK-1|delta\nK-2|box", "1 sku -"},
		"kinds":          {"sku|type\nK-1|product\nK-2|Variante", "1 sku kind"},
		"no names":       {"\nA 1|B 2|C 3\n1|2|3", "2 - - -"},
	} {
		rows := rowsOf(of.table)
		at := Header(rows)
		got := fmt.Sprint(rows[at].Number)
		a := Assign(rows[at], rows[at+1:])
		for i := range rows[at].Cells {
			if f := a[i]; f != "" {
				got += " " + string(f)
			} else {
				got += " -"
			}
		}
		if got != of.want {
			t.Errorf("%s: %s, want %s", name, got, of.want)
		}
	}
}

func TestReadNumber(t *testing.T) {
	for text, want := range map[string]string{"12": "12", "12,5": "12.5", "1.234,50": "1234.5", "1,234.50": "1234.5", "€ 3": "3", "3.90 EUR": "3.9", "1'234": "1234",
		"1 234,5": "1234.5", "-7": "-7", "(7)": "-7", "1,234,567": "1234567", "abc": "", "": "", "12 pieces": "", "0x10": "", "1..2": ""} {
		n, ok := ReadNumber(text)
		got := ""
		if ok {
			got = fmt.Sprint(n)
		}
		if want == "1234567" {
			want = fmt.Sprint(float64(1234567))
		}
		if got != want {
			t.Errorf("%q is %q, want %q", text, got, want)
		}
	}
}

func TestLetters(t *testing.T) {
	for i := range 20000 {
		if got := Column(Letters(i)); got != i {
			t.Fatalf("%d is %s, which is %d", i, Letters(i), got)
		}
	}
	if Letters(0) != "A" || Letters(25) != "Z" || Letters(26) != "AA" || Letters(701) != "ZZ" || Letters(702) != "AAA" {
		t.Error("columns have other names")
	}
}

func TestTypes(t *testing.T) {
	for cells, want := range map[string]Type{
		"12|13,5|-3 €": NumberType, "007|12|13": TextType, "0|0.5|7": NumberType, "yes|no|ja": YesNoType, "1|0|1": NumberType, "2026-01-31|1.2.2026|3/4/26x": TextType,
		"2026-01-31|1.2.2026|03.12.2025": DateType, "https://a.example|http://b.example/c": TextType, "https://a.example|http://b.example/c|//d.example": AddressType,
		"a; b|c; d|e": TextType, "red|blue|green": TextType, "1|2": TextType,
	} {
		var rows []Row
		for c := range strings.SplitSeq(cells, "|") {
			rows = append(rows, Row{Cells: []Cell{{Text: c}}})
		}
		if strings.Contains(cells, ";") {
			want = ListType
		}
		if got := TypeOf(rows, 0); got != want {
			t.Errorf("%s are %s, want %s", cells, got, want)
		}
	}
}

// Of what stops no row only so much is kept, and all is counted.
func TestMost(t *testing.T) {
	rows := rowsOf("sku|price\nN-1|1\nN-2|x\nN-3|y\nN-4|2")
	c := NewChecker(rows[0], Options{Fields: Assign(rows[0], rows[1:]), Catalogue: pellmoor(), Most: 1})
	for _, r := range rows[1:] {
		c.Row(r)
	}
	kept := map[string]int{}
	for _, p := range c.End() {
		kept[p.Kind]++
	}
	if fmt.Sprint(kept, c.Counts()) != "map[key_unknown:1 number_unreadable:2] map[key_unknown:4 number_unreadable:2]" {
		t.Errorf("kept %v of %v", kept, c.Counts())
	}
}
