package makeroom

import (
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

// entry is a promise that may be put back: it covers the rows from the first one on.
type entry struct {
	line   int32
	qty    int64 // in the problem's unit
	day    days.Day
	since  days.Day // from which it is put back: the day, or today if that has passed
	weight int64
	first  int // row
}

// cost of putting the entry back so that it covers the rows up to k.
func (p *problem) cost(e *entry, k int) int64 { return e.weight * int64(p.until[k]-e.since) }

type problem struct {
	rows    []row
	until   []days.Day // of each row the first day on which what covered it may be due again; 0 if there is none
	entries []entry    // by row, then as the book has them
	unit    int64      // what quantities are counted in: entries go whole, so only multiples of what divides all of them cover anything
	*meter
}

// move is what putting the entry back to the end of row k is.
func (p *problem) move(e *entry, k int) Move { return Move{e.line, e.qty * p.unit, e.day, p.until[k]} }

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
	cell := &b.Cells[ask.Cell]
	item := &b.Items[cell.Item]
	cal := b.CalendarOf(ask.Cell)
	by := max(ask.By, b.Today)
	if ask.Qty <= 0 || by >= item.Lead || b.Today >= item.Lead {
		return nil
	}
	p := &problem{unit: 1, meter: &meter{stop: ask.Stop}}

	// The days on which something happens, and by how much what is there changes.
	change := map[days.Day]int64{by: 0}
	receipts := b.ReceiptsOf(ask.Cell)
	limit := item.Lead
	arrives := map[days.Day]bool{}
	if limit == outlook.Never {
		limit = 0
	}
	for _, r := range receipts {
		change[r.Day] += r.Qty
		arrives[r.Day] = true
		if item.Lead == outlook.Never {
			limit = max(limit, r.Day)
		}
	}
	for l := range b.Lines {
		if int32(l) == ask.Line || !b.Lines[l].HasPromises() {
			continue
		}
		for _, x := range b.PromisesOf(int32(l)) {
			if x.Cell != ask.Cell || x.Day >= item.Lead {
				continue
			}
			change[max(x.Day, b.Today)] -= x.Qty
			if ask.Fixed == nil || !ask.Fixed(int32(l)) {
				p.entries = append(p.entries, entry{line: int32(l), qty: x.Qty, day: x.Day, since: max(x.Day, b.Today), weight: int64(b.Lines[l].Weight)})
			}
		}
	}
	at := make([]days.Day, 0, len(change))
	for d := range change {
		at = append(at, d)
	}
	slices.Sort(at)

	// What is there on each span, and what the demand lacks then. Between two receipts what is
	// there only falls: as long as it does not fall below nothing, the last span speaks for those
	// before it, since what is promised in between covers from its own day on.
	there := cell.Free()
	for i, d := range at {
		if d >= item.Lead {
			break
		}
		there += change[d]
		if d < by {
			continue
		}
		lacks := min(ask.Qty, max(0, ask.Qty-there))
		if there >= 0 && i+1 < len(at) && at[i+1] < item.Lead && !arrives[at[i+1]] && there+change[at[i+1]] >= 0 {
			continue
		}
		if lacks == 0 {
			continue
		}
		until := days.Day(0)
		switch {
		case i+1 < len(at) && at[i+1] < item.Lead:
			until = cal.Next(at[i+1])
		case item.Lead != outlook.Never:
			until = cal.Next(item.Lead)
		}
		if until > limit && item.Lead == outlook.Never {
			until = 0
		}
		p.rows = append(p.rows, row{d, lacks})
		p.until = append(p.until, until)
	}
	if len(p.rows) == 0 {
		return nil
	}
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
	return p
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
