package choose

import (
	"cmp"
	"slices"
)

// mostTable is the greatest room for which what parts are worth is tabled.
const mostTable = 20_000

// filling is what the parts of a cell are worth at most in so much room.
type filling struct {
	parts []Part
	order []int     // of the parts, the dearest unit first
	table []int64   // of each room; nil if the room is too large, or there are no parts
	odd   []int     // of the order, if there is a table, those that are not so many whole packs of the same size
	took  [][]int32 // of each of these, how much of it the best choice has in so much room, of those before it and all that are not odd
	stair *stair    // in place of a table, if the room is large and the packs are, too
	unit  int64     // every sum of packs is a multiple of it
}

// tabled says whether what the parts are worth in the room is counted exactly.
func tabled(room int64, parts []Part) bool {
	return len(parts) > 0 && room <= mostTable && room*int64(len(parts)) <= 4_000_000
}

func newFilling(parts []Part, room int64) filling {
	f := filling{parts: parts}
	for x := range parts {
		f.order = append(f.order, x)
	}
	slices.SortStableFunc(f.order, func(x, y int) int { return cmp.Compare(parts[y].Each, parts[x].Each) })
	if !tabled(room, parts) {
		f.unit = unitOfPacks(parts)
		f.stair, _ = newStair(parts, f.order, room)
		return f
	}
	f.odd = slices.DeleteFunc(slices.Clone(f.order), f.even)
	f.table = f.evenTable(room)
	var queue []from
	spare := make([]int64, room+1)
	for _, x := range f.odd {
		took := make([]int32, room+1)
		queue = withPart(f.table, spare, took, queue, &parts[x])
		f.table, spare = spare, f.table
		f.took = append(f.took, took)
	}
	return f
}

// unitOfPacks is the greatest number of which all quantities that can be had of the parts are multiples.
func unitOfPacks(parts []Part) int64 {
	unit := int64(0)
	divide := func(n int64) {
		for n != 0 {
			unit, n = n, unit%n
		}
	}
	for _, p := range parts {
		pack := max(1, p.Pack)
		if p.Qty >= pack {
			divide(pack)
		}
		if p.Qty%pack != 0 {
			divide(p.Qty)
		}
	}
	return max(1, unit)
}

// even says whether a part is so many whole packs as large as those of the dearest part.
func (f *filling) even(x int) bool {
	pack := max(1, f.parts[f.order[0]].Pack)
	return max(1, f.parts[x].Pack) == pack && f.parts[x].Qty%pack == 0
}

// evenTable is what the even parts are worth in each room: of packs of one size the dearest come first.
func (f *filling) evenTable(room int64) []int64 {
	table := make([]int64, room+1)
	pack := max(1, f.parts[f.order[0]].Pack)
	at := int64(0) // filled up to here
	for _, x := range f.order {
		if !f.even(x) {
			continue
		}
		p := &f.parts[x]
		for n := p.Qty / pack; n > 0 && at+pack <= room; n-- {
			for next := at + pack; at < next; at++ {
				table[at+1] = table[at]
			}
			table[at] += pack * p.Each
		}
	}
	for ; at < room; at++ {
		table[at+1] = table[at]
	}
	return table
}

// from is an entry of a table that so many packs may be added to: its place counted in packs, and what it is worth less
// all packs up to there.
type from struct{ at, worth int64 }

// withPart writes into out the table once the part may be had, too, and into took how much of it is. The queue is room to work in.
//
// The packs are the bounded knapsack problem in one table: of each remainder of the room by the
// pack, the best of the last so many entries, less what the packs between are worth, is the one to
// come from; it stands at the head of a queue that only falls.
func withPart(table, out []int64, took []int32, queue []from, p *Part) []from {
	copy(out, table)
	pack := max(1, p.Pack)
	packs, size, each := p.Qty/pack, int64(len(table)), pack*p.Each
	if packs > 0 {
		for rest := range min(pack, size) {
			queue = queue[:0]
			head := 0
			for k, x := int64(0), rest; x < size; k, x = k+1, x+pack {
				here := table[x] - k*each
				for len(queue) > head && queue[len(queue)-1].worth < here {
					queue = queue[:len(queue)-1]
				}
				queue = append(queue, from{k, here})
				if queue[head].at < k-packs {
					head++
				}
				if v := queue[head].worth + k*each; v > out[x] {
					out[x], took[x] = v, int32((k-queue[head].at)*pack)
				}
			}
		}
	}
	if p.Qty%pack != 0 {
		for x := p.Qty; x < size; x++ {
			if v := table[x-p.Qty] + p.Qty*p.Each; v > out[x] {
				out[x], took[x] = v, int32(p.Qty)
			}
		}
	}
	return queue
}

// worth of the parts in so much room, which can be had.
func (f *filling) worth(room int64) int64 {
	switch {
	case f.table != nil:
		return f.table[room]
	case f.stair != nil:
		return f.stair.at(room).worth
	}
	sum := int64(0)
	for _, x := range f.order {
		q := f.fits(x, room)
		room -= q
		sum += q * f.parts[x].Each
	}
	return sum
}

// fits is how much of a part goes into so much room.
func (f *filling) fits(x int, room int64) int64 {
	p := &f.parts[x]
	if p.Qty <= room {
		return p.Qty
	}
	return room / max(1, p.Pack) * max(1, p.Pack)
}

// mosts is [filling.most] of each of so many rooms, one unit apart and the first of them so large, none larger than the room.
func (f *filling) mosts(out []int64, first, unit, room int64) {
	n := 0
	if f.table != nil {
		for x := range out {
			out[x] = f.table[min(room, first+int64(x)*unit)]
		}
		return
	}
	if f.stair == nil { // the dearest first, of which so much and so much worth lies before the next
		filled, sum := int64(0), int64(0)
		for x := range out {
			space := min(room, first+int64(x)*unit)
			space -= space % f.unit
			for n < len(f.order) && filled+f.parts[f.order[n]].Qty <= space {
				p := &f.parts[f.order[n]]
				filled, sum, n = filled+p.Qty, sum+p.Qty*p.Each, n+1
			}
			if out[x] = sum; n < len(f.order) {
				out[x] += (space - filled) * f.parts[f.order[n]].Each
			}
		}
		return
	}
	for x := range out {
		for n+1 < len(f.stair.steps) && f.stair.steps[n+1].room <= min(room, first+int64(x)*unit) {
			n++
		}
		out[x] = f.stair.steps[n].worth
	}
}

// of is how much of each part is had in so much room.
func (f *filling) of(room int64) []int64 {
	out := make([]int64, len(f.parts))
	if f.stair != nil {
		f.stair.fill(room, out)
		return out
	}
	for n := len(f.odd) - 1; n >= 0; n-- {
		out[f.odd[n]] = int64(f.took[n][room])
		room -= out[f.odd[n]]
	}
	for _, x := range f.order {
		if f.table == nil || f.even(x) {
			out[x] = f.fits(x, room)
			room -= out[x]
		}
	}
	return out
}
