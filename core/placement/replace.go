package placement

// Replaced is what would stand where pictures are put in the places of others: by gives for each that goes the one that comes. One that is there
// already does not come twice; the first place counts.
func Replaced(standing []Picture, by map[int64]int64) []Picture {
	out := make([]Picture, 0, len(standing))
	there := map[int64]bool{}
	for _, p := range standing {
		if other, goes := by[p.Asset]; goes && other != p.Asset {
			p = Picture{Asset: other}
		}
		if !there[p.Asset] {
			there[p.Asset] = true
			out = append(out, p)
		}
	}
	return out
}
