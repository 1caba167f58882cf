// Package plan turns a book into a plan: who gets which stock.
package plan

import "journeyman/core/journey"

// Take returns how many units a line takes when it still wants `open` and `free`
// are there: as many as can be had, in whole packs of `multiple` unless it is all
// that is left of the line (CORE section 3). A multiple below 2 means single units.
func Take(open, free, multiple journey.Qty) journey.Qty {
	t := min(open, free)
	if t <= 0 {
		return 0
	}
	if t < open && multiple > 1 {
		t -= t % multiple
	}
	return t
}
