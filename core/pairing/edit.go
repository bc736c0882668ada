package pairing

import "strings"

// distance is the restricted Damerau-Levenshtein distance (optimal string alignment): insertions, deletions,
// substitutions and swaps of neighbours, each counting one, no part edited twice. Source: L. Boytsov, "Indexing
// methods for approximate dictionary searching", ACM JEA 16 (2011), section 2. Cost: len(a) × len(b).
func distance(a, b string) int {
	before, last, now := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range last {
		last[j] = j
	}
	for i := 1; i <= len(a); i++ {
		now[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			now[j] = min(last[j]+1, now[j-1]+1, last[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				now[j] = min(now[j], before[j-2]+1)
			}
		}
		before, last, now = last, now, before
	}
	return last[len(b)]
}

// alike folds what the eye confuses: the letter o and the digit 0; i, l and 1. Common practice, no source.
var alike = strings.NewReplacer("o", "0", "i", "1", "l", "1")

// deletions calls yield with a text and with it less each one byte. Two texts at most one edit apart share one
// of these, and many that are two apart; the idea of symmetric deletion (W. Garbe, 2012, from memory).
func deletions(s string, yield func(hash uint64)) {
	yield(hashText(hashStart, s))
	for i := range len(s) {
		yield(hashText(hashText(hashStart, s[:i]), s[i+1:]))
	}
}
