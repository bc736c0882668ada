package checks

// SameShape reports whether two pictures have one shape: their sides are as long to each other, but for a fiftieth.
func SameShape(width, height, otherWidth, otherHeight int) bool {
	x, y := width*otherHeight, otherWidth*height
	return x*50 <= y*51 && y*50 <= x*51
}

// IsSquare reports whether sides differ by a fiftieth at most.
func IsSquare(width, height int) bool { return SameShape(width, height, 1, 1) }
