package pairing

import (
	"fmt"
	"slices"
	"strings"
	"sync/atomic"

	"ambrosa/core/cores"
	"ambrosa/core/message"
	"ambrosa/core/names"
)

// HabitKind says what a habit is about; each can be switched off.
type HabitKind string

const (
	SharedPrefix HabitKind = "prefix"  // words that names share before the key explain themselves
	SharedSuffix HabitKind = "suffix"  // and behind it
	NumberStart  HabitKind = "numbers" // numbers that start at 0 mean the first place
	FolderLevel  HabitKind = "folder"  // a folder is the key
	LeadingKey   HabitKind = "key"     // a title that says something else than the code is but words
)

// Habit is what a whole delivery does, with how many names do it.
type Habit struct {
	Kind  HabitKind       `json:"kind"`
	Says  message.Message `json:"says"`
	Count int             `json:"count"`
	Of    int             `json:"of"`
}

// habits are what the names of a delivery have in common.
type habits struct {
	heads, rests map[uint64]bool // what stands beside the keys of many owners says nothing
	belows       map[uint64]bool // nor what folders between many owners' folders and their files say
	containers   map[int32]bool  // owners whose key names a folder that holds many others' pictures
	startsAtZero bool
	stated       []Habit
}

// often is at how many owners' names the same words beside a key are a supplier's habit.
const often = 5

// beside counts the owners beside whose key the same words stand.
type beside map[uint64]*besideOwners

type besideOwners struct {
	owners  []int32 // the first few
	names   int
	sample  int    // the file whose path comes first
	path    string // and that
	telling bool   // they tell siblings apart, or begin keys
}

func (b beside) put(words uint64, owner int32, file int, path string, telling bool) {
	if words == 0 {
		return
	}
	o := b[words]
	if o == nil {
		o = &besideOwners{sample: file, path: path}
		b[words] = o
	}
	if path < o.path {
		o.sample, o.path = file, path
	}
	o.telling = o.telling || telling
	o.names++
	if len(o.owners) < often && !slices.Contains(o.owners, owner) {
		o.owners = append(o.owners, owner)
	}
}

func (b beside) habits() (set map[uint64]bool, most *besideOwners) {
	set = map[uint64]bool{}
	for words, o := range b {
		if len(o.owners) == often && !o.telling {
			set[words] = true
			if most == nil || o.names > most.names || o.names == most.names && o.path < most.path {
				most = o
			}
		}
	}
	return set, most
}

// noticed is what one core sees of the habits in its share of the names.
type noticed struct {
	heads, rests beside
	belows       beside
	inFolderOf   beside // by owner plus one: whose pictures lie in a folder that is that owner's key
	notations    [names.Lettered + 1]int
	levels       map[int8]int
	byCell       []int
	total        int
}

// infer finds the habits from what was met in every name, on all cores. Cost: linear in the names.
func (s *Study) infer() {
	lowest := make([]int32, len(s.index.owners)) // plus one; 0 where there is none
	parts := make([]noticed, cores.Count())
	cores.Share(len(s.files), func(w, from, to int) {
		parts[w] = noticed{heads: beside{}, rests: beside{}, belows: beside{}, inFolderOf: beside{}, levels: map[int8]int{}, byCell: make([]int,
			len(s.index.fields)*len(Fits))}
		for i := from; i < to; i++ {
			s.notice(&parts[w], i, lowest)
		}
	})
	all := &parts[0]
	for i := range parts[1:] {
		all.add(&parts[i+1])
	}
	s.conclude(all, lowest)
}

// notice counts what one name does. What is counted by owner is shared by all cores.
func (s *Study) notice(seen *noticed, file int, lowest []int32) {
	mets := s.met(file)
	if !s.skip[file] {
		seen.total++
	}
	m := s.alone(mets)
	if m == nil {
		return
	}
	owner := s.owner(m)
	path := s.files[file].Path
	switch {
	case m.fit == byFolder:
		seen.levels[m.level]++
		seen.belows.put(m.below, owner, file, path, s.index.kin().tellsApart(m.belowWord))
	case s.index.keys[m.key].telling && !m.glued: // what stands beside a mere word is a phrase
		seen.heads.put(m.head, owner, file, path, m.headWord != 0 && (s.index.kin().starts[m.headWord] >= fewest ||
			s.index.kin().tellsApart(m.headWord)))
		seen.rests.put(m.rest, owner, file, path, s.index.kin().tellsApart(m.nextWord))
		for j := range mets {
			// A number below a folder is that folder's, however many are somebody's key.
			key := &s.index.keys[m.key]
			if f := &mets[j]; f.fit == byFolder && s.owner(f) != owner && !s.related(f, m) && !(key.numeric && key.length <= 4) {
				seen.inFolderOf.put(uint64(s.owner(f))+1, owner, file, "", false)
			}
		}
	}
	seen.byCell[int(s.index.keys[m.key].field)*len(Fits)+int(m.fit)]++
	if m.number == names.NoNumber {
		return
	}
	seen.notations[m.notation]++
	atomic.AddInt32(&s.numbered[owner], 1)
	if m.notation == names.Lettered {
		atomic.AddInt32(&s.lettered[owner], 1)
	}
	for {
		low, is := atomic.LoadInt32(&lowest[owner]), int32(m.number)+1
		if low != 0 && low <= is || atomic.CompareAndSwapInt32(&lowest[owner], low, is) {
			return
		}
	}
}

func (n *noticed) add(o *noticed) {
	n.heads.add(o.heads)
	n.rests.add(o.rests)
	n.belows.add(o.belows)
	n.inFolderOf.add(o.inFolderOf)
	for i, count := range o.notations {
		n.notations[i] += count
	}
	for level, count := range o.levels {
		n.levels[level] += count
	}
	for i, count := range o.byCell {
		n.byCell[i] += count
	}
	n.total += o.total
}

func (b beside) add(o beside) {
	for words, more := range o {
		has := b[words]
		if has == nil {
			b[words] = more
			continue
		}
		if more.path < has.path {
			has.path, has.sample = more.path, more.sample
		}
		has.names += more.names
		has.telling = has.telling || more.telling
		for _, owner := range more.owners {
			if len(has.owners) < often && !slices.Contains(has.owners, owner) {
				has.owners = append(has.owners, owner)
			}
		}
	}
}

// conclude makes habits of what was noticed.
func (s *Study) conclude(seen *noticed, lowest []int32) {
	heads, rests, inFolderOf, notations, levels, byCell, total := seen.heads, seen.rests, seen.inFolderOf, seen.notations, seen.levels,
		seen.byCell, seen.total
	type cell struct {
		field uint8
		fit   Fit
	}
	h := &s.habits
	var head, rest *besideOwners
	h.heads, head = heads.habits()
	h.rests, rest = rests.habits()
	h.belows, _ = seen.belows.habits()
	h.containers = map[int32]bool{}
	for owner, o := range inFolderOf {
		h.containers[int32(owner-1)] = len(o.owners) >= 3
	}
	state := func(kind HabitKind, count int, says message.Message) {
		h.stated = append(h.stated, Habit{Kind: kind, Says: says, Count: count, Of: total})
	}
	if head != nil {
		m := s.alone(s.met(head.sample))
		path := s.files[head.sample].Path
		state(SharedPrefix, head.names, message.New("habit_prefix", "text", path[names.Read(path).Stem.Start:m.start]))
	}
	if rest != nil {
		m := s.alone(s.met(rest.sample))
		path := s.files[rest.sample].Path
		state(SharedSuffix, rest.names, message.New("habit_suffix", "text", path[m.end:names.Read(path).Stem.End]))
	}
	zero, one := 0, 0
	for _, low := range lowest {
		switch low {
		case 1:
			zero++
		case 2:
			one++
		}
	}
	h.startsAtZero = zero > one
	numbered := 0
	for _, count := range notations {
		numbered += count
	}
	if numbered > 0 {
		start := 1
		if h.startsAtZero {
			start = 0
		}
		state(NumberStart, numbered, message.New(usual(notations[:]), "start", start))
	}
	if level, count := most(levels); count > 0 {
		state(FolderLevel, count, message.New([...]string{"habit_no_folder", "habit_folder", "habit_folder_above"}[min(int(level), 2)]))
	}
	cells := map[cell]int{}
	for i, count := range byCell {
		cells[cell{uint8(i / len(Fits)), Fits[i%len(Fits)]}] = count
	}
	if c, count := most(cells); count > 0 {
		state(LeadingKey, count, keyMet(c.fit, s.index.fields[c.field]))
	}
}

// alone is the one reading of a name that holds but one owner's key, nil where it holds more or none.
func (s *Study) alone(mets []met) *met {
	var only *met
	for i := range mets {
		m := &mets[i]
		switch {
		case m.agreement != strict || m.sense != names.NoSense || m.among != alone:
		case only == nil, m.fit != byFolder && only.fit != byFolder && m.end-m.start > only.end-only.start:
			only = m
		case only.fit != byFolder && m.fit == byFolder:
		case s.owner(m) != s.owner(only) && m.end-m.start == only.end-only.start:
			return nil
		}
	}
	return only
}

// usual is the code of how pictures are numbered most.
func usual(notations []int) string {
	best := names.Plain
	for n, count := range notations {
		if count > notations[best] {
			best = names.Notation(n)
		}
	}
	return [...]string{"", "habit_numbers_plain", "habit_numbers_zeros", "habit_numbers_brackets", "habit_numbers_words",
		"habit_numbers_letters"}[best]
}

// most is the commonest, the smaller where two are as common, so that the answer is always the same.
func most[K comparable](counts map[K]int) (best K, count int) {
	for k, n := range counts {
		if n > count || n == count && strings.Compare(fmt.Sprint(k), fmt.Sprint(best)) < 0 {
			best, count = k, n
		}
	}
	return best, count
}
