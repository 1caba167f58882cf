package choose

import (
	"cmp"
	"math/bits"
	"slices"
)

// item is a bundle as one cell sees it.
type item struct {
	bundle int32
	qty    int64
	worth  int64 // × scale
}

// oneCell is the question which of its bundles a cell would have, beside its parts.
type oneCell struct {
	room  int64 // in units
	items []item
	base  *base
	rows  [][]int64 // of [oneCell.table]: what the items from each on are worth at most in so much room, × scale
	store []int64   // of the rows

	// Of [oneCell.solve].
	order []int32
	dense []float64
	fate  []fate
	work  int64 // what solving took so far, in steps
}

// base is what the parts of a cell are worth at most in so much room, × scale.
type base struct {
	unit  int64   // what rooms and quantities are counted in; above 1 quantities are rounded down, so that the answer is a bound
	worth []int64 // of each room; nil if there are no parts
	bends []int32 // the rooms at which the least curve above it that never bends up does bend; the first is 0
}

// mostCells is the greatest table of a cell that is worth its while; above it rooms are counted in
// larger units.
const mostCells = 2_000_000

// unitOf is what the rooms of a cell are counted in.
func unitOf(room int64, items int) int64 {
	return max(1, room*int64(items+1)/mostCells)
}

func newBase(room, unit, scale int64, f *filling) base {
	b := base{unit: unit}
	if len(f.parts) == 0 {
		return b
	}
	b.worth = make([]int64, room/unit+1)
	for x := range b.worth {
		b.worth[x] = scale * f.most(min(room, int64(x)*unit+room%unit))
	}
	for x := range b.worth {
		for n := len(b.bends); n > 1; n-- {
			p, q := int(b.bends[n-2]), int(b.bends[n-1])
			before, low := bits.Mul64(uint64(b.worth[q]-b.worth[p]), uint64(x-q))
			after, least := bits.Mul64(uint64(b.worth[x]-b.worth[q]), uint64(q-p))
			if before > after || before == after && low > least {
				break
			}
			b.bends = b.bends[:n-1]
		}
		b.bends = append(b.bends, int32(x))
	}
	return b
}

func (b *base) of(room int64) int64 {
	if b.worth == nil {
		return 0
	}
	return b.worth[room]
}

// priced is what the parts are worth at most above a price of the room that they take.
func (b *base) priced(price int64) (most int64) {
	if b.worth == nil {
		return 0
	}
	most = b.worth[0]
	for _, x := range b.bends {
		most = max(most, b.worth[x]-price*int64(x))
	}
	return most
}

// fate is what is known of an item before all choices are compared.
type fate uint8

const (
	never  fate = iota // no best choice has it
	always             // every best choice has it
	maybe
)

// solve returns the worth, × scale, of the best choice of the items and the parts beside them, and
// names its bundles. Of two best choices it is the one that has the first item that differs not.
//
// At a price of the room that would about fill it, no choice is worth more than the room's price and what each
// item is worth above the price of what it takes. If leaving one out that is worth more than its price, or taking one
// that is worth less, would cost more than what lies between that and a choice that is known, its fate is
// sealed (G. B. Dantzig, Discrete-variable extremum problems, Operations Research 5, 1957, for the bound; fixing
// by it is common practice). What is left is a table of few items and of the room between all and none of them.
func (k *oneCell) solve(chosen func(bundle int32)) int64 {
	sum, left := k.seal()
	k.rows = k.rows[:0]
	least := left // the rows hold the rooms from here on
	lows := make([]int64, 0, 32)
	core := make([]int, 0, 32)
	size := 1
	lows = append(lows, left)
	for i := range k.items {
		if k.fate[i] == maybe {
			core = append(core, i)
			least = max(0, least-k.items[i].qty)
			lows = append(lows, least)
			size += int(left-least) + 1
		}
	}
	k.work += int64(size)
	if cap(k.store) < size {
		k.store = make([]int64, size+size/2)
	}
	store := k.store[:size]
	for _, low := range lows {
		n := int(left-low) + 1
		k.rows = append(k.rows, store[:n:n])
		store = store[n:]
	}
	last := k.rows[len(core)]
	if k.base.worth == nil {
		clear(last)
	} else {
		copy(last, k.base.worth[least:left+1])
	}
	for i := len(core) - 1; i >= 0; i-- {
		it := &k.items[core[i]]
		row, next := k.rows[i], k.rows[i+1][lows[i]-lows[i+1]:]
		// Where the item has no room it is not had.
		from := min(max(0, it.qty-lows[i]), int64(len(row)))
		copy(row[:from], next)
		with := k.rows[i+1][max(0, lows[i]+from-it.qty-lows[i+1]):]
		rest := row[from:]
		with, next = with[:len(rest)], next[from:][:len(rest)]
		for x := range rest {
			rest[x] = max(next[x], with[x]+it.worth)
		}
	}
	best := sum + k.rows[0][0]
	x, n := left, 0
	for i := range k.items {
		switch k.fate[i] {
		case always:
			chosen(k.items[i].bundle)
		case maybe:
			if k.rows[n][x-lows[n]] != k.rows[n+1][x-lows[n+1]] {
				chosen(k.items[i].bundle)
				x -= k.items[i].qty
			}
			n++
		}
	}
	return best
}

// seal decides what a price decides, and returns what that is worth and the room that is left.
func (k *oneCell) seal() (sum, left int64) {
	k.order, k.dense, k.fate = k.order[:0], k.dense[:0], k.fate[:0]
	for i, it := range k.items {
		k.dense = append(k.dense, float64(it.worth)/(float64(it.qty)+1e-9))
		k.fate = append(k.fate, never)
		if it.worth > 0 && it.qty <= k.room {
			k.order = append(k.order, int32(i))
			k.fate[i] = maybe
		}
	}
	k.work += int64(len(k.items))
	slices.SortFunc(k.order, func(x, y int32) int { return cmp.Compare(k.dense[y], k.dense[x]) })
	price := k.filling()
	if price > 0 && k.room > (1<<61)/price {
		return 0, k.room
	}
	// A choice: one item after another, if it gains; and what no choice is worth more than.
	known, left := int64(0), k.room
	most := price*k.room + k.base.priced(price)
	for _, i := range k.order {
		it := &k.items[i]
		most += max(0, it.worth-price*it.qty)
		if it.qty <= left && it.worth > k.base.of(left)-k.base.of(left-it.qty) {
			known += it.worth
			left -= it.qty
		}
	}
	gap := most - known - k.base.of(left)
	left = k.room
	for _, i := range k.order {
		it := &k.items[i]
		switch above := it.worth - price*it.qty; {
		case above > gap:
			k.fate[i] = always
			sum += it.worth
			left -= it.qty
		case -above > gap:
			k.fate[i] = never
		}
	}
	return sum, left
}

// filling is the price at which items and parts that are worth more would about fill the room: the worth of a unit
// of what is the first to have no room, if the dearest come first.
func (k *oneCell) filling() int64 {
	left, bend := k.room, 1
	bends := k.base.bends
	for n := 0; n < len(k.order) || bend < len(bends); {
		steep := -1.0
		if bend < len(bends) {
			steep = float64(k.base.worth[bends[bend]]-k.base.worth[bends[bend-1]]) / float64(bends[bend]-bends[bend-1])
		}
		if n < len(k.order) && k.dense[k.order[n]] >= steep {
			it := &k.items[k.order[n]]
			if left -= it.qty; left < 0 {
				return it.worth / it.qty
			}
			n++
			continue
		}
		if left -= int64(bends[bend] - bends[bend-1]); left < 0 {
			return int64(steep)
		}
		bend++
	}
	return 0
}

// table fills the rows whole.
func (k *oneCell) table() {
	size := int(k.room) + 1
	n := len(k.items)
	if cap(k.store) < (n+1)*size {
		k.store = make([]int64, (n+1)*size)
	}
	k.rows = k.rows[:0]
	for i := range n + 1 {
		k.rows = append(k.rows, k.store[i*size:(i+1)*size:(i+1)*size])
	}
	if k.base.worth == nil {
		clear(k.rows[n])
	} else {
		copy(k.rows[n], k.base.worth)
	}
	for i := n - 1; i >= 0; i-- {
		it := &k.items[i]
		row, next := k.rows[i], k.rows[i+1]
		q := int(it.qty)
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
