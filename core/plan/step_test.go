package plan_test

import (
	"math/rand/v2"
	"testing"

	"journeyman/core/journey"
	"journeyman/core/plan"
)

func TestStepsGoByThePack(t *testing.T) {
	t.Parallel()
	for _, x := range []struct{ has, wants, left, multiple, more, less journey.Qty }{
		{0, 10, 20, 4, 4, 0},
		{4, 10, 20, 4, 8, 0},
		{8, 10, 20, 4, 10, 4}, // all that it wants is no whole pack
		{10, 10, 20, 4, 10, 8},
		{4, 10, 3, 4, 4, 0}, // no pack is left
		{8, 10, 2, 4, 10, 4},
		{5, 10, 20, 4, 8, 4}, // from no whole pack to the next
		{3, 10, 1, 0, 4, 2},
		{3, 10, 0, 1, 3, 2},
		{0, 0, 5, 1, 0, 0},
	} {
		if more := plan.More(x.has, x.wants, x.left, x.multiple); more != x.more {
			t.Errorf("%+v: %d after one more", x, more)
		}
		if less := plan.Less(x.has, x.multiple); less != x.less {
			t.Errorf("%+v: %d after one less", x, less)
		}
	}
}

// Steps stay within what there is, are whole packs or all that is wanted, and go back the way they came.
func TestStepsStayWithinWhatThereIs(t *testing.T) {
	t.Parallel()
	for i := range 5000 {
		r := rand.New(rand.NewPCG(11, uint64(i)))
		q := func(n int) journey.Qty { return journey.Qty(r.IntN(n)) }
		wants, left, m := q(60), q(40), q(9)
		has := journey.Qty(0)
		for range 70 {
			next := plan.More(has, wants, left, m)
			if next == has {
				break
			}
			if next > wants || next-has > left || next%max(1, m) != 0 && next != wants {
				t.Fatalf("%d: from %d to %d of %d by %d, %d left", i, has, next, wants, m, left)
			}
			if back := plan.Less(next, m); back != has {
				t.Fatalf("%d: from %d to %d and back to %d", i, has, next, back)
			}
			has, left = next, left-(next-has)
		}
		if moved := plan.Over(has, q(60), m); moved > has || moved < 0 {
			t.Fatalf("%d: %d of %d go over", i, moved, has)
		}
	}
}
