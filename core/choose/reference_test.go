package choose

import (
	"math/rand/v2"
	"testing"

	"journeyman/internal/reference"
)

// program is the problem as an integer program.
func program(p Problem) string {
	k := reference.NewKnapsack(p.Room)
	for _, b := range p.Bundles {
		n := k.Bundle(b.Worth)
		for _, x := range b.Needs {
			k.Needs(n, x.Cell, x.Qty)
		}
	}
	for _, x := range p.Parts {
		k.Part(x.Cell, x.Qty, max(1, x.Pack), x.Each)
	}
	return k.String()
}

func TestTheReferenceSolverFindsNothingBetter(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(6, 9))
	var problems []Problem
	var programs []string
	for n := range 400 {
		p := random(r, 40, 8, 6, n%3 == 0)
		if n%2 == 0 {
			p = large(r, 14, 4, 6)
		}
		for i := range p.Room { // about half of what is wanted
			if n%2 != 0 {
				p.Room[i] = int64(20 + r.IntN(90))
			}
		}
		if len(p.Bundles) == 0 {
			continue
		}
		problems, programs = append(problems, p), append(programs, program(p))
	}
	proved := 0
	for n, best := range reference.Optima(t, programs) {
		a := Best(problems[n])
		check(t, problems[n], a)
		if a.Reached > best || a.Bound < best {
			t.Errorf("problem %d: reached %d of at most %d, the solver says %d", n, a.Reached, a.Bound, best)
		}
		if a.Reached == best {
			proved++
		}
	}
	if proved < len(problems)*97/100 {
		t.Errorf("only %d of %d are the best", proved, len(problems))
	}
}
