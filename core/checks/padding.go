package checks

// Sides are pixels at the four sides of a picture.
type Sides struct {
	Left   int `json:"left"`
	Top    int `json:"top"`
	Right  int `json:"right"`
	Bottom int `json:"bottom"`
}

// Widest is the widest of them.
func (s Sides) Widest() int { return max(s.Left, s.Top, s.Right, s.Bottom) }

const (
	noise      = 12  // how far compression moves a colour within a border
	clear      = 24  // how far what begins behind it stands off
	straight   = .65 // the share of a line that stands off where a picture begins, and not only a thing on a plain ground,
	alone      = .9  // and where the side across has no border: a thing's own side may be straight too
	farBehind  = 40  // so many lines behind the edge are looked at, and
	goesOn     = .4  // the share of them that stands off all the same
	rising     = 4   // within so many pixels it does, as compression softens the edge
	block      = 8
	reach      = 2*block + rising // so far from an edge compression at half the size of colours scatters
	leastShare = 100              // a border is a hundredth of the shorter side at least
)

// Padding is how wide a border of one colour lies at each side of a picture. A thing before a plain ground has none: a border ends in a
// straight line, behind which most pixels are of other colours. One that goes through all of the picture is none either.
func Padding(c Colours) Sides {
	if c.Width < 8 || c.Height < 8 {
		return Sides{}
	}
	of := c.at(0, 0)
	corners := [][3]uint8{of, c.at(c.Width-1, 0), c.at(0, c.Height-1), c.at(c.Width-1, c.Height-1)}
	s := Sides{}
	// A bar at one side has its two corners alike; which of the sides have one is looked for around the picture.
	top := !unlike(corners[0], corners[1], noise)
	bottom := !unlike(corners[2], corners[3], noise)
	left := !unlike(corners[0], corners[2], noise)
	right := !unlike(corners[1], corners[3], noise)
	if top {
		s.Top = c.depth(corners[0], func(n, i int) [3]uint8 { return c.at(i, n) }, c.Height, c.Width)
	}
	if bottom {
		s.Bottom = c.depth(corners[2], func(n, i int) [3]uint8 { return c.at(i, c.Height-1-n) }, c.Height, c.Width)
	}
	if left {
		s.Left = c.depth(corners[0], func(n, i int) [3]uint8 { return c.at(n, i) }, c.Width, c.Height)
	}
	if right {
		s.Right = c.depth(corners[1], func(n, i int) [3]uint8 { return c.at(c.Width-1-n, i) }, c.Width, c.Height)
	}
	if s.Left+s.Right >= c.Width || s.Top+s.Bottom >= c.Height {
		return Sides{}
	}
	return c.straightOnly(s)
}

// depth is how many lines from a side are of one colour. Compression scatters a few other pixels before the edge, up to a block of JPEG's: the
// edge is where half as many stand off as do behind it.
func (c Colours) depth(of [3]uint8, at func(line, i int) [3]uint8, lines, length int) int {
	off := func(n, by int) (count int) {
		for i := range length {
			if unlike(at(n, i), of, by) {
				count++
			}
		}
		return count
	}
	first := 0
	for first < lines && off(first, noise)*100 <= length {
		first++
	}
	most := 0
	for n := first; n < min(lines, first+reach); n++ {
		most = max(most, off(n, clear))
	}
	for n := first; n < min(lines, first+reach); n++ {
		if off(n, clear)*2 >= most {
			return n
		}
	}
	return first
}

// straightOnly leaves those sides that end in a straight line, along all that lies between the others that are left.
func (c Colours) straightOnly(s Sides) Sides {
	for {
		kept := c.straightBetween(s)
		if kept == s {
			return s
		}
		s = kept
	}
}

func (c Colours) straightBetween(s Sides) Sides {
	x0, x1, y0, y1 := s.Left, c.Width-s.Right, s.Top, c.Height-s.Bottom
	inside := min(x1-x0, y1-y0)
	share := func(of [3]uint8, length, lines int, at func(n, i int) [3]uint8) (most, mean float64) {
		for n := range lines {
			off := 0
			for i := range length {
				if unlike(at(n, i), of, clear) {
					off++
				}
			}
			line := float64(off) / float64(length)
			most, mean = max(most, line), mean+line/float64(lines)
		}
		return most, mean
	}
	keep := func(side, across int, of [3]uint8, length int, at func(n, i int) [3]uint8) int {
		if side*leastShare < min(c.Width, c.Height) {
			return 0
		}
		first, _ := share(of, length, min(rising, inside), at)
		_, behind := share(of, length, max(1, min(inside/10, farBehind)), at)
		least := straight
		if across == 0 {
			least = alone
		}
		if first < least || behind < goesOn { // a pole is straight, too, but the ground goes on behind it
			return 0
		}
		return side
	}
	last := c.Width - 1
	return Sides{
		Top:    keep(s.Top, s.Bottom, c.at(0, 0), x1-x0, func(n, i int) [3]uint8 { return c.at(x0+i, y0+n) }),
		Bottom: keep(s.Bottom, s.Top, c.at(0, c.Height-1), x1-x0, func(n, i int) [3]uint8 { return c.at(x0+i, y1-1-n) }),
		Left:   keep(s.Left, s.Right, c.at(0, 0), y1-y0, func(n, i int) [3]uint8 { return c.at(x0+n, y0+i) }),
		Right:  keep(s.Right, s.Left, c.at(last, 0), y1-y0, func(n, i int) [3]uint8 { return c.at(x1-1-n, y0+i) }),
	}
}
