package plan

import (
	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/policy"
)

// Effect is what a plan does for a tier, or for all.
type Effect struct {
	Orders    int   // with open units that the run might serve
	Complete  int   // of these, whose open units are all allocated
	Lines     int   // with open units that the run might serve
	Units     int64 // allocated
	Value     int64 // of these, in minor units
	LateLines int   // that leave after their ship-by day, in whole or in part, or for which there is nothing in sight
	LateDays  int64 // calendar days by which they do, together; what is not in sight counts to today
}

// Outcomes is a plan carried to its end: what is allocated, and when the rest can follow.
type Outcomes struct {
	Tiers [6]Effect // by tier, the first is number 1
	All   Effect

	leaves []days.Day // of each line the day on which its last open unit can leave; Nowhere if none is in sight
}

// Nowhere is the day of what is not in sight.
const Nowhere = days.Day(0)

// Leaves returns the day on which the last open unit of a line can leave, allocated units today, and
// whether there is one.
func (o *Outcomes) Leaves(line int32) (days.Day, bool) {
	return o.leaves[line], o.leaves[line] != Nowhere
}

// Late says whether a line leaves after its ship-by day, in whole or in part, or nothing is in sight.
func (o *Outcomes) Late(b *book.Book, line int32) bool {
	last := o.leaves[line]
	return last == Nowhere || max(last, b.Today) > b.Lines[line].ShipBy
}

// Untouched is the allocation that takes nothing: what there is without a run.
func Untouched(b *book.Book, keys []policy.Key) *Allocation {
	a := &allocating{
		b: b, outlooks: b.Outlooks(nil), free: make([]int64, len(b.Cells)),
		out: &Allocation{Keys: keys, Goal: InOrder, rank: make([]int32, len(b.Lines))},
	}
	for i := range b.Cells {
		a.free[i] = b.Cells[i].Free()
	}
	a.finish()
	a.out.Broken = nil
	return a.out
}

// Judge carries the allocation to its end: what is left is promised by the same keys, existing
// promises that can still be kept stand. Cost: that of a promise run.
func (a *Allocation) Judge(b *book.Book) *Outcomes {
	rest := b.WithTaken(a.Taken).Without(a.lost())
	promises := Promise(rest, PromiseOptions{Keys: a.Keys, Keep: true})
	o := &Outcomes{leaves: make([]days.Day, len(b.Lines))}
	complete := make([]bool, len(b.Orders))
	counted := make([]bool, len(b.Orders))
	for i := range b.Lines {
		l := int32(i)
		line := &b.Lines[i]
		if !b.Eligible(l) {
			continue
		}
		tier := b.Orders[line.Order].Tier
		if !counted[line.Order] {
			counted[line.Order], complete[line.Order] = true, true
			o.add(tier, Effect{Orders: 1})
		}
		taken := a.Units(l)
		complete[line.Order] = complete[line.Order] && taken == line.Open
		e := Effect{Lines: 1, Units: taken, Value: taken * line.Price}
		last := b.Today
		if taken < line.Open {
			ps := promises.PromisesOf(l)
			switch {
			case promises.Lines[i].Short > 0:
				last = Nowhere
			case len(ps) > 0:
				last = max(last, ps[len(ps)-1].Day)
			}
		}
		o.leaves[i] = last
		if o.Late(b, l) {
			e.LateLines, e.LateDays = 1, max(0, int64(max(last, b.Today)-line.ShipBy))
		}
		o.add(tier, e)
	}
	for i, c := range complete {
		if c {
			o.add(b.Orders[i].Tier, Effect{Complete: 1})
		}
	}
	return o
}

func (o *Outcomes) add(tier uint8, e Effect) {
	for _, to := range []*Effect{&o.Tiers[tier], &o.All} {
		to.Orders += e.Orders
		to.Complete += e.Complete
		to.Lines += e.Lines
		to.Units += e.Units
		to.Value += e.Value
		to.LateLines += e.LateLines
		to.LateDays += e.LateDays
	}
}

// lost are the promises that cannot be kept after the run, by line.
func (a *Allocation) lost() map[int32][]book.Promise {
	out := map[int32][]book.Promise{}
	for _, x := range a.unkept {
		out[x.Line] = append(out[x.Line], x.Promise)
	}
	return out
}

// Differ returns the lines to which two allocations of one book give different units, or units from
// different cells, by order and line number.
func Differ(b *book.Book, x, y *Allocation) []int32 {
	var out []int32
	for i := range b.Lines {
		l := int32(i)
		p, q := x.TakenBy(l), y.TakenBy(l)
		same := len(p) == len(q)
		for k := range p {
			same = same && p[k].Cell == q[k].Cell && p[k].Qty == q[k].Qty
		}
		if !same {
			out = append(out, l)
		}
	}
	return out
}
