package pairing

import (
	"encoding/binary"
	"strings"
	"sync"

	"ambrosa/core/cores"
	"ambrosa/core/gtin"
	"ambrosa/core/names"
)

// Index finds keys by runs of tokens. Building it costs time and space linear in the keys' bytes; looking up
// every run of a name's n tokens costs n² steps, whatever the number of keys.
type Index struct {
	owners      []Owner
	parent      []int32        // the owner's product, by index; -1 where there is none
	parents     map[int32]bool // the owners that have variants
	fields      []Field
	barcodes    bool // some owner has one
	keys        []indexed
	texts       []string // of each key, as the catalogue has it
	arena       []byte   // the keys' canonical texts, each with the lengths of its tokens behind it
	slots       []uint64 // open addressing: the upper half of a hash, and the place in keys plus one
	longest     int      // tokens in the longest key
	longestCode int      // bytes in the longest canonical text that is no title
	Unfit       []UnfitKey

	extensions func() map[uint64]struct{}
	titles     func() *titles
}

// indexed is a key that can be paired by.
type indexed struct {
	hash   uint64 // of the canonical text less its hyphens
	at     uint32 // where the canonical text stands in the arena
	owner  int32
	next   int32 // the next key of the same hash, plus one
	more   int32 // how many of this text and field are left out
	length uint16
	field  uint8
	tokens uint8
	telling,
	numeric bool
}

// UnfitKey is a key that is never paired by, because it says too little.
type UnfitKey struct {
	Owner int64
	Key   Key
	Why   string
}

const (
	maxKeyTokens = 32   // tokens of a key beyond which it is a sentence, not a key
	maxKeyBytes  = 4000 // canonical bytes likewise
	maxSame      = 16   // owners of one key that are told
)

// barcodeSalt keeps a barcode's hash apart from that of a text with the same digits.
const barcodeSalt = 0x5bd1e995

// NewIndex indexes the owners' keys, on all cores. Keys that are empty, all separators or one letter, and barcodes
// without a right check digit, are left out and listed in Unfit; an owner simply without a key is not listed.
func NewIndex(owners []Owner) *Index {
	ix := &Index{owners: owners, parent: make([]int32, len(owners)), parents: map[int32]bool{}}
	ix.extensions = sync.OnceValue(ix.extend)
	ix.titles = sync.OnceValue(ix.indexTitles)
	family := false
	fieldOf := map[Field]uint8{}
	last := Field("")
	for i := range owners {
		family = family || owners[i].Parent != 0
		for _, k := range owners[i].Keys {
			if k.Text == "" || k.Field == last {
				continue // most owners have but one
			}
			last = k.Field
			if _, known := fieldOf[k.Field]; !known && len(ix.fields) < 255 {
				fieldOf[k.Field] = uint8(len(ix.fields))
				ix.fields = append(ix.fields, k.Field)
				ix.barcodes = ix.barcodes || k.Field == Barcode
			}
		}
	}
	if family {
		byID := make(map[int64]int32, len(owners))
		for i, o := range owners {
			byID[o.ID] = int32(i)
		}
		for i, o := range owners {
			if p, ok := byID[o.Parent]; ok && o.Parent != 0 && p != int32(i) {
				ix.parent[i] = p
				ix.parents[p] = true
			} else {
				ix.parent[i] = -1
			}
		}
	} else {
		for i := range ix.parent {
			ix.parent[i] = -1
		}
	}
	parts := make([]Index, cores.Count())
	cores.Share(len(owners), func(w, from, to int) { parts[w].take(owners[from:to], int32(from), fieldOf) })
	count, size := 0, 0
	for _, p := range parts {
		count, size = count+len(p.keys), size+len(p.arena)
	}
	ix.keys, ix.texts, ix.arena = make([]indexed, 0, count), make([]string, 0, count), make([]byte, 0, size)
	for _, p := range parts {
		shift := uint32(len(ix.arena))
		ix.arena, ix.texts = append(ix.arena, p.arena...), append(ix.texts, p.texts...)
		for _, k := range p.keys {
			k.at += shift
			ix.keys = append(ix.keys, k)
		}
		ix.Unfit = append(ix.Unfit, p.Unfit...)
		ix.longest, ix.longestCode = max(ix.longest, p.longest), max(ix.longestCode, p.longestCode)
	}
	ix.slots = make([]uint64, powerOfTwo(2*len(ix.keys)))
	for i := range ix.keys {
		ix.insert(int32(i))
	}
	return ix
}

// take indexes the keys of some owners, of which the first has the number first.
func (ix *Index) take(owners []Owner, first int32, fieldOf map[Field]uint8) {
	count, size := 0, 0
	for _, o := range owners {
		for _, k := range o.Keys {
			count, size = count+1, size+len(k.Text)
		}
	}
	ix.keys, ix.texts, ix.arena = make([]indexed, 0, count), make([]string, 0, count), make([]byte, 0, size+4*count)
	var r rolled
	var at []int
	var space []names.Token
	for o := range owners {
		for _, key := range owners[o].Keys {
			if key.Text == "" {
				continue
			}
			field, ok := fieldOf[key.Field]
			if !ok {
				continue
			}
			entry := indexed{owner: first + int32(o), field: field}
			if key.Field == Barcode {
				form, ok := gtin.Fourteen(strings.Map(onlyDigits, key.Text))
				if !ok {
					ix.Unfit = append(ix.Unfit, UnfitKey{owners[o].ID, key, "it is no barcode with a right check digit"})
					continue
				}
				entry.hash, entry.tokens, entry.telling, entry.numeric = barcodeHash(form), 1, true, true
				entry.at, entry.length = uint32(len(ix.arena)), uint16(len(form))
				ix.arena = append(append(ix.arena, form...), byte(len(form)))
				ix.keys, ix.texts = append(ix.keys, entry), append(ix.texts, key.Text)
				continue
			}
			tokens := names.AppendTokens(space[:0], key.Text, 0)
			space = tokens
			at = r.set(tokens, at[:0])
			switch {
			case len(tokens) == 0:
				ix.Unfit = append(ix.Unfit, UnfitKey{owners[o].ID, key, "it is all separators"})
				continue
			case len(tokens) == 1 && len([]rune(tokens[0].Folded)) == 1:
				ix.Unfit = append(ix.Unfit, UnfitKey{owners[o].ID, key, "one letter or digit says too little"})
				continue
			case len(tokens) > maxKeyTokens || len(r.text) > maxKeyBytes:
				ix.Unfit = append(ix.Unfit, UnfitKey{owners[o].ID, key, "it is too long for a key"})
				continue
			}
			entry.hash, entry.tokens = mix(r.part(0, len(r.text))), uint8(len(tokens))
			entry.telling, entry.numeric = telling(tokens)
			ix.longest = max(ix.longest, len(tokens))
			start := len(ix.arena)
			ix.arena = appendCanonical(ix.arena, tokens)
			entry.at, entry.length = uint32(start), uint16(len(ix.arena)-start)
			for _, t := range tokens {
				ix.arena = append(ix.arena, byte(min(len(t.Folded), 255)))
			}
			ix.keys, ix.texts = append(ix.keys, entry), append(ix.texts, key.Text)
			if key.Field != Title {
				ix.longestCode = max(ix.longestCode, int(entry.length))
			}
		}
	}
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

// insert files a key by its hash. Of a key that many owners share, a few are enough to say that it is contested.
func (ix *Index) insert(i int32) {
	hash := ix.keys[i].hash
	mask := uint64(len(ix.slots) - 1)
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		slot := ix.slots[pos]
		if slot == 0 {
			ix.slots[pos] = hash&^0xffffffff | uint64(i+1)
			return
		}
		head := int32(uint32(slot)) - 1
		if slot^hash >= 1<<32 || ix.keys[head].hash != hash {
			continue
		}
		same, first := 0, int32(-1)
		for k := head; ; k = ix.keys[k].next - 1 {
			if ix.keys[k].field == ix.keys[i].field {
				if same++; first < 0 {
					first = k
				}
			}
			if ix.keys[k].next == 0 {
				break
			}
		}
		if same == maxSame {
			ix.keys[first].more++
			return
		}
		ix.keys[i].next = ix.keys[head].next
		ix.keys[head].next = i + 1
		return
	}
}

// first gives the first key of a hash plus one, 0 where there is none.
func (ix *Index) first(hash uint64) int32 {
	mask := uint64(len(ix.slots) - 1)
	for pos := hash & mask; ; pos = (pos + 1) & mask {
		slot := ix.slots[pos]
		if slot == 0 {
			return 0
		}
		if head := int32(uint32(slot)); slot^hash < 1<<32 && ix.keys[head-1].hash == hash {
			return head
		}
	}
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
func (ix *Index) text(key int32) string { return ix.texts[key] }

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
// digits, a digit among them; and whether it is all digits.
func telling(tokens []names.Token) (enough, numeric bool) {
	count, digit := 0, false
	numeric = true
	for _, t := range tokens {
		count += len(t.Folded)
		digit = digit || t.Digits
		numeric = numeric && t.Digits
	}
	return count >= 4 && digit, numeric
}

// extend gathers how keys go on: for each beginning of a key, what kind of token follows it. A name that goes on in
// the same way behind a shorter key means a key that is not in the catalogue, not the shorter one.
func (ix *Index) extend() map[uint64]struct{} {
	set := make(map[uint64]struct{}, len(ix.keys))
	var r rolled
	var pieces []piece
	for i := range ix.keys {
		k := &ix.keys[i]
		if k.tokens < 2 || ix.fields[k.field] == Title {
			continue
		}
		canonical := ix.canonical(k)
		pieces = ix.pieces(k, pieces[:0])
		r.text = r.text[:0]
		for _, p := range pieces {
			r.text = append(r.text, canonical[p.start:p.end]...)
		}
		r.roll()
		end := 0
		for j := 0; j+1 < len(pieces); j++ {
			end += pieces[j].end - pieces[j].start
			set[extension(r.part(0, end), pieces[j+1].end-pieces[j+1].start, pieces[j+1].digits)] = struct{}{}
		}
	}
	return set
}

// extension is the hash of a key's beginning and the shape of the token that follows: so many digits, or letters.
func extension(beginning uint64, length int, digits bool) uint64 {
	shape := uint64(length) << 1
	if digits {
		shape |= 1
	}
	return mix(mix(beginning) ^ shape)
}

// onlyDigits drops what groups the digits of a barcode and keeps everything else, to fail on it.
func onlyDigits(r rune) rune {
	if r == ' ' || r == '-' || r == '\u00a0' {
		return -1
	}
	return r
}
