package plan

import (
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/policy"
)

// change is a random change of one thing of the book.
func change(r *rand.Rand, b *book.Book) book.Change {
	c := book.Change{Line: int32(r.IntN(len(b.Lines))), Cell: int32(r.IntN(len(b.Cells)))}
	switch r.IntN(4) {
	case 0:
		open := int64(r.IntN(80)) * int64(r.IntN(4)) / 2
		c.Open = &open
	case 1:
		day := b.Today + days.Day(r.IntN(25)-8)
		c.ShipBy = &day
	case 2:
		tier := uint8(1 + r.IntN(5))
		c.Tier = &tier
	case 3:
		cell := &b.Cells[c.Cell]
		onHand := cell.Held + cell.Used + int64(r.IntN(120))
		c.OnHand = &onHand
	}
	return c
}

func TestWhatIfIsTheWholeRunOverTheChangedBook(t *testing.T) {
	t.Parallel()
	n := uint64(400)
	if testing.Short() {
		n = 100
	}
	differ, alike, spread := 0, 0, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 61))
		b, _ := randomBook(r)
		keys := slices.Clone(policy.Keys)
		r.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		options := AllocateOptions{
			Keys: keys[:1+r.IntN(3)], Unprotected: r.IntN(3) == 0, IgnoreRules: r.IntN(6) == 0,
			Window: []int{NoWindow, NoWindow, 5}[r.IntN(3)],
		}
		k, ok := Keep(b, options)
		if !ok {
			t.Fatal("a run in turn can be kept")
		}
		for i := range 30 {
			c := change(r, b)
			got := map[int32][]book.Taken{}
			for _, d := range k.WhatIf(c) {
				got[d.Line] = d.After
				if slices.Equal(d.Before, d.After) || !slices.Equal(d.Before, k.TakenBy(d.Line)) {
					t.Fatalf("seed %d, change %d: %+v is no difference", seed, i, d)
				}
			}
			changed := b.Clone()
			changed.Alter(c)
			whole := Allocate(changed, options)
			for l := range b.Lines {
				want := whole.TakenBy(int32(l))
				now, differs := got[int32(l)]
				if !differs {
					now = k.TakenBy(int32(l))
				}
				if !slices.Equal(now, want) {
					t.Fatalf("seed %d, %+v, change %d %+v: line %d takes %v, a whole run says %v", seed, options, i, c, l, now, want)
				}
			}
			switch {
			case len(got) == 0:
				alike++
			case len(got) > 2:
				spread++
				fallthrough
			default:
				differ++
			}
		}
	}
	if differ < 500 || alike < 500 || spread < 100 {
		t.Errorf("%d changes make a difference, %d to more than two lines, %d none: the test shows little", differ, spread, alike)
	}
}

func TestWhatCannotBeKept(t *testing.T) {
	t.Parallel()
	b, _ := randomBook(rand.New(rand.NewPCG(1, 1)))
	for _, options := range []AllocateOptions{
		{Share: Fair}, {Goal: MostOrders}, {Reserves: []Reserve{{Units: 1, For: func(int32) bool { return true }}}},
	} {
		if _, ok := Keep(b, options); ok {
			t.Errorf("%+v is kept", options)
		}
	}
}
