package plan

import (
	"slices"

	"journeyman/core/days"
)

// StandingPromise is a promise as it stands on a line: so many open units for a day from a warehouse.
type StandingPromise struct {
	Warehouse int64
	Day       days.Day
	Qty       int64
}

// UseUp returns what is left of a line's promises after so many units were allocated: the
// earliest are kept by them first (CORE section 4). The promises are given by day.
func UseUp(promises []StandingPromise, units int64) []StandingPromise {
	left := slices.Clone(promises)
	for i := range left {
		q := min(left[i].Qty, max(0, units))
		left[i].Qty -= q
		units -= q
	}
	return slices.DeleteFunc(left, func(g StandingPromise) bool { return g.Qty == 0 })
}

// CutTo returns what stands of a line's promises when only so many units are open: the
// latest are cut first (CORE section 2). The promises are given by day.
func CutTo(promises []StandingPromise, open int64) []StandingPromise {
	left := slices.Clone(promises)
	for i := range left {
		left[i].Qty = min(left[i].Qty, max(0, open))
		open -= left[i].Qty
	}
	return slices.DeleteFunc(left, func(g StandingPromise) bool { return g.Qty == 0 })
}

// StandingUnits is how many units are promised in all.
func StandingUnits(promises []StandingPromise) (n int64) {
	for _, g := range promises {
		n += g.Qty
	}
	return n
}
