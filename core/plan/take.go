package plan

import "journeyman/core/journey"

// Take returns how many units a line takes when it still wants `open` and `free`
// are there: as many as can be had, in whole packs of `multiple` unless it is all
// that is left of the line (CORE section 3). A multiple below 2 means single units.
func Take(open, free, multiple journey.Qty) journey.Qty {
	return journey.Qty(take(int64(open), int64(free), int64(multiple)))
}

func take(open, free, multiple int64) int64 {
	t := min(open, free)
	if t <= 0 {
		return 0
	}
	if t < open && multiple > 1 {
		t -= t % multiple
	}
	return t
}
