package release

import (
	"journeyman/core/days"
	"journeyman/core/journey"
)

// Bin is where some of an item lies.
type Bin struct {
	Code string      // empty for "no bin set"
	Qty  journey.Qty // units that lie there
	Gone journey.Qty // of these, units that are held or that a picker is on the way to fetch
}

// Room is how many units a picker could still be sent for.
func (b Bin) Room() journey.Qty { return b.Qty - b.Gone }

// PickFrom returns which of an item's bins a picker is sent to for q units, by its place in bins, which are given with the least
// stock first: the first that holds all of them, so that small remains are used up, a bin that is set before the place where none
// is; else the first that holds some. It is -1 if none does. Common practice, no source.
func PickFrom(bins []Bin, q journey.Qty) int {
	found := -1
	for i, b := range bins {
		set := found < 0 || bins[found].Code == ""
		if b.Room() >= q && (b.Code != "" || found < 0) {
			return i
		}
		if b.Room() > 0 && set {
			found = i
		}
	}
	return found
}

// PutInto returns which of an item's bins what comes in is put into: the one that is set and holds most of it. Bins are given with
// the least stock first. It is -1 if none is set.
func PutInto(bins []Bin) int {
	for i := len(bins) - 1; i >= 0; i-- {
		if bins[i].Code != "" {
			return i
		}
	}
	return -1
}

// lookAhead is how many working days ahead work counts as due when nobody says.
const lookAhead = 2

// DueUntil is the day up to which lines count as due when nobody says: two working days on, where that is latest.
func DueUntil(today days.Day, warehouses []days.Calendar) days.Day {
	last := today
	for _, c := range warehouses {
		last = max(last, c.Add(today, lookAhead))
	}
	return last
}
