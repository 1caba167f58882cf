package makeroom

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"journeyman/core/book"
	"journeyman/core/days"
)

// The third of three jobs is the new demand, the first two are the promises: lengths 11, 9, 90,
// weights 12, 9, 89, all due by 100: the least weight that is late is 12 (M. Pinedo, Scheduling,
// on E. L. Lawler and J. M. Moore 1969; values from memory, recomputed).
func TestWeightedNumberOfLateJobs(t *testing.T) {
	t.Parallel()
	b, cell := crowded(100, nil, []want{{11, 5, 12}, {9, 5, 9}})
	a := Find(b, Ask{Cell: cell, Qty: 90, By: b.Today + 5, Line: NewLine})
	if a.Harm != 12 || !a.Proved || len(a.PutBack) != 1 || a.PutBack[0].Qty != 11 {
		t.Errorf("got %+v, want the promise of 11 put back, at 12", a)
	}
	// Two small ones are late rather than the heavy one, if it weighs more than both.
	b, cell = crowded(100, nil, []want{{20, 5, 30}, {11, 5, 12}, {9, 5, 9}})
	if a := Find(b, Ask{Cell: cell, Qty: 80, By: b.Today + 5, Line: NewLine}); a.Harm != 21 || len(a.PutBack) != 2 {
		t.Errorf("got %+v, want both small ones, at 21", a)
	}
}

type want struct {
	qty    int64
	in     int // days from today
	weight int32
}

// crowded is a book of one item that takes 20 working days to buy, with promises on one line each.
func crowded(free int64, receipts [][2]int64, wants []want) (*book.Book, int32) {
	today := days.Date(2027, 3, 1)
	cal, _ := days.NewCalendar(days.Weekdays, nil)
	d := book.NewBuilder(today, cal)
	item, _ := d.Item("G1", 1, 20, true)
	cell := d.Cell(item, d.Warehouse("HL"))
	must(d.Stock(cell, free, 0))
	for _, r := range receipts {
		must(d.Receipt(cell, today+days.Day(r[0]), r[1]))
	}
	for i, w := range wants {
		o, _ := d.Order(book.Order{Number: fmt.Sprintf("S%04d", i), Customer: fmt.Sprint("C", i), Tier: 3, Urgency: 3})
		must(d.Line(book.NewLine{
			Order: o, No: 1, Cell: cell, Ordered: w.qty, Open: w.qty, Weight: w.weight, ShipBy: today,
			Promises: []book.Promise{{Qty: w.qty, Cell: cell, Day: today + days.Day(w.in)}},
		}))
	}
	b, err := d.Book()
	must(err)
	return b, 0
}

func TestPutBackNoFurtherThanTheNextArrival(t *testing.T) {
	t.Parallel()
	// 10 are there and promised for the 3rd; 10 more come on the 8th.
	b, cell := crowded(10, [][2]int64{{7, 10}}, []want{{10, 2, 3}})
	for _, harm := range []Harm{Number, Days, Customers} {
		a := Find(b, Ask{Cell: cell, Qty: 6, By: b.Today + 1, Line: NewLine, Harm: harm})
		if len(a.PutBack) != 1 || a.PutBack[0].To != b.Today+7 {
			t.Errorf("%s: got %+v, want it put back to the 8th", harm, a)
		}
		if want := map[Harm]int64{Number: 3, Days: 15, Customers: 1}[harm]; a.Harm != want || a.Bound != want || !a.Proved {
			t.Errorf("%s: got harm %d, bound %d, want %d", harm, a.Harm, a.Bound, want)
		}
	}
	if a := Find(b, Ask{Cell: cell, Qty: 21, By: b.Today + 1, Line: NewLine}); a.Possible || a.Fits {
		t.Errorf("21 of 20: got %+v, want that nothing helps", a)
	}
	if a := Find(b, Ask{Cell: cell, Qty: 10, By: b.Today + 7, Line: NewLine}); !a.Fits || !a.Proved {
		t.Errorf("10 by the 8th: got %+v, want that it fits", a)
	}
	if a := Find(b, Ask{Cell: cell, Qty: 1000, By: b.Today + 40, Line: NewLine}); !a.Fits {
		t.Errorf("after the lead day: got %+v, want that it fits", a)
	}
	fixed := func(int32) bool { return true }
	if a := Find(b, Ask{Cell: cell, Qty: 6, By: b.Today + 1, Line: NewLine, Fixed: fixed}); a.Possible {
		t.Errorf("all fixed: got %+v, want that nothing helps", a)
	}
}

func TestALineWithPromisesOnTwoDaysIsHarmedOnce(t *testing.T) {
	t.Parallel()
	today := days.Date(2027, 3, 1)
	cal, _ := days.NewCalendar(days.Weekdays, nil)
	d := book.NewBuilder(today, cal)
	item, _ := d.Item("G1", 1, 20, true)
	cell := d.Cell(item, d.Warehouse("HL"))
	must(d.Stock(cell, 20, 0))
	o, _ := d.Order(book.Order{Number: "S1", Customer: "A", Tier: 1, Urgency: 3})
	must(d.Line(book.NewLine{
		Order: o, No: 1, Cell: cell, Ordered: 20, Open: 20, ShipBy: today,
		Promises: []book.Promise{{Qty: 10, Day: today + 1}, {Qty: 10, Day: today + 3}},
	}))
	b, err := d.Book()
	must(err)
	a := Find(b, Ask{Cell: 0, Qty: 15, By: today + 1, Line: NewLine})
	// The 10 of the 4th cannot help: they are there already when the demand takes what is left then.
	if a.Harm != 5 || len(a.PutBack) != 2 {
		t.Errorf("got %+v, want both entries of the one line at 5", a)
	}
	cs := Candidates(b, Ask{Cell: 0, Qty: 15, By: today + 1, Line: NewLine})
	if len(cs) != 2 || cs[0].Day != today+1 || cs[1].Day != today+3 || len(cs[0].To) == 0 {
		t.Errorf("candidates %+v", cs)
	}
}

func TestWhenItIsStoppedTheBoundStillHolds(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 3))
	for range 40 {
		b, ask := competing(r, 60, false)
		for _, ask.Harm = range []Harm{Number, Days} {
			whole := Find(b, ask)
			ask.Stop = func() bool { return true }
			cut := Find(b, ask)
			ask.Stop = nil
			if !whole.Proved || cut.Bound > whole.Harm || cut.Harm < whole.Harm || cut.Possible != whole.Possible {
				t.Fatalf("%s: stopped at once %d (bound %d), in the end %d", ask.Harm, cut.Harm, cut.Bound, whole.Harm)
			}
			if ok, _ := Enough(b, ask, cut.PutBack); whole.Possible && !ok {
				t.Fatalf("%s: stopped at once, %+v does not make room", ask.Harm, cut.PutBack)
			}
		}
	}
}

// competing is a random item with so many promised lines over some six weeks, eight receipts, and a
// demand about as large as the twentieth part of them.
func competing(r *rand.Rand, lines int, whole bool) (*book.Book, Ask) {
	today := days.Date(2027, 3, 1)
	cal, _ := days.NewCalendar(days.Weekdays, nil)
	d := book.NewBuilder(today, cal)
	item, _ := d.Item("G1", 1, 30, true)
	cell := d.Cell(item, d.Warehouse("HL"))
	var wants []want
	need := make([]int64, 50)
	for range lines {
		w := want{int64(1 + r.IntN(40)), r.IntN(40), int32(1 + r.IntN(5))}
		wants = append(wants, w)
		need[w.in] += w.qty
	}
	// Receipts come just in time: on some days what is promised until the next one.
	days8 := []int{0}
	for range 8 {
		days8 = append(days8, 1+r.IntN(40))
	}
	slices.Sort(days8)
	days8 = append(slices.Compact(days8), 50)
	total := int64(0)
	for i := range len(days8) - 1 {
		q := int64(r.IntN(30))
		for _, n := range need[days8[i]:days8[i+1]] {
			q += n
		}
		total += q
		if i == 0 {
			must(d.Stock(cell, q, 0))
		} else {
			// An arrival on a weekend counts from Monday: it is due on the Friday before.
			must(d.Receipt(cell, cal.Prev(today+days.Day(days8[i])), q))
		}
	}
	// Where whole is asked for, every third order has two lines and goes only whole.
	for i, n := 0, int32(1); i < len(wants); n++ {
		x := book.Order{Number: fmt.Sprintf("S%04d", n), Customer: fmt.Sprint("C", n%40), Tier: 3, Urgency: 3}
		lines := 1
		if whole && n%3 == 0 {
			x.Rule, lines = book.Whole, 2
		}
		o, _ := d.Order(x)
		for no := range min(lines, len(wants)-i) {
			w := wants[i]
			i++
			must(d.Line(book.NewLine{
				Order: o, No: int32(no + 1), Cell: cell, Ordered: w.qty, Open: w.qty, Weight: w.weight, ShipBy: today,
				Promises: []book.Promise{{Qty: w.qty, Cell: cell, Day: today + days.Day(w.in)}},
			}))
		}
	}
	b, err := d.Book()
	must(err)
	return b, Ask{Cell: 0, Qty: total/20 + int64(r.IntN(60)), By: today + days.Day(r.IntN(12)), Line: NewLine}
}

func BenchmarkAmong300Lines(b *testing.B) {
	for _, harm := range []Harm{Number, Days, Customers} {
		b.Run(string(harm), func(b *testing.B) {
			r := rand.New(rand.NewPCG(4, 5))
			var took []time.Duration
			proved := 0
			for range b.N {
				bk, ask := competing(r, 300, false)
				ask.Harm = harm
				began := time.Now()
				n := 0
				ask.Stop = func() bool { n++; return time.Since(began) > 250*time.Millisecond }
				a := Find(bk, ask)
				took = append(took, time.Since(began))
				if a.Proved {
					proved++
				}
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-median")
			b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "ms-p95")
			b.ReportMetric(float64(proved)/float64(len(took))*100, "%proved")
		})
	}
}

func TestAnAnswerInItsJSONForm(t *testing.T) {
	t.Parallel()
	b, cell := crowded(10, [][2]int64{{7, 10}}, []want{{10, 2, 3}})
	for name, c := range map[string]struct {
		ask  Ask
		want string
	}{
		"it fits": {Ask{Qty: 10, By: b.Today + 7}, `{"fits":true,"possible":true,"put_back":[],"harm":0,"proved":true,"bound":0}`},
		"made": {
			Ask{Qty: 4, By: b.Today + 1},
			`{"fits":false,"possible":true,"put_back":[{"order":"S0000","line":1,"qty":10,"from":"2027-03-03","to":"2027-03-08"}],"harm":3,"proved":true,"bound":3}`,
		},
		"impossible": {Ask{Qty: 99, By: b.Today + 1}, `{"fits":false,"possible":false}`},
	} {
		c.ask.Cell, c.ask.Line = cell, NewLine
		var out strings.Builder
		if err := Find(b, c.ask).Write(&out, b); err != nil {
			t.Fatal(err)
		}
		if got := strings.TrimSpace(out.String()); got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
	}
}

// A smaller demand never does more harm.
func TestMoreMayOnlyHelp(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 7))
	compared := 0
	for range 120 {
		b, ask := competing(r, 40, false)
		for _, ask.Harm = range []Harm{Number, Days, Customers} {
			before := Find(b, ask)
			less := ask
			less.Qty = max(1, ask.Qty-int64(1+r.IntN(20)))
			after := Find(b, less)
			if before.Possible && (!after.Possible || after.Harm > before.Harm) {
				t.Fatalf(
					"%s: a smaller demand does more harm: %d of %d, before %d of %d", ask.Harm, after.Harm, less.Qty, before.Harm, ask.Qty,
				)
			}
			if before.Possible && !before.Fits {
				compared++
			}
		}
	}
	if compared < 100 {
		t.Errorf("only %d cases", compared)
	}
}

func ExampleFind() {
	b, cell := crowded(100, nil, []want{{11, 5, 12}, {9, 5, 9}})
	a := Find(b, Ask{Cell: cell, Qty: 90, By: b.Today + 5, Line: NewLine})
	fmt.Println(a.Fits, a.Possible, a.Harm, a.Proved)
	for _, m := range a.PutBack {
		fmt.Println(b.Orders[b.Lines[m.Line].Order].Number, m.Qty, m.From, "→", m.To)
	}
	// Output:
	// false true 12 true
	// S0000 11 2027-03-06 → 2027-03-29
}

// times is the book with all quantities so many times as large.
func times(b *book.Book, factor int64) *book.Book {
	changed := *b
	out := &changed
	out.Lines, out.Cells, out.Promises = slices.Clone(b.Lines), slices.Clone(b.Cells), slices.Clone(b.Promises)
	for i := range out.Cells {
		c := &out.Cells[i]
		c.OnHand, c.Held, c.Used = c.OnHand*factor, c.Held*factor, c.Used*factor
	}
	out.Receipts = slices.Clone(out.Receipts)
	for i := range out.Receipts {
		out.Receipts[i].Qty *= factor
	}
	for i := range out.Lines {
		out.Lines[i].Ordered, out.Lines[i].Open = out.Lines[i].Ordered*factor, out.Lines[i].Open*factor
	}
	for i := range out.Promises {
		out.Promises[i].Qty *= factor
	}
	return out
}

func TestAllQuantitiesTimesAFactorMakeNoDifference(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 11))
	for n := range 60 {
		b, ask := competing(r, 60, false)
		ask.Harm = []Harm{Number, Days, Customers}[n%3]
		want := Find(b, ask)
		for _, factor := range []int64{7, 1000, 1_000_000} {
			more := ask
			more.Qty *= factor
			got := Find(times(b, factor), more)
			for i := range got.PutBack {
				got.PutBack[i].Qty /= factor
			}
			if !slices.Equal(got.PutBack, want.PutBack) || got.Harm != want.Harm || got.Bound != want.Bound ||
				got.Proved != want.Proved || got.Possible != want.Possible {
				t.Fatalf("case %d, %s, × %d: %+v, want %+v", n, ask.Harm, factor, got, want)
			}
		}
	}
}

// Quantities that nothing divides are as large as those of a book may be, and mostly proved all the same.
func TestLargeQuantitiesAreMostlyProved(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 12))
	proved, cases := 0, 0
	for n := range 45 {
		b, ask := competing(r, 40, false)
		b = times(b, 100_000)
		ask.Qty = ask.Qty*100_000 + r.Int64N(100_000)
		for i := range b.Promises { // each a little less than it was, so that there is enough for all
			b.Promises[i].Qty -= r.Int64N(50_000)
		}
		ask.Harm = []Harm{Number, Days, Customers}[n%3]
		a := Find(b, ask)
		if a.Fits || !a.Possible {
			continue
		}
		if ok, _ := Enough(b, ask, a.PutBack); !ok || a.Bound > a.Harm {
			t.Fatalf("case %d: %+v", n, a)
		}
		if cases++; a.Proved {
			proved++
		}
	}
	if cases < 20 || proved < cases*9/10 {
		t.Errorf("%d of %d are proved", proved, cases)
	}
}

// Being stopped at once costs little more than looking what is lacking, whatever the size.
func TestBeingStoppedIsNotOverrun(t *testing.T) {
	t.Parallel()
	for _, harm := range []Harm{Number, Days, Customers} {
		b, ask := competing(rand.New(rand.NewPCG(4, 13)), 4000, false)
		ask.Harm = harm
		least := func(f func()) time.Duration {
			best := time.Duration(1 << 62)
			for range 5 {
				began := time.Now()
				f()
				best = min(best, time.Since(began))
			}
			return best
		}
		looked := least(func() { build(b, ask).inUnits() })
		asked := 0
		ask.Stop = func() bool { asked++; return true }
		var a Answer
		if took := least(func() { a = Find(b, ask) }); took > 40*looked {
			t.Errorf("%s: stopped at once it takes %s; what is lacking is known after %s", harm, took, looked)
		}
		if !a.Cut || a.Bound > a.Harm || asked > 10 {
			t.Errorf("%s: %+v, and asked %d times in five answers", harm, a, asked)
		}
	}
}

// Moore and Hodgson: five jobs of 7, 8, 4, 6, 6 days, due on 9, 17, 18, 19, 21: two are late, and no fewer can be (M. Pinedo,
// Scheduling; values from memory, recomputed). A day's work is a unit that arrives; beside it 10 are there, which a new demand takes.
func TestTheFewestLateJobs(t *testing.T) {
	t.Parallel()
	jobs := []want{{7, 9, 1}, {8, 17, 1}, {4, 18, 1}, {6, 19, 1}, {6, 21, 1}}
	today := days.Date(2027, 3, 1)
	d := book.NewBuilder(today, days.Calendar{})
	item, _ := d.Item("G1", 1, 60, true)
	cell := d.Cell(item, d.Warehouse("HL"))
	must(d.Stock(cell, 10, 0))
	for day := 1; day <= 31; day++ {
		must(d.Receipt(cell, today+days.Day(day), 1))
	}
	for i, w := range jobs {
		o, _ := d.Order(book.Order{Number: fmt.Sprint(i), Customer: fmt.Sprint("C", i), Tier: 5, Urgency: 3})
		must(d.Line(book.NewLine{
			Order: o, No: 1, Cell: cell, Ordered: w.qty, Open: w.qty, Weight: w.weight, ShipBy: today,
			Promises: []book.Promise{{Qty: w.qty, Cell: cell, Day: today + days.Day(w.in)}},
		}))
	}
	b, err := d.Book()
	must(err)
	for _, harm := range []Harm{Number, Customers} {
		if a := Find(b, Ask{Qty: 10, By: today, Line: NewLine, Harm: harm}); a.Harm != 2 || !a.Proved {
			t.Errorf("%s: %+v, want two late", harm, a)
		}
	}
}

// The search finds the least by itself, also where the best that is known before is only one worse.
func TestTheSearchFindsWhatIsOneLess(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 14))
	searched := 0
	for n := range 80 {
		b, ask := competing(r, 20, false)
		p := build(b, ask)
		if p == nil || !p.possible() {
			continue
		}
		p.inUnits()
		_, least, bound := p.leastDays()
		if least != bound {
			continue
		}
		s := p.searching()
		s.prices()
		s.best = least + 1
		for i := range s.last {
			s.last[i] = not
		}
		if !s.search(0) || s.best != least {
			t.Fatalf("case %d: the search ends with %d, the least is %d", n, s.best, least)
		}
		searched++
	}
	if searched < 40 {
		t.Errorf("only %d were searched", searched)
	}
}
