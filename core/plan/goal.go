package plan

import (
	"slices"

	"journeyman/core/book"
	"journeyman/core/choose"
)

// Goal is what a run makes as great as it can, tier by tier, before it serves in turn.
type Goal string

// The goals.
const (
	InOrder    Goal = "keys"   // none: lines are served in turn
	MostOrders Goal = "orders" // the number of orders whose open lines are all covered
	MostValue  Goal = "value"  // the value, units × price, that can go under the ship rules
)

// TierGoal is what a goal reached in a tier, on what the tiers before it left, and what no choice
// could exceed.
type TierGoal struct {
	Tier           uint8
	Reached, Bound int64      // orders, or minor units of value
	Proof          *GoalProof // of the bound, if it was asked for

	problem choose.Problem // that was solved, and its proof as it was found, if one was asked for
	proof   *choose.Proof
}

// wish is what the goal would serve: the lines of a bundle, or the line of a part.
type wish struct {
	tier  uint8
	lines []int32
}

// aiming chooses for the goal.
type aiming struct {
	*allocating
	wishes  []wish // of bundles, then of parts
	bundles []choose.Bundle
	parts   []choose.Part
	turns   []int // wishes, as the policy would serve them
}

// aim serves the goal, tier by tier: lines draw on their own warehouses only, and the promises of
// the lines in scope do not stand in the way.
func (a *allocating) aim(turns []int32) {
	m := &aiming{allocating: a}
	var scope []turn
	for i := range a.b.Lines {
		if l := int32(i); a.b.Eligible(l) && a.inScope(l) {
			scope = append(scope, turn{})
			a.turning.turn(&scope[len(scope)-1], l)
			a.lift(&scope[len(scope)-1])
		}
	}
	m.wish(turns)
	room := make([]int64, len(a.b.Cells))
	for c := range room {
		room[c] = a.there(int32(c))
		for _, r := range a.reserves[int32(c)] {
			room[c] = max(0, room[c]-r.Units)
		}
	}
	plain, plainly := m.plain(room)
	chosen := m.tiers(room, nil, nil)
	if slices.Compare(reached(a.out.Tiers), plainly) < 0 {
		chosen = m.tiers(room, plain, plainly)
	}
	for x, units := range chosen {
		for _, l := range m.wishes[x].lines {
			if units == 0 {
				continue
			}
			a.place(l)
			if x < len(m.bundles) {
				units = a.b.Lines[l].Open
			}
			a.give(l, a.b.Lines[l].Cell, units)
			if a.rule(&a.b.Lines[l]) == book.Whole {
				a.had[a.b.Lines[l].Order] = true
			}
		}
	}
	for i := range scope {
		a.settle(&scope[i])
	}
}

func reached(of []TierGoal) []int64 {
	var out []int64
	for _, t := range of {
		out = append(out, t.Reached)
	}
	return out
}

// inScope says whether the run serves the line at all: it is due, or its order goes only whole and
// another of its lines is.
func (a *allocating) inScope(l int32) bool {
	if a.due(&a.b.Lines[l]) {
		return true
	}
	line := &a.b.Lines[l]
	if a.rule(line) != book.Whole {
		return false
	}
	first, after := a.b.LinesOf(line.Order)
	for x := first; x < after; x++ {
		if a.b.Lines[x].Open > 0 && a.due(&a.b.Lines[x]) {
			return true
		}
	}
	return false
}

// wish notes what the goal is about, in the order of the policy: the bundles, then the parts.
func (m *aiming) wish(turns []int32) {
	seen := make([]bool, len(m.b.Orders))
	at := make([]int, len(m.b.Lines)) // the wish for which the line stands in its turn, counted from 1
	for _, l := range turns {
		line := &m.b.Lines[l]
		rule := m.rule(line)
		switch {
		case m.options.Goal == MostOrders || rule == book.Whole:
			if !seen[line.Order] {
				seen[line.Order] = true
				m.order(line.Order)
				at[l] = len(m.wishes)
			}
		case rule == book.Lines && m.due(line):
			m.bundle([]int32{l}, line.Open*line.Price)
			at[l] = len(m.wishes)
		}
	}
	for _, l := range turns {
		line := &m.b.Lines[l]
		if m.options.Goal == MostValue && m.rule(line) == book.Any && m.due(line) && line.Price > 0 {
			m.wishes = append(m.wishes, wish{m.b.Orders[line.Order].Tier, []int32{l}})
			m.parts = append(
				m.parts,
				choose.Part{Cell: line.Cell, Qty: line.Open, Pack: m.b.Items[m.b.Cells[line.Cell].Item].Multiple, Each: line.Price},
			)
			at[l] = len(m.wishes)
		}
	}
	named := make([]bool, len(m.wishes))
	for _, l := range turns {
		if x := at[l] - 1; x >= 0 && !named[x] {
			named[x] = true
			m.turns = append(m.turns, x)
		}
	}
}

// order is a bundle of all open lines of the order, if the run serves all of them.
func (m *aiming) order(order int32) {
	var lines []int32
	value := int64(0)
	first, after := m.b.LinesOf(order)
	for l := first; l < after; l++ {
		if m.b.Lines[l].Open == 0 {
			continue
		}
		if !m.inScope(l) {
			return
		}
		lines = append(lines, l)
		value += m.b.Lines[l].Open * m.b.Lines[l].Price
	}
	if m.options.Goal == MostOrders {
		value = 1
	}
	m.bundle(lines, value)
}

func (m *aiming) bundle(lines []int32, worth int64) {
	b := choose.Bundle{Worth: worth}
	for _, l := range lines {
		line := &m.b.Lines[l]
		at := slices.IndexFunc(b.Needs, func(n choose.Need) bool { return n.Cell == line.Cell })
		if at < 0 {
			at = len(b.Needs)
			b.Needs = append(b.Needs, choose.Need{Cell: line.Cell})
		}
		b.Needs[at].Qty += line.Open
	}
	m.bundles = append(m.bundles, b)
	m.wishes = append(m.wishes, wish{m.b.Orders[m.b.Lines[lines[0]].Order].Tier, lines})
}

// plain is what serving the wishes in turn would choose, and what it reaches in each tier: no plan
// for the goal is worse.
func (m *aiming) plain(room []int64) (chosen, reached []int64) {
	left := slices.Clone(room)
	chosen = make([]int64, len(m.wishes))
	var sum [6]int64
	var any [6]bool
	for _, x := range m.turns {
		t := m.wishes[x].tier
		any[t] = true
		if x >= len(m.bundles) {
			p := m.parts[x-len(m.bundles)]
			chosen[x] = take(p.Qty, left[p.Cell], p.Pack)
			sum[t] += chosen[x] * p.Each
			left[p.Cell] -= chosen[x]
			continue
		}
		b := m.bundles[x]
		if !slices.ContainsFunc(b.Needs, func(n choose.Need) bool { return left[n.Cell] < n.Qty }) {
			chosen[x] = 1
			sum[t] += b.Worth
			for _, n := range b.Needs {
				left[n.Cell] -= n.Qty
			}
		}
	}
	for t := range sum {
		if any[t] {
			reached = append(reached, sum[t])
		}
	}
	return chosen, reached
}

// tiers chooses tier by tier; as long as it does no better than the plain choice it follows that,
// if there is one. It returns how many units of each part, and of each bundle whether, are chosen.
func (m *aiming) tiers(room, plain, plainly []int64) []int64 {
	left := slices.Clone(room)
	chosen := make([]int64, len(m.wishes))
	m.out.Tiers = nil
	follow := plain != nil
	for tier := uint8(1); tier <= 5; tier++ {
		p := choose.Problem{Room: left, Prove: m.options.Prove}
		var of []int // wishes
		for x, b := range m.bundles {
			if m.wishes[x].tier == tier {
				p.Turns = append(p.Turns, int32(len(p.Bundles)))
				p.Bundles = append(p.Bundles, b)
				of = append(of, x)
			}
		}
		for x, part := range m.parts {
			if m.wishes[len(m.bundles)+x].tier == tier {
				p.Parts = append(p.Parts, part)
				of = append(of, len(m.bundles)+x)
			}
		}
		if len(of) == 0 {
			continue
		}
		a := choose.Best(p)
		t := TierGoal{Tier: tier, Reached: a.Reached, Bound: a.Bound, Proof: m.proof(p, of, a.Proof)}
		if m.options.Prove {
			t.problem, t.proof = p, a.Proof
			t.problem.Room = slices.Clone(left)
		}
		if follow && a.Reached <= plainly[len(m.out.Tiers)] {
			t.Reached = plainly[len(m.out.Tiers)]
			for _, x := range of {
				chosen[x] = plain[x]
			}
		} else {
			follow = false
			for i, x := range of {
				switch {
				case i >= len(p.Bundles):
					chosen[x] = a.Parts[i-len(p.Bundles)]
				case a.Bundles[i]:
					chosen[x] = 1
				}
			}
		}
		m.out.Tiers = append(m.out.Tiers, t)
		for _, x := range of {
			if x >= len(m.bundles) {
				left[m.parts[x-len(m.bundles)].Cell] -= chosen[x]
			} else if chosen[x] > 0 {
				for _, n := range m.bundles[x].Needs {
					left[n.Cell] -= n.Qty
				}
			}
		}
	}
	return chosen
}
