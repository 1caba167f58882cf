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
	d := newDivision(&p)
	d.joinCells(&a)
	d.formGroups()
	d.handOutParts(&a)
	d.handOutBundles()
	if p.Prove {
		a.Proof = &Proof{Free: a.Reached}
	}
	for _, g := range d.groups {
		g.solve()
		if p.Prove {
			a.Proof.Groups = append(a.Proof.Groups, g.proof())
		}
		g.answer(&a)
	}
	return a
}

// division divides a problem into groups that have nothing to do with each other: what is short together is one.
type division struct {
	p      *Problem
	wanted []int64 // of each cell, by all bundles that could be had
	root   []int32 // of each cell, a cell that stands for those it is short together with
	first  []int32 // of each bundle, a cell of its group; -1 if it is in none
	groups []*group
	of     map[int32]*group // by root
	local  []int32          // of each cell, its index in its group
}

func newDivision(p *Problem) *division {
	d := &division{
		p: p, wanted: make([]int64, len(p.Room)), root: make([]int32, len(p.Room)), first: make([]int32, len(p.Bundles)),
		of: map[int32]*group{}, local: make([]int32, len(p.Room)),
	}
	for j, b := range p.Bundles {
		if !d.possible(j) {
			continue
		}
		for _, n := range b.Needs {
			d.wanted[n.Cell] += n.Qty
		}
	}
	for _, x := range p.Parts {
		d.wanted[x.Cell] += x.Qty
	}
	for i := range d.root {
		d.root[i] = int32(i)
	}
	return d
}

// possible says whether a bundle could be had if nobody else wanted anything.
func (d *division) possible(bundle int) bool {
	return !slices.ContainsFunc(d.p.Bundles[bundle].Needs, func(n Need) bool { return n.Qty > d.p.Room[n.Cell] })
}

func (d *division) short(cell int32) bool { return d.wanted[cell] > d.p.Room[cell] }

// find returns the cell that stands for those with which it is short together.
func (d *division) find(cell int32) int32 {
	for d.root[cell] != cell {
		d.root[cell] = d.root[d.root[cell]]
		cell = d.root[cell]
	}
	return cell
}

// joinCells joins the short cells that a bundle needs together. A bundle that needs none is had at once.
func (d *division) joinCells(a *Answer) {
	for j, b := range d.p.Bundles {
		d.first[j] = -1
		if !d.possible(j) {
			continue
		}
		for _, n := range b.Needs {
			if !d.short(n.Cell) {
				continue
			}
			if d.first[j] < 0 {
				d.first[j] = n.Cell
			}
			x, y := d.find(d.first[j]), d.find(n.Cell)
			d.root[max(x, y)] = min(x, y)
		}
		if d.first[j] < 0 {
			a.Bundles[j] = true
			a.Reached += b.Worth
			a.Bound += b.Worth
		}
	}
}

// formGroups makes the groups with their cells.
func (d *division) formGroups() {
	for i := range d.p.Room {
		if !d.short(int32(i)) {
			continue
		}
		r := d.find(int32(i))
		g := d.of[r]
		if g == nil {
			g = &group{}
			d.of[r] = g
			d.groups = append(d.groups, g)
		}
		d.local[i] = int32(len(g.room))
		g.room = append(g.room, d.p.Room[i])
		g.cellOf = append(g.cellOf, int32(i))
	}
}

// handOutParts gives the groups the parts of their cells. Parts of cells that are not short are had at once.
func (d *division) handOutParts(a *Answer) {
	for _, g := range d.groups {
		g.parts = make([][]Part, len(g.room))
		g.partOf = make([][]int, len(g.room))
	}
	for x, part := range d.p.Parts {
		if !d.short(part.Cell) {
			a.Parts[x] = part.Qty
			a.Reached += part.Qty * part.Each
			a.Bound += part.Qty * part.Each
			continue
		}
		g, i := d.of[d.find(part.Cell)], d.local[part.Cell]
		g.parts[i] = append(g.parts[i], part)
		g.partOf[i] = append(g.partOf[i], x)
	}
}

// handOutBundles gives the groups their bundles, and the turns in which these are served.
func (d *division) handOutBundles() {
	at := make([]int32, len(d.p.Bundles)) // index in its group
	for j, b := range d.p.Bundles {
		if d.first[j] < 0 {
			continue
		}
		g := d.of[d.find(d.first[j])]
		at[j] = int32(len(g.bundleOf))
		g.bundleOf = append(g.bundleOf, j)
		var needs []Need
		for _, n := range b.Needs {
			if d.short(n.Cell) {
				needs = append(needs, Need{d.local[n.Cell], n.Qty})
			}
		}
		g.bundles = append(g.bundles, Bundle{b.Worth, ByCell(needs)})
	}
	for _, j := range d.p.Turns {
		if d.first[j] >= 0 {
			g := d.of[d.find(d.first[j])]
			g.turns = append(g.turns, at[j])
		}
	}
}

// answer adds what the group has chosen.
func (g *group) answer(a *Answer) {
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
