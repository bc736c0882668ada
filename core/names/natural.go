package names

import "strings"

// Natural compares two names as people count: runs of digits by their value, everything else by its bytes.
// Equal values with other leading zeros are told apart last, so the order is total. It returns -1, 0 or 1.
func Natural(a, b string) int {
	i, j := 0, 0
	for i < len(a) && j < len(b) {
		if asciiClass(a[i]) == classDigit && asciiClass(b[j]) == classDigit {
			x, y := digitRun(a[i:]), digitRun(b[j:])
			if c := compareDigits(x, y); c != 0 {
				return c
			}
			i, j = i+len(x), j+len(y)
			continue
		}
		if a[i] != b[j] {
			if a[i] < b[j] {
				return -1
			}
			return 1
		}
		i, j = i+1, j+1
	}
	switch {
	case i < len(a):
		return 1
	case j < len(b):
		return -1
	}
	return strings.Compare(a, b)
}

func digitRun(s string) string {
	end := 0
	for end < len(s) && asciiClass(s[end]) == classDigit {
		end++
	}
	return s[:end]
}

// compareDigits compares by value without ever overflowing: without leading zeros the longer is larger.
func compareDigits(x, y string) int {
	x, y = strings.TrimLeft(x, "0"), strings.TrimLeft(y, "0")
	if len(x) != len(y) {
		if len(x) < len(y) {
			return -1
		}
		return 1
	}
	return strings.Compare(x, y)
}
