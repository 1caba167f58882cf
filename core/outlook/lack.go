package outlook

import (
	"slices"

	"journeyman/core/days"
)

// Lack says how many units have to be bought so that all that is wanted is covered by what is there, comes or is asked for
// already, in packs of so many; and on which day the first of what is wanted is not covered by what is there and comes (ok is
// false if all of it is). What is wanted first is served first. Overdue receipts are for the caller to leave out. Common
// practice, no source.
func Lack(there, asked int64, wants []Event, pack int64) (buy int64, first days.Day, ok bool) {
	wants = slices.Clone(wants)
	slices.SortStableFunc(wants, byDay)
	for _, w := range wants {
		if there -= w.Qty; there < 0 && !ok && w.Qty > 0 {
			first, ok = w.Day, true
		}
	}
	if lack := -there - asked; lack > 0 {
		pack = max(1, pack)
		buy = (lack + pack - 1) / pack * pack
	}
	return buy, first, ok
}
