package choose

import (
	"cmp"
	"slices"
)

// nodes is how many choices the search of one group looks into at most, and mostTables the size of
// the tables that its bound needs.
const (
	nodes      = 60_000
	mostTables = 6_000_000
)

// search looks for a better choice than the best that is known, and lowers the bound to it, or to what is left unknown of how
// packs fill up a room, if it could look into all that might be better. The bound of what is not decided yet is the sum over the
// cells of what each would have of it, by the split.
func (g *group) search() {
	n := len(g.bundles)
	sum := int64(0)
	for i := range g.room {
		if g.bases[i].unit > 1 {
			return
		}
		sum += (g.room[i] + 1) * int64(len(g.at[i])+1)
	}
	if sum > mostTables {
		return
	}
	s := &searching{state: newState(g), order: make([]int32, n), cells: make([]oneCell, len(g.room))}
	for j := range s.order {
		s.order[j] = int32(j)
	}
	// The bundles that need most cells are decided first: they hold the group together.
	slices.SortStableFunc(s.order, func(x, y int32) int {
		return cmp.Or(len(g.bundles[y].Needs)-len(g.bundles[x].Needs), cmp.Compare(g.bundles[y].Worth, g.bundles[x].Worth))
	})
	rank := make([]int32, n)
	for r, j := range s.order {
		rank[j] = int32(r)
	}
	where := make([]int, n)
	for i := range s.cells {
		k := &s.cells[i]
		k.room, k.base = g.room[i], &g.bases[i]
		for x, j := range g.at[i] {
			k.items = append(k.items, item{j, g.qty[i][x], g.parted[j][where[j]]})
			where[j]++
		}
		slices.SortFunc(k.items, func(x, y item) int { return int(rank[x.bundle] - rank[y.bundle]) })
		k.whole()
	}
	s.next = make([]int, len(g.room))
	open := int64(0)
	for i := range s.cells {
		open += s.cells[i].rows[0][g.room[i]]
	}
	if s.branch(0, open) {
		g.bound = min(g.bound, max(g.reached, s.unfilled))
	}
}

type searching struct {
	*state
	order []int32
	cells []oneCell
	next  []int // of each cell its first item that is not decided
	seen  int

	unfilled int64 // what choices with packs that were only filled in one after another could be worth at most
}

// branch decides the bundles from rank r on, of which at most open, × scale, can be had; it says
// whether it looked into everything.
func (s *searching) branch(r int, open int64) bool {
	g := s.g
	if (g.scale*s.sum+open)/g.scale <= g.reached {
		return true
	}
	if s.seen++; s.seen > nodes {
		return false
	}
	if r == len(s.order) {
		g.keep(s.state)
		if most := (g.scale*s.sum + open) / g.scale; most > s.worth() {
			s.unfilled = max(s.unfilled, most)
		}
		return true
	}
	j := s.order[r]
	needs := g.bundles[j].Needs
	had := func() (v int64) {
		for _, x := range needs {
			v += s.cells[x.Cell].rows[s.next[x.Cell]][s.left[x.Cell]]
		}
		return v
	}
	now := had()
	for _, x := range needs {
		s.next[x.Cell]++
	}
	out := open - now + had()
	whole := true
	if s.fits(j) {
		s.put(j)
		in := open - now + had()
		if in+g.scale*g.bundles[j].Worth >= out {
			whole = s.branch(r+1, in)
			s.drop(j)
			whole = s.branch(r+1, out) && whole
		} else {
			s.drop(j)
			whole = s.branch(r+1, out)
			s.put(j)
			whole = s.branch(r+1, in) && whole
			s.drop(j)
		}
	} else {
		whole = s.branch(r+1, out)
	}
	for _, x := range needs {
		s.next[x.Cell]--
	}
	return whole
}
