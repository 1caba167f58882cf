// Package shipping holds the rules by which goods leave: what a shipment has to wait for, and what becomes of one that the carrier is
// asked to take.
package shipping

import "journeyman/core/journey"

// Behind is how many units a ship rule makes a shipment wait for that holds units of a line: those of the line that are neither packed
// nor gone (rule lines), those of the whole order (rule whole), or none. A shipment may leave if it is 0 for every line in it.
// Common practice, no source.
func Behind(rule journey.ShipRule, line, order journey.Qty) journey.Qty {
	switch rule {
	case journey.ShipLines:
		return line
	case journey.ShipWhole:
		return order
	case journey.ShipAny:
	}
	return 0
}

// State is how far a shipment is.
type State string

// The states, in order. A refused one is packed again.
const (
	Packed    State = "packed"
	Asking    State = "asking"    // the carrier has been asked to take it and has not answered
	UnderWay  State = "under way" // the carrier has taken it
	Delivered State = "delivered"
)

// StateOf is the state of a shipment by what has happened to it.
func StateOf(asked, dispatched, delivered bool) State {
	switch {
	case delivered:
		return Delivered
	case dispatched:
		return UnderWay
	case asked:
		return Asking
	}
	return Packed
}
