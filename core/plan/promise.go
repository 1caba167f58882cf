package plan

import (
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

// PromiseOptions says how a promise run goes.
type PromiseOptions struct {
	Keys        []policy.Key // policy.Default if empty
	Keep        bool         // existing promises stand and are never made worse; else all are given afresh
	IgnoreRules bool         // every order is treated as "any"
}

// Promise gives every eligible line of the book its promises, one after another in the
// order of the policy (CORE section 3). Lines that are not eligible keep theirs. Cost:
// linear in the lines, promises, receipts and their days.
func Promise(b *book.Book, options PromiseOptions) *Plan {
	keys := options.Keys
	if len(keys) == 0 {
		keys = policy.Default
	}
	r := &promising{b: b, options: options}
	turning := newTurning(b, options.Keep, r.rule, func(*book.Line) bool { return true })
	turns := turning.ahead(keys, policy.Sorted)
	var lifted func(int32) bool
	if !options.Keep {
		lifted = b.Eligible
	}
	r.outlooks = b.Outlooks(lifted)
	r.plan = &Plan{Lines: make([]Outcome, len(b.Lines)), Promises: make([]book.Promise, 0, len(b.Lines)+len(b.Lines)/4)}
	if slices.ContainsFunc(b.Orders, func(o book.Order) bool { return o.Rule == book.Whole }) && !options.IgnoreRules {
		r.served = make([]bool, len(b.Orders))
	}
	r.plan.near = inBatches(turns, r.fetch, r.serve)
	for i := range b.Lines {
		if l := int32(i); b.Lines[i].Open > 0 && !b.Eligible(l) {
			r.keep(l, b.PromisesOf(l))
		}
	}
	return r.plan
}

type promising struct {
	b        *book.Book
	options  PromiseOptions
	outlooks []outlook.Outlook
	plan     *Plan
	served   []bool // whole orders that had their turn
}

func (r *promising) rule(l *book.Line) book.Rule {
	if r.options.IgnoreRules {
		return book.Any
	}
	return l.Rule
}

// fetch reads what serving some turns needs.
func (r *promising) fetch(turns []turn) (near int64) {
	for i := range turns {
		near += r.outlooks[turns[i].cell].Touch(false)
		if turns[i].rule == book.Whole {
			first, _ := r.b.LinesOf(turns[i].order)
			near += r.b.Lines[first].Open
		}
	}
	for i := range turns {
		near += r.outlooks[turns[i].cell].Touch(true)
	}
	return near
}

// serve serves a line, or the order that goes only whole to which it belongs.
func (r *promising) serve(t *turn) {
	if t.rule != book.Whole {
		r.one(t)
		return
	}
	if !r.served[t.order] {
		r.served[t.order] = true
		r.whole(t.order)
	}
}

// one serves a line by itself.
func (r *promising) one(t *turn) {
	l := t.line
	before := t.promisesOf(r.b) // if they stand
	r.lift(before)
	from := int32(len(r.plan.Promises))
	if t.rule == book.Lines {
		r.inOnePiece(t.cell, t.furtherCells(r.b), t.open, t.from)
	} else {
		r.asAvailable(t)
	}
	if len(before) > 0 && !NoWorse(r.plan.Promises[from:], before, r.b.Today) {
		r.lift(r.plan.Promises[from:])
		r.plan.Promises = r.plan.Promises[:from]
		r.take(before)
		r.keep(l, before)
		return
	}
	r.done(l, from, t.open)
}

// asAvailable takes what can be had on the first day, and all that is left in one piece
// as early as it can be had.
func (r *promising) asAvailable(t *turn) {
	left, from := t.open, t.from
	if left -= r.first(t, t.cell, left); left == 0 {
		return
	}
	others := t.furtherCells(r.b)
	for _, c := range others {
		if !r.b.CalendarOf(c).Works(from) {
			continue // it works on other days than the line's own warehouse
		}
		if left -= r.first(t, c, left); left == 0 {
			return
		}
	}
	if c, d, ok := r.earliest(t.cell, others, left, from); ok {
		r.piece(c, d, left)
		return
	}
	left -= r.atAll(t, t.cell, left)
	for _, c := range others {
		left -= r.atAll(t, c, left)
	}
}

// first takes what can be had at a cell on the first day.
func (r *promising) first(t *turn, cell int32, left int64) int64 {
	there := r.outlooks[cell].ATP(t.from)
	if there == 0 {
		return 0
	}
	if there < left {
		left = take(left, there, t.multiple)
	}
	return r.piece(cell, t.from, left)
}

// atAll takes what can be had at a cell however late, on the earliest day for it.
func (r *promising) atAll(t *turn, cell int32, left int64) int64 {
	q := take(left, r.outlooks[cell].Most(), t.multiple)
	if q == 0 {
		return 0
	}
	d, ok := r.outlooks[cell].Earliest(q, t.from)
	if !ok {
		return 0
	}
	return r.piece(cell, d, q)
}

// inOnePiece promises q units from one of the cells of a line on the earliest day, and says whether there is one.
func (r *promising) inOnePiece(own int32, others []int32, q int64, from days.Day) bool {
	c, d, ok := r.earliest(own, others, q, from)
	if ok {
		r.piece(c, d, q)
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
		if r.options.Keep {
			r.lift(r.b.PromisesOf(l))
		}
	}
	last, all := from, true
	for l := first; l < after && all; l++ {
		if r.b.Lines[l].Open > 0 {
			if all = r.inOnePiece(r.b.Lines[l].Cell, r.b.OthersOf(l), r.b.Lines[l].Open, from); all {
				last = max(last, r.plan.Promises[len(r.plan.Promises)-1].Day)
			}
		}
	}
	given := r.plan.Promises[base:]
	last = r.together(given, last)
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
	if r.options.Keep && !r.noWorse(first, after, given) {
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

// together returns the first day, last or later, on which all of their warehouses work.
func (r *promising) together(given []book.Promise, last days.Day) days.Day {
	for i := 0; i < len(given); i++ {
		if d := r.b.CalendarOf(given[i].Cell).Next(last); d > last {
			last, i = d, -1
		}
	}
	return last
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
		if !NoWorse(now, r.b.PromisesOf(l), r.b.Today) {
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
	r.done(l, from, r.b.Lines[l].Open)
	r.plan.Lines[l].Kept = true
}

// done notes the promises from `from` on as those of the line, of which so many units are open.
func (r *promising) done(l, from int32, open int64) {
	ps := r.plan.Promises[from:]
	if len(ps) > 1 {
		slices.SortStableFunc(ps, func(a, b book.Promise) int { return int(a.Day) - int(b.Day) })
	}
	for _, p := range ps {
		open -= p.Qty
	}
	o := &r.plan.Lines[l]
	o.from, o.to, o.Short = from, int32(len(r.plan.Promises)), open
}
