package choose

import "slices"

// Of a room that is too large for a table, what parts are worth in it is mostly a stair of few steps: with large packs there are few
// sums of packs. These are the undominated states of the knapsack (G. L. Nemhauser and Z. Ullmann, Discrete dynamic programming
// and capital allocation, Management Science 15, 1969).

// mostSteps is how many states are looked at before a stair is given up.
const mostSteps = 20_000

// stair is what parts are worth at most in so much room: from a step's room on its worth, up to the next one.
type stair struct {
	steps []step
	moves []move // how the steps came about
}

// step is a sum of packs that is worth more than any that takes no more room.
type step struct {
	room, worth int64
	last        int32 // the move that led to it, or -1
}

// move is so much of a part that was added to what a step before had.
type move struct {
	part   int
	qty    int64
	before int32 // the move before it, or -1
}

// newStair returns the stair of the parts, or ok false if it would have too many steps.
func newStair(parts []Part, order []int, room int64) (s *stair, ok bool) {
	s = &stair{steps: []step{{last: -1}}}
	for _, x := range order {
		p := &parts[x]
		pack := max(1, p.Pack)
		before := s.steps
		// So many packs, from none to all, are sums of 1, 2, 4 … packs and what is left.
		for n, packs := int64(1), min(p.Qty, room)/pack; packs > 0; n *= 2 {
			n = min(n, packs)
			packs -= n
			if !s.add(s.steps, x, n*pack, p.Each, room) {
				return nil, false
			}
		}
		if p.Qty%pack != 0 && !s.add(before, x, p.Qty, p.Each, room) {
			return nil, false
		}
	}
	return s, true
}

// add makes steps of those there are and of others with so much of a part more.
func (s *stair) add(others []step, part int, qty, each, room int64) bool {
	if qty > room || each == 0 {
		return true
	}
	merged := make([]step, 0, len(s.steps)+len(others))
	put := func(x step) {
		if n := len(merged); n == 0 || merged[n-1].worth < x.worth {
			merged = append(merged, x)
		}
	}
	here := s.steps
	for _, x := range others {
		if x.room > room-qty {
			break
		}
		y := step{x.room + qty, x.worth + qty*each, int32(len(s.moves))}
		for len(here) > 0 && (here[0].room < y.room || here[0].room == y.room && here[0].worth >= y.worth) {
			put(here[0])
			here = here[1:]
		}
		if n := len(merged); n > 0 && merged[n-1].worth >= y.worth {
			continue
		}
		s.moves = append(s.moves, move{part, qty, x.last})
		put(y)
	}
	for _, x := range here {
		put(x)
	}
	s.steps = merged
	return len(s.moves) <= mostSteps && len(s.steps) <= mostSteps
}

// at is the step on which so much room lies.
func (s *stair) at(room int64) *step {
	n, found := slices.BinarySearchFunc(s.steps, room, func(x step, room int64) int {
		switch {
		case x.room < room:
			return -1
		case x.room > room:
			return 1
		}
		return 0
	})
	if !found {
		n--
	}
	return &s.steps[n]
}

// fill says how much of each part the step has.
func (s *stair) fill(room int64, qty []int64) {
	for k := s.at(room).last; k >= 0; k = s.moves[k].before {
		qty[s.moves[k].part] += s.moves[k].qty
	}
}
