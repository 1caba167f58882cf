// Package todo says in which order what waits for a person is done: first what is lost soonest by waiting, and of what is lost at the same
// time, what weighs most. It is pure: the same matters at the same time, in whatever order they come, are ranked alike.
package todo

import (
	"cmp"
	"slices"
	"time"

	"journeyman/core/capped"
	"journeyman/core/days"
)

// Kind is what has to be done next.
type Kind string

// The kinds, those whose units are nearest to the customer first.
const (
	Delivery Kind = "delivery" // a shipment should have arrived
	Dispatch Kind = "dispatch" // a shipment stands at the dock
	Pack     Kind = "pack"     // picked units wait
	Pick     Kind = "pick"     // a pick list waits
	Short    Kind = "short"    // fewer were found than a pick list says, and nobody has decided what becomes of the rest
	Release  Kind = "release"  // allocated units could go to the floor
	Hold     Kind = "hold"     // allocated units may not go
	Allocate Kind = "allocate" // open units could have stock
	Keep     Kind = "keep"     // a promise cannot be kept as things stand
	Promise  Kind = "promise"  // open units have neither stock nor a promise
	Arrival  Kind = "arrival"  // a receipt is overdue and orders wait for it
	Buy      Kind = "buy"      // a request to buy waits
	Quote    Kind = "quote"    // a quote waits for an approval, or runs out
)

// Kinds lists every kind in that order.
var Kinds = []Kind{Delivery, Dispatch, Pack, Pick, Short, Release, Hold, Allocate, Keep, Promise, Arrival, Buy, Quote}

// Matter is one thing that waits for a person.
type Matter struct {
	Kind  Kind
	Ref   string    // of the order, the list, the shipment…: it tells matters of a kind apart
	Tier  int       // of whoever matters most in it: 1 (first) to 5
	Value int64     // what is at stake, in minor units
	Day   days.Day  // by which it has to be done
	Dock  days.Dock // whose days and cut-off it goes by; the zero Dock for every day until midnight
}

// Urgency is what waiting costs.
type Urgency struct {
	By     time.Time // until when it has to be done, or something more is lost
	Day    days.Day  // the day of By at the dock
	Missed int       // working days that are lost already
	Weight int64     // Value × (6 − Tier), twice if days are lost already; at least 1 unit of value counts
}

// Judge returns what waiting costs at the time now. What is done by the cut-off of a day is that day's; a day that has gone by, or is not
// worked, is lost, and the next cut-off counts. Common practice, no source. Cost: linear in the days that are lost.
func Judge(m Matter, now time.Time) Urgency {
	zone := m.Dock.Zone
	if zone == nil {
		zone = time.UTC
	}
	here := now.In(zone)
	open := m.Dock.Calendar.Next(days.Of(here))
	if !now.Before(ends(m.Dock, open, zone)) {
		open = m.Dock.Calendar.Next(open + 1)
	}
	day := m.Dock.Calendar.Prev(m.Day)
	u := Urgency{Day: max(day, open), Weight: capped.Times(max(1, m.Value), int64(6-m.Tier))}
	u.By = ends(m.Dock, u.Day, zone)
	if day < open {
		u.Missed = m.Dock.Calendar.Count(day, open)
		u.Weight = capped.Times(u.Weight, 2)
	}
	return u
}

// ends is when work of a day has to be done at a dock.
func ends(k days.Dock, d days.Day, zone *time.Location) time.Time {
	y, m, day := d.Time().Date()
	if k.CutOff == 0 {
		return time.Date(y, m, day+1, 0, 0, 0, 0, zone)
	}
	return time.Date(y, m, day, 0, k.CutOff, 0, 0, zone)
}

// OnFloor says whether it is done on the floor, and not in the office.
func (k Kind) OnFloor() bool { return k == Pick || k == Pack || k == Dispatch || k == Delivery }

// Ranked is a matter with what waiting costs.
type Ranked struct {
	Matter
	Urgency
	At int // its place among those that were given
}

// Rank returns the matters, the most urgent first: by when something more is lost, then by weight, the nearest to the customer, and the
// reference. Cost: the sorting.
func Rank(matters []Matter, now time.Time) []Ranked {
	out := make([]Ranked, len(matters))
	for i, m := range matters {
		out[i] = Ranked{m, Judge(m, now), i}
	}
	slices.SortFunc(out, func(x, y Ranked) int {
		return cmp.Or(
			x.By.Compare(y.By), cmp.Compare(y.Weight, x.Weight),
			cmp.Compare(slices.Index(Kinds, x.Kind), slices.Index(Kinds, y.Kind)), cmp.Compare(x.Ref, y.Ref),
		)
	})
	return out
}
