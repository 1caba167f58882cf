// Package choose picks, of bundles that are had whole or not at all, those that are worth most
// and fit into what is there, and says how much better any other choice could be at most.
//
// A bundle is an order: it needs so many units of several cells. Beside the bundles there are
// parts, which may be had by the pack. It is the knapsack problem with many constraints (C. C.
// Petersen, Computational experience with variants of the Balas algorithm applied to the selection
// of R&D projects, Management Science 13, 1967), which nobody can solve to the end when it is
// large. But what is short touches only some of the orders, and falls apart into groups that have
// nothing to do with each other; of most of these the best choice is proved. For the others the
// answer states a bound. It is a sum of whole numbers: the worth of each bundle is split over the
// cells that it needs, and each cell by itself is solved exactly.
//
// All work is bounded by counts, not by the clock: the same problem has the same answer.
package choose

import "slices"

// Need is so many units of a cell.
type Need struct {
	Cell int32
	Qty  int64
}

// Bundle is had whole or not at all. It names each cell once.
type Bundle struct {
	Worth int64
	Needs []Need
}

// Part may be had by the pack, or whole.
type Part struct {
	Cell            int32
	Qty, Pack, Each int64 // Each is the worth of a unit
}

// Problem is what there is and what is wanted. Quantities and worths are not negative, and their
// sums stay below the quarter of what 64 bits hold.
type Problem struct {
	Room    []int64 // of each cell
	Bundles []Bundle
	Parts   []Part
	Turns   []int32 // the bundles in the order in which they are served if nobody thinks: the answer is never worth less than that
	Prove   bool    // the answer is to come with its proof
}

// Answer is a choice, what it is worth, and what no choice is worth more than.
type Answer struct {
	Bundles        []bool
	Parts          []int64 // units of each part
	Reached, Bound int64
	Proof          *Proof // if it was asked for
}

// Best returns a good choice, mostly the best. Cost: linear in what is not short; for each group
// that is, some hundred times its needs, some ten times the tables of what the prices do not settle in
// its cells, and a search through at most [nodes] choices.
func Best(p Problem) Answer {
	a := Answer{Bundles: make([]bool, len(p.Bundles)), Parts: make([]int64, len(p.Parts))}
	possible := make([]bool, len(p.Bundles))
	wanted := make([]int64, len(p.Room))
	for j, b := range p.Bundles {
		possible[j] = !slices.ContainsFunc(b.Needs, func(n Need) bool { return n.Qty > p.Room[n.Cell] })
		if possible[j] {
			for _, n := range b.Needs {
				wanted[n.Cell] += n.Qty
			}
		}
	}
	for _, x := range p.Parts {
		wanted[x.Cell] += x.Qty
	}
	short := func(cell int32) bool { return wanted[cell] > p.Room[cell] }

	// What is short together is one group.
	root := make([]int32, len(p.Room))
	for i := range root {
		root[i] = int32(i)
	}
	find := func(i int32) int32 {
		for root[i] != i {
			root[i] = root[root[i]]
			i = root[i]
		}
		return i
	}
	first := make([]int32, len(p.Bundles)) // a cell of the group to which the bundle belongs, or -1
	for j, b := range p.Bundles {
		first[j] = -1
		if !possible[j] {
			continue
		}
		for _, n := range b.Needs {
			if !short(n.Cell) {
				continue
			}
			if first[j] < 0 {
				first[j] = n.Cell
			}
			x, y := find(first[j]), find(n.Cell)
			root[max(x, y)] = min(x, y)
		}
		if first[j] < 0 {
			a.Bundles[j] = true
			a.Reached += b.Worth
			a.Bound += b.Worth
		}
	}
	groups := map[int32]*group{}
	var in []*group
	local := make([]int32, len(p.Room))
	for i := range p.Room {
		if !short(int32(i)) {
			continue
		}
		r := find(int32(i))
		g := groups[r]
		if g == nil {
			g = &group{}
			groups[r] = g
			in = append(in, g)
		}
		local[i] = int32(len(g.room))
		g.room = append(g.room, p.Room[i])
		g.cellOf = append(g.cellOf, int32(i))
	}
	for _, g := range in {
		g.parts = make([][]Part, len(g.room))
		g.partOf = make([][]int, len(g.room))
	}
	for x, part := range p.Parts {
		if !short(part.Cell) {
			a.Parts[x] = part.Qty
			a.Reached += part.Qty * part.Each
			a.Bound += part.Qty * part.Each
			continue
		}
		g, i := groups[find(part.Cell)], local[part.Cell]
		g.parts[i] = append(g.parts[i], part)
		g.partOf[i] = append(g.partOf[i], x)
	}
	at := make([]int32, len(p.Bundles)) // index in its group
	for j, b := range p.Bundles {
		if first[j] < 0 {
			continue
		}
		g := groups[find(first[j])]
		at[j] = int32(len(g.bundleOf))
		g.bundleOf = append(g.bundleOf, j)
		var needs []Need
		for _, n := range b.Needs {
			if short(n.Cell) {
				needs = append(needs, Need{local[n.Cell], n.Qty})
			}
		}
		g.bundles = append(g.bundles, Bundle{b.Worth, ByCell(needs)})
	}
	for _, j := range p.Turns {
		if first[j] >= 0 {
			g := groups[find(first[j])]
			g.turns = append(g.turns, at[j])
		}
	}
	if p.Prove {
		a.Proof = &Proof{Free: a.Reached}
	}
	for _, g := range in {
		g.solve()
		if p.Prove {
			a.Proof.Groups = append(a.Proof.Groups, g.proof())
		}
		for x, j := range g.bundleOf {
			a.Bundles[j] = g.best[x]
		}
		for i := range g.room {
			for x, q := range g.fills[i].of(g.left(g.best, i)) {
				a.Parts[g.partOf[i][x]] = q
			}
		}
		a.Reached += g.reached
		a.Bound += g.bound
	}
	return a
}

// group is a problem in which everything is short and has to do with everything else.
type group struct {
	room     []int64
	cellOf   []int32  // in the whole problem
	bundles  []Bundle // their needs by cell
	bundleOf []int    // in the whole problem
	parts    [][]Part
	partOf   [][]int
	turns    []int32

	fills   []filling
	bases   []base
	at      [][]int32 // of each cell the bundles that need it
	qty     [][]int64 // and how much
	price   []int64   // of a unit of each cell, × scale
	paid    []int64   // of each bundle, for what it needs
	scale   int64
	best    []bool
	reached int64
	bound   int64
	parted  [][]int64 // of each bundle its worth, × scale, split over its needs
}

// left is what a choice leaves of a cell.
func (g *group) left(in []bool, cell int) int64 {
	n := g.room[cell]
	for x, j := range g.at[cell] {
		if in[j] {
			n -= g.qty[cell][x]
		}
	}
	return n
}

// solve finds a choice and a bound.
func (g *group) solve() {
	g.at, g.qty = make([][]int32, len(g.room)), make([][]int64, len(g.room))
	total := int64(1)
	for j, b := range g.bundles {
		total += b.Worth
		for _, n := range b.Needs {
			g.at[n.Cell] = append(g.at[n.Cell], int32(j))
			g.qty[n.Cell] = append(g.qty[n.Cell], n.Qty)
		}
	}
	for i := range g.room {
		g.fills = append(g.fills, newFilling(g.parts[i], g.room[i]))
		for _, x := range g.parts[i] {
			total += x.Qty * x.Each
		}
	}
	g.scale = 1 << 16
	for g.scale > 1 && total > (1<<60)/g.scale {
		g.scale >>= 1
	}
	for i, room := range g.room {
		g.bases = append(g.bases, newBase(room, unitOf(room, len(g.at[i])), g.scale, &g.fills[i]))
	}
	g.reached = -1
	s := newState(g)
	for _, j := range g.turns {
		s.add(j)
	}
	g.keep(s)
	g.bound = total
	g.prices()
	g.pay()
	g.keepDense(nil)
	g.split()
	if g.reached < g.bound {
		g.improve()
	}
	if g.reached < g.bound {
		g.search()
	}
}

// keep makes the state the best choice that is known, if it is.
func (g *group) keep(s *state) {
	if w := s.worth(); w > g.reached {
		g.reached = w
		g.best = append(g.best[:0], s.in...)
	}
	s.seen = s.seen[:0]
}
