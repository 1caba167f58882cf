package plan

import (
	"cmp"
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/policy"
)

// Contest is a cell of which more is wanted than is free.
type Contest struct {
	Cell    int32
	Wanted  int64 // open units that are due within the window
	Free    int64
	Missing int64 // Wanted − Free
	Lines   int   // that want some
	Lacking int   // of these, that get less than they want if they are served in turn
	Value   int64 // of the units that those lack, in minor units
	Trouble int64 // the same, each line's share × (6 − tier), and twice if its ship-by day has passed
}

// Contested returns the cells of which more is wanted than is free, the greatest trouble first
// (CORE section 5). Who lacks what is missing is as the keys serve the lines, each from its own
// cell; units without a price count as one minor unit. Cost: linear, and the sorting.
func Contested(b *book.Book, keys []policy.Key, window int) []Contest {
	if len(keys) == 0 {
		keys = policy.Default
	}
	var lines []int32
	at := map[int32]int{}
	var out []Contest
	for i := range b.Lines {
		l := &b.Lines[i]
		if !b.Eligible(int32(i)) || window >= 0 && l.ShipBy > b.Today+days.Day(window) {
			continue
		}
		lines = append(lines, int32(i))
		k, known := at[l.Cell]
		if !known {
			k = len(out)
			at[l.Cell] = k
			out = append(out, Contest{Cell: l.Cell, Free: max(0, b.Cells[l.Cell].Free())})
		}
		out[k].Wanted += l.Open
		out[k].Lines++
	}
	left := make([]int64, len(out))
	for k := range out {
		left[k] = out[k].Free
		out[k].Missing = max(0, out[k].Wanted-out[k].Free)
	}
	for _, i := range policy.Sort(b, lines, keys) {
		l := &b.Lines[i]
		k := at[l.Cell]
		got := min(left[k], l.Open)
		left[k] -= got
		lacks := l.Open - got
		if lacks == 0 {
			continue
		}
		worth := lacks * max(1, l.Price)
		c := &out[k]
		c.Lacking++
		c.Value += lacks * l.Price
		weight := 6 - int64(b.Orders[l.Order].Tier)
		if l.ShipBy < b.Today {
			weight *= 2
		}
		c.Trouble += worth * weight
	}
	out = slices.DeleteFunc(out, func(c Contest) bool { return c.Missing == 0 })
	slices.SortStableFunc(out, func(x, y Contest) int {
		return cmp.Or(cmp.Compare(y.Trouble, x.Trouble), cmp.Compare(x.Cell, y.Cell))
	})
	return out
}
