package choose

import (
	"cmp"
	"slices"
)

// state is a choice and what it leaves.
type state struct {
	g    *group
	in   []bool
	left []int64
	sum  int64   // worth of the bundles
	rest int64   // worth of the parts beside them
	seen []int32 // bundles that were put in or dropped since the choice was [group.best]; nil if nobody asks
}

func newState(g *group) *state {
	s := &state{g: g, in: make([]bool, len(g.bundles)), left: slices.Clone(g.room)}
	for i := range s.left {
		s.rest += g.fills[i].worth(s.left[i])
	}
	return s
}

func (s *state) fits(j int32) bool {
	for _, n := range s.g.bundles[j].Needs {
		if s.left[n.Cell] < n.Qty {
			return false
		}
	}
	return true
}

// gains is what adding a bundle that fits is worth, less the parts that it displaces.
func (s *state) gains(j int32) int64 {
	b := &s.g.bundles[j]
	gain := b.Worth
	for _, n := range b.Needs {
		if f := &s.g.fills[n.Cell]; len(f.parts) > 0 {
			gain -= f.worth(s.left[n.Cell]) - f.worth(s.left[n.Cell]-n.Qty)
		}
	}
	return gain
}

// add adds a bundle if it fits and gains, and says whether it did.
func (s *state) add(j int32) bool {
	if s.in[j] || !s.fits(j) || s.gains(j) <= 0 {
		return false
	}
	s.put(j)
	return true
}

func (s *state) put(j int32) {
	s.in[j] = true
	s.sum += s.g.bundles[j].Worth
	for _, n := range s.g.bundles[j].Needs {
		s.take(n.Cell, n.Qty)
	}
	if s.seen != nil {
		s.seen = append(s.seen, j)
	}
}

func (s *state) worth() int64 { return s.sum + s.rest }

// take takes units of a cell, maybe more than there are, or gives them back if they are less than none.
func (s *state) take(cell int32, qty int64) {
	left := s.left[cell] - qty
	if f := &s.g.fills[cell]; len(f.parts) > 0 {
		s.rest += f.worth(max(0, left)) - f.worth(max(0, s.left[cell]))
	}
	s.left[cell] = left
}

func (s *state) drop(j int32) {
	s.in[j] = false
	s.sum -= s.g.bundles[j].Worth
	for _, n := range s.g.bundles[j].Needs {
		s.take(n.Cell, -n.Qty)
	}
	if s.seen != nil {
		s.seen = append(s.seen, j)
	}
}

// back makes the choice the best that is known again.
func (s *state) back() {
	seen := s.seen
	for _, j := range seen {
		switch {
		case s.in[j] && !s.g.best[j]:
			s.drop(j)
		case !s.in[j] && s.g.best[j]:
			s.put(j)
		}
	}
	s.seen = s.seen[:0]
}

// keepDense adds the bundles one after another, those that are liked more first (liked may be nil),
// then those that are worth most for the price of what they need.
func (g *group) keepDense(liked []float64) {
	order := make([]int32, len(g.bundles))
	dense := make([]float64, len(g.bundles))
	for j := range order {
		order[j] = int32(j)
		dense[j] = float64(g.scale) * float64(g.bundles[j].Worth) / (1 + float64(g.paid[j]))
	}
	slices.SortStableFunc(order, func(x, y int32) int {
		if liked != nil && liked[x] != liked[y] {
			return cmp.Compare(liked[y], liked[x])
		}
		return cmp.Compare(dense[y], dense[x])
	})
	s := newState(g)
	for _, j := range order {
		s.add(j)
	}
	g.keep(s)
}

// pay works out what each bundle needs is worth at the prices.
func (g *group) pay() {
	g.paid = make([]int64, len(g.bundles))
	for j := range g.bundles {
		for _, x := range g.bundles[j].Needs {
			g.paid[j] += g.price[x.Cell] * x.Qty
		}
	}
}

// rounds is how often improve goes through all cells.
const rounds = 4

// improve takes out of the best choice all bundles of a cell, one cell after another, and puts in
// again what is worth most there, given what the others leave elsewhere; then every bundle that is
// out, with what stands in its way out. What does not gain is taken back.
func (g *group) improve() {
	s := newState(g)
	for j, in := range g.best {
		if in {
			s.put(int32(j))
		}
	}
	s.seen = make([]int32, 0, 64)
	var k oneCell
	for range rounds {
		before := g.reached
		for i := range g.room {
			g.again(s, &k, i)
		}
		for j := range g.bundles {
			if !s.in[j] {
				g.push(s, int32(j))
			}
		}
		if g.reached == before || g.reached == g.bound {
			return
		}
	}
}

// again solves one cell again, with k to work in.
func (g *group) again(s *state, k *oneCell, cell int) {
	if g.bases[cell].unit > 1 {
		return
	}
	var out []int32
	for _, j := range g.at[cell] {
		if s.in[j] {
			s.drop(j)
			out = append(out, j)
		}
	}
	k.room, k.base, k.items = g.room[cell], &g.bases[cell], k.items[:0]
	for x, j := range g.at[cell] {
		if !s.fits(j) {
			continue
		}
		worth := g.bundles[j].Worth * g.scale
		for _, n := range g.bundles[j].Needs {
			if int(n.Cell) != cell {
				worth -= min(g.price[n.Cell], worth/max(1, n.Qty)/4) * n.Qty / 8 // of two alike the one that takes less elsewhere
			}
		}
		k.items = append(k.items, item{j, g.qty[cell][x], worth})
	}
	var in []int32
	k.solve(func(j int32) { in = append(in, j) })
	slices.SortStableFunc(in, func(x, y int32) int { return cmp.Compare(g.bundles[y].Worth, g.bundles[x].Worth) })
	for _, j := range in {
		s.add(j)
	}
	for _, j := range out {
		s.add(j)
	}
	g.refill(s, []int32{int32(cell)}, out)
	if s.worth() <= g.reached {
		s.back()
		return
	}
	g.keep(s)
}

// refill adds what fits now in the cells of what was taken out.
func (g *group) refill(s *state, cells, out []int32) {
	for _, j := range out {
		if s.in[j] {
			continue
		}
		for _, n := range g.bundles[j].Needs {
			if !slices.Contains(cells, n.Cell) {
				cells = append(cells, n.Cell)
			}
		}
	}
	for _, c := range cells {
		for _, j := range g.at[c] {
			s.add(j)
		}
	}
}

// push puts a bundle in and takes out what stands in its way, the least worth for what it frees.
func (g *group) push(s *state, j int32) {
	s.put(j)
	var out []int32
	for lost := int64(0); lost <= g.bundles[j].Worth; {
		cell := -1
		for _, n := range g.bundles[j].Needs {
			if s.left[n.Cell] < 0 {
				cell = int(n.Cell)
				break
			}
		}
		if cell < 0 {
			break
		}
		at, least := int32(-1), 0.0
		for x, k := range g.at[cell] {
			if k == j || !s.in[k] {
				continue
			}
			each := (float64(g.bundles[k].Worth*g.scale) - float64(g.paid[k])/2) / float64(min(g.qty[cell][x], -s.left[cell]))
			if at < 0 || each < least {
				at, least = k, each
			}
		}
		if at < 0 {
			break
		}
		lost += g.bundles[at].Worth
		s.drop(at)
		out = append(out, at)
	}
	if !slices.ContainsFunc(g.bundles[j].Needs, func(n Need) bool { return s.left[n.Cell] < 0 }) {
		g.refill(s, nil, out)
		if s.worth() > g.reached {
			g.keep(s)
			return
		}
	}
	s.back()
}
