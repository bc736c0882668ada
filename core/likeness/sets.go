package likeness

// Sets puts so many places together that hang together by pairs; one without a pair is a set of its own. Each set has its places upwards, and
// the sets come in the order of their first. Source: R. Tarjan, "Efficiency of a good but not linear set union algorithm" (1975), from memory.
func Sets(count int, pairs []Pair) [][]int {
	parent := make([]int32, count)
	for i := range parent {
		parent[i] = int32(i)
	}
	root := func(i int32) int32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for _, p := range pairs {
		parent[root(p.A)] = root(p.B)
	}
	var sets [][]int
	at := make(map[int32]int, count)
	for i := range count {
		r := root(int32(i))
		n, there := at[r]
		if !there {
			n = len(sets)
			at[r], sets = n, append(sets, nil)
		}
		sets[n] = append(sets[n], i)
	}
	return sets
}
