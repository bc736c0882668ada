package pairing

import "ambrosa/core/cores"

// texts are some of one length, by columns.
type texts struct {
	ids     []int32
	letters [][]byte // of each place, every text's
	whole   []uint64 // the hash of each
}

// textsOf reads texts of at most maxTwice + 2 letters, by length, as each core has read them; read says none by nil.
func textsOf(count int, read func(i int, v *view) []byte) (byLength [maxTwice + 3][]texts, shares []textShare) {
	parts := make([][maxTwice + 3]texts, cores.Count())
	shares = make([]textShare, cores.Count())
	cores.Share(count, func(w, from, to int) {
		var v view
		var counts [maxTwice + 3]int
		of := textShare{from: from, to: to, at: make([]uint32, 1, to-from+1)}
		for i := from; i < to; i++ {
			if text := read(i, &v); len(text) <= maxTwice+2 {
				of.all = append(of.all, text...)
				counts[len(text)]++
			}
			of.at = append(of.at, uint32(len(of.all)))
		}
		for i := range to - from {
			if text := of.all[of.at[i]:of.at[i+1]]; len(text) > 0 {
				parts[w][len(text)].add(int32(from+i), text, counts[len(text)])
			}
		}
		shares[w] = of
	})
	for _, p := range parts {
		for n := range p {
			if len(p[n].ids) > 0 {
				byLength[n] = append(byLength[n], p[n])
			}
		}
	}
	return byLength, shares
}

// add adds one text of so many that come.
func (t *texts) add(id int32, text []byte, count int) {
	if t.letters == nil {
		t.letters, t.ids, t.whole = make([][]byte, len(text)), make([]int32, 0, count), make([]uint64, 0, count)
		for i := range t.letters {
			t.letters[i] = make([]byte, 0, count)
		}
	}
	t.ids = append(t.ids, id)
	h := uint64(0)
	for i, letter := range text {
		t.letters[i] = append(t.letters[i], letter)
		h = h*base + values[letter]
	}
	t.whole = append(t.whole, h)
}

// hash returns the hashes of the texts from one to another, rearranged: what the places that change add to the whole's.
func (t *texts) hash(a arrangement, from, to int, into []uint64) []uint64 {
	into = append(into[:0], t.whole[from:to]...)
	for i, factor := range a.changes(len(t.letters)) {
		if factor == 0 {
			continue
		}
		column := t.letters[i][from:to]
		into := into[:len(column)]
		for j, letter := range column {
			into[j] += factor * values[letter]
		}
	}
	for j, h := range into {
		h *= spread
		into[j] = h ^ h>>32
	}
	return into
}

// keyTexts are the texts of keys that slips are looked for in.
type keyTexts struct {
	byLength [maxTwice + 3][]texts
	shares   []textShare
	count    int
}

func (s *Study) keyTexts() *keyTexts {
	k := &keyTexts{count: len(s.index.keys)}
	k.byLength, k.shares = textsOf(k.count, func(i int, v *view) []byte {
		if key := &s.index.keys[i]; !s.index.nearable(key) || key.length < minNear {
			return nil
		}
		v.see(s.index, int32(i))
		return v.slipped.text
	})
	return k
}

// text is that of a key which has one.
func (k *keyTexts) text(key int32) []byte {
	at := int(key) * len(k.shares) / k.count
	for int(key) >= k.shares[at].to {
		at++
	}
	for int(key) < k.shares[at].from {
		at--
	}
	of := &k.shares[at]
	return of.all[of.at[int(key)-of.from]:of.at[int(key)-of.from+1]]
}

// textShare are the texts that one core has read, one after the other.
type textShare struct {
	from, to int
	all      []byte
	at       []uint32
}
