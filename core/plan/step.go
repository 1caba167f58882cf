package plan

import "journeyman/core/journey"

// More returns what a line that has so many of the units that it wants has after one pack more: the next multiple, or all that it wants;
// what it has if that is not left. A multiple below 2 means single units.
func More(has, wants, left, multiple journey.Qty) journey.Qty {
	m := max(1, multiple)
	next := min(wants, (has/m+1)*m)
	if next <= has || next-has > left {
		return has
	}
	return next
}

// Less returns what it has after one pack less: the multiple before, at the least none.
func Less(has, multiple journey.Qty) journey.Qty {
	if has <= 0 {
		return 0
	}
	m := max(1, multiple)
	return (has - 1) / m * m
}

// Over returns how many units go from a line that has some to one that still wants some: as many as it wants, as far as there are, so that
// both have whole packs or all that they want.
func Over(from, lacks, multiple journey.Qty) journey.Qty { return Take(lacks, from, multiple) }
