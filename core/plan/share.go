package plan

import (
	"container/heap"
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

// share gives the packs of a cell to the lines, one after another, each to the one that has
// least of what it wanted.
func (a *allocating) share(cell int32, lines []int32) {
	there := a.there(cell)
	multiple := max(1, a.b.Items[a.b.Cells[cell].Item].Multiple)
	h := &sharers{equal: a.how.Share == Equal}
	for _, l := range lines {
		s := &a.out.lines[l]
		h.of = append(h.of, sharer{l, s.wanted, s.taken, 0})
	}
	heap.Init(h)
	for h.Len() > 0 && there > 0 {
		x := &h.of[0]
		pack := min(multiple, x.wanted-x.has)
		if pack > there-a.kept(cell, x.line) { // its next pack no longer fits
			heap.Pop(h)
			continue
		}
		x.has += pack
		x.here += pack
		there -= pack
		a.use(cell, x.line, pack)
		if x.has == x.wanted {
			h.done = append(h.done, *x)
			heap.Pop(h)
		} else {
			heap.Fix(h, 0)
		}
	}
	got := append(h.done, append(h.of, h.passed...)...)
	slices.SortFunc(got, func(x, y sharer) int { return int(x.line - y.line) })
	for _, x := range got {
		a.use(cell, x.line, -x.here) // it is counted again when it is given
		a.give(x.line, cell, x.here)
	}
	for _, x := range got {
		s := &a.out.lines[x.line]
		left := s.wanted - s.taken
		reserved := min(left, there, a.kept(cell, x.line))
		packs := min(left-reserved, there-reserved)
		s.reserved += reserved
		s.packs += packs
		s.protected += min(left-packs-reserved, max(0, a.free[cell]-there))
	}
}

type sharer struct {
	line              int32
	wanted, has, here int64
}

// sharers is a heap: the one with the lowest share, or the fewest units, on top; ties by the
// smaller wanted quantity, then by order and line number.
type sharers struct {
	of           []sharer
	done, passed []sharer
	equal        bool
}

func (h *sharers) Len() int { return len(h.of) }

func (h *sharers) Less(i, j int) bool {
	x, y := &h.of[i], &h.of[j]
	a, b := x.has*y.wanted, y.has*x.wanted
	if h.equal {
		a, b = x.has, y.has
	}
	switch {
	case a != b:
		return a < b
	case x.wanted != y.wanted:
		return x.wanted < y.wanted
	}
	return x.line < y.line
}

func (h *sharers) Swap(i, j int) { h.of[i], h.of[j] = h.of[j], h.of[i] }
func (h *sharers) Push(any)      {}

func (h *sharers) Pop() any {
	n := len(h.of) - 1
	x := h.of[n]
	h.of = h.of[:n]
	if x.has < x.wanted {
		h.passed = append(h.passed, x)
	}
	return x
}
