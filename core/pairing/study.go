package pairing

import (
	"slices"
	"strings"

	"ambrosa/core/cores"
	"ambrosa/core/names"
)

// Study is a delivery read once against an index: every key met in every name. Claims weighs it by any choice of
// cells and habits without reading anew. It is not for use by several goroutines at once.
type Study struct {
	index    *Index
	files    []File
	lexicon  names.Lexicon
	ignored  []string // why a file is no candidate; empty where it is one
	worker   []uint8
	from, to []uint32 // where a file's mets stand in its worker's
	mets     [][]met
	numbered []int32 // by owner: how many names number its pictures
	lettered []int32 // and by letters
	habits   habits
	weak     weakStudy
}

// Choice is what people choose of the engine: the cells to pair by, and the habits that don't count.
type Choice struct {
	Ladder Ladder      `json:"ladder"`
	Off    []HabitKind `json:"off"`
}

// NewStudy reads every file against the index, on all cores. The cost is linear in the names' bytes.
func NewStudy(index *Index, files []File) *Study {
	s := &Study{index: index, files: files, lexicon: names.Trade, ignored: make([]string, len(files)),
		worker: make([]uint8, len(files)), from: make([]uint32, len(files)), to: make([]uint32, len(files)),
		mets: make([][]met, cores.Count()), numbered: make([]int32, len(index.owners)), lettered: make([]int32, len(index.owners))}
	cores.Share(len(files), func(w, from, to int) {
		var working hand
		mets := make([]met, 0, to-from)
		for i := from; i < to; i++ {
			s.worker[i], s.from[i], s.to[i] = uint8(w), uint32(len(mets)), uint32(len(mets))
			if s.ignored[i] = files[i].Ignored; s.ignored[i] != "" {
				continue
			}
			n := working.reader.Read(files[i].Path)
			if s.ignored[i] = n.Litter; s.ignored[i] == "" {
				s.ignored[i] = n.NoPicture
			}
			if s.ignored[i] == "" {
				mets = append(mets, index.read(&working, n, s.lexicon)...)
				s.to[i] = uint32(len(mets))
			}
		}
		s.mets[w] = mets
	})
	s.infer()
	return s
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

// Claims says of every file what it is worth under a choice.
func (s *Study) Claims(choice Choice) []Claim {
	allowed := s.allow(choice)
	claims := make([]Claim, len(s.files))
	readings := make([]Reading, len(s.files))
	type pending struct {
		file int32
		verdict
	}
	parts := make([][]pending, cores.Count())
	cores.Share(len(s.files), func(w, from, to int) {
		for i := from; i < to; i++ {
			if s.ignored[i] != "" {
				claims[i] = Claim{Grade: Ignored, Why: sentence(s.ignored[i])}
				continue
			}
			v := s.judge(s.met(i), allowed)
			if v.grade == "" || v.open {
				parts[w] = append(parts[w], pending{int32(i), v})
			} else {
				claims[i] = s.claim(i, &v, &readings[i])
			}
		}
	})
	open := slices.Concat(parts...)
	s.weigh(len(open), func(i int) int32 { return open[i].file })
	cores.Share(len(open), func(_, from, to int) {
		var working settling
		for i := from; i < to; i++ {
			claims[open[i].file] = s.settle(&working, int(open[i].file), &open[i].verdict, allowed)
		}
	})
	return claims
}

// claim is what a verdict without open questions says; first is where its reading goes.
func (s *Study) claim(file int, v *verdict, first *Reading) Claim {
	path := s.files[file].Path
	*first = s.index.reading(path, v.best)
	if v.grade == Contested {
		c := Claim{Grade: Contested, Candidates: []Reading{*first}, Why: v.doubt}
		for i, m := range v.rivals {
			r := s.index.reading(path, m)
			r.Score = 1 - .05*float64(i+1)
			c.Candidates = append(c.Candidates, r)
		}
		if v.rivals[0].from == v.best.from && v.rivals[0].to == v.best.to && v.rivals[0].agreement == v.best.agreement && v.rivals[0].level == v.best.level {
			c.Why = sameKey(1 + len(v.rivals) + s.index.leftOut(v))
		}
		return c
	}
	return Claim{Grade: v.grade, Reading: first, Why: explain(first, v.doubt)}
}

// allowance is a choice, ready to be asked.
type allowance struct {
	given [256][6]bool // by field and fit
	offs  []HabitKind
}

// order is a fit's place among Fits.
func (f Fit) order() int {
	switch f {
	case Whole:
		return 0
	case Within:
		return 1
	case Part:
		return 2
	case Folder:
		return 3
	case Words:
		return 4
	}
	return 5
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

func (a *allowance) met(field uint8, fit Fit) bool {
	if fit == Folder && a.off(FolderLevel) {
		return false
	}
	return a.given[field][fit.order()]
}

func (a *allowance) off(kind HabitKind) bool { return slices.Contains(a.offs, kind) }

func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] + "." }
