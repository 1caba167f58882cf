package makeroom

import (
	"cmp"
	"slices"
)

// shortest returns the entries of the problem put back by as few days, weighted, as covers the
// rows.
func (p *problem) shortest() []Move {
	moves, _, _ := p.leastDays()
	return moves
}

// leastDays returns which entries are put back and to when at the least sum of weight × days,
// with that sum and a bound of it.
//
// Every unit of every row has a price. Whatever is put back costs at least what it covers is
// worth, less what it is worth more than it costs; so for any prices the value of what is lacking
// less those gains is a bound, in whole numbers (the Lagrangian dual). Prices that make it great
// are found by steps along what remains uncovered. What would cost more than the best that is known
// if it were decided otherwise than the prices say is decided; the few entries that remain open are
// searched through, choices that leave the same rows lacking being one.
func (p *problem) leastDays() (moves []Move, harm, bound int64) {
	s := p.searching()
	s.prices()
	for _, width := range []int{32, 512, 0} {
		if s.best == s.bound() || s.ended {
			break
		}
		if s.search(width) {
			return s.putBack(), s.best, s.best
		}
	}
	return s.putBack(), s.best, min(s.best, s.bound())
}

// searching begins a search: what is known is to put back everything.
func (p *problem) searching() *searching {
	s := &searching{problem: p, rowsN: len(p.rows), last: make([]int, len(p.entries)), scale: 1 << 40}
	s.everything()
	most := s.best // what a choice, or an entry, costs
	for i := range s.entries {
		most = max(most, s.cost(&s.entries[i], s.rowsN-1))
	}
	for s.scale > 1 && float64(s.scale)*float64(most)*float64(len(s.entries)*s.rowsN) > 1<<52 {
		s.scale >>= 1
	}
	return s
}

// not is the last row of an entry that is not put back.
const not = -1

type searching struct {
	*problem
	rowsN int
	best  int64
	last  []int // of each entry in the best that is known: the last row that it covers, or not
	price []int64
	dual  int64 // the bound × scale
	scale int64 // of prices: sums with them stay whole numbers of 64 bits, and those of single units are fine enough
}

func (s *searching) bound() int64 { return max(0, (s.dual+s.scale-1)/s.scale) }

func (s *searching) putBack() []Move {
	var out []Move
	for i, k := range s.last {
		if k != not {
			out = append(out, s.moves(&s.entries[i], k)...)
		}
	}
	return out
}

// keep makes last the best that is known if it is, after taking back what is not needed.
func (s *searching) keep(last []int) {
	over := make([]int64, s.rowsN)
	for k := range over {
		over[k] = -s.rows[k].lacks
	}
	for i, k := range last {
		for x := s.entries[i].first; x <= k; x++ {
			over[x] += s.entries[i].on(x)
		}
	}
	order := make([]int, 0, len(last))
	for i, k := range last {
		if k != not {
			order = append(order, i)
		}
	}
	saves := func(i int) int64 { return s.cost(&s.entries[i], last[i]) }
	slices.SortStableFunc(order, func(x, y int) int { return cmp.Compare(saves(y), saves(x)) })
	for _, i := range order {
		for last[i] != not && over[last[i]] >= s.entries[i].on(last[i]) {
			over[last[i]] -= s.entries[i].on(last[i])
			if last[i]--; last[i] < s.entries[i].first {
				last[i] = not
			}
		}
	}
	sum := int64(0)
	for i, k := range last {
		if k != not {
			sum += s.cost(&s.entries[i], k)
		}
	}
	for k := range over {
		if over[k] < 0 {
			return
		}
	}
	if s.best < 0 || sum < s.best {
		s.best = sum
		copy(s.last, last)
	}
}

// everything puts all entries back as far as it goes, and takes back what is not needed.
func (s *searching) everything() {
	s.best = -1
	last := make([]int, len(s.entries))
	for i := range last {
		last[i] = s.rowsN - 1
	}
	s.keep(last)
}

// worth returns the best row to end with for entry i at the prices, and what that loses: the
// cost less the worth of what is covered, never above 0.
func (s *searching) worth(i int, price []int64) (last int, lost int64) {
	e := &s.entries[i]
	last = not
	covered := int64(0)
	for k := e.first; k < s.rowsN; k++ {
		covered += price[k] * e.on(k)
		if x := s.scale*s.cost(e, k) - covered; x < lost {
			last, lost = k, x
		}
	}
	return last, lost
}

// prices looks for the prices of the greatest bound, and tries what they lead to.
func (s *searching) prices() {
	price, best := make([]int64, s.rowsN), make([]int64, s.rowsN)
	last, missing := make([]int, len(s.entries)), make([]int64, s.rowsN)
	s.price = best
	step := 2.0
	idle := 0
	units := 0.0 // at what a unit may cost at most their sums are whole numbers of 64 bits; nothing is worth so much
	for i := range s.entries {
		units += float64(s.entries[i].all()) * float64(s.rowsN)
	}
	for k := range s.rows {
		units += float64(s.rows[k].lacks)
	}
	dearest := (1 << 60) / units
	for round := range 400 {
		if s.spend(len(s.entries) * s.rowsN) {
			return
		}
		dual := int64(0)
		for k := range missing {
			missing[k] = s.rows[k].lacks
			dual += price[k] * missing[k]
		}
		for i := range s.entries {
			k, lost := s.worth(i, price)
			last[i] = k
			dual += lost
			for x := s.entries[i].first; x <= k; x++ {
				missing[x] -= s.entries[i].on(x)
			}
		}
		if dual > s.dual {
			s.dual, idle = dual, 0
			copy(best, price)
		} else if idle++; idle > 12 {
			step, idle = step/2, 0
			copy(price, best)
		}
		if round%8 == 0 {
			s.repair(slices.Clone(last), missing)
		}
		if s.best == s.bound() || step < 1e-3 {
			return
		}
		square := 0.0
		for k, m := range missing {
			if m < 0 && price[k] == 0 {
				continue
			}
			square += float64(m) * float64(m)
		}
		if square == 0 {
			return
		}
		far := step * float64(s.scale*s.best-dual) / square
		for k, m := range missing {
			price[k] = int64(min(max(0, float64(price[k])+far*float64(m)), dearest))
		}
	}
}

// repair covers what the choice leaves lacking, row after row, by what costs least per unit that is
// still lacking, and keeps the result if it is the best.
func (s *searching) repair(last []int, missing []int64) {
	lacks := slices.Clone(missing)
	for k := range lacks {
		for lacks[k] > 0 {
			if s.spend(len(s.entries) * (k + 1)) {
				return
			}
			at, least := -1, 0.0
			for i := range s.entries {
				e := &s.entries[i]
				if e.first > k || last[i] >= k {
					continue
				}
				from, paid := e.first, int64(0)
				if last[i] != not {
					from, paid = last[i]+1, s.cost(e, last[i])
				}
				useful := int64(0)
				for x := from; x <= k; x++ {
					useful += min(e.on(x), max(0, lacks[x]))
				}
				each := float64(s.cost(e, k)-paid) / float64(max(1, useful))
				if at < 0 || each < least {
					at, least = i, each
				}
			}
			if at < 0 {
				return
			}
			e := &s.entries[at]
			from := e.first
			if last[at] != not {
				from = last[at] + 1
			}
			for x := from; x <= k; x++ {
				lacks[x] -= e.on(x)
			}
			last[at] = k
		}
	}
	s.keep(last)
}

// label is a choice for the entries so far; its lacks stand in a common slice.
type label struct {
	cost   int64
	bound  int64 // × scale
	before int32 // in the layer before
	last   int16
}

// open is an entry that the bound leaves undecided.
type open struct {
	entry int
	lost  []int64 // of each choice: not, and each last row; -1 for one that is out
	least int64   // × scale, of cost less worth
}

// undecided returns the entries of which several choices lose no more than gap, those that cover most first; and what is decided of
// the others: the last row of each, what is still lacking then, and what that costs.
func (s *searching) undecided(gap int64) (opens []open, fixed []int, lacks []int64, cost int64) {
	n := s.rowsN
	fixed = make([]int, len(s.entries))
	lacks = make([]int64, n)
	for k := range lacks {
		lacks[k] = s.rows[k].lacks
	}
	for i := range s.entries {
		e := &s.entries[i]
		_, least := s.worth(i, s.price)
		o := open{entry: i, lost: make([]int64, n+1), least: least}
		choices, only := 0, not
		covered := int64(0)
		for k := not; k < n; k++ {
			o.lost[k+1] = -1
			if k != not && k < e.first {
				continue
			}
			x := int64(0)
			if k != not {
				covered += s.price[k] * e.on(k)
				x = s.scale*s.cost(e, k) - covered
			}
			if x-least <= gap {
				o.lost[k+1] = x - least
				choices++
				only = k
			}
		}
		if fixed[i] = not; choices > 1 || choices == 0 {
			opens = append(opens, o)
			continue
		}
		fixed[i] = only
		if only == not {
			continue
		}
		cost += s.cost(e, only)
		for x := e.first; x <= only; x++ {
			lacks[x] = max(0, lacks[x]-e.on(x))
		}
	}
	slices.SortStableFunc(opens, func(x, y open) int { return cmp.Compare(s.entries[y.entry].all(), s.entries[x.entry].all()) })
	return opens, fixed, lacks, cost
}

// search looks through the entries that the bound leaves open for better than the best that is
// known, keeping so many labels of the least bound in each layer; 0 for all of them. It says
// whether it looked through everything, so that the best is the least.
func (s *searching) search(width int) bool {
	gap := s.scale*(s.best-1) - s.dual // what a choice may lose and still be better
	if gap < 0 {
		return true
	}
	opens, fixed, lacks, cost := s.undecided(gap)
	var of []int
	for _, o := range opens {
		of = append(of, o.entry)
	}
	split := s.split(of, lacks, cost)
	if s.dual > s.scale*(s.best-1) {
		return true
	}
	l := &layers{searching: s, opens: opens, split: split, width: width, now: lacks, same: map[uint64]int32{}, next: make([]int64, s.rowsN)}
	l.bound()
	l.all = [][]label{{{cost, s.scale*cost + l.value(lacks) + l.rest[0], -1, 0}}}
	whole := true
	for i := range opens {
		narrowed, ok := l.add(i)
		if !ok {
			return false
		}
		whole = whole && !narrowed
	}
	l.keepBest(fixed)
	return whole
}

// layers are the choices that were looked at: the first for no entry that was not decided, each other with one entry more.
type layers struct {
	*searching
	opens []open
	split *splitting
	width int       // of a layer at most; 0 for any
	rest  []int64   // what the entries from each on gain at least,
	most  [][]int64 // and cover at most, row by row
	all   [][]label
	total int
	now   []int64 // what each choice of the last layer still lacks, row by row
	later []int64 // the same of the layer that is being made
	next  []int64 // of one choice
	same  map[uint64]int32
}

// bound says what the entries that are not decided yet gain at least, and cover at most.
func (l *layers) bound() {
	n, opens := l.rowsN, l.opens
	l.rest, l.most = make([]int64, len(opens)+1), make([][]int64, len(opens)+1)
	l.most[len(opens)] = make([]int64, n)
	for i := len(opens) - 1; i >= 0; i-- {
		l.rest[i] = l.rest[i+1] + opens[i].least
		l.most[i] = slices.Clone(l.most[i+1])
		e := &l.entries[opens[i].entry]
		for k := e.first; k < n; k++ {
			l.most[i][k] += e.on(k)
		}
	}
}

// value is what is lacked, at its price.
func (l *layers) value(lacks []int64) (v int64) {
	for k, q := range lacks {
		v += l.price[k] * q
	}
	return v
}

// add adds the layer of the next entry: of each choice of the last one what comes of it if the entry is left,
// or put back at each row. It says whether the layer was narrowed; not ok is too much work.
func (l *layers) add(i int) (narrowed, ok bool) {
	n, o := l.rowsN, l.opens[i]
	e := &l.entries[o.entry]
	var layer []label
	l.later = l.later[:0]
	clear(l.same)
	for at, before := range l.all[i] {
		if l.spend(2 * n * n) {
			return false, false
		}
		mine := l.now[at*n : at*n+n]
		for k := not; k < n; k++ {
			if o.lost[k+1] < 0 {
				continue
			}
			copy(l.next, mine)
			c := before.cost
			if k != not {
				c += l.cost(e, k)
				if !takeOff(e, k, l.next) {
					continue // ending a row earlier does as well
				}
			}
			b := l.scale*c + l.value(l.next) + l.rest[i+1]
			if l.split != nil {
				b = max(b, l.scale*c+l.split.from(i+1, l.next))
			}
			if b > l.scale*(l.best-1) || !covers(l.most[i+1], l.next) {
				continue
			}
			layer = l.put(layer, label{c, b, int32(at), int16(k)})
		}
	}
	if l.width > 0 && len(layer) > l.width {
		narrowed = true
		layer, l.later = narrow(layer, l.later, n, l.width)
	}
	if l.total += len(layer); l.total > 4_000_000 {
		return false, false
	}
	l.all = append(l.all, layer)
	l.now, l.later = slices.Clone(l.later), l.later[:0]
	return narrowed, true
}

// takeOff takes off what lacks what the entry covers up to row k, and says whether row k needs it.
func takeOff(e *entry, k int, lacks []int64) (useful bool) {
	for x := e.first; x <= k; x++ {
		useful = useful || x == k && lacks[x] > 0
		lacks[x] = max(0, lacks[x]-e.on(x))
	}
	return useful
}

// put adds a choice to the layer; of two that lack the same, the cheaper one stays.
func (l *layers) put(layer []label, x label) []label {
	n := l.rowsN
	h := hash(l.next)
	if at, known := l.same[h]; known && slices.Equal(l.later[int(at)*n:int(at)*n+n], l.next) {
		if y := &layer[at]; x.cost < y.cost {
			*y = x
		}
		return layer
	}
	l.same[h] = int32(len(layer))
	l.later = append(l.later, l.next...)
	return append(layer, x)
}

// keepBest keeps the best choice of the last layer, if it is better than what there was.
func (l *layers) keepBest(fixed []int) {
	at, least := int32(-1), l.best
	for x, y := range l.all[len(l.opens)] {
		if y.cost < least {
			at, least = int32(x), y.cost
		}
	}
	if at < 0 {
		return
	}
	for i := len(l.opens); i > 0; i-- {
		y := l.all[i][at]
		fixed[l.opens[i-1].entry] = int(y.last)
		at = y.before
	}
	l.keep(fixed)
}

func hash(of []int64) uint64 {
	h := uint64(14695981039346656037)
	for _, x := range of {
		h = (h ^ uint64(x)) * 0x9E3779B97F4A7C15
		h ^= h >> 29
	}
	return h
}

func covers(most, lacks []int64) bool {
	for k := range lacks {
		if most[k] < lacks[k] {
			return false
		}
	}
	return true
}

// narrow keeps the labels of the least bound.
func narrow(layer []label, lacks []int64, n, width int) ([]label, []int64) {
	order := make([]int32, len(layer))
	for i := range order {
		order[i] = int32(i)
	}
	slices.SortStableFunc(order, func(x, y int32) int { return cmp.Compare(layer[x].bound, layer[y].bound) })
	order = order[:width]
	slices.Sort(order)
	l, q := make([]label, 0, width), make([]int64, 0, width*n)
	for _, x := range order {
		l = append(l, layer[x])
		q = append(q, lacks[int(x)*n:int(x)*n+n]...)
	}
	return l, q
}
