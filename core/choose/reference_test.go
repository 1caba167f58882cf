package choose

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"journeyman/internal/reference"
)

// program is the problem as an integer program. Packs of a part are counted by one variable; what is
// left of it beyond whole packs goes only with all of them.
func program(p Problem) string {
	var worth, limits, ints, bins []string
	needs := make([][]string, len(p.Room))
	for j, b := range p.Bundles {
		worth = append(worth, fmt.Sprintf("%d b%d", b.Worth, j))
		bins = append(bins, fmt.Sprintf("b%d", j))
		for _, n := range b.Needs {
			needs[n.Cell] = append(needs[n.Cell], fmt.Sprintf("%d b%d", n.Qty, j))
		}
	}
	for x, part := range p.Parts {
		pack := max(1, part.Pack)
		packs, rest := part.Qty/pack, part.Qty%pack
		worth = append(worth, fmt.Sprintf("%d p%d + %d r%d", pack*part.Each, x, rest*part.Each, x))
		needs[part.Cell] = append(needs[part.Cell], fmt.Sprintf("%d p%d + %d r%d", pack, x, rest, x))
		limits = append(limits, fmt.Sprintf(" m%d: p%d <= %d", x, x, packs), fmt.Sprintf(" a%d: %d r%d - p%d <= 0", x, packs, x, x))
		ints, bins = append(ints, fmt.Sprintf("p%d", x)), append(bins, fmt.Sprintf("r%d", x))
	}
	var s strings.Builder
	s.WriteString("Maximize\n obj: 0 z + " + strings.Join(worth, " + ") + "\nSubject To\n c: z <= 1\n")
	for i, n := range needs {
		if len(n) > 0 {
			fmt.Fprintf(&s, " n%d: %s <= %d\n", i, strings.Join(n, " + "), p.Room[i])
		}
	}
	s.WriteString(strings.Join(limits, "\n") + "\nGeneral\n z " + strings.Join(ints, " ") + "\nBinary\n " + strings.Join(bins, " ") + "\nEnd\n")
	return s.String()
}

func TestTheReferenceSolverFindsNothingBetter(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(6, 9))
	var problems []Problem
	var programs []string
	for n := range 240 {
		p := random(r, 40, 8, 6, n%3 == 0)
		for i := range p.Room { // about half of what is wanted
			p.Room[i] = int64(20 + r.IntN(90))
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
	if proved < len(problems)*98/100 {
		t.Errorf("only %d of %d are the best", proved, len(problems))
	}
}
