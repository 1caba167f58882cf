package outlook

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"journeyman/core/days"
)

// every is a calendar that works each day: the textbooks' weeks, one after another.
var every days.Calendar

// A textbook's table: on hand, orders and receipts by week, and what it says of them.
type table struct {
	source   string
	onHand   int64
	orders   []int64
	receipts map[int]int64
	discrete map[int]int64
	ahead    []int64
}

var tables = []table{
	{
		// W. J. Stevenson, Operations Management, master schedule of pumps; from memory.
		source: "Stevenson", onHand: 64, orders: []int64{33, 20, 10, 4, 2, 0, 0, 0},
		receipts: map[int]int64{3: 70, 5: 70, 7: 70, 8: 70},
		discrete: map[int]int64{1: 11, 3: 56, 5: 68, 7: 70, 8: 70},
		ahead:    []int64{11, 11, 67, 67, 135, 135, 205, 275},
	},
	{
		// L. J. Krajewski and L. P. Ritzman, Operations Management, ladder-back chair; from memory.
		source: "Krajewski and Ritzman", onHand: 55, orders: []int64{38, 27, 24, 8, 0, 0, 0, 0},
		receipts: map[int]int64{2: 150, 7: 150},
		discrete: map[int]int64{1: 17, 2: 91, 7: 150},
		ahead:    []int64{17, 108, 108, 108, 108, 108, 258, 258},
	},
}

func TestTheTablesOfTheTextbooks(t *testing.T) {
	for _, c := range tables {
		var receipts, commitments []Event
		for w, q := range c.receipts {
			receipts = append(receipts, Event{days.Day(w), q})
		}
		for i, q := range c.orders {
			commitments = append(commitments, Event{days.Day(i + 1), q})
		}
		o := New(&every, 1, Never, c.onHand, receipts)
		for _, e := range commitments {
			o.Take(e.Day, e.Qty)
		}
		for i, want := range c.ahead {
			if got := o.ATP(days.Day(i + 1)); got != want {
				t.Errorf("%s: week %d: ATP %d, want %d", c.source, i+1, got, want)
			}
		}
		seen := 0
		for _, r := range Picture(1, Never, c.onHand, receipts, commitments) {
			want, stated := c.discrete[int(r.Day)]
			if r.Discrete != want {
				t.Errorf("%s: week %d: discrete ATP %d, want %d", c.source, r.Day, r.Discrete, want)
			}
			if stated {
				seen++
			}
		}
		if seen != len(c.discrete) {
			t.Errorf("%s: %d weeks with a discrete ATP, want %d", c.source, seen, len(c.discrete))
		}
	}
}

// slow is the definition, day by day: nothing is kept, everything is added up again.
type slow struct {
	today, lead           days.Day
	free                  int64
	receipts, commitments []Event
}

const horizon = 120

func (s *slow) c(d days.Day) int64 {
	n := s.free
	for _, e := range s.receipts {
		if e.Day <= d {
			n += e.Qty
		}
	}
	for _, e := range s.commitments {
		if max(e.Day, s.today) <= d {
			n -= e.Qty
		}
	}
	return n
}

func (s *slow) atp(d days.Day) int64 {
	d = max(d, s.today)
	if d >= s.lead {
		return Unlimited
	}
	least := s.c(d)
	for x := d; x < min(s.lead, s.today+horizon); x++ {
		least = min(least, s.c(x))
	}
	return max(0, least)
}

func (s *slow) earliest(cal days.Calendar, q int64, from days.Day) (days.Day, bool) {
	for d := max(from, s.today); d < s.today+horizon; d++ {
		if cal.Works(d) && s.atp(d) >= q {
			return d, true
		}
	}
	return 0, false
}

// random is an item with whatever can happen to one: nothing on hand, over-promised,
// past days, receipts and commitments on one day, no lead time, nothing to buy.
func random(r *rand.Rand) (*Outlook, *slow, days.Calendar) {
	var closed []days.Day
	today := days.Day(20_500 + r.IntN(14))
	for range r.IntN(6) {
		closed = append(closed, today+days.Day(r.IntN(40)))
	}
	cal, err := days.NewCalendar([]time.Weekday{time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday}[r.IntN(2):], closed)
	if err != nil {
		panic(err)
	}
	s := &slow{today: today, lead: Lead(cal, today, r.IntN(30), r.IntN(3) > 0), free: int64(r.IntN(60))}
	for range r.IntN(25) * r.IntN(2) {
		if d, ok := Counts(cal, today, today+days.Day(r.IntN(60)-8)); ok {
			s.receipts = append(s.receipts, Event{d, int64(r.IntN(40))})
		}
	}
	o := New(&cal, today, s.lead, s.free, s.receipts)
	for range r.IntN(12) {
		e := Event{today + days.Day(r.IntN(70)-5), int64(r.IntN(40))}
		s.commitments = append(s.commitments, e)
		o.Take(e.Day, e.Qty)
		if r.IntN(4) == 0 { // and some are lifted again
			k := r.IntN(len(s.commitments))
			o.Lift(s.commitments[k].Day, s.commitments[k].Qty)
			s.commitments = slices.Delete(s.commitments, k, k+1)
		}
	}
	return o, s, cal
}

func TestTheOutlookIsWhatTheDefinitionSays(t *testing.T) {
	over, never := 0, 0
	for seed := range uint64(1500) {
		r := rand.New(rand.NewPCG(seed, 5))
		o, s, cal := random(r)
		for d := s.today - 3; d < s.today+80; d++ {
			if got, want := o.ATP(d), s.atp(d); got != want {
				t.Fatalf("seed %d: ATP(%s) = %d, want %d", seed, d, got, want)
			}
		}
		if _, is := o.Over(); is {
			over++
		}
		for range 12 {
			q, from := int64(r.IntN(150)), s.today+days.Day(r.IntN(50)-4)
			got, ok := o.Earliest(q, from)
			want, has := s.earliest(cal, q, from)
			if ok != has || ok && got != want {
				t.Fatalf("seed %d: %d from %s: %s %v, want %s %v", seed, q, from, got, ok, want, has)
			}
			if !ok {
				never++
				if q <= o.Most() {
					t.Fatalf("seed %d: %d can be had at all, yet on no day", seed, q)
				}
			}
		}
		before := int64(0)
		for _, row := range Picture(s.today, s.lead, s.free, s.receipts, s.commitments) {
			if row.Cumulative != s.c(row.Day) || row.ATP != s.atp(row.Day) {
				t.Fatalf("seed %d: %+v, want C %d and ATP %d", seed, row, s.c(row.Day), s.atp(row.Day))
			}
			if row.ATP != Unlimited {
				if before += row.Discrete; before != row.ATP {
					t.Fatalf("seed %d: the discrete ATP adds up to %d, ATP is %d", seed, before, row.ATP)
				}
			}
		}
	}
	if over < 100 || never < 100 {
		t.Errorf("%d over-promised outlooks and %d questions without an answer: the test shows little", over, never)
	}
}

func TestASplitIsAsEarlyAsItCanBe(t *testing.T) {
	pieces := 0
	for seed := range uint64(2000) {
		r := rand.New(rand.NewPCG(seed, 6))
		o, s, cal := random(r)
		q, m, from := int64(1+r.IntN(120)), int64(1+r.IntN(6)), s.today+days.Day(r.IntN(10))
		parts, short := o.Split(q, m, from)
		done := int64(0)
		for i, p := range parts {
			pieces++
			if p.Qty <= 0 || done+p.Qty != q && p.Qty%m != 0 {
				t.Fatalf("seed %d: a piece of %d", seed, p.Qty)
			}
			// One pack more could not be had a day earlier.
			if d, _ := s.earliest(cal, done+min(m, q-done), from); d != p.Day || i > 0 && d <= parts[i-1].Day {
				t.Fatalf("seed %d: piece %d on %s, could be on %s", seed, i, p.Day, d)
			}
			done += p.Qty
			if s.atp(p.Day) < done {
				t.Fatalf("seed %d: %d promised by %s, ATP is %d", seed, done, p.Day, s.atp(p.Day))
			}
		}
		if done+short != q {
			t.Fatalf("seed %d: %d in pieces and %d short of %d", seed, done, short, q)
		}
	}
	if pieces < 2000 {
		t.Errorf("only %d pieces", pieces)
	}
}

func TestMoreStockNeverMakesLessPossible(t *testing.T) {
	for seed := range uint64(500) {
		o, s, _ := random(rand.New(rand.NewPCG(seed, 7)))
		more, _, _ := random(rand.New(rand.NewPCG(seed, 7)))
		more.Lift(s.today, 5)
		last := int64(0)
		for d := s.today; d < s.today+80; d++ {
			a, b := o.ATP(d), more.ATP(d)
			if b < a || a < last {
				t.Fatalf("seed %d: on %s %d, with five more %d, the day before %d", seed, d, a, b, last)
			}
			last = a
		}
	}
}

func ExampleOutlook() {
	week, _ := days.NewCalendar(days.Weekdays, nil)
	monday := days.Date(2027, 3, 1)
	o := New(&week, monday, Never, 76, []Event{{monday + 7, 60}})
	o.Take(monday+2, 50) // promised for Wednesday
	fmt.Println(o.ATP(monday), o.ATP(monday+7))
	fmt.Println(o.Earliest(80, monday))
	fmt.Println(o.Split(80, 10, monday))
	// Output:
	// 26 86
	// 2027-03-08 true
	// [{2027-03-01 20} {2027-03-08 60}] 0
}

func TestTheLeadDayRollsForward(t *testing.T) {
	t.Parallel()
	cal, _ := days.NewCalendar(days.Weekdays, nil)
	saturday := days.Date(2027, 3, 6)
	for lead, want := range []days.Day{days.Date(2027, 3, 8), days.Date(2027, 3, 9), days.Date(2027, 3, 10)} {
		if got := Lead(cal, saturday, lead, true); got != want {
			t.Errorf("%d working days from a Saturday: %s, want %s", lead, got, want)
		}
	}
}
