package plan

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/internal/reference"
)

// scarceBook is a book of three tiers in which about half of what is wanted is there, in packs and rooms of all sizes.
func scarceBook(r *rand.Rand) *book.Book {
	d := book.NewBuilder(days.Date(2027, 3, 1), days.Calendar{})
	house := d.Warehouse("W")
	size := []int64{1, 1, 30, 1000, 10_001}[r.IntN(5)]
	odd := func() int64 { return r.Int64N(size) * r.Int64N(2) }
	var cells []int32
	for i := range 1 + r.IntN(4) {
		it, err := d.Item(fmt.Sprint("I", i), (1+r.Int64N(4))*size+odd(), 0, false)
		must(err)
		c := d.Cell(it, house)
		must(d.Stock(c, (10+r.Int64N(60))*size+odd(), 0))
		cells = append(cells, c)
	}
	for o := range 6 + r.IntN(14) {
		k, err := d.Order(book.Order{Number: fmt.Sprintf("S%02d", o), Tier: uint8(1 + r.IntN(3)), Urgency: 3, Rule: book.Rule(r.IntN(3))})
		must(err)
		for n := range 1 + r.IntN(3) {
			q := (1+r.Int64N(15))*size + odd()
			must(d.Line(book.NewLine{
				Order: k, No: int32(n + 1), Cell: cells[r.IntN(len(cells))], Ordered: q, Open: q,
				Price: 1 + r.Int64N(900), ShipBy: days.Date(2027, 3, 2),
			}))
		}
	}
	b, err := d.Book()
	must(err)
	return b
}

// Of whole books, tier by tier on what the tiers before left, the solver finds nothing better than a bound and never less than what was
// reached.
func TestTheReferenceSolverAgreesOnBooks(t *testing.T) {
	t.Parallel()
	type tier struct {
		seed uint64
		goal Goal
		TierGoal
	}
	var tiers []tier
	var programs []string
	for seed := range uint64(300) {
		b := scarceBook(rand.New(rand.NewPCG(seed, 71)))
		goal := []Goal{MostOrders, MostValue}[seed%2]
		for _, x := range Allocate(b, AllocateOptions{Goal: goal, Prove: true, Window: NoWindow}).Tiers {
			if shown, err := x.problem.Check(*x.proof); err != nil || shown != x.Bound {
				t.Errorf("seed %d, %s, tier %d: the proof shows %d of %d: %v", seed, goal, x.Tier, shown, x.Bound, err)
			}
			k := reference.NewKnapsack(x.problem.Room)
			for _, y := range x.problem.Bundles {
				n := k.Bundle(y.Worth)
				for _, need := range y.Needs {
					k.Needs(n, need.Cell, need.Qty)
				}
			}
			for _, y := range x.problem.Parts {
				k.Part(y.Cell, y.Qty, max(1, y.Pack), y.Each)
			}
			tiers, programs = append(tiers, tier{seed, goal, x}), append(programs, k.String())
		}
	}
	best := 0
	for n, most := range reference.Optima(t, programs) {
		x := tiers[n]
		if x.Reached > most || x.Bound < most {
			t.Errorf("seed %d, %s, tier %d: reached %d of at most %d; the solver says %d", x.seed, x.goal, x.Tier, x.Reached, x.Bound, most)
		}
		if x.Reached == most {
			best++
		}
	}
	if best < len(programs)*97/100 {
		t.Errorf("only %d of %d tiers are the best", best, len(programs))
	}
}
