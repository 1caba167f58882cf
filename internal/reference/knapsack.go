package reference

import (
	"fmt"
	"strings"
)

// Knapsack is a choice of bundles and packs as the solver is told it, written piece by piece.
type Knapsack struct {
	rooms              []int64
	needs              [][]string
	worth, limits      []string
	integers, booleans []string
	bundles, parts     int
}

// NewKnapsack begins one with so much room in each cell.
func NewKnapsack(rooms []int64) *Knapsack {
	return &Knapsack{rooms: rooms, needs: make([][]string, len(rooms))}
}

// Bundle adds what is had whole or not at all, and returns its number.
func (k *Knapsack) Bundle(worth int64) int {
	n := k.bundles
	k.bundles++
	k.worth = append(k.worth, fmt.Sprintf("%d b%d", worth, n))
	k.booleans = append(k.booleans, fmt.Sprintf("b%d", n))
	return n
}

// Needs says that a bundle takes so much of a cell.
func (k *Knapsack) Needs(bundle int, cell int32, qty int64) {
	k.needs[cell] = append(k.needs[cell], fmt.Sprintf("%d b%d", qty, bundle))
}

// Part adds what may be had by the pack. Packs are counted by one variable; what is left beyond whole packs goes only with all
// of them.
func (k *Knapsack) Part(cell int32, qty, pack, each int64) {
	n := k.parts
	k.parts++
	packs, rest := qty/pack, qty%pack
	k.worth = append(k.worth, fmt.Sprintf("%d p%d + %d r%d", pack*each, n, rest*each, n))
	k.needs[cell] = append(k.needs[cell], fmt.Sprintf("%d p%d + %d r%d", pack, n, rest, n))
	k.limits = append(k.limits, fmt.Sprintf(" m%d: p%d <= %d", n, n, packs), fmt.Sprintf(" a%d: %d r%d - p%d <= 0", n, packs, n, n))
	k.integers, k.booleans = append(k.integers, fmt.Sprintf("p%d", n)), append(k.booleans, fmt.Sprintf("r%d", n))
}

// String is the program in the CPLEX LP form.
func (k *Knapsack) String() string {
	var s strings.Builder
	s.WriteString("Maximize\n obj: 0 z + " + strings.Join(append(k.worth, "0 z"), " + ") + "\nSubject To\n c: z <= 1\n")
	for i, n := range k.needs {
		if len(n) > 0 {
			fmt.Fprintf(&s, " n%d: %s <= %d\n", i, strings.Join(n, " + "), k.rooms[i])
		}
	}
	s.WriteString(strings.Join(k.limits, "\n") + "\nGeneral\n z " + strings.Join(k.integers,
		" ") + "\nBinary\n " + strings.Join(k.booleans, " ") + "\nEnd\n")
	return s.String()
}
