package pairing

import (
	"cmp"
	"slices"
	"sync"

	"ambrosa/core/cores"
	"ambrosa/core/message"
	"ambrosa/core/names"
)

// Study is a delivery read once against an index: every key met in every name. Claims weighs it by any choice of
// cells and habits without reading again. It is not for use by several goroutines at once.
type Study struct {
	index    *Index
	files    []File
	lexicon  names.Lexicon
	skip     []bool                    // a file is no candidate
	ignored  map[int32]message.Message // why
	worker   []uint8
	from, to []uint32 // where a file's mets stand in its worker's
	mets     [][]met
	numbered []int32 // by owner: how many names number its pictures
	lettered []int32 // and by letters
	habits   habits
	weak     weakStudy
	failed   sync.Map // the files whose names could not be read
}

// Choice is what people choose of the engine: the cells to pair by, and the habits that don't count.
type Choice struct {
	Ladder Ladder      `json:"ladder"`
	Off    []HabitKind `json:"off"`
}

// NewStudy reads every file against the index, on all cores. The cost is linear in the names' bytes.
func NewStudy(index *Index, files []File) *Study {
	s := &Study{index: index, files: files, lexicon: names.Trade, skip: make([]bool, len(files)), ignored: map[int32]message.Message{},
		worker: make([]uint8, len(files)), from: make([]uint32, len(files)), to: make([]uint32, len(files)),
		mets: make([][]met, cores.Count()), numbered: make([]int32, len(index.owners)), lettered: make([]int32, len(index.owners))}
	ignored := make([][]ignored, cores.Count())
	cores.Share(len(files), func(w, from, to int) {
		var working hand
		mets := make([]met, 0, to-from)
		for i := from; i < to; i++ {
			s.worker[i], s.from[i], s.to[i] = uint8(w), uint32(len(mets)), uint32(len(mets))
			mets = s.readName(&working, i, mets)
			s.to[i] = uint32(len(mets))
		}
		s.mets[w] = mets
		ignored[w] = working.ignored
	})
	for _, part := range ignored {
		for _, i := range part {
			s.skip[i.file], s.ignored[i.file] = true, i.why
		}
	}
	s.infer()
	return s
}

// unreadable is said of a name that the engine fails at: it costs that line only.
const unreadable = "name_unreadable"

// readName appends the keys that stand in one file's name, unless it is no candidate.
func (s *Study) readName(working *hand, file int, into []met) []met {
	before := len(into)
	defer func() {
		if recover() != nil {
			s.failed.Store(int32(file), true)
			into = into[:before]
		}
	}()
	n := working.reader.Read(s.files[file].Path)
	why := s.files[file].Ignored
	if why.Code == "" {
		why = message.New(cmp.Or(n.Litter, n.NoPicture))
	}
	if why.Code != "" {
		working.ignored = append(working.ignored, ignored{int32(file), why})
		return into
	}
	return append(into, s.index.read(working, n, s.lexicon)...)
}

// ignored is a file that is no candidate, and why.
type ignored struct {
	file int32
	why  message.Message
}

func (s *Study) met(file int) []met { return s.mets[s.worker[file]][s.from[file]:s.to[file]] }

// Habits are what the delivery does as a whole, in words.
func (s *Study) Habits() []Habit { return s.habits.stated }

// StartsAtZero reports whether the delivery numbers an owner's first picture 0.
func (s *Study) StartsAtZero() bool { return s.habits.startsAtZero }

// Pair reads and weighs in one go: an empty ladder is every cell. Claims come in the order of the files.
func Pair(index *Index, files []File, ladder Ladder) []Claim {
	return NewStudy(index, files).Claims(Choice{Ladder: ladder})
}

// Claims says of every file what it is worth under a choice: by its name, and by what is said of it.
func (s *Study) Claims(choice Choice) []Claim {
	claims := s.byName(choice)
	cores.Share(len(s.files), func(_, from, to int) {
		var working hand
		for i := from; i < to; i++ {
			if len(s.files[i].Said) > 0 {
				s.state(&working, i, &claims[i])
			}
		}
	})
	return claims
}

// byName says of every file what its name is worth under a choice.
func (s *Study) byName(choice Choice) []Claim {
	weighed := s.Weigh(choice)
	claims := make([]Claim, len(s.files))
	readings := make([]Reading, len(s.files))
	cores.Share(len(s.files), func(_, from, to int) {
		var working settling
		for i := from; i < to; i++ {
			claims[i] = weighed.claim(&working, i, &readings[i])
		}
	})
	return claims
}

// claim is what a verdict without open questions says; first is where its reading goes.
func (s *Study) claim(file int, v *verdict, first *Reading) Claim {
	path := s.files[file].Path
	*first = s.index.reading(path, v.best)
	if v.grade == Contested {
		c := Claim{Grade: Contested, Candidates: []Reading{*first}, Doubt: v.doubt}
		for i, m := range v.rivals {
			r := s.index.reading(path, m)
			r.Score = 1 - .05*float64(i+1)
			c.Candidates = append(c.Candidates, r)
		}
		if v.rivals[0].from == v.best.from && v.rivals[0].to == v.best.to && v.rivals[0].agreement == v.best.agreement &&
			v.rivals[0].level == v.best.level {
			c.Doubt = message.New("doubt_same_key", "count", 1+len(v.rivals)+s.index.leftOut(v))
		}
		return c
	}
	return Claim{Grade: v.grade, Reading: first, Doubt: v.doubt}
}

// allowance is a choice, ready to be asked.
type allowance struct {
	given [256][6]bool // by field and fit
	offs  []HabitKind
}

func (s *Study) allow(c Choice) *allowance {
	a := &allowance{offs: c.Off}
	for f, field := range s.index.fields {
		for order, fit := range Fits {
			a.given[f][order] = c.Ladder.allows(field, fit)
		}
	}
	return a
}

func (a *allowance) met(field uint8, fit way) bool {
	if fit == byFolder && a.off(FolderLevel) {
		return false
	}
	return a.given[field][fit]
}

func (a *allowance) off(kind HabitKind) bool { return slices.Contains(a.offs, kind) }
