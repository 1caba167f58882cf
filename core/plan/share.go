package plan

import (
	"cmp"
	"container/heap"
	"math/bits"
	"slices"

	"journeyman/core/book"
)

// group serves lines that are equal in all keys (CORE section 4): orders and lines that go only
// whole first, in turn; the others share, cell by cell, what is there.
func (a *allocating) group(lines []int32) {
	var any []int32
	for _, l := range lines {
		if a.rule(&a.b.Lines[l]) != book.Any {
			a.turn(l)
		} else if a.due(l) {
			any = append(any, l)
		} else {
			a.out.lines[l].notDue = true
		}
	}
	if len(any) == 0 {
		return
	}
	most := 1
	for _, l := range any {
		a.lift(l) // sharing may break the promises of its own members
		s := &a.out.lines[l]
		if s.rank < 0 {
			s.rank = a.rank
			a.rank++
		}
		most = max(most, len(a.cells(l)))
	}
	for k := range most { // their own warehouses, then the first of the others, and so on
		of := map[int32][]int32{}
		var cells []int32
		for _, l := range any {
			if cs := a.cells(l); k < len(cs) && a.out.lines[l].taken < a.out.lines[l].wanted {
				if of[cs[k]] == nil {
					cells = append(cells, cs[k])
				}
				of[cs[k]] = append(of[cs[k]], l)
			}
		}
		slices.Sort(cells)
		for _, c := range cells {
			a.share(c, of[c])
		}
	}
	for _, l := range any {
		a.settle(l)
	}
}

// share gives the packs of a cell to the lines, one after another, each to the one that has least of what it wanted. Cost: the
// lines times their logarithm, and some forty looks at each; the number of units does not matter.
func (a *allocating) share(cell int32, lines []int32) {
	h := &sharers{
		equal: a.how.Share == Equal, left: a.there(cell), pack: max(1, a.b.Items[a.b.Cells[cell].Item].Multiple),
		reserves: a.reserves[cell],
	}
	for _, l := range lines {
		s := &a.out.lines[l]
		x := sharer{line: l, wanted: s.wanted, has: s.taken}
		for k, r := range h.reserves {
			if r.For(l) {
				x.of = append(x.of, k)
			}
		}
		h.waiting = append(h.waiting, x)
	}
	got := h.share()
	slices.SortFunc(got, func(x, y sharer) int { return int(x.line - y.line) })
	for _, x := range got {
		a.give(x.line, cell, x.here)
	}
	for _, x := range got {
		s := &a.out.lines[x.line]
		left := s.wanted - s.taken
		reserved := min(left, h.left, a.kept(cell, x.line))
		packs := min(left-reserved, h.left-reserved)
		s.reserved += reserved
		s.packs += packs
		s.protected += min(left-packs-reserved, max(0, a.free[cell]-h.left))
	}
}

// sharer is a line while it shares: what it wants in all, what it has of that, and what of it is from this cell.
type sharer struct {
	line              int32
	wanted, has, here int64
	of                []int // the reserves that are kept for it, too
}

// sharers share what is left in a cell. Those that wait for a pack are a heap: the one with the lowest share, or the fewest units,
// on top; ties by the smaller wanted quantity, then by order and line number.
type sharers struct {
	waiting, done []sharer
	equal         bool
	left, pack    int64
	reserves      []*reserve // of the cell
	took          []int64    // of each reserve, what those for whom it is kept took here so far
}

// share returns what each has at the end. In turns, it gives at once all packs that come before some level, and then
// as many packs one by one as there are lines that wait: when a level is full, at most one pack of each line lies between it and the next
// one, and one of these does not fit.
func (h *sharers) share() []sharer {
	h.took = make([]int64, len(h.reserves))
	for h.settleDone(); len(h.waiting) > 0 && h.left > 0; {
		h.fill()
		h.settleDone()
		heap.Init(h)
		for steps := len(h.waiting); steps > 0 && len(h.waiting) > 0 && h.left > 0; steps-- {
			h.next()
		}
	}
	return append(h.done, h.waiting...)
}

// next gives the next pack, or passes over the line whose pack no longer fits.
func (h *sharers) next() {
	x := &h.waiting[0]
	pack := min(h.pack, x.wanted-x.has)
	if pack > h.left-h.keptFrom(x, h.took) {
		heap.Pop(h)
		return
	}
	x.has, x.here, h.left = x.has+pack, x.here+pack, h.left-pack
	for _, k := range x.of {
		h.took[k] += pack
	}
	if x.has == x.wanted {
		heap.Pop(h)
	} else {
		heap.Fix(h, 0)
	}
}

// keptFrom is how many units are kept for others than x once so many were taken of the reserves.
func (h *sharers) keptFrom(x *sharer, took []int64) (n int64) {
	for k, r := range h.reserves {
		if !slices.Contains(x.of, k) {
			n += max(0, r.Units-r.taken-took[k])
		}
	}
	return n
}

// settleDone takes out of those that wait who has all that it wanted.
func (h *sharers) settleDone() {
	still := h.waiting[:0]
	for _, x := range h.waiting {
		if x.has == x.wanted {
			h.done = append(h.done, x)
		} else {
			still = append(still, x)
		}
	}
	h.waiting = still
}

// levels is how many levels of a share there are: more than the greatest quantity, so that no line has two packs between two levels.
const levels = 1 << 40

// fill gives all packs that begin below the highest level up to which every one fits. What is left for a line, less what is kept
// from it, falls with each pack that is given, so they all fit if the last ones do.
func (h *sharers) fill() {
	low, high := int64(0), int64(levels)
	if h.equal {
		high = 1
		for i := range h.waiting {
			high = max(high, h.waiting[i].wanted)
		}
	}
	for low < high {
		if level := low + (high-low+1)/2; h.fits(level) {
			low = level
		} else {
			high = level - 1
		}
	}
	for i := range h.waiting {
		x := &h.waiting[i]
		q := h.below(x, low)
		x.has, x.here, h.left = x.has+q, x.here+q, h.left-q
		for _, k := range x.of {
			h.took[k] += q
		}
	}
}

// below is how many units a line gets in packs that begin below the level: those before which it has less.
func (h *sharers) below(x *sharer, level int64) int64 {
	end := level
	if !h.equal { // level / levels × wanted, rounded up
		high, low := bits.Mul64(uint64(level), uint64(x.wanted))
		share, rest := bits.Div64(high, low, levels)
		end = int64(share)
		if rest > 0 {
			end++
		}
	}
	if end <= x.has {
		return 0
	}
	left := x.wanted - x.has
	if packs := (end-1-x.has)/h.pack + 1; packs <= left/h.pack {
		return packs * h.pack
	}
	return left
}

// fits says whether all packs that begin below the level fit.
func (h *sharers) fits(level int64) bool {
	left, took := h.left, slices.Clone(h.took)
	for i := range h.waiting {
		q := h.below(&h.waiting[i], level)
		if left -= q; left < 0 {
			return false
		}
		for _, k := range h.waiting[i].of {
			took[k] += q
		}
	}
	if len(h.reserves) == 0 {
		return true
	}
	if slices.ContainsFunc(h.waiting, func(x sharer) bool { return len(x.of) > 1 }) {
		took = h.took // each of its units is taken from two reserves: there is enough all the time if there is without counting any
	}
	for i := range h.waiting {
		if x := &h.waiting[i]; h.below(x, level) > 0 && left < h.keptFrom(x, took) {
			return false
		}
	}
	return true
}

func (h *sharers) Len() int { return len(h.waiting) }

func (h *sharers) Less(i, j int) bool {
	x, y := &h.waiting[i], &h.waiting[j]
	first := cmp.Compare(x.has, y.has)
	if !h.equal {
		first = compareProducts(x.has, y.wanted, y.has, x.wanted)
	}
	return cmp.Or(first, cmp.Compare(x.wanted, y.wanted), cmp.Compare(x.line, y.line)) < 0
}

// compareProducts compares a × b with c × d, none of which is negative.
func compareProducts(a, b, c, d int64) int {
	high, low := bits.Mul64(uint64(a), uint64(b))
	otherHigh, otherLow := bits.Mul64(uint64(c), uint64(d))
	return cmp.Or(cmp.Compare(high, otherHigh), cmp.Compare(low, otherLow))
}

func (h *sharers) Swap(i, j int) { h.waiting[i], h.waiting[j] = h.waiting[j], h.waiting[i] }
func (h *sharers) Push(any)      {}

func (h *sharers) Pop() any {
	n := len(h.waiting) - 1
	h.done = append(h.done, h.waiting[n])
	h.waiting = h.waiting[:n]
	return nil
}
