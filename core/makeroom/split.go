package makeroom

// splitting is a bound that knows that entries go whole. The cost of an entry is split over the
// rows that it covers; then each row is by itself the question which entries cover it at the least
// cost, which is answered for everything that may be lacking by a dynamic program. However the
// costs are split the sum of the answers is a bound, in whole numbers: an entry that covers a row
// has covered, and paid for, those before it, so a part of the cost may be moved from a row to an
// earlier one. Ways of splitting that make it great are found by steps against what the answers of
// two rows contradict each other in.
type splitting struct {
	s      *searching
	of     []int   // entries, in the order in which they are decided
	lacks  []int64 // of each row, before any of them is
	size   []int   // of each row the columns of its table
	shift  []int64 // of each entry and row, what is moved from the next row to it
	tables [][]int64
	value  int64 // × scale
	unit   int64 // of the columns
}

// none is more than any way costs.
const none = int64(1) << 60

// cells is the size of all tables together that is still worth their while.
const cells = 3_000_000

// split returns the best splitting that it finds for those entries, beside which the others cost so much, and raises the bound by it;
// nil if its tables would be too large, or if there have been enough steps.
func (s *searching) split(of []int, lacks []int64, cost int64) *splitting {
	b := &splitting{s: s, of: of, lacks: lacks, shift: make([]int64, len(of)*s.rowsN), unit: 1}
	target := s.scale * (s.best - 1 - cost)
	sum := int64(0)
	for _, q := range lacks {
		sum += q
	}
	// Where the tables would be too large quantities are counted in a larger unit: entries cover a little more, and a little less is
	// lacking.
	if columns := int64(cells)/int64(len(of)+1) - int64(len(lacks)); columns < int64(len(lacks)) {
		return nil
	} else if sum > columns {
		b.unit = (sum-1)/columns + 1
	}
	for k, q := range lacks {
		b.size = append(b.size, int(q/b.unit)+1)
		b.tables = append(b.tables, make([]int64, (len(of)+1)*b.size[k]))
	}
	if s.spend(len(b.shift)) {
		return nil
	}
	b.byPrices()
	best, at := make([]int64, len(b.shift)), int64(-1)<<60
	used := make([]bool, len(b.shift))
	step, idle := 1.0, 0
	for range 120 {
		if !b.fill() {
			return nil
		}
		v := b.value
		if v > at {
			at, idle = v, 0
			copy(best, b.shift)
			s.dual = max(s.dual, min(s.scale*s.best, s.scale*cost+v))
		} else if idle++; idle > 6 {
			step, idle = step/2, 0
			copy(b.shift, best)
			if !b.fill() {
				return nil
			}
		}
		if v > target || step < 0.02 {
			break
		}
		b.used(used)
		square := 0
		for i, e := range of {
			for k := s.entries[e].first; k+1 < s.rowsN; k++ {
				if used[i*s.rowsN+k] != used[i*s.rowsN+k+1] {
					square++
				}
			}
		}
		if square == 0 {
			break
		}
		far := int64(step * float64(target+1-b.value) / float64(square))
		for i, e := range of {
			for k := s.entries[e].first; k+1 < s.rowsN; k++ {
				x := i*s.rowsN + k
				switch {
				case used[x+1] && !used[x]:
					b.shift[x] += far
				case used[x] && !used[x+1]:
					b.shift[x] = max(0, b.shift[x]-far)
				}
			}
		}
	}
	copy(b.shift, best)
	if !b.fill() {
		return nil
	}
	return b
}

// byPrices splits the costs as the prices of the rows say: what an entry gains on later rows is
// moved to the earlier ones.
func (b *splitting) byPrices() {
	s := b.s
	for i, x := range b.of {
		e := &s.entries[x]
		gain := int64(0)
		for k := s.rowsN - 1; k > e.first; k-- {
			gain = min(0, s.part(e, k)-s.price[k]*e.on(k)+gain)
			b.shift[i*s.rowsN+k-1] = -gain
		}
	}
}

// part is what covering row k costs besides the rows before it, × scale.
func (s *searching) part(e *entry, k int) int64 {
	if k == e.first {
		return s.scale * s.cost(e, k)
	}
	return s.scale * (s.cost(e, k) - s.cost(e, k-1))
}

// costs of entry i, as it is split, on row k.
func (b *splitting) costs(i, k int) int64 {
	e := &b.s.entries[b.of[i]]
	c := b.s.part(e, k)
	at := i*b.s.rowsN + k
	if k > e.first {
		c += b.shift[at-1]
	}
	return c - b.shift[at]
}

// fill computes the tables: what it costs from entry i on to cover so many units of row k. It says whether it came to the end.
func (b *splitting) fill() bool {
	n := len(b.of)
	b.value = 0
	for k, t := range b.tables {
		size := b.size[k]
		last := t[n*size:]
		last[0] = 0
		for c := 1; c < size; c++ {
			last[c] = none
		}
		for i := n - 1; i >= 0; i-- {
			if b.s.spend(size) {
				return false
			}
			e := &b.s.entries[b.of[i]]
			row, next := t[i*size:(i+1)*size], t[(i+1)*size:(i+2)*size]
			if e.first > k {
				copy(row, next)
				continue
			}
			cost := b.costs(i, k)
			q := int(min(b.units(e, k), int64(size)))
			done := next[0] + cost
			for c := range min(q, size) {
				row[c] = min(next[c], done)
			}
			for c := q; c < size; c++ {
				row[c] = min(next[c], next[c-q]+cost)
			}
		}
		b.value += t[b.lacks[k]/b.unit]
	}
	return true
}

// units is how much of row k an entry covers.
func (b *splitting) units(e *entry, k int) int64 { return (e.on(k)-1)/b.unit + 1 }

// used says of each entry and row whether the row's answer has the entry.
func (b *splitting) used(out []bool) {
	clear(out)
	for k, t := range b.tables {
		size := b.size[k]
		c := int(b.lacks[k] / b.unit)
		for i := range b.of {
			e := &b.s.entries[b.of[i]]
			if e.first > k {
				continue
			}
			if t[i*size+c] != t[(i+1)*size+c] {
				out[i*b.s.rowsN+k] = true
				c = max(0, c-int(min(b.units(e, k), int64(size))))
			}
		}
	}
}

// from is the bound, × scale, of what it costs from entry i on to cover what is lacking.
func (b *splitting) from(i int, lacks []int64) (v int64) {
	for k, q := range lacks {
		v += b.tables[k][i*b.size[k]+int(q/b.unit)]
	}
	return v
}
