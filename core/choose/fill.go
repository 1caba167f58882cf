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
	order []int   // of the parts, the dearest unit first
	table []int64 // of each room; nil if the room is too large, or there are no parts
	took  [][]int64
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
		return f
	}
	f.table = make([]int64, room+1)
	for _, x := range f.order {
		took := make([]int64, room+1)
		f.table = withPart(f.table, took, parts[x])
		f.took = append(f.took, took)
	}
	return f
}

// withPart returns the table once the part may be had, too, and how much of it is.
//
// The packs are the bounded knapsack problem in one table: of each remainder of the room by the
// pack, the best of the last so many entries, less what the packs between are worth, is the one to
// come from; it stands at the head of a queue that only falls.
func withPart(table, took []int64, p Part) []int64 {
	out := slices.Clone(table)
	pack := max(1, p.Pack)
	packs, size := p.Qty/pack, int64(len(table))
	if packs > 0 {
		queue := make([]int64, 0, size/pack+1)
		for rest := range min(pack, size) {
			queue = queue[:0]
			head := 0
			base := func(k int64) int64 { return table[rest+k*pack] - k*pack*p.Each }
			for k := int64(0); rest+k*pack < size; k++ {
				for len(queue) > head && base(queue[len(queue)-1]) < base(k) {
					queue = queue[:len(queue)-1]
				}
				queue = append(queue, k)
				if queue[head] < k-packs {
					head++
				}
				from := queue[head]
				if v := base(from) + k*pack*p.Each; v > out[rest+k*pack] {
					out[rest+k*pack], took[rest+k*pack] = v, (k-from)*pack
				}
			}
		}
	}
	if p.Qty%pack != 0 {
		for x := p.Qty; x < size; x++ {
			if v := table[x-p.Qty] + p.Qty*p.Each; v > out[x] {
				out[x], took[x] = v, p.Qty
			}
		}
	}
	return out
}

// worth of the parts in so much room, which can be had.
func (f *filling) worth(room int64) int64 {
	if f.table != nil {
		return f.table[room]
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

// most is what the parts are worth at most: the same as worth if it is tabled, else as if units
// could be had one by one.
func (f *filling) most(room int64) int64 {
	if f.table != nil {
		return f.table[room]
	}
	sum := int64(0)
	for _, x := range f.order {
		q := min(room, f.parts[x].Qty)
		room -= q
		sum += q * f.parts[x].Each
	}
	return sum
}

// of is how much of each part is had in so much room.
func (f *filling) of(room int64) []int64 {
	out := make([]int64, len(f.parts))
	if f.table == nil {
		for _, x := range f.order {
			out[x] = f.fits(x, room)
			room -= out[x]
		}
		return out
	}
	for n := len(f.order) - 1; n >= 0; n-- {
		out[f.order[n]] = f.took[n][room]
		room -= f.took[n][room]
	}
	return out
}
