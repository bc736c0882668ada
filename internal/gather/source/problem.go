package source

import (
	"strings"

	"ambrosa/core/message"
)

// Fault is a kind of problem with an arrival. Those with an asset can be paired all the same.
type Fault string

const (
	TypeDiffers Fault = "type_differs" // a picture, but of another type than its extension says
	NotPicture  Fault = "not_picture"
	Damaged     Fault = "damaged"
	TooLarge    Fault = "too_large"
	Empty       Fault = "empty"
	Litter      Fault = "litter"
	Encrypted   Fault = "encrypted"
	UnsafePath  Fault = "unsafe_path"
	NotArchive  Fault = "not_archive"
	Refused     Fault = "refused"     // over a limit
	TooSmall    Fault = "too_small"   // of fewer pixels than the source asks for
	LeftOut     Fault = "left_out"    // none of the product's on the page that it came along with
	Twin        Fault = "twin"        // looks the same as another of its item
	Unreachable Fault = "unreachable" // nothing came from its address
)

// Problem is what is wrong with an item, or, as an error, with all that would have come.
type Problem struct {
	Fault Fault
	Says  message.Message
}

func (p *Problem) Error() string { return p.Says.Text() }

// NewProblem makes a problem of a fault and what is said of it: a code and its data.
func NewProblem(fault Fault, code string, data ...any) *Problem {
	return &Problem{fault, message.New(code, data...)}
}

// ClimbsOut reports whether a path would leave the folder it is put into.
func ClimbsOut(path string) bool {
	if strings.HasPrefix(path, "/") || len(path) >= 2 && path[1] == ':' {
		return true
	}
	for part := range strings.SplitSeq(path, "/") {
		if part == ".." {
			return true
		}
	}
	return false
}
