package pairing

import (
	"ambrosa/core/message"
	"bytes"
	"strings"
)

// nearMiss is a key that a unit may mean.
type nearMiss struct {
	key      int32
	score    float32
	from, to int16 // of a part: which of the key's tokens
	how      how
	likely   bool // where it stays alone
}

// how says how a unit misses a key.
type how uint8

const (
	bySlips how = iota
	partOf
	zerosDiffer
	groupsDiffer
)

// twiceAtMost is the best score of two slips.
const twiceAtMost = .55

func (m *nearMiss) way() way {
	if m.how == partOf {
		return byPart
	}
	return byNear
}

// nearness weighs what sets a unit apart from a key that it is not; most is how much longer than the other one may be.
func (v *view) nearness(u *unit, most int) (nearMiss, bool) {
	key := string(v.slipped.text)
	if len(u.text) < minNear || len(v.canonical) < minNear {
		return nearMiss{}, false
	}
	if u.text != key {
		m, ok := slipped(u.text, key, most)
		m.key = v.key
		return m, ok
	}
	if strings.ReplaceAll(u.canonical, "-", "") == string(bytes.ReplaceAll(v.canonical, []byte("-"), nil)) {
		return nearMiss{key: v.key, score: .8, how: groupsDiffer}, true
	}
	return nearMiss{key: v.key, score: .88, likely: true}, true
}

// slipped weighs slips between two texts that differ. A swapped, dropped or added letter is likely a slip; another letter,
// and any digit, may as well mean another product.
func slipped(name, key string, most int) (m nearMiss, ok bool) {
	if len(name)-len(key) > most || len(key)-len(name) > most {
		return m, false
	}
	sameLength := len(name) == len(key)
	switch d := distance(name, key, 2); {
	case d == 1 && sameLength && sameBytes(name, key):
		m.score = .75
		if digits(name) == digits(key) {
			m.score, m.likely = .86, true
		}
	case d == 1 && !sameLength:
		m.score = .72
		if digits(name) == digits(key) {
			m.score, m.likely = .86, true
		}
	case d == 1:
		m.score = .65
	case d == 2 && len(key) > minNear:
		m.score = .5
		if sameLength && sameBytes(name, key) {
			m.score = twiceAtMost
		}
	default:
		return m, false
	}
	m.likely = m.likely && len(key) > minNear
	return m, true
}

// withoutZeros weighs a unit that is the key but for leading zeros: a spreadsheet eats all of them or none. A barcode has no
// others than its forms have.
func (v *view) withoutZeros(u *unit) nearMiss {
	if v.barcode && u.canonical[0] == '0' {
		return nearMiss{key: v.key, how: zerosDiffer, score: .6}
	}
	m := nearMiss{key: v.key, how: zerosDiffer, score: .78}
	if bare(u.canonical, u.zeroless) || bare(string(v.canonical), u.zeroless) {
		m.score, m.likely = .9, true
	}
	return m
}

// bare reports whether no number of a text has leading zeros.
func bare(canonical, zeroless string) bool {
	return strings.ReplaceAll(canonical, "-", "") == strings.ReplaceAll(zeroless, " ", "")
}

// differs says in a few words what sets a unit apart from a key that it misses; of a part see missing.
func (ix *Index) differs(u *unit, m *nearMiss) message.Message {
	switch m.how {
	case zerosDiffer:
		return message.New("differs_zeros")
	case groupsDiffer:
		return message.New("differs_groups")
	}
	canonical, _ := ix.compared(&ix.keys[m.key], nil)
	return difference(strings.ReplaceAll(u.canonical, "-", ""), strings.ReplaceAll(string(canonical), "-", ""))
}

func digits(s string) string {
	return strings.Map(func(r rune) rune {
		if '0' <= r && r <= '9' {
			return r
		}
		return -1
	}, s)
}

// sameBytes reports whether two texts are made of the same bytes.
func sameBytes(a, b string) bool {
	var counts [256]int8
	for i := range len(a) {
		counts[a[i]]++
		counts[b[i]]--
	}
	return counts == [256]int8{}
}

// alike folds what the eye confuses: the letter o and the digit 0; i, l and 1; and the letters of other scripts that
// look like Latin ones. Source: confusables.txt of UTS #39, as far as it concerns single letters of keys.
var alike = strings.NewReplacer("o", "0", "i", "1", "l", "1",
	"а", "a", "в", "b", "е", "e", "к", "k", "м", "m", "н", "h", "о", "0", "р", "p", "с", "c", "т", "t", "х", "x", "у", "y", "і", "1", "ѕ", "s",
	"α", "a", "β", "b", "ε", "e", "η", "n", "ι", "1", "κ", "k", "μ", "m", "ν", "v", "ο", "0", "ρ", "p", "τ", "t", "υ", "u", "χ", "x")

// foldAlike folds a text in place by alike, where it can.
func foldAlike(text []byte) []byte {
	for i, c := range text {
		switch {
		case c == 'o':
			text[i] = '0'
		case c == 'i' || c == 'l':
			text[i] = '1'
		case c >= 0x80:
			return append(text[:0], alike.Replace(string(text))...)
		}
	}
	return text
}
