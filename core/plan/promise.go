package plan

import (
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

// PromiseHow says how a promise run goes.
type PromiseHow struct {
	Keys        []policy.Key // policy.Default if empty
	Keep        bool         // existing promises stand and are never made worse; else all are given afresh
	IgnoreRules bool         // every order is treated as "any"
}

// Promise gives every eligible line of the book its promises, one after another in the
// order of the policy (CORE section 3). Lines that are not eligible keep theirs. Cost:
// linear in the lines, promises, receipts and their days.
func Promise(b *book.Book, how PromiseHow) *Plan {
	keys := how.Keys
	if len(keys) == 0 {
		keys = policy.Default
	}
	eligible := make([]int32, 0, len(b.Lines))
	for i := range b.Lines {
		if b.Eligible(int32(i)) {
			eligible = append(eligible, int32(i))
		}
	}
	var lifted func(int32) bool
	if !how.Keep {
		lifted = b.Eligible
	}
	r := &promising{
		b: b, how: how, outlooks: b.Outlooks(lifted),
		plan: &Plan{Lines: make([]Outcome, len(b.Lines)), Promises: make([]book.Promise, 0, len(eligible)+len(eligible)/4)},
	}
	for _, l := range policy.Sort(b, eligible, keys) {
		o := b.Lines[l].Order
		if r.rule(o) != book.Whole {
			r.one(l)
			continue
		}
		if r.served == nil {
			r.served = make([]bool, len(b.Orders))
		}
		if !r.served[o] {
			r.served[o] = true
			r.whole(o)
		}
	}
	for i := range b.Lines {
		if l := int32(i); b.Lines[i].Open > 0 && !b.Eligible(l) {
			r.keep(l, b.PromisesOf(l))
		}
	}
	return r.plan
}

type promising struct {
	b        *book.Book
	how      PromiseHow
	outlooks []outlook.Outlook
	plan     *Plan
	served   []bool // whole orders that had their turn
}

func (r *promising) rule(order int32) book.Rule {
	if r.how.IgnoreRules {
		return book.Any
	}
	return r.b.Orders[order].Rule
}

// one serves a line by itself.
func (r *promising) one(l int32) {
	line := &r.b.Lines[l]
	var before []book.Promise
	if r.how.Keep {
		if before = r.b.PromisesOf(l); len(before) > 0 {
			r.lift(before)
		}
	}
	from := int32(len(r.plan.Promises))
	d := r.b.From(l)
	if r.rule(line.Order) == book.Lines {
		r.inOnePiece(l, d)
	} else {
		r.asAvailable(l, d)
	}
	if len(before) > 0 && !NoWorse(r.plan.Promises[from:], before) {
		r.lift(r.plan.Promises[from:])
		r.plan.Promises = r.plan.Promises[:from]
		r.take(before)
		r.keep(l, before)
		return
	}
	r.done(l, from)
}

// asAvailable takes what can be had on the first day, and all that is left in one piece
// as early as it can be had.
func (r *promising) asAvailable(l int32, from days.Day) {
	line := &r.b.Lines[l]
	m := r.b.Items[r.b.Cells[line.Cell].Item].Multiple
	left := line.Open
	others := r.b.OthersOf(l)
	left -= r.piece(line.Cell, from, take(left, r.outlooks[line.Cell].ATP(from), m))
	for _, c := range others {
		if left == 0 {
			return
		}
		left -= r.piece(c, from, take(left, r.outlooks[c].ATP(from), m))
	}
	if left == 0 {
		return
	}
	if c, d, ok := r.earliest(line.Cell, others, left, from); ok {
		r.piece(c, d, left)
		return
	}
	left -= r.atAll(line.Cell, from, left, m)
	for _, c := range others {
		left -= r.atAll(c, from, left, m)
	}
}

// atAll takes what can be had at a cell however late, on the earliest day for it.
func (r *promising) atAll(cell int32, from days.Day, left, m int64) int64 {
	q := take(left, r.outlooks[cell].Most(), m)
	if q == 0 {
		return 0
	}
	d, ok := r.outlooks[cell].Earliest(q, from)
	if !ok {
		return 0
	}
	return r.piece(cell, d, q)
}

// inOnePiece promises all open units of the line from one cell on the earliest day, and
// says whether there is one.
func (r *promising) inOnePiece(l int32, from days.Day) bool {
	line := &r.b.Lines[l]
	c, d, ok := r.earliest(line.Cell, r.b.OthersOf(l), line.Open, from)
	if ok {
		r.piece(c, d, line.Open)
	}
	return ok
}

// earliest returns the cell that has q units first, and when.
func (r *promising) earliest(own int32, others []int32, q int64, from days.Day) (cell int32, day days.Day, ok bool) {
	cell = own
	day, ok = r.outlooks[own].Earliest(q, from)
	for _, c := range others {
		if ok && day == from {
			break
		}
		if d, has := r.outlooks[c].Earliest(q, from); has && (!ok || d < day) {
			cell, day, ok = c, d, true
		}
	}
	return cell, day, ok
}

// piece promises q units of a cell for d; it returns q.
func (r *promising) piece(cell int32, d days.Day, q int64) int64 {
	if q > 0 {
		r.outlooks[cell].Take(d, q)
		r.plan.Promises = append(r.plan.Promises, book.Promise{Qty: q, Cell: cell, Day: d})
	}
	return q
}

// whole serves all open lines of an order, which leave on one day or not at all.
func (r *promising) whole(order int32) {
	first, after := r.b.LinesOf(order)
	base := int32(len(r.plan.Promises))
	from := days.Day(0)
	begun := false
	for l := first; l < after; l++ {
		if r.b.Lines[l].Open == 0 {
			continue
		}
		if d := r.b.From(l); !begun || d > from {
			from, begun = d, true
		}
		if r.how.Keep {
			r.lift(r.b.PromisesOf(l))
		}
	}
	last, all := from, true
	for l := first; l < after && all; l++ {
		if r.b.Lines[l].Open > 0 {
			if all = r.inOnePiece(l, from); all {
				last = max(last, r.plan.Promises[len(r.plan.Promises)-1].Day)
			}
		}
	}
	given := r.plan.Promises[base:]
	if !all {
		r.lift(given)
		given = given[:0]
		r.plan.Promises = r.plan.Promises[:base]
	}
	for i := range given {
		if p := &given[i]; p.Day < last {
			r.outlooks[p.Cell].Lift(p.Day, p.Qty)
			p.Day = last
			r.outlooks[p.Cell].Take(p.Day, p.Qty)
		}
	}
	if r.how.Keep && !r.noWorse(first, after, given) {
		r.lift(given)
		r.plan.Promises = r.plan.Promises[:base]
		for l := first; l < after; l++ {
			if r.b.Lines[l].Open > 0 {
				before := r.b.PromisesOf(l)
				r.take(before)
				r.keep(l, before)
			}
		}
		return
	}
	at := base
	for l := first; l < after; l++ {
		if r.b.Lines[l].Open == 0 {
			continue
		}
		o := &r.plan.Lines[l]
		if !all {
			o.Short = r.b.Lines[l].Open
			o.from, o.to = base, base
			continue
		}
		o.from, o.to = at, at+1
		at++
	}
}

// noWorse compares the promises of the open lines of a whole order, one each or none at
// all, with those they had.
func (r *promising) noWorse(first, after int32, given []book.Promise) bool {
	i := 0
	for l := first; l < after; l++ {
		if r.b.Lines[l].Open == 0 {
			continue
		}
		var now []book.Promise
		if len(given) > 0 {
			now = given[i : i+1]
			i++
		}
		if !NoWorse(now, r.b.PromisesOf(l)) {
			return false
		}
	}
	return true
}

func (r *promising) lift(ps []book.Promise) {
	for _, p := range ps {
		r.outlooks[p.Cell].Lift(p.Day, p.Qty)
	}
}

func (r *promising) take(ps []book.Promise) {
	for _, p := range ps {
		r.outlooks[p.Cell].Take(p.Day, p.Qty)
	}
}

// keep notes that a line has the promises it had before.
func (r *promising) keep(l int32, before []book.Promise) {
	from := int32(len(r.plan.Promises))
	r.plan.Promises = append(r.plan.Promises, before...)
	r.done(l, from)
	r.plan.Lines[l].Kept = true
}

// done notes the promises from `from` on as those of the line.
func (r *promising) done(l, from int32) {
	o := &r.plan.Lines[l]
	o.from, o.to = from, int32(len(r.plan.Promises))
	ps := r.plan.Promises[from:]
	if len(ps) > 1 {
		slices.SortStableFunc(ps, func(a, b book.Promise) int { return int(a.Day) - int(b.Day) })
	}
	o.Short = r.b.Lines[l].Open
	for _, p := range ps {
		o.Short -= p.Qty
	}
}
