package pairing

import "ambrosa/core/names"

// Fit says how a name and a key agree.
type Fit string

const (
	Whole  Fit = "whole"
	Within Fit = "within"
	Part   Fit = "part"
	Folder Fit = "folder"
	Words  Fit = "words"
	Near   Fit = "near"
)

// Grade says what a pairing is worth.
type Grade string

const (
	Sure      Grade = "sure"
	Likely    Grade = "likely"
	Contested Grade = "contested"
	Unclaimed Grade = "unclaimed"
	Ignored   Grade = "ignored"
)

// Reading is one way to read a name: this owner, by this key, in this fit.
type Reading struct {
	Owner    int64
	Field    Field
	Fit      Fit
	Number   *int
	Role     string
	NameSpan names.Span // bytes of the path
	KeySpan  names.Span // bytes of the key
	Score    float64    // 0 to 1, what it is worth among others; set for candidates
	Folded   []string   // what had to be folded for the two to agree: "case", "separators", "spelling"
	alone    bool       // of a folder: the file's own name is but number, role and marks
	rest     string     // of within: what follows the key and is no number, role or mark
}

// Claim is what the engine says of one file. Reading is set for sure and likely; Candidates hold the
// readings that compete, best first, for contested, and the nearest for unclaimed.
type Claim struct {
	Grade      Grade
	Reading    *Reading
	Candidates []Reading
	Why        string // one sentence for people
}
