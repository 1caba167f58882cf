package makeroom

import (
	"cmp"
	"math"
	"math/bits"
	"slices"

	"journeyman/core/book"
)

// group is what does harm once, however much of it is put back: the entries of a line, of an order that
// goes only whole, or of a customer.
type group struct {
	weight  int64
	entries []int
}

func (p *problem) byLine() []group {
	return p.groups(func(e *entry) (any, int64) {
		if e.order != nil {
			return e.order, e.order.weight
		}
		return e.line, e.weight
	})
}

func (p *problem) byCustomer(b *book.Book) []group {
	return p.groups(func(e *entry) (any, int64) { return b.Orders[b.Lines[e.line].Order].Customer, 1 })
}

func (p *problem) groups(of func(*entry) (any, int64)) []group {
	var out []group
	at := map[any]int{}
	for i := range p.entries {
		k, weight := of(&p.entries[i])
		g, known := at[k]
		if !known {
			g = len(out)
			at[k] = g
			out = append(out, group{weight: weight})
		}
		out[g].entries = append(out[g].entries, i)
	}
	return out
}

// leastNumber returns the entries of the groups of least weight that cover all rows, each put
// back as far as it goes, with the weight and a bound of it.
//
// Groups are taken in the order of their first row. All that matters of a choice among those
// before is how many units it puts back: of choices of one weight the one with most is kept.
// A group whose entries begin on several rows is first counted as if all began on its first:
// the result is a bound. If it does not hold, the group is taken or left for good, both ways.
func (p *problem) leastNumber(groups []group) (chosen []int, harm, bound int64) {
	s := &numbering{p: p, groups: groups, of: make([]int, len(p.entries)), state: make([]state, len(groups))}
	for i := range groups {
		for _, e := range groups[i].entries {
			s.of[e] = i
		}
		if s.whole(i) {
			s.state[i] = free
		}
	}
	for _, g := range groups {
		s.best += g.weight
	}
	s.all()
	least := s.least()
	s.greedy()
	s.open = s.best
	s.branch(least)
	return s.chosen, s.best, max(least, min(s.open, s.best))
}

type state uint8

const (
	bundled state = iota // begins on several rows: counted as if on its first
	free                 // begins on one row
	taken
	left
)

type numbering struct {
	p      *problem
	groups []group
	of     []int // of each entry its group
	state  []state
	best   int64
	chosen []int
	open   int64 // the least bound of what was not looked into
}

func (s *numbering) whole(g int) bool {
	es := s.groups[g].entries
	return s.p.entries[es[0]].first == s.p.entries[es[len(es)-1]].first
}

// all takes all groups: always a way.
func (s *numbering) all() {
	s.chosen = nil
	for i := range s.p.entries {
		s.chosen = append(s.chosen, i)
	}
}

// greedy takes the groups that weigh least for what they put back until the rows are covered, and
// leaves out again what is not needed: a way that is seldom far from the best.
func (s *numbering) greedy() {
	order, units := make([]int, len(s.groups)), make([]int64, len(s.groups))
	for g := range order {
		order[g], units[g] = g, s.units(g)
	}
	slices.SortStableFunc(order, func(x, y int) int {
		return compareProducts(s.groups[x].weight, units[y], s.groups[y].weight, units[x])
	})
	in := make([]bool, len(s.groups))
	n := 0
	for step := len(order); step > 0; step /= 2 { // the first so many that hold are found by halving
		for n+step < len(order) && !s.holds(order[:n+step], in) {
			n += step
		}
	}
	order = order[:n+1]
	clear(in)
	for _, g := range order {
		in[g] = true
	}
	weight := int64(0)
	for i := len(order) - 1; i >= 0; i-- {
		if in[order[i]] = false; s.p.spend(len(s.p.entries)) || !s.covers(in) {
			in[order[i]] = true
		}
	}
	order = slices.DeleteFunc(order, func(g int) bool { return !in[g] })
	for _, g := range order {
		weight += s.groups[g].weight
	}
	if weight < s.best {
		s.best, s.chosen = weight, s.entriesOf(order)
	}
}

// least is a bound that is quickly found: of each row by itself what would cover it if groups could be had by the unit.
func (s *numbering) least() int64 {
	least := s.best
	for _, g := range s.groups {
		least = min(least, g.weight) // nothing is covered without any
	}
	type part struct{ units, weight int64 }
	for k, r := range s.p.rows {
		if s.p.spend(len(s.p.entries) + 8*len(s.groups)) {
			break
		}
		var parts []part
		for _, g := range s.groups {
			x := part{weight: g.weight}
			for _, e := range g.entries {
				if s.p.entries[e].first <= k {
					x.units += s.p.entries[e].qty
				}
			}
			if x.units > 0 {
				parts = append(parts, x)
			}
		}
		slices.SortFunc(parts, func(x, y part) int { return compareProducts(x.weight, y.units, y.weight, x.units) })
		lacks, weight := r.lacks, int64(0)
		for _, x := range parts {
			if x.units >= lacks {
				high, low := bits.Mul64(uint64(x.weight), uint64(lacks))
				part, rest := bits.Div64(high, low, uint64(x.units))
				if weight += int64(part); rest > 0 {
					weight++
				}
				break
			}
			lacks -= x.units
			weight += x.weight
		}
		least = max(least, weight)
	}
	return least
}

// compareProducts compares a × b with c × d, none of which is negative.
func compareProducts(a, b, c, d int64) int {
	high, low := bits.Mul64(uint64(a), uint64(b))
	otherHigh, otherLow := bits.Mul64(uint64(c), uint64(d))
	return cmp.Or(cmp.Compare(high, otherHigh), cmp.Compare(low, otherLow))
}

// branch looks for better than the best, one bundled group after another. What is decided so far is known to weigh so much at least.
func (s *numbering) branch(known int64) {
	bound, picked, ended := s.relaxed()
	if ended {
		s.open = min(s.open, max(known, bound))
		return
	}
	if bound < 0 || bound >= s.best {
		return
	}
	if s.holds(picked, make([]bool, len(s.groups))) {
		s.best, s.chosen = bound, s.entriesOf(picked)
		return
	}
	// The largest group that is counted for too much decides, of those that were picked if there is one.
	at := -1
	for _, g := range picked {
		if s.state[g] == bundled && (at < 0 || s.units(g) > s.units(at)) {
			at = g
		}
	}
	for g := range s.groups {
		if at < 0 && s.state[g] == bundled {
			at = g
		}
	}
	for _, now := range []state{taken, left} {
		s.state[at] = now
		s.branch(max(known, bound))
	}
	s.state[at] = bundled
}

func (s *numbering) units(g int) (n int64) {
	for _, e := range s.groups[g].entries {
		n += s.p.entries[e].qty
	}
	return n
}

func (s *numbering) entriesOf(groups []int) []int {
	var out []int
	for _, g := range groups {
		out = append(out, s.groups[g].entries...)
	}
	slices.Sort(out)
	return out
}

// holds says whether those groups, each entry counted from its own row, cover all rows. in is room to work in.
func (s *numbering) holds(groups []int, in []bool) bool {
	clear(in)
	for _, g := range groups {
		in[g] = true
	}
	return s.covers(in)
}

// covers is the same of the groups that are in.
func (s *numbering) covers(in []bool) bool {
	there, i := int64(0), 0
	for k, r := range s.p.rows {
		for ; i < len(s.p.entries) && s.p.entries[i].first <= k; i++ {
			if in[s.of[i]] {
				there += s.p.entries[i].qty
			}
		}
		if there < r.lacks {
			return false
		}
	}
	return true
}

// relaxed returns a bound of the weight of the groups that cover all rows, and groups of that
// weight; -1 if there is nothing better than the best that is known. It is the greatest of
// several: bundled groups counted from their first row on; each row as if it were the only one;
// all rows added up. If there have been enough steps before the end, ended is true, and the bound is what the taken groups weigh.
func (s *numbering) relaxed() (bound int64, picked []int, ended bool) {
	p := s.p
	rows := len(p.rows)
	needs := make([]int64, rows) // what has to be put back by each row, once the taken groups are
	for k := range needs {
		needs[k] = p.rows[k].lacks
	}
	weight := int64(0)
	var always []int
	var first, added []item
	each := make([][]item, rows)
	for g := range s.groups {
		if s.state[g] == left {
			continue
		}
		if p.spend(rows * (2 + len(s.groups[g].entries))) {
			return weight, nil, true
		}
		there := make([]int64, rows) // put back by each row
		for _, e := range s.groups[g].entries {
			for k := p.entries[e].first; k < rows; k++ {
				there[k] += p.entries[e].qty
			}
		}
		if s.state[g] == taken {
			weight += s.groups[g].weight
			always = append(always, g)
			for k, q := range there {
				needs[k] -= q
			}
			continue
		}
		it := item{group: int32(g), weight: s.groups[g].weight}
		it.units, it.row = there[rows-1], p.entries[s.groups[g].entries[0]].first
		first = append(first, it)
		it.row, it.units = 0, 0
		for k, q := range there {
			x := it
			x.units = q
			each[k] = append(each[k], x)
			it.units += q
		}
		added = append(added, it)
	}
	slices.SortStableFunc(first, func(x, y item) int { return x.row - y.row })
	before, sum := int64(0), int64(0)
	for k := range needs {
		before = max(before, needs[k])
		needs[k] = before
		sum += before
	}
	bound, picked, ended = cover(first, needs, s.best-weight, p.meter)
	if ended {
		return weight, nil, true
	}
	if slices.Contains(s.state, bundled) {
		try := func(of []item, need int64) {
			if bound >= 0 && !ended {
				b, ps, end := cover(of, []int64{need}, s.best-weight, p.meter)
				switch {
				case end:
					ended = true // what is known by now is a bound
				case b < 0 || b > bound:
					bound, picked = b, ps
				}
			}
		}
		for k := range each {
			try(each[k], needs[k])
		}
		try(added, sum)
	}
	if bound < 0 {
		return -1, nil, false
	}
	return weight + bound, append(always, picked...), ended
}

// item puts so many units back from a row on, at a weight.
type item struct {
	units, weight int64
	row           int
	group         int32
}

// choice is a node of the dynamic program: so many units put back at such a weight.
type choice struct {
	units, weight int64
	item, before  int32
}

// cover returns the least weight, below limit, of items that put back what is needed by each
// row, which never falls, and their groups; -1 if there are none. The items are given by row.
// Of choices of one weight only the one with most units is kept. Cost: the items times the
// least of the weight and the units that are needed. ended says that there have been enough steps before the end.
func cover(items []item, needs []int64, limit int64, m *meter) (least int64, groups []int, ended bool) {
	most := needs[len(needs)-1]
	rest := make([]int64, len(items)+1)   // units of the items to come
	each := make([]float64, len(items)+1) // the least of them weighs per unit
	each[len(items)] = math.Inf(1)
	for i := len(items) - 1; i >= 0; i-- {
		rest[i] = rest[i+1] + items[i].units
		each[i] = min(each[i+1], float64(items[i].weight)/float64(max(1, items[i].units)))
	}
	arena := []choice{{0, 0, -1, -1}}
	front := []int32{0} // by rising weight and rising units
	var next []int32
	i := 0
	for k := range needs {
		for ; i < len(items) && items[i].row <= k; i++ {
			q, w := items[i].units, items[i].weight
			if m.spend(4 + 4*len(front)) {
				return 0, nil, true
			}
			next = next[:0]
			x, y := 0, 0
			for x < len(front) || y < len(front) {
				var c choice
				at := int32(-1)
				// Of the choices without the item and those with it, in the order of their weight.
				if x < len(
					front,
				) && (y >= len(front) || cheaper(arena[front[x]], min(most, arena[front[y]].units+q), arena[front[y]].weight+w)) {
					at = front[x]
					c = arena[at]
					x++
				} else {
					f := arena[front[y]]
					c = choice{min(most, f.units+q), f.weight + w, int32(i), front[y]}
					y++
				}
				if lacks := float64(most - c.units); lacks > 0 && float64(c.weight)+0.999999*lacks*each[i+1] > float64(limit-1) {
					continue // not even at the least weight
				}
				if c.weight >= limit || c.units+rest[i+1] < most || len(next) > 0 && arena[next[len(next)-1]].units >= c.units {
					continue
				}
				if at < 0 {
					at = int32(len(arena))
					arena = append(arena, c)
				}
				next = append(next, at)
			}
			front, next = next, front
		}
		kept := front[:0]
		for _, f := range front {
			if arena[f].units >= needs[k] {
				kept = append(kept, f)
			}
		}
		if front = kept; len(front) == 0 {
			return -1, nil, false
		}
	}
	var picked []int
	for c := arena[front[0]]; c.before >= 0; c = arena[c.before] {
		picked = append(picked, int(items[c.item].group))
	}
	return arena[front[0]].weight, picked, false
}

func cheaper(x choice, units, weight int64) bool {
	if x.weight != weight {
		return x.weight < weight
	}
	return x.units >= units
}
