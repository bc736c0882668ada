package pairing

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"ambrosa/core/cores"
	"ambrosa/core/gtin"
	"ambrosa/core/names"
)

// Index finds keys by runs of tokens. Building it costs time and space linear in the keys' bytes; looking up
// every run of a name's n tokens costs n² steps, whatever the number of keys.
type Index struct {
	owners      []Owner
	compare     func(a, b *Owner) int // which of two owners comes first where nothing else says
	parent      []int32               // the owner's product, by index; -1 where there is none
	parents     map[int32]bool        // the owners that have variants
	fields      []Field
	barcodes    bool // some owner has one
	keys        []indexed
	arena       []byte          // the keys' canonical texts, each with the lengths of its tokens behind it
	written     table           // keys by their canonical text
	joined      table           // keys that part digits, by it less its hyphens
	nextJoined  []int32         // of each key the next of the same text less its hyphens, plus one; nil where none parts digits
	more        map[int32]int32 // how many of a key's text and field are left out
	shapes      filter          // what the texts of keys look like
	longest     int             // tokens in the longest key
	longestCode int             // bytes in the longest canonical text that is no title
	Unfit       []UnfitKey

	kin    func() *kin
	titles func() *titles
}

// indexed is a key that can be paired by.
type indexed struct {
	hash     uint64 // of the canonical text
	at       uint32 // where the canonical text stands in the arena
	owner    int32
	next     int32 // the next key of the same text, plus one
	length   uint16
	field    uint8
	tokens   uint8
	nth      uint8          // of the owner's keys
	spelling names.Spelling // a spelling of the key without its umlauts and accents
	telling,
	numeric,
	letters, // it is letters only
	house bool // it is a barcode by its field only
}

// UnfitKey is a key that is never paired by, because it says too little.
type UnfitKey struct {
	Owner int64
	Key   Key
	Why   string // code of a message
}

const (
	maxKeyTokens = 32   // tokens of a key beyond which it is a sentence, not a key
	maxKeyBytes  = 4000 // canonical bytes likewise
	maxSame      = 16   // owners of one key that are told
)

// barcodeSalt keeps a barcode's hash apart from that of a text with the same digits.
const barcodeSalt = 0x5bd1e995

// NewIndex indexes the owners' keys, on all cores. Keys that are empty, all separators or one letter, and barcodes
// without a right check digit, are left out and listed in Unfit; an owner simply without a key is not listed. Where
// nothing else says which of two owners comes first, their IDs do.
func NewIndex(owners []Owner) *Index {
	return NewIndexBy(owners, func(a, b *Owner) int { return cmp.Compare(a.ID, b.ID) })
}

// NewIndexBy is NewIndex where compare says which of two owners comes first, so that the order in which they are given
// changes nothing even where their IDs come from it.
func NewIndexBy(owners []Owner, compare func(a, b *Owner) int) *Index {
	ix := &Index{owners: owners, compare: compare}
	ix.kin = sync.OnceValue(ix.findKin)
	ix.titles = sync.OnceValue(ix.indexTitles)
	fieldOf := map[Field]uint8{}
	last := Field("")
	for i := range owners {
		for _, k := range owners[i].Keys {
			if k.Text == "" || k.Field == last {
				continue // most owners have but one
			}
			last = k.Field
			if _, known := fieldOf[k.Field]; !known && len(ix.fields) < 255 {
				fieldOf[k.Field] = 0
				ix.fields = append(ix.fields, k.Field)
				ix.barcodes = ix.barcodes || k.Field == Barcode
			}
		}
	}
	slices.Sort(ix.fields)
	for i, field := range ix.fields {
		fieldOf[field] = uint8(i)
	}
	ix.relate()
	parts := make([]Index, cores.Count())
	cores.Share(len(owners), func(w, from, to int) { parts[w].take(owners[from:to], int32(from), fieldOf) })
	count, size := 0, 0
	for _, p := range parts {
		count, size = count+len(p.keys), size+len(p.arena)
	}
	ix.keys, ix.arena = make([]indexed, 0, count), make([]byte, 0, size)
	for i := range parts {
		p := &parts[i]
		shift := uint32(len(ix.arena))
		ix.arena = append(ix.arena, p.arena...)
		for _, k := range p.keys {
			k.at += shift
			ix.keys = append(ix.keys, k)
		}
		ix.Unfit = append(ix.Unfit, p.Unfit...)
		ix.longest, ix.longestCode = max(ix.longest, p.longest), max(ix.longestCode, p.longestCode)
		p.keys, p.arena = nil, nil // they stand in ix now
	}
	ix.written.makeRoom(len(ix.keys))
	ix.more = map[int32]int32{}
	parting := 0
	for i := range ix.keys {
		ix.insert(int32(i))
		if bytes.IndexByte(ix.canonical(&ix.keys[i]), '-') >= 0 {
			parting++
		}
	}
	if parting > 0 {
		ix.joined.makeRoom(parting)
		ix.nextJoined = make([]int32, len(ix.keys))
		ix.insertJoined()
	}
	ix.shapes = newFilter(parts)
	return ix
}

// relate finds each owner's product. Parents in a circle are none.
func (ix *Index) relate() {
	ix.parent, ix.parents = make([]int32, len(ix.owners)), map[int32]bool{}
	family := false
	for i := range ix.owners {
		ix.parent[i] = -1
		family = family || ix.owners[i].Parent != 0
	}
	if !family {
		return
	}
	byID := make(map[int64]int32, len(ix.owners))
	for i, o := range ix.owners {
		byID[o.ID] = int32(i)
	}
	for i, o := range ix.owners {
		if p, ok := byID[o.Parent]; ok && o.Parent != 0 {
			ix.parent[i] = p
		}
	}
	const fresh, done = 0, -1
	seen := make([]int32, len(ix.owners)) // fresh, done, or the walk that is at it, from 1 on
	for i := range ix.parent {
		walk := int32(i + 1)
		at := int32(i)
		for ; at >= 0 && seen[at] == fresh; at = ix.parent[at] {
			seen[at] = walk
		}
		for at >= 0 && seen[at] == walk { // a circle: cut all the way round
			next := ix.parent[at]
			ix.parent[at], seen[at] = -1, done
			at = next
		}
		for at := int32(i); at >= 0 && seen[at] == walk; at = ix.parent[at] {
			seen[at] = done
		}
	}
	for _, p := range ix.parent {
		if p >= 0 {
			ix.parents[p] = true
		}
	}
}

// take indexes the keys of some owners, of which the first has the number first.
func (ix *Index) take(owners []Owner, first int32, fieldOf map[Field]uint8) {
	count, size := 0, 0
	for _, o := range owners {
		for _, k := range o.Keys {
			count, size = count+1, size+len(k.Text)
		}
	}
	ix.keys, ix.arena = make([]indexed, 0, count), make([]byte, 0, size+4*count)
	var taking taking
	for o := range owners {
		for nth, key := range owners[o].Keys {
			field, ok := fieldOf[key.Field]
			if key.Text == "" || !ok || nth > math.MaxUint8 {
				continue
			}
			if why := ix.takeKey(&taking, key, indexed{owner: first + int32(o), field: field, nth: uint8(nth)}); why != "" {
				ix.Unfit = append(ix.Unfit, UnfitKey{owners[o].ID, key, why})
			}
		}
	}
}

// taking is one core's working memory for it.
type taking struct {
	rolled
	spans []span
	space []names.Token
}

// takeKey indexes one key, or says why it can't be paired by.
func (ix *Index) takeKey(w *taking, key Key, entry indexed) (why string) {
	arena, keys := len(ix.arena), len(ix.keys)
	defer func() {
		if recover() != nil { // one key that can't be read costs that key only
			ix.arena, ix.keys = ix.arena[:arena], ix.keys[:keys]
			why = "unfit_unreadable"
		}
	}()
	if key.Field == Barcode {
		if form, ok := gtin.Fourteen(strings.Map(onlyDigits, key.Text)); ok {
			entry.hash, entry.tokens, entry.telling, entry.numeric = barcodeHash(form), 1, true, true
			entry.at, entry.length = uint32(len(ix.arena)), uint16(len(form))
			ix.arena = append(append(ix.arena, form...), byte(len(form)))
			ix.keys = append(ix.keys, entry)
			return ""
		}
		if entry.house = isHouseCode(key.Text); !entry.house {
			return "unfit_barcode"
		}
	}
	w.space = names.AppendTokens(w.space[:0], key.Text, 0)
	tokens := w.space
	w.spans = w.set(tokens, w.spans[:0])
	switch {
	case len(tokens) == 0:
		return "unfit_separators"
	case len(tokens) == 1 && utf8.RuneCountInString(tokens[0].Folded) == 1:
		return "unfit_short"
	case len(tokens) > maxKeyTokens || len(w.text) > maxKeyBytes:
		return "unfit_long"
	}
	entry.telling, entry.numeric, entry.letters = telling(tokens)
	ix.longest = max(ix.longest, len(tokens))
	ix.add(w, tokens, key, entry)
	if key.Field == Barcode {
		return ""
	}
	for _, as := range []names.Spelling{names.Expanded, names.Bare} {
		if spelled, differs := spelledTokens(tokens, as); differs {
			w.spans = w.set(spelled, w.spans[:0])
			entry.spelling = as
			ix.add(w, spelled, key, entry)
		}
	}
	return ""
}

// add adds a key as w has it.
func (ix *Index) add(w *taking, tokens []names.Token, key Key, entry indexed) {
	entry.hash, entry.tokens = mix(w.part(0, len(w.text))), uint8(len(tokens))
	entry.at, entry.length = uint32(len(ix.arena)), uint16(len(w.text))
	ix.arena = append(ix.arena, w.text...)
	for _, t := range tokens {
		ix.arena = append(ix.arena, byte(min(len(t.Folded), 255)))
	}
	ix.keys = append(ix.keys, entry)
	ix.shapes.put(w.shape(0, len(w.text)))
	if key.Field != Title {
		ix.longestCode = max(ix.longestCode, int(entry.length))
	}
}

// spelledTokens are the tokens in a spelling without umlauts and accents.
func spelledTokens(tokens []names.Token, as names.Spelling) (spelled []names.Token, differs bool) {
	for i, t := range tokens {
		text, other := names.Spell(t.Folded, as)
		if other && !differs {
			spelled, differs = slices.Clone(tokens), true
		}
		if differs {
			spelled[i].Folded = text
		}
	}
	return spelled, differs
}

// isHouseCode reports whether the text of a barcode field is a code of the house's own: letters and digits, or fewer digits
// than any barcode has. What a spreadsheet made of a barcode is none.
func isHouseCode(text string) bool {
	digits, letters := 0, 0
	for _, r := range text {
		switch {
		case unicode.IsDigit(r):
			digits++
		case unicode.IsLetter(r):
			letters++
		}
	}
	_, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(text), ",", "."), 64)
	return digits > 0 && letters > 0 && err != nil && digits+letters >= 3 || letters == 0 && digits >= 3 && digits < 7
}

func barcodeHash(form string) uint64 {
	return mix(binary.LittleEndian.Uint64([]byte(form[6:])) ^ binary.LittleEndian.Uint64([]byte(form[:8]))*barcodeSalt)
}

// appendCanonical writes the text by which names and keys are compared: see names.Canonical.
func appendCanonical(b []byte, tokens []names.Token) []byte {
	for i, t := range tokens {
		if i > 0 && t.Digits && tokens[i-1].Digits {
			b = append(b, '-')
		}
		b = append(b, t.Folded...)
	}
	return b
}

// lengths are those of the tokens of a key's canonical text, in bytes.
func (ix *Index) lengths(k *indexed) []byte { return ix.arena[k.at+uint32(k.length):][:k.tokens] }

func (ix *Index) canonical(k *indexed) []byte { return ix.arena[k.at : k.at+uint32(k.length)] }

// piece is a token of a canonical text.
type piece struct {
	start, end int
	digits     bool
}

// pieces appends the tokens of a key as its canonical text has them; none where one is longer than any code's.
func (ix *Index) pieces(k *indexed, into []piece) []piece {
	canonical := ix.canonical(k)
	pos := 0
	for _, n := range ix.lengths(k) {
		if pos < len(canonical) && canonical[pos] == '-' {
			pos++
		}
		if pos+int(n) > len(canonical) {
			return into[:0]
		}
		into = append(into, piece{pos, pos + int(n), '0' <= canonical[pos] && canonical[pos] <= '9'})
		pos += int(n)
	}
	if pos != len(canonical) {
		return into[:0]
	}
	return into
}

// text is a key as the catalogue has it.
func (ix *Index) text(key int32) string {
	k := &ix.keys[key]
	return ix.owners[k.owner].Keys[k.nth].Text
}

// agreement says how a run of tokens and a canonical text agree.
type agreement uint8

const (
	apart  agreement = iota
	strict           // the same, but for separators that part nothing
	split            // the name parts digits that the key does not
	fused            // the key parts digits that the name does not
)

func agree(canonical []byte, tokens []names.Token) agreement {
	pos := 0
	parted, joined := false, false
	for i, t := range tokens {
		if i > 0 && t.Digits && tokens[i-1].Digits {
			if pos < len(canonical) && canonical[pos] == '-' {
				pos++
			} else {
				parted = true
			}
		}
		for j := range len(t.Folded) {
			if pos < len(canonical) && canonical[pos] == '-' {
				pos++
				joined = true
			}
			if pos >= len(canonical) || canonical[pos] != t.Folded[j] {
				return apart
			}
			pos++
		}
	}
	switch {
	case pos != len(canonical) || parted && joined:
		return apart
	case parted:
		return split
	case joined:
		return fused
	}
	return strict
}

// telling reports whether a key says enough to be believed in the middle of other words: four letters or
// digits, a digit among them; whether it is all digits, and whether all letters.
func telling(tokens []names.Token) (enough, numeric, letters bool) {
	count, digit := 0, false
	numeric = true
	for _, t := range tokens {
		count += len(t.Folded)
		digit = digit || t.Digits
		numeric = numeric && t.Digits
	}
	return count >= 4 && digit, numeric, !digit
}

// onlyDigits drops what groups the digits of a barcode and keeps everything else, to fail on it.
func onlyDigits(r rune) rune {
	if r == ' ' || r == '-' || r == '\u00a0' {
		return -1
	}
	return r
}
