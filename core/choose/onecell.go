package choose

// item is a bundle as one cell sees it.
type item struct {
	bundle int32
	qty    int64
	worth  int64 // × scale
}

// oneCell is the question which of its bundles a cell would have.
type oneCell struct {
	room  int64
	fill  *filling
	unit  int64 // what rooms are counted in; above 1 quantities are rounded down, so that the answer is a bound
	items []item
	rows  [][]int64 // what the items from each on are worth at most in so much room, × scale
	store []int64   // of the rows
}

// mostCells is the greatest table of a cell that is worth its while; above it rooms are counted in
// larger units.
const mostCells = 2_000_000

// unitOf is what the rooms of a cell are counted in.
func unitOf(room int64, items int) int64 {
	return max(1, room*int64(items+1)/mostCells)
}

// solve returns the worth, × scale, of the best choice of the items and the parts beside them, and
// names its bundles.
func (k *oneCell) solve(scale int64, chosen func(bundle int32)) int64 {
	k.table(scale)
	x := int(k.room / k.unit)
	best := k.rows[0][x]
	for i, it := range k.items {
		if k.rows[i][x] != k.rows[i+1][x] {
			chosen(it.bundle)
			x -= int(it.qty / k.unit)
		}
	}
	return best
}

// table fills the rows.
func (k *oneCell) table(scale int64) {
	size := int(k.room/k.unit) + 1
	n := len(k.items)
	if cap(k.store) < (n+1)*size {
		k.store = make([]int64, (n+1)*size)
	}
	k.rows = k.rows[:0]
	for i := range n + 1 {
		k.rows = append(k.rows, k.store[i*size:(i+1)*size:(i+1)*size])
	}
	last := k.rows[n]
	if len(k.fill.parts) == 0 {
		clear(last)
	} else {
		for x := range last {
			last[x] = scale * k.fill.most(min(k.room, int64(x)*k.unit+k.room%k.unit))
		}
	}
	for i := n - 1; i >= 0; i-- {
		it := &k.items[i]
		row, next := k.rows[i], k.rows[i+1]
		q := int(it.qty / k.unit)
		if it.worth <= 0 {
			copy(row, next)
			continue
		}
		copy(row[:min(q, size)], next)
		for x := q; x < size; x++ {
			row[x] = max(next[x], next[x-q]+it.worth)
		}
	}
}
