package pairing

import (
	"ambrosa/core/message"
	"ambrosa/core/names"
)

// Fit says how a name and a key agree.
type Fit string

const (
	Whole  Fit = "whole"  // the name less number, role and marks is the key
	Within Fit = "within" // the key stands in the name on token boundaries
	Part   Fit = "part"   // the name stands in the key
	Folder Fit = "folder" // a folder of the path is the key
	Words  Fit = "words"  // the words of a title stand in the name
	Near   Fit = "near"   // one or two slips of the finger apart
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
	Key      string // the key as the catalogue has it
	Fit      Fit
	Number   *int // nil where the name carries none
	Role     string
	NameSpan names.Span      // bytes of the path
	KeySpan  names.Span      // bytes of the key
	Score    float64         // 0 to 1, what it is worth among others
	Folded   []string        // what had to be folded for the two to agree: codes of messages
	Differs  message.Message // what differs between name and key; none where nothing does
	Said     string          // who says so beside the name, or instead of it; empty where the name alone does
	Photo    string          // the code in the photo that says so; empty where none does
	Slate    string          // the picture whose code that is, where it is another's: the slate before this one
}

// Claim is what the engine says of one file. Reading is set for sure and likely; Candidates hold the
// readings that compete, best first, for contested, and the nearest for unclaimed.
type Claim struct {
	Grade      Grade
	Reading    *Reading
	Candidates []Reading
	Doubt      message.Message // what lowers the grade, or why nobody has it; none where nothing does
}
