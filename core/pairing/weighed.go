package pairing

import (
	"math"

	"ambrosa/core/cores"
	"ambrosa/core/message"
	"ambrosa/core/names"
)

// Weighed is a delivery weighed under a choice. What is said of a file is made when it is asked for, so that a million of them
// need not stand in memory.
type Weighed struct {
	study   *Study
	allowed *allowance
	sure    []uint8         // by file: which of its mets is sure without a doubt, plus one; 0 where that is not known
	kept    map[int32]Claim // what is said of the files in which no key stands for sure, unless there are too many of them
}

// keptAtMost is how many claims are kept that were costly to come by; of more, each is made again when it is asked for.
const keptAtMost = 50_000

// Weigh weighs every file and looks for what the names without a key may mean.
func (s *Study) Weigh(choice Choice) *Weighed {
	w := &Weighed{study: s, allowed: s.allow(choice), sure: make([]uint8, len(s.files))}
	parts := make([][]int32, cores.Count())
	cores.Share(len(s.files), func(core, from, to int) {
		for i := from; i < to; i++ {
			if s.skip[i] {
				continue
			}
			v := w.judge(i)
			switch {
			case v.grade == "" || v.open:
				parts[core] = append(parts[core], int32(i))
			case v.grade == Sure && v.doubt.Code == "":
				w.sure[i] = placeOf(v.best, s.met(i))
			}
		}
	})
	var open []int32
	for _, part := range parts {
		open = append(open, part...)
	}
	s.weigh(open)
	if len(open) > keptAtMost {
		return w
	}
	claims := make([]Claim, len(open))
	cores.Share(len(open), func(_, from, to int) {
		var working settling
		for i := from; i < to; i++ {
			claims[i] = w.claim(&working, int(open[i]), new(Reading))
		}
	})
	w.kept = make(map[int32]Claim, len(open))
	for i, file := range open {
		w.kept[file] = claims[i]
	}
	return w
}

// placeOf is which of some mets one is, plus one; 0 where it is too far behind to be told.
func placeOf(best *met, mets []met) uint8 {
	for i := range min(len(mets), math.MaxUint8) {
		if &mets[i] == best {
			return uint8(i + 1)
		}
	}
	return 0
}

// Each calls use with the claims of the files from one to another, in their order. A claim stands until the next; another
// core may ask for other files meanwhile.
func (w *Weighed) Each(from, to int, use func(file int, c *Claim)) {
	var working settling
	var first Reading
	for i := from; i < to; i++ {
		c := w.claim(&working, i, &first)
		use(i, &c)
	}
}

// placing is what places a picture among its owner's; owner 0 is nobody.
type placing struct {
	owner  int64
	number int16
	role   uint8
}

// Positions are the places 1…n that files take by their claims within their owner; 0 where nobody claims one.
func (w *Weighed) Positions() []int {
	files := w.study.files
	all := make([]placing, len(files))
	cores.Share(len(files), func(_, from, to int) {
		var working settling
		for i := from; i < to; i++ {
			all[i] = w.placing(&working, i)
		}
	})
	return places(len(files), func(i int) int64 { return all[i].owner }, func(i int) Placed {
		p := &all[i]
		return Placed{File: i, Owner: p.owner, Number: numberOf(int(p.number)), Role: roleNames[p.role], Path: files[i].Path}
	})
}

// placing is where one file would go, without what is said of it.
func (w *Weighed) placing(working *settling, file int) placing {
	if w.study.skip[file] {
		return placing{}
	}
	if v := w.judge(file); (v.grade == Sure || v.grade == Likely) && !v.open {
		return placing{w.study.index.owners[w.study.owner(v.best)].ID, v.best.number, v.best.role}
	} else if v.grade == Contested {
		return placing{}
	}
	var first Reading
	c := w.claim(working, file, &first)
	r := c.Reading
	if r == nil {
		return placing{}
	}
	if r.Number == nil {
		return placing{r.Owner, names.NoNumber, roleNumber(r.Role)}
	}
	return placing{r.Owner, int16(*r.Number), roleNumber(r.Role)}
}

// judge judges one name.
func (w *Weighed) judge(file int) (v verdict) {
	if at := w.sure[file]; at > 0 {
		return verdict{grade: Sure, best: &w.study.met(file)[at-1]}
	}
	defer func() {
		if recover() != nil {
			w.study.failed.Store(int32(file), true)
		}
	}()
	return w.study.judge(w.study.met(file), w.allowed)
}

// claim is what one file is worth; first is where its reading goes.
func (w *Weighed) claim(working *settling, file int, first *Reading) (claim Claim) {
	s := w.study
	if s.skip[file] {
		return Claim{Grade: Ignored, Doubt: s.ignored[int32(file)]}
	}
	defer func() {
		if recover() != nil {
			claim = Claim{Grade: Unclaimed, Doubt: message.New(unreadable)}
		}
	}()
	v := w.judge(file)
	if _, failed := s.failed.Load(int32(file)); failed {
		return Claim{Grade: Unclaimed, Doubt: message.New(unreadable)}
	}
	if v.grade == "" || v.open {
		if kept, ok := w.kept[int32(file)]; ok {
			return kept
		}
		return s.settle(working, file, &v, w.allowed)
	}
	return s.claim(file, &v, first)
}
