// Package order is what an order comes to while it is entered or changed: which of its units can still go, what can no longer be
// changed, and how its lines are promised. It is pure.
package order

import (
	"journeyman/core/days"
	"journeyman/core/journey"
)

// Resized is a line of which another quantity is wanted.
type Resized struct {
	Open  journey.Qty // units that are open then
	Freed journey.Qty // allocated units that are given back
	Least journey.Qty // it cannot become fewer: what is on the floor, or beyond, or dropped, stays
}

// Resize returns what becomes of a line of which so many units are wanted: open units go first, then those that are allocated.
func Resize(l journey.Line, wanted journey.Qty) Resized {
	r := Resized{Open: l.At[journey.Open] + wanted - l.Ordered, Least: l.Ordered - l.At[journey.Open] - l.At[journey.Allocated]}
	if r.Open < 0 {
		r.Freed, r.Open = min(-r.Open, l.At[journey.Allocated]), 0
	}
	return r
}

// MayMove says whether the line may go from another warehouse: nothing of it has been set aside, or gone further.
func MayMove(l journey.Line) bool { return l.Ordered == l.At[journey.Open]+l.At[journey.Dropped] }

// OnTheFloor is how many units of a line are on the floor or packed: papers say where they go, and when.
func OnTheFloor(at journey.Counts) journey.Qty {
	return at[journey.Released] + at[journey.Picked] + at[journey.Packed]
}

// stoppable says whether units at a station can still be stopped so that they end at another: open, allocated or dropped.
func stoppable(at, ends journey.Station) bool {
	return at <= journey.Packed && (ends == journey.Dropped || at > ends)
}

// Stoppable is how many units of a line can still be stopped so that they end at that station: those that have not left, and are not there
// already.
func Stoppable(at journey.Counts, ends journey.Station) journey.Qty {
	var n journey.Qty
	for s, q := range at {
		if stoppable(journey.Station(s), ends) {
			n += q
		}
	}
	return n
}

// Stop returns how many units are taken from each station when so many of a line are stopped so that they end at one: those that have come
// least far first, since that costs least. Of more than can be stopped, it returns all that can.
func Stop(at journey.Counts, ends journey.Station, units journey.Qty) (from journey.Counts) {
	for s := journey.Open; s <= journey.Packed; s++ {
		if stoppable(s, ends) {
			from[s] = min(at[s], units)
			units -= from[s]
		}
	}
	return from
}

// Head is what papers say of an order. A is how addresses are told apart.
type Head[A comparable] struct {
	Wanted         days.Day
	NotBefore      days.Day // on which it may leave first; 0 for any
	Address        A
	Service, Terms string
}

// Change is a change of the head.
type Change string

// The changes that no longer reach units on the floor.
const (
	None       Change = ""
	PutOff     Change = "put off"
	KeptBack   Change = "kept until later"
	Readdress  Change = "sent elsewhere"
	OtherWay   Change = "sent in another way"
	OtherTerms Change = "sent on other terms"
)

// Unreachable returns the first change of the head that no longer reaches units on the floor, or None. Being wanted sooner does reach
// them.
func Unreachable[A comparable](was, now Head[A]) Change {
	switch {
	case now.Wanted > was.Wanted:
		return PutOff
	case now.NotBefore > was.NotBefore:
		return KeptBack
	case now.Address != was.Address:
		return Readdress
	case now.Service != was.Service:
		return OtherWay
	case now.Terms != was.Terms:
		return OtherTerms
	}
	return None
}

// How is how the units of a line are promised.
type How string

// The ways.
const (
	Split   How = "split" // what there is by the day, the rest as soon as it can be
	Whole   How = "whole" // in one piece
	Unasked How = "none"  // not at all
)

// HowOf returns how a line is promised of which a way is asked for, or none: as the ship rule has it where that is stricter. held
// says that nothing was promised of it so far, though it has open units: so it stays if nobody says otherwise. refused says that some
// line of the order is not to be promised: an order that goes only whole is promised whole or not at all.
func HowOf(rule journey.ShipRule, asked How, held, refused bool) How {
	switch {
	case rule == journey.ShipWhole && refused:
		return Unasked
	case rule == journey.ShipWhole:
		return Whole
	case asked == "" && held:
		return Unasked
	case asked == "":
		asked = Split
	}
	if rule == journey.ShipLines && asked == Split {
		return Whole
	}
	return asked
}

// ManagerLifts says whether a hold of that kind is lifted by a manager only: all but the coordinator's own. Common practice, no source.
func ManagerLifts(kind string) bool { return kind != "coordinator" }
