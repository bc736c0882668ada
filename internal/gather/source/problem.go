package source

import "ambrosa/core/message"

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
