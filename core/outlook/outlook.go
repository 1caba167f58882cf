// Package outlook computes what can still be promised of one item at one warehouse,
// day by day: its available to promise (ATP), as CORE section 2 defines it.
//
// C(d) is what is free today, plus the receipts up to day d, less the commitments up
// to day d. ATP(d) is the least C of all days from d on, and never below zero: what
// can be newly promised for d without breaking any promise that was given before. From
// the lead day on more can always be bought: there ATP has no limit, and no day from
// there on limits an earlier one.
//
// The discrete ATP of the textbooks (W. J. Stevenson, Operations Management; L. J.
// Krajewski and L. P. Ritzman, Operations Management) is the increase of ATP at each
// receipt.
//
// ATP rises only on the days of receipts, so an [Outlook] keeps one bucket for what is
// there today and one for each day of a receipt; all its questions and changes cost time
// linear in the number of buckets, which is small, and allocate nothing.
package outlook

import (
	"math"
	"slices"
	"sort"

	"journeyman/core/days"
)

// Unlimited is the ATP of a day from which on more can always be bought.
const Unlimited = int64(math.MaxInt64)

// Never stands for a day that does not come: the lead day of what cannot be bought.
const Never = days.Day(math.MaxInt32)

// Event is a quantity on a day: a receipt or a commitment.
type Event struct {
	Day days.Day
	Qty int64
}

// Outlook is the ATP of one item at one warehouse. Make it with New. The zero
// Outlook has nothing and never will.
type Outlook struct {
	buckets []Bucket
	cal     *days.Calendar
	today   days.Day
	lead    days.Day // from here on there is no limit
	first   days.Day // the lead day, or the first day worked after it
}

// Bucket is a span of days between two receipts.
type Bucket struct {
	end   int64    // C on its last day
	start days.Day // its first day; that of the first bucket is today
}

// Lead returns the day from which on an item that is bought in so many working days
// can be promised without limit: so many after the first one from today on, NumPy's busday_offset(today, leadDays,
// roll='forward'). It is Never if the item cannot be bought.
func Lead(cal days.Calendar, today days.Day, leadDays int, buyable bool) days.Day {
	if !buyable {
		return Never
	}
	return cal.Add(cal.Next(today), leadDays)
}

// OrderBy returns the last working day on which an item that is bought in so many working days can be ordered to be there on the day:
// Lead from it is not after the day.
func OrderBy(cal days.Calendar, day days.Day, leadDays int) days.Day {
	return cal.Add(cal.Prev(day), -leadDays)
}

// Counts returns the day from which on a receipt that is due counts: its due day, or
// the next one worked. A receipt whose day has passed does not count until it is given
// a new one: then ok is false.
func Counts(cal days.Calendar, today, due days.Day) (d days.Day, ok bool) {
	if due < today {
		return 0, false
	}
	return cal.Next(due), true
}

// New returns the outlook from today on with so many units free, the receipts, which
// must be on the days on which they count, and no commitments yet. Cost: that of sorting
// the receipts.
func New(cal *days.Calendar, today, lead days.Day, free int64, receipts []Event) *Outlook {
	o := &Outlook{}
	o.Reset(cal, today, lead, free, receipts, nil)
	return o
}

// Reset makes o what New returns. It keeps its buckets in room, which grows if it has not
// room for one more than there are receipts, and returns them.
func (o *Outlook) Reset(cal *days.Calendar, today, lead days.Day, free int64, receipts []Event, room []Bucket) []Bucket {
	*o = Outlook{buckets: room[:0], cal: cal, today: today, lead: lead, first: Never}
	if lead != Never {
		o.first = cal.Next(max(lead, today))
	}
	if today >= lead {
		return o.buckets // there never was a limit
	}
	if !slices.IsSortedFunc(receipts, byDay) {
		receipts = slices.Clone(receipts)
		slices.SortFunc(receipts, byDay)
	}
	o.buckets = append(o.buckets, Bucket{free, today})
	for _, r := range receipts {
		last := &o.buckets[len(o.buckets)-1]
		switch {
		case r.Day >= lead || r.Qty == 0:
		case r.Day <= last.start:
			last.end += r.Qty
		default:
			o.buckets = append(o.buckets, Bucket{last.end + r.Qty, r.Day})
		}
	}
	return o.buckets
}

func byDay(a, b Event) int { return int(a.Day) - int(b.Day) }

// bucket returns the bucket in which d lies; the first one for a past day.
func (o *Outlook) bucket(d days.Day) int {
	n := len(o.buckets)
	if n <= 16 {
		k := n - 1
		for k > 0 && o.buckets[k].start > d {
			k--
		}
		return k
	}
	return max(0, sort.Search(n, func(i int) bool { return o.buckets[i].start > d })-1)
}

// Take commits q units on d: they have to be there by the end of that day. A past day
// is today. It may break what was promised before: then C falls below zero somewhere.
func (o *Outlook) Take(d days.Day, q int64) {
	if d >= o.lead || len(o.buckets) == 0 {
		return
	}
	late := o.buckets[o.bucket(d):]
	for k := range late {
		late[k].end -= q
	}
}

// Lift takes back a commitment of q units on d.
func (o *Outlook) Lift(d days.Day, q int64) { o.Take(d, -q) }

// ATP returns how many units can be newly promised for d, or Unlimited. A past day is today.
func (o *Outlook) ATP(d days.Day) int64 {
	if d >= o.lead || o.today >= o.lead {
		return Unlimited
	}
	if len(o.buckets) == 0 {
		return 0
	}
	late := o.buckets[o.bucket(d):]
	least := late[0].end
	for k := range late {
		least = min(least, late[k].end)
	}
	return max(0, least)
}

// Most returns how many units can be promised at all, however late, or Unlimited.
func (o *Outlook) Most() int64 {
	if o.lead != Never {
		return Unlimited
	}
	if n := len(o.buckets); n > 0 {
		return max(0, o.buckets[n-1].end)
	}
	return 0
}

// Earliest returns the first working day on or after from for which q units can be
// newly promised, and whether there is one.
func (o *Outlook) Earliest(q int64, from days.Day) (days.Day, bool) {
	from = max(from, o.today)
	if o.cal != nil && !o.cal.Works(from) {
		from = o.cal.Next(from)
	}
	if q <= 0 || from >= o.lead {
		return from, true
	}
	// ATP never falls, so the buckets that have enough are the last ones.
	k := len(o.buckets)
	for k > 0 && o.buckets[k-1].end >= q {
		k--
	}
	switch {
	case k == len(o.buckets):
		return o.first, o.lead != Never
	case k == 0:
		return from, true
	}
	return max(from, o.cal.Next(o.buckets[k].start)), true
}

// Touch reads what the next question of o will need, so that it is near when it is asked:
// first o itself, and, if it is near already, its buckets.
func (o *Outlook) Touch(near bool) int64 {
	if n := len(o.buckets); near && n > 0 {
		return o.buckets[n-1].end
	}
	return int64(o.lead)
}

// Over returns the first day from which on more is promised than there will be, and
// whether there is one. It is the start of a bucket; the shortfall may begin within it.
func (o *Outlook) Over() (days.Day, bool) {
	for _, k := range o.buckets {
		if k.end < 0 {
			return k.start, true
		}
	}
	return 0, false
}

// Part is a piece of a quantity and the day on which it can be promised.
type Part struct {
	Day days.Day
	Qty int64
}

// Split returns in which pieces q units can be promised from a day on, each as early as
// it can be and as large as it can be then, and how many can never be. The pieces are
// multiples of m, but for the last one that makes q whole. Cost: the square of the buckets.
func (o *Outlook) Split(q, m int64, from days.Day) (parts []Part, short int64) {
	left := q
	for left > 0 {
		done := q - left
		piece := min(max(m, 1), left)
		d, ok := o.Earliest(done+piece, from)
		if !ok {
			return parts, left
		}
		take := left
		if a := o.ATP(d); a != Unlimited && a-done < left {
			take = (a - done) / max(m, 1) * max(m, 1)
		}
		parts = append(parts, Part{d, take})
		left -= take
	}
	return parts, 0
}
