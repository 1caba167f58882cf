package makeroom

import (
	"maps"
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
)

// row is a span of days on which the demand lacks the same number of units. Only those are
// kept whose being covered covers all others.
type row struct {
	start days.Day
	lacks int64
}

// entry is a promise that may be put back: it covers the rows from the first one on. Of an order
// that goes only whole all promises move to one day; where the days count they are one entry.
type entry struct {
	line   int32
	qty    int64   // in the problem's unit
	more   []int64 // of each row what it covers there, if that is not qty on all from the first
	day    days.Day
	since  days.Day  // from which it is put back: the day, or today if that has passed
	weight int64     // of a day
	begun  int64     // weight × since, so that weight × a later day less this is what putting it back costs
	first  int       // row
	order  *together // that moves with it; nil if it moves alone
}

// together are the promises of an order that goes only whole.
type together struct {
	moves  []Move   // of all its items and warehouses; To is not said yet
	least  days.Day // the first day to which they can be put back: it is later than each of theirs
	weight int64    // of its lines
	daily  int64    // of its promises, for each day by which they are put back
	begun  int64    // as of an entry
}

// on is what the entry covers of row k, none before its first.
func (e *entry) on(k int) int64 {
	if e.more != nil {
		return e.more[k]
	}
	return e.qty
}

// all is what the entry covers at most.
func (e *entry) all() int64 {
	if e.more != nil {
		return e.more[len(e.more)-1]
	}
	return e.qty
}

// to is the day to which the entry is put back so that it covers the rows up to k.
func (p *problem) to(e *entry, k int) days.Day {
	if e.order != nil {
		return max(p.until[k], e.order.least)
	}
	return p.until[k]
}

// cost of putting the entry back so that it covers the rows up to k.
func (p *problem) cost(e *entry, k int) int64 { return e.weight*int64(p.to(e, k)) - e.begun }

type problem struct {
	cell    int32
	rows    []row
	until   []days.Day // of each row the first day on which what covered it may be due again; 0 if there is none
	entries []entry    // by row, then as the book has them
	unit    int64      // what quantities are counted in: entries go whole, so only multiples of what divides all of them cover anything
	*meter
}

// moves are what putting the entry back to the end of row k is.
func (p *problem) moves(e *entry, k int) []Move {
	if e.order == nil {
		return []Move{{e.line, p.cell, e.qty * p.unit, e.day, p.to(e, k)}}
	}
	out := slices.Clone(e.order.moves)
	for i := range out {
		out[i].To = p.to(e, k)
	}
	return out
}

// bundled returns the problem in which the promises of each order that goes only whole are one entry.
func (p *problem) bundled() *problem {
	q := *p
	q.entries = make([]entry, 0, len(p.entries))
	at := map[*together]int{}
	for _, e := range p.entries {
		if e.order == nil {
			q.entries = append(q.entries, e)
			continue
		}
		i, known := at[e.order]
		if !known {
			i = len(q.entries)
			at[e.order] = i
			b := entry{
				line: e.line, day: e.day, since: e.since, first: e.first, order: e.order, weight: e.order.daily,
				begun: e.order.begun, more: make([]int64, len(p.rows)),
			}
			q.entries = append(q.entries, b)
		}
		for k := e.first; k < len(p.rows); k++ {
			q.entries[i].more[k] += e.qty
		}
	}
	return &q
}

// inUnits counts quantities in the greatest unit that divides all entries; what is lacking is rounded up to it.
func (p *problem) inUnits() {
	unit := int64(0)
	for _, e := range p.entries {
		for n := e.qty; n != 0; {
			unit, n = n, unit%n
		}
	}
	p.unit = max(1, unit)
	for i := range p.entries {
		p.entries[i].qty /= p.unit
	}
	for k := range p.rows {
		p.rows[k].lacks = (p.rows[k].lacks-1)/p.unit + 1 // more than nothing is lacking on each row
	}
}

// build returns what has to be covered and by what; nil if nothing has.
func build(b *book.Book, ask Ask) *problem {
	item := &b.Items[b.Cells[ask.Cell].Item]
	by := max(ask.By, b.Today)
	if ask.Qty <= 0 || by >= item.Lead || b.Today >= item.Lead {
		return nil
	}
	p := &problem{cell: ask.Cell, unit: 1, meter: &meter{stop: ask.Stop}}
	c := newChanges(b, ask.Cell, by)
	last := c.limit // to which anything can be put back
	if item.Lead != outlook.Never {
		last = c.cal.Next(item.Lead)
	}
	whole := &wholeOrders{b: b, ask: ask, last: last, of: map[int32]*together{}}
	for l := range b.Lines {
		if int32(l) == ask.Line || !b.Lines[l].HasPromises() {
			continue
		}
		for _, x := range b.PromisesOf(int32(l)) {
			if x.Cell != ask.Cell || x.Day >= item.Lead {
				continue
			}
			c.of[max(x.Day, b.Today)] -= x.Qty
			if e := (entry{
				line: int32(l), qty: x.Qty, day: x.Day, since: max(x.Day, b.Today), weight: int64(b.Lines[l].Weight),
			}); whole.may(&e) {
				e.begun = e.weight * int64(e.since)
				p.entries = append(p.entries, e)
			}
		}
	}
	c.lacks(p, ask.Qty, b.Cells[ask.Cell].Free())
	if len(p.rows) == 0 {
		return nil
	}
	p.coverFrom()
	return p
}

// changes are the days on which something happens in a cell, and by how much what is there changes.
type changes struct {
	by, lead days.Day // of the demand, and of what is bought now
	limit    days.Day // the last day that is looked at
	cal      *days.Calendar
	of       map[days.Day]int64
	arrives  map[days.Day]bool
}

// newChanges has what arrives in the cell. What is promised is to be added.
func newChanges(b *book.Book, cell int32, by days.Day) *changes {
	c := &changes{
		by: by, lead: b.Items[b.Cells[cell].Item].Lead, cal: b.CalendarOf(cell), of: map[days.Day]int64{by: 0},
		arrives: map[days.Day]bool{},
	}
	if c.lead != outlook.Never {
		c.limit = c.lead
	}
	for _, r := range b.ReceiptsOf(cell) {
		c.of[r.Day] += r.Qty
		c.arrives[r.Day] = true
		if c.lead == outlook.Never {
			c.limit = max(c.limit, r.Day)
		}
	}
	return c
}

// lacks adds to the problem what the demand lacks on each span of days. Between two receipts what is there only falls: as long as it does
// not fall below nothing, the last span speaks for those before it, since what is promised in between covers from its own day on.
func (c *changes) lacks(p *problem, qty, there int64) {
	at := slices.Sorted(maps.Keys(c.of))
	for i, d := range at {
		if d >= c.lead {
			break
		}
		there += c.of[d]
		if d < c.by {
			continue
		}
		lacks := min(qty, max(0, qty-there))
		goesOn := i+1 < len(at) && at[i+1] < c.lead
		if there >= 0 && goesOn && !c.arrives[at[i+1]] && there+c.of[at[i+1]] >= 0 {
			continue
		}
		if lacks == 0 {
			continue
		}
		until := days.Day(0)
		switch {
		case goesOn:
			until = c.cal.Next(at[i+1])
		case c.lead != outlook.Never:
			until = c.cal.Next(c.lead)
		}
		if until > c.limit && c.lead == outlook.Never {
			until = 0
		}
		p.rows = append(p.rows, row{d, lacks})
		p.until = append(p.until, until)
	}
}

// coverFrom says of each entry from which row on it covers something, and leaves those out that cover nothing.
func (p *problem) coverFrom() {
	kept := p.entries[:0]
	for _, e := range p.entries {
		for e.first < len(p.rows) && p.rows[e.first].start < e.since {
			e.first++
		}
		if e.first < len(p.rows) {
			kept = append(kept, e)
		}
	}
	p.entries = kept
	slices.SortStableFunc(p.entries, func(x, y entry) int { return x.first - y.first })
}

// wholeOrders are the orders that go only whole, as they are met.
type wholeOrders struct {
	b    *book.Book
	ask  Ask
	last days.Day
	of   map[int32]*together // nil: stays where it is
}

// may says whether the promise may be put back, and ties it to those that move with it.
func (w *wholeOrders) may(e *entry) bool {
	line := &w.b.Lines[e.line]
	if line.Rule != book.Whole {
		return !w.ask.fixed(e.line)
	}
	t, known := w.of[line.Order]
	if !known {
		t = w.tie(line.Order)
		w.of[line.Order] = t
	}
	e.order = t
	return t != nil
}

// tie returns the promises of the order, or nil if they stay: one of its lines is fixed, or is the one that asks, or there
// is no day to go to.
func (w *wholeOrders) tie(order int32) *together {
	t := &together{}
	latest := w.b.Today
	from, to := w.b.LinesOf(order)
	for l := from; l < to; l++ {
		if w.ask.fixed(l) || l == w.ask.Line {
			return nil
		}
		weight := int64(w.b.Lines[l].Weight)
		if w.b.Lines[l].HasPromises() {
			t.weight += weight
		}
		for _, x := range w.b.PromisesOf(l) {
			t.moves = append(t.moves, Move{Line: l, Cell: x.Cell, Qty: x.Qty, From: x.Day})
			latest = max(latest, x.Day)
			t.daily += weight
			t.begun += weight * int64(max(x.Day, w.b.Today))
		}
	}
	t.least = w.b.CalendarOf(w.ask.Cell).Next(latest + 1)
	if t.least > w.last {
		return nil
	}
	return t
}

// possible says whether everything that may be put back, put back to the end, is enough.
func (p *problem) possible() bool {
	there, i := int64(0), 0
	for k, r := range p.rows {
		for ; i < len(p.entries) && p.entries[i].first <= k; i++ {
			there += p.entries[i].qty
		}
		if there < r.lacks || p.until[k] == 0 {
			return false
		}
	}
	return true
}

// only returns the problem with just those entries.
func (p *problem) only(chosen []int) *problem {
	q := *p
	q.meter = &meter{stop: p.stop}
	q.entries = nil
	for _, i := range chosen {
		q.entries = append(q.entries, p.entries[i])
	}
	slices.SortStableFunc(q.entries, func(x, y entry) int { return x.first - y.first })
	return &q
}
