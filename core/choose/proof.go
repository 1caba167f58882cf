package choose

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"journeyman/core/capped"
)

// Proof is why no choice is worth more than the bound: numbers that add up to it, which anybody can
// add up again (Check does).
type Proof struct {
	Free   int64 // the worth of all that nothing is short for
	Groups []GroupProof
}

// GroupProof is the proof for cells that have to do with each other. Two sums bound what a choice can be worth, in whole
// numbers after dividing by Scale:
//
//   - by prices: of each cell its room × its price; and of each bundle and unit of a part what it is worth
//     above the price of what it needs, if it is;
//   - by the split: of each cell what the best choice of its parts, and of the bundles with the worth
//     that is split off for it, would be worth if it were alone.
//
// A Bound below both is shown by deciding the bundles one after another, taken or left: where what is taken, with the sum by the split
// of the rest in the rooms that are left, is not worth more than the Bound, nobody has to look further. At the end of each way nothing
// may be worth more. Any order of the bundles will do; those that need most cells first, of these the greatest worth, needs few steps.
type GroupProof struct {
	Bound   int64
	Scale   int64     // of prices and split
	Cells   []int32   // of the problem
	Prices  []int64   // of a unit of each
	Bundles []int32   // of the problem: those that need some of the cells and could be had by themselves
	Split   [][]int64 // of each bundle its worth, over its needs of these cells, by cell; all of it
}

// ByCell returns the needs in the order of their cells.
func ByCell(needs []Need) []Need {
	out := slices.Clone(needs)
	slices.SortFunc(out, func(x, y Need) int { return int(x.Cell - y.Cell) })
	return out
}

func (g *group) proof() GroupProof {
	out := GroupProof{Bound: g.bound, Scale: g.scale, Cells: g.cellOf, Prices: g.price, Split: g.parted}
	for _, j := range g.bundleOf {
		out.Bundles = append(out.Bundles, int32(j))
	}
	return out
}

// Check shows that nothing is worth more than the proof says, by the numbers in it alone, and returns that bound. It is an error if the
// proof leaves something out, splits more or less than the worth of a bundle, or claims a bound that its numbers do not
// show. With the search for the choice it shares only from which size on a cell, or its packs, are counted roughly. Cost: for each cell its
// room times its bundles and packs, and the steps that a bound below the sums takes, at most [mostChecked] for a group.
func (p Problem) Check(proof Proof) (int64, error) {
	of := make([]int, len(p.Room)) // of each cell its group, counted from 1
	for x, g := range proof.Groups {
		if len(g.Prices) != len(g.Cells) || len(g.Split) != len(g.Bundles) || g.Scale < 1 {
			return 0, fmt.Errorf("group %d is incomplete", x)
		}
		for _, c := range g.Cells {
			if of[c] != 0 {
				return 0, fmt.Errorf("cell %d is in two groups", c)
			}
			of[c] = x + 1
		}
	}
	free := int64(0)
	in := make([][]int32, len(proof.Groups))
	for j, b := range p.Bundles {
		if slices.ContainsFunc(b.Needs, func(n Need) bool { return n.Qty > p.Room[n.Cell] }) {
			continue // nobody can have it
		}
		group := 0
		for _, n := range b.Needs {
			if x := of[n.Cell]; x != 0 {
				if group != 0 && group != x {
					return 0, fmt.Errorf("bundle %d holds groups %d and %d together", j, group-1, x-1)
				}
				group = x
			}
		}
		if group == 0 {
			free += b.Worth
		} else {
			in[group-1] = append(in[group-1], int32(j))
		}
	}
	parts := make([][]Part, len(p.Room))
	for _, x := range p.Parts {
		if of[x.Cell] == 0 {
			free += x.Qty * x.Each
		}
		parts[x.Cell] = append(parts[x.Cell], x)
	}
	if free != proof.Free {
		return 0, fmt.Errorf("what nothing is short for is worth %d, not %d", free, proof.Free)
	}
	sum := free
	for x, g := range proof.Groups {
		if !slices.Equal(in[x], g.Bundles) {
			return 0, fmt.Errorf("group %d does not name its bundles", x)
		}
		if err := g.check(p, parts); err != nil {
			return 0, fmt.Errorf("group %d: %w", x, err)
		}
		sum += g.Bound
	}
	return sum, nil
}

// check shows the bound of a group.
func (g *GroupProof) check(p Problem, parts [][]Part) error {
	at := map[int32]int{}
	priced := int64(0)
	for i, c := range g.Cells {
		if g.Prices[i] < 0 {
			return fmt.Errorf("the price of cell %d is negative", c)
		}
		at[c] = i
		priced = capped.Plus(priced, capped.Times(g.Prices[i], p.Room[c]))
		for _, x := range parts[c] {
			priced = capped.Plus(priced, capped.Times(x.Qty, above(capped.Times(g.Scale, x.Each), g.Prices[i])))
		}
	}
	wants := make([][]want, len(g.Cells))
	for k, j := range g.Bundles {
		b := p.Bundles[j]
		left, cost, next := g.Scale*b.Worth, int64(0), 0
		for _, n := range ByCell(b.Needs) {
			i, ours := at[n.Cell]
			if !ours {
				continue
			}
			if next == len(g.Split[k]) {
				return fmt.Errorf("bundle %d is split over too few cells", j)
			}
			part := g.Split[k][next]
			next++
			left -= part
			cost = capped.Plus(cost, capped.Times(g.Prices[i], n.Qty))
			wants[i] = append(wants[i], want{k, n.Qty, part})
		}
		if left != 0 || next != len(g.Split[k]) {
			return fmt.Errorf("%d of the worth of bundle %d is not split", left, j)
		}
		priced = capped.Plus(priced, above(g.Scale*b.Worth, cost))
	}
	if tooMuch(g.Split) {
		return errors.New("its split is too great to be added up")
	}
	alone := int64(0)
	for i, c := range g.Cells {
		alone += bestAlone(p.Room[c], wants[i], parts[c], g.Scale)
	}
	if shown := min(priced, alone) / g.Scale; g.Bound < shown {
		return g.branches(p, parts, wants, shown)
	}
	return nil
}

// mostChecked is how many steps are taken at most to show a bound below the sums.
const mostChecked = 1_000_000

// branches shows a bound below what the sums show, as [GroupProof] says it.
func (g *GroupProof) branches(p Problem, parts [][]Part, wants [][]want, shown int64) error {
	claim := fmt.Errorf("it claims %d, its sums show %d", g.Bound, shown)
	size := int64(0)
	for i, c := range g.Cells {
		if unitOf(p.Room[c], len(wants[i])) > 1 {
			return claim // a cell that is counted roughly shows nothing more when it is looked into
		}
		size += (p.Room[c] + 1) * int64(len(wants[i])+1)
	}
	if size > mostTables {
		return claim
	}
	x := &checking{bound: g.Bound, scale: g.Scale, needs: make([][]need, len(g.Bundles)), worth: make([]int64, len(g.Bundles))}
	for k, j := range g.Bundles {
		x.order, x.worth[k] = append(x.order, k), p.Bundles[j].Worth
	}
	for i := range wants {
		for _, w := range wants[i] {
			x.needs[w.bundle] = append(x.needs[w.bundle], need{i, w.qty})
		}
	}
	slices.SortStableFunc(x.order, func(a, b int) int {
		return cmp.Or(len(x.needs[b])-len(x.needs[a]), cmp.Compare(x.worth[b], x.worth[a]))
	})
	rank := make([]int, len(x.order))
	for r, k := range x.order {
		rank[k] = r
	}
	for i, c := range g.Cells {
		slices.SortFunc(wants[i], func(a, b want) int { return rank[a.bundle] - rank[b.bundle] })
		x.left = append(x.left, p.Room[c])
		x.rest = append(x.rest, tablesOf(p.Room[c], wants[i], parts[c], g.Scale))
	}
	x.next = make([]int, len(g.Cells))
	if !x.none(0, 0) {
		return claim
	}
	return nil
}

// need is so many units of a cell, by its place in the proof.
type need struct {
	cell int
	qty  int64
}

// checking is a look at all choices that might be worth more than the bound.
type checking struct {
	bound, scale int64
	order        []int // of the bundles, by their place in the proof
	needs        [][]need
	worth, left  []int64
	rest         [][][]int64 // of each cell, from each of its wants on, what they and the parts are worth at most in so much room
	next         []int       // of each cell its first want that is not decided
	steps        int
}

// none says whether no choice is worth more than the bound once the bundles before rank r are decided.
func (x *checking) none(r int, taken int64) bool {
	open := int64(0)
	for i := range x.left {
		open += x.rest[i][x.next[i]][x.left[i]]
	}
	if taken+open/x.scale <= x.bound {
		return true
	}
	if x.steps++; r == len(x.order) || x.steps > mostChecked {
		return false
	}
	k := x.order[r]
	for _, n := range x.needs[k] {
		x.next[n.cell]++
		x.left[n.cell] -= n.qty
	}
	fits := !slices.ContainsFunc(x.needs[k], func(n need) bool { return x.left[n.cell] < 0 })
	ok := !fits || x.none(r+1, taken+x.worth[k])
	for _, n := range x.needs[k] {
		x.left[n.cell] += n.qty
	}
	ok = ok && x.none(r+1, taken)
	for _, n := range x.needs[k] {
		x.next[n.cell]--
	}
	return ok
}

// tablesOf says of a cell, from each of its wants on, what they and the parts are worth at most in so much room.
func tablesOf(room int64, wants []want, parts []Part, scale int64) [][]int64 {
	out := make([][]int64, len(wants)+1)
	packs := bestPacks(room, parts)
	last := make([]int64, room+1)
	for x := range last {
		last[x] = scale * packs(int64(x))
	}
	out[len(wants)] = last
	for k := len(wants) - 1; k >= 0; k-- {
		out[k] = slices.Clone(out[k+1])
		for x := wants[k].qty; x <= room; x++ {
			out[k][x] = max(out[k][x], out[k+1][x-wants[k].qty]+wants[k].worth)
		}
	}
	return out
}

// want is a bundle as a cell sees it.
type want struct {
	bundle     int
	qty, worth int64
}

// bestAlone is what the best choice of a cell is worth. As in the proof, rooms above a size are counted in larger units, and
// packs that have too many sums are taken apart; either makes the sum greater, never less.
func bestAlone(room int64, wants []want, parts []Part, scale int64) int64 {
	unit := unitOf(room, len(wants))
	size := room/unit + 1
	best := make([]int64, size)
	packs := bestPacks(room, parts)
	for x := range best {
		best[x] = scale * packs(min(room, int64(x)*unit+room%unit))
	}
	for _, w := range wants {
		if w.worth <= 0 {
			continue
		}
		for x, q := size-1, w.qty/unit; x >= q; x-- {
			best[x] = max(best[x], best[x-q]+w.worth)
		}
	}
	return best[size-1]
}

// bestPacks says what the parts are worth at most in so much space, at most the room.
func bestPacks(room int64, parts []Part) func(space int64) int64 {
	if !tabled(room, parts) {
		if sums, ok := sumsOfPacks(room, parts); ok {
			return func(space int64) int64 {
				n, found := slices.BinarySearchFunc(sums, space, func(x sum, space int64) int { return cmp.Compare(x.room, space) })
				if found {
					n++
				}
				return sums[n-1].worth
			}
		}
		unit := unitOfPacks(parts)
		dear := slices.Clone(parts)
		slices.SortStableFunc(dear, func(x, y Part) int { return cmp.Compare(y.Each, x.Each) })
		return func(space int64) (sum int64) {
			space -= space % unit
			for _, x := range dear {
				q := min(space, x.Qty)
				space -= q
				sum += q * x.Each
			}
			return sum
		}
	}
	best := make([]int64, room+1)
	for _, x := range parts {
		before := slices.Clone(best)
		try := func(q int64) {
			for space := q; space <= room; space++ {
				best[space] = max(best[space], before[space-q]+q*x.Each)
			}
		}
		for q := max(1, x.Pack); q < x.Qty && q <= room; q += max(1, x.Pack) {
			try(q)
		}
		if x.Qty <= room {
			try(x.Qty)
		}
	}
	return func(space int64) int64 { return best[space] }
}

// sum is a sum of packs.
type sum struct{ room, worth int64 }

// mostSums is how many sums of packs are compared at most.
const mostSums = 20_000_000

// sumsOfPacks are the sums of packs that are worth more than any that takes no more room, by room; ok is
// false if there would be too many to look at.
func sumsOfPacks(room int64, parts []Part) (sums []sum, ok bool) {
	sums = []sum{{}}
	looked := int64(0)
	dear := slices.Clone(parts)
	slices.SortStableFunc(dear, func(x, y Part) int { return cmp.Compare(y.Each, x.Each) })
	for _, p := range dear {
		pack := max(1, p.Pack)
		packs := min(p.Qty, room) / pack
		if looked = capped.Plus(looked, capped.Times(int64(len(sums)), packs+1)); looked > mostSums ||
			max(int64(len(sums)), packs) > mostSteps {
			return nil, false
		}
		var all []sum
		for _, x := range sums {
			for n := int64(0); n <= packs && x.room+n*pack <= room; n++ {
				all = append(all, sum{x.room + n*pack, x.worth + n*pack*p.Each})
			}
			if p.Qty%pack != 0 && x.room+p.Qty <= room {
				all = append(all, sum{x.room + p.Qty, x.worth + p.Qty*p.Each})
			}
		}
		slices.SortFunc(all, func(x, y sum) int { return cmp.Or(cmp.Compare(x.room, y.room), cmp.Compare(y.worth, x.worth)) })
		sums = sums[:0]
		for _, x := range all {
			if n := len(sums); n == 0 || x.worth > sums[n-1].worth {
				sums = append(sums, x)
			}
		}
	}
	return sums, true
}
