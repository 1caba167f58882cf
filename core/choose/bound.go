package choose

import (
	"math"
	"slices"

	"journeyman/core/capped"
)

// prices looks for a price of each cell's unit at which the bundles that are worth more than the
// price of what they need take about what is there: the Lagrangian dual, by steps along what is
// taken too much or too little.
func (g *group) prices() {
	n := len(g.room)
	g.price = make([]int64, n)
	if n == 1 {
		return
	}
	const highest = 1 << 60
	price, left := make([]int64, n), make([]int64, n)
	at := int64(-1)
	step, idle := 1.0, 0
	for range 120 {
		dual := int64(0)
		for i := range left {
			left[i] = g.room[i]
			dual = capped.Plus(dual, capped.Times(price[i], g.room[i]))
			for _, x := range g.parts[i] {
				if gain := above(capped.Times(g.scale, x.Each), price[i]); gain > 0 {
					dual = capped.Plus(dual, capped.Times(gain, x.Qty))
					left[i] -= x.Qty
				}
			}
		}
		for j := range g.bundles {
			b := &g.bundles[j]
			cost := int64(0)
			for _, x := range b.Needs {
				cost = capped.Plus(cost, capped.Times(price[x.Cell], x.Qty))
			}
			if gain := above(g.scale*b.Worth, cost); gain > 0 {
				dual = capped.Plus(dual, gain)
				for _, x := range b.Needs {
					left[x.Cell] -= x.Qty
				}
			}
		}
		if at < 0 || dual < at {
			at, idle = dual, 0
			copy(g.price, price)
		} else if idle++; idle > 5 {
			step, idle = step/2, 0
			copy(price, g.price)
		}
		square := 0.0
		for i, q := range left {
			if q < 0 || price[i] > 0 {
				square += float64(q) * float64(q)
			}
		}
		if square == 0 || step < 1e-3 {
			break
		}
		far := step * float64(dual-g.scale*g.reached) / square
		for i, q := range left {
			price[i] = int64(min(max(0, float64(price[i])-far*float64(q)), highest))
		}
	}
	g.bound = min(g.bound, at/g.scale)
}

// splitRounds is how often the split is bettered at most.
const splitRounds = 60

// split splits the worth of every bundle over its cells, so that what the cells would have, each by
// itself, is worth as little as can be: a bound. What the cells would have is what is tried as a
// choice.
func (g *group) split() {
	parts := g.firstSplit()
	best, least := parts, int64(-1)
	liked := make([]float64, len(g.bundles))
	step, idle := 1.0, 0
	cells := newAskedCells(g)
	for round := range splitRounds {
		if tooMuch(parts) {
			break
		}
		sum := cells.ask(parts)
		if least < 0 || sum < least {
			least, idle = sum, 0
			best = copied(parts)
		} else if idle++; idle > 4 {
			step, idle = step/2, 0
			parts = copied(best)
		}
		g.bound = min(g.bound, least/g.scale)
		shares := cells.shares()
		for j, share := range shares {
			liked[j] = (3*liked[j] + share) / 4
		}
		if round%4 == 0 {
			g.keepDense(shares)
		}
		if g.reached == g.bound || len(g.room) == 1 || step < 0.05 || cells.k.work > mostWork {
			break
		}
		if !cells.move(parts, step*float64(sum-g.scale*g.reached)) {
			break
		}
	}
	g.keepDense(liked)
	g.parted = best
}

// askedCells are the cells of a group, each of which was asked by itself which bundles it would have at their split worth.
type askedCells struct {
	g     *group
	k     oneCell
	took  [][]bool // of each need of each bundle, whether its cell would have it
	of    []int32  // of the needs of each bundle, how many cells would
	where []int    // the need of each bundle that is looked at next
}

func newAskedCells(g *group) *askedCells {
	c := &askedCells{g: g, took: make([][]bool, len(g.bundles)), of: make([]int32, len(g.bundles)), where: make([]int, len(g.bundles))}
	for j := range c.took {
		c.took[j] = make([]bool, len(g.bundles[j].Needs))
	}
	return c
}

// ask asks every cell and returns what the answers are worth together.
func (c *askedCells) ask(parts [][]int64) (sum int64) {
	for j := range c.took {
		clear(c.took[j])
	}
	clear(c.of)
	clear(c.where)
	g, k := c.g, &c.k
	for i := range g.room {
		unit := g.bases[i].unit
		k.room, k.base = g.room[i]/unit, &g.bases[i]
		k.items = k.items[:0]
		for x, j := range g.at[i] {
			k.items = append(k.items, item{j, g.qty[i][x] / unit, parts[j][c.where[j]]})
		}
		sum += k.solve(func(j int32) {
			c.took[j][c.where[j]] = true
			c.of[j]++
		})
		for _, j := range g.at[i] {
			c.where[j]++
		}
	}
	return sum
}

// shares is, of each bundle, which part of its cells would have it.
func (c *askedCells) shares() []float64 {
	out := make([]float64, len(c.of))
	for j := range out {
		out[j] = float64(c.of[j]) / float64(max(1, len(c.took[j])))
	}
	return out
}

// move moves worth of each bundle from the cells that would have it to those that would not, as far as that along the whole way. It says
// whether there is any that is not agreed upon.
func (c *askedCells) move(parts [][]int64, far float64) bool {
	square := 0.0
	for j := range c.took {
		in := float64(c.of[j])
		square += in - in*in/float64(len(c.took[j]))
	}
	if square == 0 {
		return false
	}
	far /= square
	for j := range c.took {
		n := int64(len(c.took[j]))
		if n < 2 || c.of[j] == 0 || c.of[j] == int32(n) {
			continue
		}
		mean := far * float64(c.of[j]) / float64(n)
		rest := c.g.scale * c.g.bundles[j].Worth
		for x := range parts[j] {
			if c.took[j][x] {
				parts[j][x] -= int64(far - mean)
			} else {
				parts[j][x] += int64(mean)
			}
			rest -= parts[j][x]
		}
		for x := range parts[j] { // all of the worth is split, neither more nor less
			parts[j][x] += rest / n
		}
		parts[j][0] += rest % n
	}
	return true
}

// tooMuch says whether parts of worths have become so great, some above and some below nothing, that their sums
// might not be whole numbers of 64 bits.
func tooMuch(parts [][]int64) bool {
	sum := 0.0
	for _, of := range parts {
		for _, x := range of {
			sum += math.Abs(float64(x))
		}
	}
	return sum > 1<<61
}

// mostWork bounds the steps that solving the cells of one group may take while its split is bettered.
const mostWork = 40_000_000

func copied(of [][]int64) [][]int64 {
	out := make([][]int64, len(of))
	for i := range of {
		out[i] = slices.Clone(of[i])
	}
	return out
}

// firstSplit splits by the prices; worths so great that this might not add up, evenly.
func (g *group) firstSplit() [][]int64 {
	out := make([][]int64, len(g.bundles))
	for j := range g.bundles {
		b := &g.bundles[j]
		n := int64(len(b.Needs))
		worth, price := g.scale*b.Worth, g.paid[j]
		rest := worth
		for _, x := range b.Needs {
			q := (worth - price) / n
			q += g.price[x.Cell] * x.Qty
			out[j] = append(out[j], q)
			rest -= q
		}
		out[j][0] += rest
	}
	if !tooMuch(out) {
		return out
	}
	for j, of := range out {
		worth, n := g.scale*g.bundles[j].Worth, int64(len(of))
		for x := range of {
			of[x] = worth / n
		}
		of[0] += worth % n
	}
	return out
}
