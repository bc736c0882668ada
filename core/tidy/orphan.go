package tidy

// Why says how a picture came to be one that no owner shows.
type Why string

const (
	NeverPlaced    Why = "never_placed"
	Replaced       Why = "replaced"        // by another, in a run
	ProductRemoved Why = "product_removed" // with its owner, in a run
	SetAside       Why = "set_aside"       // by somebody, at its line in Pair
	StillOpen      Why = "still_open"      // its delivery is
)

// Voice is something that speaks for a picture that no owner shows.
type Voice string

const (
	OpenDelivery Voice = "open_delivery" // it is in one that nobody is done with
	InTable      Voice = "table"         // a table in hand names it
	WaitingPlan  Voice = "plan"          // a plan that is not applied would place it
	UndoInReach  Voice = "undo"          // a run of the last days would need it to be taken back
	Young        Voice = "young"         // it came within the last days
	Tagged       Voice = "keep"          // somebody tagged it so
)

// Orphan is what is known of a picture that no owner shows.
type Orphan struct {
	OpenDelivery, InTable, WaitingPlan, UndoInReach, Young, Kept bool

	SetAside bool
	Run      int64 // that took it off an owner last, and is not taken back; 0 for none
	Removed  bool  // the owner is gone
}

// Why is how it came to be one.
func (o Orphan) Why() Why {
	switch {
	case o.Run != 0 && o.Removed:
		return ProductRemoved
	case o.Run != 0:
		return Replaced
	case o.SetAside:
		return SetAside
	case o.OpenDelivery:
		return StillOpen
	}
	return NeverPlaced
}

// SpeaksFor are all that speak for it; only where none does is it proposed for the bin.
func (o Orphan) SpeaksFor() []Voice {
	voices := []Voice{}
	for _, v := range []struct {
		Voice
		speaks bool
	}{{OpenDelivery, o.OpenDelivery}, {InTable, o.InTable}, {WaitingPlan, o.WaitingPlan}, {UndoInReach, o.UndoInReach}, {Young, o.Young}, {Tagged, o.Kept}} {
		if v.speaks {
			voices = append(voices, v.Voice)
		}
	}
	return voices
}
