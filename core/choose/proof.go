package choose

import (
	"fmt"
	"slices"
)

// Proof is why no choice is worth more than the bound: numbers that add up to it, which anybody can
// add up again (Check does).
type Proof struct {
	Free   int64 // the worth of all that nothing is short for
	Groups []GroupProof
}

// GroupProof is the proof for cells that have to do with each other. Two sums bound what a choice can be worth; the
// smaller one counts, in whole numbers after dividing by Scale:
//
//   - by prices: of each cell its room × its price; and of each bundle and unit of a part what it is worth
//     above the price of what it needs, if it is;
//   - by the split: of each cell what the best choice of its parts, and of the bundles with the worth
//     that is split off for it, would be worth if it were alone.
//
// If the group was Searched, every choice that could be better by these sums was looked into, and
// Bound is what was reached.
type GroupProof struct {
	Bound    int64
	Searched bool
	Scale    int64     // of prices and split
	Cells    []int32   // of the problem
	Prices   []int64   // of a unit of each
	Bundles  []int32   // of the problem: those that need some of the cells and could be had by themselves
	Split    [][]int64 // of each bundle its worth, over its needs of these cells, by cell; all of it
}

// ByCell returns the needs in the order of their cells.
func ByCell(needs []Need) []Need {
	out := slices.Clone(needs)
	slices.SortFunc(out, func(x, y Need) int { return int(x.Cell - y.Cell) })
	return out
}

func (g *group) proof() GroupProof {
	out := GroupProof{Bound: g.bound, Searched: g.sought, Scale: g.scale, Cells: g.cellOf, Prices: g.price, Split: g.parted}
	for _, j := range g.bundleOf {
		out.Bundles = append(out.Bundles, int32(j))
	}
	return out
}

// Check adds the proof up again and returns the bound that the sums show, without what was searched.
// It is an error if the proof leaves something out, splits more or less than the worth of a bundle, or claims
// a bound that its sums do not show. With the search for the choice it shares only from which size on a cell is counted
// roughly. Cost: for each cell its room times its bundles and packs.
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
		shown, err := g.shown(p, parts)
		if err != nil {
			return 0, fmt.Errorf("group %d: %w", x, err)
		}
		if g.Bound > shown || !g.Searched && g.Bound != shown {
			return 0, fmt.Errorf("group %d claims %d, its sums show %d", x, g.Bound, shown)
		}
		sum += shown
	}
	return sum, nil
}

// shown is the smaller one of the two sums.
func (g *GroupProof) shown(p Problem, parts [][]Part) (int64, error) {
	at := map[int32]int{}
	priced := int64(0)
	for i, c := range g.Cells {
		if g.Prices[i] < 0 {
			return 0, fmt.Errorf("the price of cell %d is negative", c)
		}
		at[c] = i
		priced += g.Prices[i] * p.Room[c]
		for _, x := range parts[c] {
			priced += x.Qty * max(0, g.Scale*x.Each-g.Prices[i])
		}
	}
	wants := make([][]want, len(g.Cells))
	for k, j := range g.Bundles {
		b := p.Bundles[j]
		needs := ByCell(b.Needs)
		gain, left, next := g.Scale*b.Worth, g.Scale*b.Worth, 0
		for _, n := range needs {
			i, ours := at[n.Cell]
			if !ours {
				continue
			}
			if next == len(g.Split[k]) {
				return 0, fmt.Errorf("bundle %d is split over too few cells", j)
			}
			part := g.Split[k][next]
			next++
			left -= part
			gain -= g.Prices[i] * n.Qty
			wants[i] = append(wants[i], want{n.Qty, part})
		}
		if left != 0 || next != len(g.Split[k]) {
			return 0, fmt.Errorf("%d of the worth of bundle %d is not split", left, j)
		}
		priced += max(0, gain)
	}
	alone := int64(0)
	for i, c := range g.Cells {
		alone += bestAlone(p.Room[c], wants[i], parts[c], g.Scale)
	}
	return min(priced, alone) / g.Scale, nil
}

type want struct{ qty, worth int64 }

// bestAlone is what the best choice of a cell is worth. As in the proof, rooms above a size are counted in larger units, and
// packs in a room above a size are taken apart; either makes the sum greater, never less.
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
		dear := slices.Clone(parts)
		slices.SortStableFunc(dear, func(x, y Part) int { return int(min(1, max(-1, y.Each-x.Each))) })
		return func(space int64) (sum int64) {
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
