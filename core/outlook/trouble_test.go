package outlook

import (
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/days"
)

func TestTheWorstTroubleComesFirst(t *testing.T) {
	t.Parallel()
	want := []Trouble{
		{Over: 100},
		{Over: 101, Short: 900, Overdue: 50},
		{Over: 101, Short: 5},
		{Over: Never, Short: 5, Overdue: 2},
		{Over: Never, Short: 5},
		{Over: Never, Short: 4, Overdue: 900},
		{Over: Never, Overdue: 1},
		{Over: Never},
	}
	for range 20 {
		got := slices.Clone(want)
		rand.Shuffle(len(got), func(i, j int) { got[i], got[j] = got[j], got[i] })
		if slices.SortFunc(got, Trouble.Compare); !slices.Equal(got, want) {
			t.Fatalf("%+v", got)
		}
	}
	for i, x := range want {
		if x.Any() != (i < len(want)-1) {
			t.Errorf("%+v: %v", x, x.Any())
		}
	}
}

// What is ordered on that day is there in time, and a working day later it is not.
func TestOrderByIsTheLastDayThatIsInTime(t *testing.T) {
	t.Parallel()
	cal, err := days.NewCalendar(days.Weekdays, []days.Day{days.Date(2027, 3, 26), days.Date(2027, 3, 29)})
	if err != nil {
		t.Fatal(err)
	}
	for d := days.Date(2027, 3, 1); d < days.Date(2027, 5, 1); d++ {
		for lead := range 12 {
			by := OrderBy(cal, d, lead)
			if Lead(cal, by, lead, true) > d || Lead(cal, by+1, lead, true) <= d && cal.Next(by+1) <= d {
				t.Fatalf("for %s in %d days it is ordered by %s", d, lead, by)
			}
		}
	}
}
