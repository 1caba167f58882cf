package plan

import "journeyman/core/journey"

// Want is what one line of an order still lacks: so many open units of the item
// and warehouse that Cell names. Held says that the line has units that have not
// been released yet, so it counts as an open line even if nothing is open on it.
type Want[C comparable] struct {
	Cell C
	Open journey.Qty
	Held bool
}

// ReadyShare returns how many of an order's open lines could go in full now, all
// of them together, and how many open lines there are (CORE section 5). Lines of
// one cell compete for its free stock, in the order given. Cost: linear.
func ReadyShare[C comparable](wants []Want[C], free map[C]journey.Qty) (ready, open int) {
	used := make(map[C]journey.Qty, len(wants))
	for _, w := range wants {
		if w.Open <= 0 && !w.Held {
			continue
		}
		open++
		if used[w.Cell]+w.Open <= free[w.Cell] || w.Open <= 0 {
			used[w.Cell] += max(0, w.Open)
			ready++
		}
	}
	return ready, open
}
