package plan

import (
	"cmp"
	"container/heap"
	"math"
	"math/bits"
	"slices"

	"journeyman/core/beside"
	"journeyman/core/book"
	"journeyman/core/capped"
)

// sharing is room for what lines that share need.
type sharing struct {
	any   []turn  // that share
	has   []int64 // what each of them has
	count []int32 // of each cell the lines that want something of it, and then where they begin; 0 between two groups
	cells []int32
	lines []int32
	hands []hand
}

// hand shares cells, beside others that share other cells.
type hand struct {
	*allocating
	sharers sharers
	taken   []book.Taken
}

// inGroup takes the turn of one of the lines that are equal in all keys (CORE section 4): orders and lines that go only
// whole are served first, in turn; the others share, cell by cell, what is there.
func (a *allocating) inGroup(t *turn) {
	switch {
	case t.alone || t.rule != book.Any:
		a.turn(t)
	case t.due:
		a.sharing.any = append(a.sharing.any, *t)
	default:
		a.out.rank[t.line] = notDue
	}
	if t.last {
		a.shareAmong(a.sharing.any)
		a.sharing.any = a.sharing.any[:0]
	}
}

// shareAmong serves lines that share.
func (a *allocating) shareAmong(any []turn) {
	most := 0
	a.sharing.has = slices.Grow(a.sharing.has[:0], len(any))[:len(any)]
	for some := range slices.Chunk(any, batch) {
		a.near += a.fetch(some)
		for i := range some {
			a.lift(&some[i]) // sharing may break the promises of its own members
		}
	}
	for i := range any {
		a.sharing.has[i] = a.place(any[i].line).taken
		most = max(most, int(any[i].further)+1)
	}
	for k := range most { // their own warehouses, then the first of the others, and so on
		a.shareEach(any, k)
	}
	for some := range slices.Chunk(any, batch) {
		a.near += a.fetch(some)
		for i := range some {
			a.settle(&some[i])
		}
	}
}

// shareEach shares what is in the cells of the lines: in the own cell of each, or in the k-th one of the others.
func (a *allocating) shareEach(any []turn, k int) {
	s := &a.sharing
	if s.count == nil {
		s.count = make([]int32, len(a.b.Cells))
	}
	cellOf := func(i int) (cell int32, wants bool) {
		t := &any[i]
		if k > int(t.further) || s.has[i] == t.open {
			return 0, false
		}
		if k == 0 {
			return t.cell, true
		}
		return t.furtherCells(a.b)[k-1], true
	}
	s.cells = s.cells[:0]
	n := int32(0)
	for i := range any {
		if c, wants := cellOf(i); wants {
			if s.count[c] == 0 {
				s.cells = append(s.cells, c)
			}
			s.count[c]++
			n++
		}
	}
	slices.Sort(s.cells)
	s.lines = slices.Grow(s.lines[:0], int(n))[:n]
	from := int32(0)
	for _, c := range s.cells {
		from, s.count[c] = from+s.count[c], from
	}
	for i := range any {
		if c, wants := cellOf(i); wants {
			s.lines[s.count[c]] = int32(i)
			s.count[c]++
		}
	}
	if s.hands == nil {
		s.hands = make([]hand, beside.Hands(len(a.b.Lines)))
	}
	beside.Split(len(s.cells), min(len(s.hands), beside.Hands(int(n))), func(part, first, after int) {
		h := &s.hands[part]
		h.allocating, h.taken = a, h.taken[:0]
		from := int32(0)
		if first > 0 {
			from = s.count[s.cells[first-1]]
		}
		for _, c := range s.cells[first:after] {
			to := s.count[c]
			h.share(c, any, s.lines[from:to])
			from = to
		}
	})
	for _, c := range s.cells {
		s.count[c] = 0
	}
	for i := range s.hands {
		a.taken = append(a.taken, s.hands[i].taken...)
		s.hands[i].taken = s.hands[i].taken[:0]
	}
}

// share gives the packs of a cell to some of the lines, one after another, each to the one that has least of what it wanted. Cost: the
// lines times their logarithm, and some forty looks at each; the number of units does not matter.
func (a *hand) share(cell int32, any []turn, lines []int32) {
	there := a.there(cell)
	reserves := a.reserves[cell]
	if reserves == nil && a.shareAll(cell, any, lines, there) {
		return
	}
	h := &a.sharers
	h.reset(a.options.Share == Equal, there, max(1, any[lines[0]].multiple), reserves)
	for _, i := range lines {
		t := &any[i]
		x := sharer{line: t.line, wanted: t.open, has: a.sharing.has[i], at: i}
		for k, r := range reserves {
			if r.For(t.line) {
				x.of = append(x.of, k)
			}
		}
		h.waiting = append(h.waiting, x)
	}
	got := h.share()
	slices.SortFunc(got, func(x, y sharer) int { return int(x.line - y.line) })
	for _, x := range got {
		a.giveHere(x.line, cell, x.here)
		a.sharing.has[x.at] += x.here
	}
	for _, x := range got {
		s := a.place(x.line)
		left := x.wanted - s.taken
		reserved := min(left, h.left, a.kept(cell, x.line))
		packs := min(left-reserved, h.left-reserved)
		s.reserved += reserved
		s.packs += packs
		s.protected += min(left-packs-reserved, max(0, a.free[cell]-h.left))
	}
}

// shareAll gives each line all that it wants if there is enough for all of them, and says whether there was.
func (a *hand) shareAll(cell int32, any []turn, lines []int32, there int64) bool {
	for _, i := range lines {
		if there -= any[i].open - a.sharing.has[i]; there < 0 {
			return false
		}
	}
	for _, i := range lines {
		t := &any[i]
		a.giveHere(t.line, cell, t.open-a.sharing.has[i])
		a.sharing.has[i] = t.open
	}
	return true
}

// giveHere gives a line units of a cell.
func (a *hand) giveHere(l, cell int32, units int64) {
	if units > 0 {
		a.taken = append(a.taken, a.handOver(l, cell, units))
	}
}

// sharer is a line while it shares: what it wants in all, what it has of that, and what of it is from this cell.
type sharer struct {
	line, at          int32 // at is its place among those that share
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

func (h *sharers) reset(equal bool, left, pack int64, reserves []*reserve) {
	*h = sharers{waiting: h.waiting[:0], done: h.done[:0], took: h.took, equal: equal, left: left, pack: pack, reserves: reserves}
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
	h.done = append(h.done, h.waiting...)
	return h.done
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

// fill gives all packs that begin below a level up to which every one fits: one that is near what the units would make for all, if
// it is, else the highest one. What is left for a line, less what is kept from it, falls with each pack that is given, so they all
// fit if the last ones do.
func (h *sharers) fill() {
	low := h.near()
	if low == 0 || !h.fits(low) {
		low = h.highest(low)
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

// near is a level below which the units suffice for all, if no line has more than its share already.
func (h *sharers) near() int64 {
	n := int64(len(h.waiting))
	all, wanted := h.left, int64(0)
	for i := range h.waiting {
		all, wanted = capped.Plus(all, h.waiting[i].has), capped.Plus(wanted, h.waiting[i].wanted)
	}
	all -= capped.Times(n, h.pack) // each has at most a pack more than its share
	if all <= 0 || wanted == math.MaxInt64 {
		return 0
	}
	if h.equal {
		return all / n
	}
	high, low := bits.Mul64(uint64(min(all, wanted)), levels)
	level, _ := bits.Div64(high, low, uint64(wanted))
	return int64(level)
}

// highest is the highest level at which all fits. If it is known not to at some level above 0, it is below that.
func (h *sharers) highest(not int64) int64 {
	low, high := int64(0), int64(levels)
	if h.equal {
		high = 1
		for i := range h.waiting {
			high = max(high, h.waiting[i].wanted)
		}
	}
	if not > 0 {
		high = not - 1
	}
	for low < high {
		if level := low + (high-low+1)/2; h.fits(level) {
			low = level
		} else {
			high = level - 1
		}
	}
	return low
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
