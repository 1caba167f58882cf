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
	core  []int32   // the items that are tabled
	rows  [][]int64 // what they are worth at most, from each on, in so much room, × scale
	lows  []int64   // of each row, the room of its first entry
	store []int64   // of the rows
	work  int64     // what it took so far, in steps

	// Of [oneCell.solve].
	order []int32
	dense []float64
	fate  []fate
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
	f.mosts(b.worth, room%unit, unit, room)
	for x := range b.worth {
		b.worth[x] *= scale
	}
	for x := range b.worth {
		if x > 1 && x < len(b.worth)-1 && b.worth[x] == b.worth[x-1] {
			continue // the curve above does not bend on a level
		}
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
	k.core, k.lows = k.core[:0], append(k.lows[:0], left)
	for i := range k.items {
		if k.fate[i] == maybe {
			k.core = append(k.core, int32(i))
			k.lows = append(k.lows, max(0, k.lows[len(k.lows)-1]-k.items[i].qty))
		}
	}
	k.table(left)
	best := sum + k.rows[0][0]
	x, n := left, 0
	for i := range k.items {
		switch k.fate[i] {
		case always:
			chosen(k.items[i].bundle)
		case maybe:
			if k.rows[n][x-k.lows[n]] != k.rows[n+1][x-k.lows[n+1]] {
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
	price := k.fullAt()
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

// fullAt is the price at which items and parts that are worth more would about fill the room: the worth of a unit
// of what is the first to have no room, if the dearest come first.
func (k *oneCell) fullAt() int64 {
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

// whole tables all items in all of the room.
func (k *oneCell) whole() {
	k.core, k.lows = k.core[:0], append(k.lows[:0], 0)
	for i := range k.items {
		k.core, k.lows = append(k.core, int32(i)), append(k.lows, 0)
	}
	k.table(k.room)
}

// table fills the rows of the items of the core, each from its low up to so much room. What a row leaves to the next one
// is not below that one's low.
func (k *oneCell) table(room int64) {
	size := 0
	for _, low := range k.lows {
		size += int(room-low) + 1
	}
	k.work += int64(size)
	k.store = slices.Grow(k.store[:0], size)[:size]
	k.rows = k.rows[:0]
	store := k.store
	for _, low := range k.lows {
		n := int(room-low) + 1
		k.rows = append(k.rows, store[:n:n])
		store = store[n:]
	}
	if last := k.rows[len(k.core)]; k.base.worth == nil {
		clear(last)
	} else {
		copy(last, k.base.worth[k.lows[len(k.core)]:])
	}
	for i := len(k.core) - 1; i >= 0; i-- {
		it := &k.items[k.core[i]]
		row, next := k.rows[i], k.rows[i+1][k.lows[i]-k.lows[i+1]:]
		// Where the item has no room, or is worth nothing, it is not had.
		without := min(max(0, it.qty-k.lows[i]), int64(len(row)))
		if it.worth <= 0 {
			without = int64(len(row))
		}
		copy(row[:without], next)
		with := k.rows[i+1][max(0, k.lows[i]+without-it.qty-k.lows[i+1]):]
		rest := row[without:]
		with, next = with[:len(rest)], next[without:][:len(rest)]
		for x := range rest {
			rest[x] = max(next[x], with[x]+it.worth)
		}
	}
}
