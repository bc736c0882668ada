package tidy

import (
	"encoding/json"

	"ambrosa/core/change"
)

// DeliverySubject is what changes of deliveries are kept under.
const DeliverySubject = "delivery"

// Delivery is what plans change of a delivery.
type Delivery struct {
	Removed bool `json:"removed"`
}

// JSON is a delivery as changes hold it.
func (d Delivery) JSON() json.RawMessage {
	if d.Removed {
		return json.RawMessage(`{"removed": true}`)
	}
	return json.RawMessage(`{"removed": false}`)
}

// Removal is the change that removes a delivery.
func Removal(id int64) change.Change {
	return change.Change{Subject: DeliverySubject, ID: id, Before: Delivery{}.JSON(), After: Delivery{Removed: true}.JSON()}
}

// GoesWith reports whether a picture that no owner shows goes with the only delivery that it came with: where nothing speaks for it, but that it is
// young.
func (o Orphan) GoesWith() bool {
	o.Young = false
	return len(o.SpeaksFor()) == 0
}
