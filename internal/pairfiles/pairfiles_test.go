package pairfiles

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"ambrosa/core/pairing"
)

// The same table with and without quotes: the one is read by the library, the other line by line, and both say the same.
func TestReadOwners(t *testing.T) {
	plain := "\ufeffid,kind,parent_id,sku,barcode,title,colour,mpn\r\n" +
		"p1,product,,PK-140,,Drift Delta,,X-9001\r\n" +
		"v1,variant,p1,PK-140-AMB,9521234500018,,amber,X-9002\r\n" +
		",product,,NO-ID,,,,\r\n" +
		"p1,product,,TWICE,,,,\r\n" +
		"x1,thing,,PK-9,,,,\r\n" +
		"\r\n" +
		"c1,category,,,,Kites,,X-9003\r\n"
	quoted := strings.Replace(plain, "Drift Delta", `"Drift Delta"`, 1)
	var before *Owners
	for _, table := range []string{plain, quoted} {
		var bad []string
		owners, err := ReadOwners(strings.NewReader(table), nil, func(line int, why string) { bad = append(bad, fmt.Sprintf("%d: %s", line, why)) })
		if err != nil {
			t.Fatal(err)
		}
		if want := []string{"4: the row has no id", "5: the id p1 stands twice; the first counts", `6: the kind "thing" is none of product, variant, category`}; !slices.Equal(bad, want) {
			t.Errorf("bad rows %q, want %q", bad, want)
		}
		if !slices.Equal(owners.IDs, []string{"p1", "v1", "c1"}) || owners.All[1].Parent != 1 || !slices.Contains(owners.All[1].Also, "amber") {
			t.Errorf("owners %v, ids %v", owners.All, owners.IDs)
		}
		// The mpn tells owners apart, so that names can be read for it; the colour doesn't.
		if want := (pairing.Key{Field: "mpn", Text: "X-9002"}); !slices.Contains(owners.All[1].Keys, want) || len(owners.All[1].Keys) != 3 {
			t.Errorf("keys %v", owners.All[1].Keys)
		}
		if before != nil && fmt.Sprint(*before) != fmt.Sprint(*owners) {
			t.Errorf("with quotes %v, without %v", owners, before)
		}
		before = owners
	}
	for _, table := range []string{"", "a,b\n1,2\n", "id,kind,sku\n", "id,kind,sku\n,product,K\n"} {
		if _, err := ReadOwners(strings.NewReader(table), nil, func(int, string) {}); !errors.Is(err, ErrHeader) && !errors.Is(err, ErrNothing) {
			t.Errorf("%q: %v", table, err)
		}
	}
}

func TestWrite(t *testing.T) {
	owners, err := ReadOwners(strings.NewReader("id,kind,parent_id,sku,barcode,title\na,product,,PK-140,,Drift\nb,product,,T-9,,\nc,product,,T-9,,\nd,product,,K-1250,,\n"), nil, func(int, string) {})
	if err != nil {
		t.Fatal(err)
	}
	files, err := ReadNames(strings.NewReader("x/PK-140_2.jpg\r\nPK-140 \"front\".jpg\n\nT-9.jpg\nK-1260.jpg\nnotes.txt\n\xffPK-140.jpg\n"))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := Write(&out, owners, files, nil); err != nil {
		t.Fatal(err)
	}
	type answer struct {
		File, Grade      string
		Owner, Key, Fit  *string
		Number, Position *int
		NameSpan         *[2]int `json:"name_span"`
		KeySpan          *[2]int `json:"key_span"`
		Candidates       []struct{ Owner, Key, Fit string }
		Why              string
	}
	show := func(p any) string {
		b, _ := json.Marshal(p)
		return string(b)
	}
	var got []string
	for line := range strings.Lines(out.String()) {
		var a answer
		if err := json.Unmarshal([]byte(line), &a); err != nil {
			t.Fatalf("%v in %s", err, line)
		}
		if a.Why == "" || a.Candidates == nil {
			t.Errorf("%s: why %q, candidates %v", a.File, a.Why, a.Candidates)
		}
		var candidates []string
		for _, c := range a.Candidates {
			candidates = append(candidates, c.Owner)
		}
		got = append(got, fmt.Sprintf("%s %s %s %s %s %v", a.Grade, show(a.Owner), show(a.Number), show(a.Position), show(a.NameSpan), candidates))
	}
	want := []string{
		`sure "a" 2 3 [2,8] []`,    // after the two without a number
		`sure "a" null 1 [0,6] []`, // the front comes before what says nothing
		`contested null null null null [b c]`,
		`unclaimed null null null null [d]`,
		`ignored null null null null []`,
		`sure "a" null 2 [1,7] []`,
	}
	if !slices.Equal(got, want) {
		t.Errorf("got\n%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	if _, err := ReadNames(strings.NewReader("\n\r\n")); !errors.Is(err, ErrNothing) {
		t.Errorf("no names: %v", err)
	}
}

// Answers come in the order of the names, however many cores make them; a failed write ends it.
func TestWriteInOrder(t *testing.T) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(0))
	owners, err := ReadOwners(strings.NewReader("id,kind,sku\na,product,PK-140\n"), nil, func(int, string) {})
	if err != nil {
		t.Fatal(err)
	}
	var list, want strings.Builder
	for i := range 5*piece + 7 {
		fmt.Fprintf(&list, "PK-140_%d.jpg\n", i)
		fmt.Fprintf(&want, "{\"file\":\"PK-140_%d.jpg\",\n", i)
	}
	files, err := ReadNames(strings.NewReader(list.String()))
	if err != nil {
		t.Fatal(err)
	}
	for _, cores := range []int{1, 2, 5} {
		runtime.GOMAXPROCS(cores)
		var out bytes.Buffer
		if err := Write(&out, owners, files, nil); err != nil {
			t.Fatal(err)
		}
		var got strings.Builder
		for line := range strings.Lines(out.String()) {
			got.WriteString(line[:strings.IndexByte(line, ',')+1] + "\n")
		}
		if got.String() != want.String() {
			t.Errorf("%d cores: the answers are out of order", cores)
		}
		if err := Write(full{}, owners, files, nil); !errors.Is(err, io.ErrShortWrite) {
			t.Errorf("%d cores: a write that fails gives %v", cores, err)
		}
	}
}

// full takes no more.
type full struct{}

func (full) Write([]byte) (int, error) { return 0, io.ErrShortWrite }

// A table's rows keep their lines, ids and attributes, however many cores read it and whichever rows are bad.
func TestReadOwnersOnManyCores(t *testing.T) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(0))
	for _, end := range []string{"\n", ""} {
		var table strings.Builder
		table.WriteString("id,kind,parent_id,sku,colour\n")
		var want, wantBad []string
		for i := range 500 {
			switch {
			case i%97 == 5:
				table.WriteString("\n")
			case i%41 == 7:
				fmt.Fprintf(&table, ",product,,NO-%d,\n", i)
				wantBad = append(wantBad, fmt.Sprintf("%d: the row has no id", i+2))
			case i%53 == 9:
				fmt.Fprintf(&table, "o0,product,,TWICE-%d,\n", i)
				wantBad = append(wantBad, fmt.Sprintf("%d: the id o0 stands twice; the first counts", i+2))
			default:
				fmt.Fprintf(&table, "o%d,variant,o0, PK-%d ,c%d\n", i, i, i)
				want = append(want, fmt.Sprintf("o%d PK-%d [c%d] of 1", i, i, i))
			}
		}
		text := strings.TrimSuffix(table.String(), "\n") + end
		for _, cores := range []int{1, 2, 7} {
			runtime.GOMAXPROCS(cores)
			var bad []string
			owners, err := ReadOwners(strings.NewReader(text), []string{"sku"}, func(line int, why string) { bad = append(bad, fmt.Sprintf("%d: %s", line, why)) })
			if err != nil {
				t.Fatal(err)
			}
			var got []string
			for i, o := range owners.All {
				got = append(got, fmt.Sprintf("%s %s %v of %d", owners.IDs[i], o.Keys[0].Text, o.Also, o.Parent))
				if o.ID != int64(i+1) {
					t.Errorf("%d cores: owner %d has the number %d", cores, i+1, o.ID)
				}
			}
			if !slices.Equal(got, want) || !slices.Equal(bad, wantBad) {
				t.Errorf("%d cores: %d owners and %v, want %d and %v", cores, len(got), bad, len(want), wantBad)
			}
		}
	}
}

// Bytes that are no UTF-8 come back: each is a low surrogate of its own, which no text in UTF-8 can hold.
func TestBytesComeBack(t *testing.T) {
	owners, err := ReadOwners(strings.NewReader("id,kind,parent_id,sku,barcode,title\na,product,,PK-140,,Drift\n"), nil, func(int, string) {})
	if err != nil {
		t.Fatal(err)
	}
	names := []string{"PK-140_\xff.jpg", "\xc3PK-140\xe4\xb8.jpg", "gr\xfcn\xed\xb3\xbf.jpg", "é\\udcff \"x\".jpg", "\xf0\x9f\x98\x80\x80.jpg", "\ufffd.jpg"}
	files, err := ReadNames(strings.NewReader(strings.Join(names, "\n") + "\n"))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := Write(&out, owners, files, nil); err != nil {
		t.Fatal(err)
	}
	if !utf8.Valid(out.Bytes()) {
		t.Error("what is written is not UTF-8")
	}
	i := 0
	for line := range strings.Lines(out.String()) {
		if !json.Valid([]byte(line)) {
			t.Errorf("%q is not JSON", line)
		}
		raw := line[len(`{"file":"`):strings.Index(line, `","grade"`)]
		var back []byte
		for len(raw) > 0 {
			if value, err := strconv.ParseUint(strings.TrimPrefix(raw[:min(len(raw), 6)], `\udc`), 16, 8); err == nil && strings.HasPrefix(raw, `\udc`) {
				back, raw = append(back, byte(value)), raw[6:]
				continue
			}
			r, _, rest, err := strconv.UnquoteChar(raw, '"')
			if err != nil {
				t.Fatal(err)
			}
			back, raw = utf8.AppendRune(back, r), rest
		}
		if string(back) != names[i] {
			t.Errorf("%q comes back as %q", names[i], back)
		}
		i++
	}
}

// Rows in another order give the same answers: where two owners are as near, their ids decide which is told first.
func TestOrderOfRows(t *testing.T) {
	head := "id,kind,parent_id,sku,barcode,title\n"
	rows := []string{"z9,product,,PK-140,,Drift\n", "a1,product,,PK140,,Drift\n", "m5,product,,PK-141,,Lark\n", "b2,product,,PK-142,,Lark\n", "k3,variant,z9,PK-140-AMB,,\n"}
	var before map[string]bool
	for range 2 {
		owners, err := ReadOwners(strings.NewReader(head+strings.Join(rows, "")), nil, func(int, string) {})
		if err != nil {
			t.Fatal(err)
		}
		files, _ := ReadNames(strings.NewReader("pk 140.jpg\nPK-143.jpg\nlark.jpg\nPK-140-AMB.jpg\ndrift lark.jpg\n"))
		var out bytes.Buffer
		if err := Write(&out, owners, files, nil); err != nil {
			t.Fatal(err)
		}
		lines := map[string]bool{}
		for line := range strings.Lines(out.String()) {
			lines[line] = true
		}
		if before != nil && !maps.Equal(before, lines) {
			t.Errorf("in another order it is %v, before %v", lines, before)
		}
		before = lines
		slices.Reverse(rows)
	}
}
