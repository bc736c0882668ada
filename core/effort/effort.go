// Package effort reckons what work the program spared: how long it would have taken by hand.
package effort

import "time"

// aPiece is how long one piece of work takes by hand, by what is counted: finding the product and its field, choosing the file, checking. Common
// practice, no source: figures that people who do the work give when they are asked.
var aPiece = map[string]time.Duration{
	"run":        40 * time.Second, // a product's pictures or fields
	"take_in":    6 * time.Second,  // a file unpacked, looked at, and put aside where it is damaged or there already
	"worksheet":  10 * time.Second, // a row read against the catalogue
	"reconcile":  8 * time.Second,  // a file looked for on both sides
	"publishing": 4 * time.Second,  // a file compared with what should be there
	"publish":    30 * time.Second, // a picture made in a size, named, and sent
}

// Of is which kind of work a job is, by the kind of its plan where it is a run. Taking a run back is no work that anybody did by hand.
func Of(job, plan string) string {
	switch {
	case job != "run":
		return job
	case plan == "publishing":
		return "publish"
	case plan == "undo":
		return ""
	}
	return "run"
}

// Spared is how long so many pieces of a kind of work take by hand, and one of them; 0 for a kind that nobody does by hand.
func Spared(kind string, pieces int64) (all, each time.Duration) {
	each = aPiece[kind]
	return time.Duration(max(pieces, 0)) * each, each
}
