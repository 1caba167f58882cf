package makeroom

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
)

// slow knows of what was asked only the words: it tries every working day for every promise and
// looks at every day.
type slow struct {
	b       *book.Book
	ask     Ask
	last    days.Day // the day to which anything can be put back at the latest
	before  []int64
	choices [][]Move // what moves together: a promise, or all of an order that goes only whole
}

const horizon = 60

func newSlow(b *book.Book, ask Ask) *slow {
	s := &slow{b: b, ask: ask, before: make([]int64, horizon)}
	s.ask.By = max(ask.By, b.Today)
	item := b.Items[b.Cells[ask.Cell].Item]
	s.last = item.Lead
	if item.Lead == outlook.Never {
		s.last = 0
	}
	for i := range s.before {
		s.before[i] = b.Cells[ask.Cell].Free()
	}
	for _, r := range b.ReceiptsOf(ask.Cell) {
		if item.Lead == outlook.Never {
			s.last = max(s.last, r.Day)
		}
		s.add(s.before, r.Day, r.Qty)
	}
	stays := func(order int32) bool { // a line of it is fixed, or asks
		from, to := b.LinesOf(order)
		for l := from; l < to; l++ {
			if l == ask.Line || ask.Fixed != nil && ask.Fixed(l) {
				return true
			}
		}
		return false
	}
	for o := range b.Orders {
		var all []Move
		here := false
		from, to := b.LinesOf(int32(o))
		for l := from; l < to; l++ {
			for _, p := range b.PromisesOf(l) {
				m := Move{l, p.Cell, p.Qty, p.Day, p.Day}
				if p.Cell == ask.Cell && l != ask.Line {
					s.add(s.before, p.Day, -p.Qty)
					here = true
					if b.Orders[o].Rule != book.Whole && (ask.Fixed == nil || !ask.Fixed(l)) {
						s.choices = append(s.choices, []Move{m})
					}
				}
				all = append(all, m)
			}
		}
		if b.Orders[o].Rule == book.Whole && here && !stays(int32(o)) {
			s.choices = append(s.choices, all)
		}
	}
	return s
}

func (s *slow) add(c []int64, from days.Day, q int64) {
	for i := max(0, int(from-s.b.Today)); i < horizon; i++ {
		c[i] += q
	}
}

func (s *slow) holds(moves []Move) bool {
	after := append([]int64(nil), s.before...)
	s.add(after, s.ask.By, -s.ask.Qty)
	for _, m := range moves {
		if m.Cell == s.ask.Cell {
			s.add(after, m.From, m.Qty)
			s.add(after, m.To, -m.Qty)
		}
	}
	lead := s.b.Items[s.b.Cells[s.ask.Cell].Item].Lead
	for i := range after {
		if s.b.Today+days.Day(i) < lead && after[i] < min(0, s.before[i]) {
			return false
		}
	}
	return true
}

func (s *slow) harm(moves []Move) (n int64) {
	seen := map[any]bool{}
	for _, m := range moves {
		if m.To == m.From {
			continue
		}
		l := &s.b.Lines[m.Line]
		key, weight := any(m.Line), int64(l.Weight)
		switch s.ask.Harm {
		case Days:
			n += weight * int64(m.To-max(m.From, s.b.Today))
			continue
		case Customers:
			key, weight = s.b.Orders[l.Order].Customer, 1
		}
		if !seen[key] {
			seen[key] = true
			n += weight
		}
	}
	return n
}

// goes are the days to which what moves together can be put back: working days later than each of its days.
func (s *slow) goes(choice []Move) (out []days.Day) {
	latest := s.b.Today
	for _, m := range choice {
		latest = max(latest, m.From)
	}
	for d := latest + 1; d <= s.last; d++ {
		if s.b.CalendarOf(s.ask.Cell).Works(d) {
			out = append(out, d)
		}
	}
	return out
}

func moved(choice []Move, to days.Day) []Move {
	out := slices.Clone(choice)
	for i := range out {
		out[i].To = to
	}
	return out
}

// best tries everything; -1 if nothing helps.
func (s *slow) best() int64 {
	best := int64(-1)
	var moves []Move
	var try func(i int)
	try = func(i int) {
		if i == len(s.choices) {
			if h := s.harm(moves); (best < 0 || h < best) && s.holds(moves) {
				best = h
			}
			return
		}
		try(i + 1)
		n := len(moves)
		for _, d := range s.goes(s.choices[i]) {
			moves = append(moves[:n], moved(s.choices[i], d)...)
			try(i + 1)
		}
		moves = moves[:n]
	}
	try(0)
	return best
}

// small is a random book of one item at one warehouse with a demand that may not fit, and another item that some whole orders want, too.
func small(r *rand.Rand) (*book.Book, Ask) {
	today := days.Date(2027, 3, 1) + days.Day(r.IntN(7))
	cal, _ := days.NewCalendar(days.Weekdays, []days.Day{today + days.Day(r.IntN(9))})
	d := book.NewBuilder(today, cal)
	item, _ := d.Item("A", 1, r.IntN(12), r.IntN(3) > 0)
	cell := d.Cell(item, d.Warehouse("HL"))
	another, _ := d.Item("B", 1, 3, true)
	other := d.Cell(another, d.Warehouse("HL"))
	must(d.Stock(cell, int64(r.IntN(12)), 0))
	for range r.IntN(4) {
		must(d.Receipt(cell, today+days.Day(r.IntN(11)), int64(1+r.IntN(10))))
	}
	for n, left := 0, 4; left > 0; n++ {
		rule := book.Any
		if r.IntN(3) == 0 {
			rule = book.Whole
		}
		o, _ := d.Order(book.Order{
			Number: fmt.Sprint("S", n), Customer: string(rune('A' + r.IntN(3))),
			Tier: uint8(1 + r.IntN(5)), Urgency: 3, Rule: rule,
		})
		day := today + days.Day(r.IntN(11)-2)
		for no := int32(1); left > 0 && no <= 1+int32(rule/book.Whole); no++ {
			line := book.NewLine{Order: o, No: no, Cell: cell, Weight: int32(1 + r.IntN(5)), ShipBy: today}
			if no > 1 && r.IntN(2) == 0 {
				line.Cell = other
			}
			for range min(left, 1+r.IntN(2)) {
				q := int64(1 + r.IntN(6))
				line.Ordered += q
				if r.IntN(2) == 0 || rule == book.Any { // what goes whole is mostly promised for one day
					day = today + days.Day(r.IntN(11)-2)
				}
				line.Promises = append(line.Promises, book.Promise{Qty: q, Cell: line.Cell, Day: day})
				left--
			}
			line.Open = line.Ordered
			must(d.Line(line))
		}
	}
	b, err := d.Book()
	must(err)
	ask := Ask{Cell: 0, Qty: int64(1 + r.IntN(14)), By: today + days.Day(r.IntN(11)-1), Line: NewLine}
	if r.IntN(3) == 0 {
		if l := int32(r.IntN(len(b.Lines))); b.Lines[l].Cell == 0 {
			ask.Line = l
		}
	}
	if r.IntN(3) == 0 {
		fixed := int32(r.IntN(len(b.Lines)))
		ask.Fixed = func(l int32) bool { return l == fixed }
	}
	return b, ask
}

func must(err error) {
	if err != nil {
		panic(err)
	}
}

func TestLeastHarmIsWhatTryingEverythingFinds(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 1))
	seen := map[string]int{}
	for n := range 1500 {
		b, ask := small(r)
		for _, ask.Harm = range []Harm{Number, Days, Customers} {
			s := newSlow(b, ask)
			a := Find(b, ask)
			if fits := s.holds(nil); a.Fits != fits {
				t.Fatalf("book %d: fits %v, trying says %v", n, a.Fits, fits)
			} else if fits {
				seen["fits"]++
				continue
			}
			best := s.best()
			if a.Possible != (best >= 0) {
				t.Fatalf("book %d, %s: possible %v, trying finds %d", n, ask.Harm, a.Possible, best)
			}
			if !a.Possible {
				seen["impossible"]++
				continue
			}
			seen[string(ask.Harm)]++
			if len(a.PutBack) > 1 {
				seen["several"]++
			}
			if slices.ContainsFunc(a.PutBack, func(m Move) bool { return m.Cell != ask.Cell }) {
				seen["another item"]++
			}
			if !slices.Equal(Together(b, a.PutBack), a.PutBack) {
				t.Fatalf("book %d, %s: %+v tears an order that goes only whole", n, ask.Harm, a.PutBack)
			}
			if !a.Proved || a.Harm != best || a.Bound != best || s.harm(a.PutBack) != best {
				t.Fatalf(
					"book %d, %s: harm %d (bound %d, proved %v, moves %+v worth %d), trying finds %d", n, ask.Harm, a.Harm, a.Bound,
					a.Proved, a.PutBack, s.harm(a.PutBack), best,
				)
			}
			if !s.holds(a.PutBack) {
				t.Fatalf("book %d, %s: %+v does not make room", n, ask.Harm, a.PutBack)
			}
			if ok, lacking := Enough(b, ask, a.PutBack); !ok || lacking != 0 {
				t.Fatalf("book %d, %s: Enough says %v, %d lacking, of %+v", n, ask.Harm, ok, lacking, a.PutBack)
			}
		}
	}
	for _, k := range []string{"fits", "impossible", "number", "days", "customers", "several", "another item"} {
		if seen[k] < 50 {
			t.Errorf("only %d cases of %q: the check is too weak", seen[k], k)
		}
	}
}

func TestChosenByHandIsEnoughIfEveryDaySaysSo(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 2))
	enough := 0
	for n := range 4000 {
		b, ask := small(r)
		s := newSlow(b, ask)
		var moves []Move
		for _, c := range s.choices {
			if to := s.goes(c); len(to) > 0 && r.IntN(2) == 0 {
				one := c[r.IntN(len(c))]
				one.To = to[r.IntN(len(to))]
				moves = append(moves, Together(b, []Move{one})...)
			}
		}
		ok, lacking := Enough(b, ask, moves)
		if ok != s.holds(moves) || ok != (lacking == 0) {
			t.Fatalf("book %d: enough %v (%d lacking), day by day %v: %+v of %+v", n, ok, lacking, s.holds(moves), moves, ask)
		}
		if ok && !s.holds(nil) {
			enough++
		}
	}
	if enough < 50 {
		t.Errorf("only %d choices were enough: the check is too weak", enough)
	}
}
