package days

import (
	"errors"
	"math/rand/v2"
	"testing"
	"time"
)

func day(t testing.TB, s string) Day {
	t.Helper()
	d, err := Parse(s)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

func calendar(t testing.TB, work []time.Weekday, closed ...string) Calendar {
	t.Helper()
	var ds []Day
	for _, s := range closed {
		ds = append(ds, day(t, s))
	}
	c, err := NewCalendar(work, ds)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func TestWorkingDaysAgreeWithNumPy(t *testing.T) {
	// Source: NumPy's documentation of busday_offset and busday_count.
	c := calendar(t, Weekdays, "2026-07-03")
	if got := c.Add(day(t, "2026-07-01"), 2); got != day(t, "2026-07-06") {
		t.Errorf("busday_offset('2026-07-01', 2, holidays=['2026-07-03']) = %s, want 2026-07-06", got)
	}
	plain := calendar(t, Weekdays)
	if got := plain.Count(day(t, "2011-01-01"), day(t, "2011-02-01")); got != 21 {
		t.Errorf("busday_count('2011-01', '2011-02') = %d, want 21", got)
	}
	if got := plain.Count(day(t, "2011-01-01"), day(t, "2012-01-01")); got != 260 {
		t.Errorf("busday_count('2011', '2012') = %d, want 260", got)
	}
	saturdays := calendar(t, []time.Weekday{time.Saturday})
	if got := saturdays.Count(day(t, "2011-01-01"), day(t, "2012-01-01")); got != 53 {
		t.Errorf("busday_count('2011', '2012', weekmask='Sat') = %d, want 53", got)
	}
	if got := plain.Next(day(t, "2011-10-01")); got != day(t, "2011-10-03") { // busday_offset('2011-10', 0, roll='forward')
		t.Errorf("the first working day of October 2011 is %s", got)
	}
	if got := plain.Add(plain.Next(day(t, "2012-03-01")), -1); got != day(t, "2012-02-29") { // busday_offset('2012-03', -1, roll='forward')
		t.Errorf("the last working day of February 2012 is %s", got)
	}
}

func TestTheZeroCalendarWorksEveryDay(t *testing.T) {
	var c Calendar
	d := day(t, "2027-02-27") // a Saturday
	if !c.Works(d) || c.Next(d) != d || c.Add(d, 3) != d+3 || c.Count(d, d+10) != 10 {
		t.Error("the zero calendar rests")
	}
}

func TestACalendarNeedsAWorkingDay(t *testing.T) {
	if _, err := NewCalendar(nil, nil); !errors.Is(err, ErrNoWorkday) {
		t.Errorf("a calendar without a day: %v", err)
	}
}

func TestACalendarIsWhatCountingDayByDaySays(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 3))
		var work []time.Weekday
		for w := time.Sunday; w <= time.Saturday; w++ {
			if r.IntN(3) > 0 || (w == time.Saturday && len(work) == 0) {
				work = append(work, w)
			}
		}
		shut := map[Day]bool{}
		var closed []Day
		base := Day(r.IntN(40_000) - 10_000)
		for range r.IntN(30) {
			d := base + Day(r.IntN(200)-50)
			shut[d] = true
			closed = append(closed, d)
		}
		c, err := NewCalendar(work, closed)
		if err != nil {
			t.Fatal(err)
		}
		works := func(d Day) bool {
			for _, w := range work {
				if d.Time().Weekday() == w {
					return !shut[d]
				}
			}
			return false
		}
		for range 40 {
			d := base + Day(r.IntN(220)-60)
			if c.Works(d) != works(d) {
				t.Fatalf("seed %d: %s", seed, d)
			}
			n := r.IntN(21) - 10
			want := d
			for left := n; left != 0; {
				step := Day(1)
				if n < 0 {
					step = -1
				}
				if want += step; works(want) {
					left -= int(step)
				}
			}
			if got := c.Add(d, n); got != want {
				t.Fatalf("seed %d: %s %+d = %s, want %s", seed, d, n, got, want)
			}
			to := d + Day(r.IntN(100)-50)
			count := 0
			for x := min(d, to); x < max(d, to); x++ {
				if works(x) {
					count++
				}
			}
			if to < d {
				count = -count
			}
			if got := c.Count(d, to); got != count {
				t.Fatalf("seed %d: from %s to %s %d, want %d", seed, d, to, got, count)
			}
		}
	}
}

func TestWhenAnOrderCanLeave(t *testing.T) {
	k := Dock{Calendar: calendar(t, Weekdays, "2027-03-26"), CutOff: 15 * 60, Handling: 1}
	for _, c := range []struct {
		day    string
		minute int
		want   string
	}{
		{"2027-03-01", 14*60 + 59, "2027-03-02"}, // Monday before the cut-off: one day of handling
		{"2027-03-01", 15 * 60, "2027-03-03"},    // at the cut-off it is tomorrow's
		{"2027-03-05", 16 * 60, "2027-03-09"},    // Friday afternoon is Monday's
		{"2027-03-06", 16 * 60, "2027-03-09"},    // and so is Saturday
		{"2027-03-25", 10 * 60, "2027-03-29"},    // Good Friday is no day of handling
	} {
		if got := k.Ready(day(t, c.day), c.minute); got != day(t, c.want) {
			t.Errorf("ordered on %s at minute %d: leaves %s, want %s", c.day, c.minute, got, c.want)
		}
	}
	if got := (Dock{}).Ready(day(t, "2027-03-06"), 23*60); got != day(t, "2027-03-06") {
		t.Errorf("without a calendar, cut-off or handling it leaves on %s", got)
	}
}

func TestShipByIsTheLastDayThatArrivesInTime(t *testing.T) {
	week := calendar(t, Weekdays, "2027-03-26", "2027-03-29")
	k := Dock{Calendar: week}
	two := Service{Transit: 2, Calendar: week}
	if got := two.Arrives(day(t, "2027-03-05")); got != day(t, "2027-03-09") {
		t.Errorf("sent on a Friday with two days it arrives on %s", got)
	}
	if got := two.ShipBy(k, day(t, "2027-03-09")); got != day(t, "2027-03-05") {
		t.Errorf("for Tuesday it has to leave on %s", got)
	}
	if got := two.ShipBy(k, day(t, "2027-03-30")); got != day(t, "2027-03-24") {
		t.Errorf("over Easter it has to leave on %s", got)
	}
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 4))
		var closed []Day
		for range r.IntN(12) {
			closed = append(closed, Day(20_000+r.IntN(60)))
		}
		house, err := NewCalendar(Weekdays, closed)
		if err != nil {
			t.Fatal(err)
		}
		carrier, err := NewCalendar(append([]time.Weekday{time.Saturday}, Weekdays[r.IntN(3):]...), closed[:len(closed)/2])
		if err != nil {
			t.Fatal(err)
		}
		s, k := Service{Transit: r.IntN(5), Calendar: carrier}, Dock{Calendar: house}
		for w := Day(20_000); w < 20_060; w++ {
			d := s.ShipBy(k, w)
			if !house.Works(d) || s.Arrives(d) > w {
				t.Fatalf("seed %d: for %s it leaves on %s and arrives on %s", seed, w, d, s.Arrives(d))
			}
			if later := house.Next(d + 1); s.Arrives(later) <= w {
				t.Fatalf("seed %d: for %s it could leave on %s, not only on %s", seed, w, later, d)
			}
		}
	}
}

func TestWeekdaysBeforeTheEpoch(t *testing.T) {
	for d := Day(-2000); d < 2000; d += 13 {
		if d.Weekday() != d.Time().Weekday() {
			t.Fatalf("%s is not a %s", d, d.Weekday())
		}
	}
}
