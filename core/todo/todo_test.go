package todo

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"journeyman/core/days"
)

func dock(t testing.TB, cutOff int, zone string, closed ...days.Day) days.Dock {
	t.Helper()
	cal, err := days.NewCalendar(days.Weekdays, closed)
	if err != nil {
		t.Fatal(err)
	}
	where, err := time.LoadLocation(zone)
	if err != nil {
		t.Fatal(err)
	}
	return days.Dock{Calendar: cal, CutOff: cutOff, Zone: where}
}

func on(t testing.TB, day string) days.Day {
	t.Helper()
	d, err := days.Parse(day)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// Monday the 1st of March 2027 is a working day, Friday the 5th is closed where it says so.
func TestWhatWaitingCosts(t *testing.T) {
	t.Parallel()
	four := 16 * 60
	for _, x := range []struct {
		name   string
		day    string
		cutOff int
		zone   string
		closed string
		now    string
		by     string
		on     string
		missed int
	}{
		{"due today, before the cut-off", "2027-03-01", four, "UTC", "", "2027-03-01T15:20:00Z", "2027-03-01T16:00:00Z", "2027-03-01", 0},
		{"at the cut-off its day is lost", "2027-03-01", four, "UTC", "", "2027-03-01T16:00:00Z", "2027-03-02T16:00:00Z", "2027-03-02", 1},
		{"due tomorrow", "2027-03-02", four, "UTC", "", "2027-03-01T15:20:00Z", "2027-03-02T16:00:00Z", "2027-03-02", 0},
		{"late by a weekend", "2027-02-26", four, "UTC", "", "2027-03-01T09:00:00Z", "2027-03-01T16:00:00Z", "2027-03-01", 1},
		{"late on a Saturday", "2027-03-04", four, "UTC", "", "2027-03-06T09:00:00Z", "2027-03-08T16:00:00Z", "2027-03-08", 2},
		{"late past a closed day", "2027-03-04", four, "UTC", "2027-03-05", "2027-03-06T09:00:00Z", "2027-03-08T16:00:00Z", "2027-03-08", 1},
		{
			"due on a Sunday it has to be done on Friday", "2027-03-07", four, "UTC", "", "2027-03-01T09:00:00Z", "2027-03-05T16:00:00Z",
			"2027-03-05", 0,
		},
		{"by the dock's own clock", "2027-03-01", four, "America/New_York", "", "2027-03-01T20:30:00Z", "2027-03-01T21:00:00Z", "2027-03-01", 0},
		{
			"it is still yesterday there", "2027-03-02", four, "America/New_York", "", "2027-03-02T03:00:00Z", "2027-03-02T21:00:00Z",
			"2027-03-02", 0,
		},
		{"without a cut-off until midnight", "2027-03-01", 0, "UTC", "", "2027-03-01T23:59:00Z", "2027-03-02T00:00:00Z", "2027-03-01", 0},
		// Clocks go forward on the 28th of March 2027: a working day has its cut-off by the new time.
		{"by summer time", "2027-03-29", four, "Europe/London", "", "2027-03-26T17:00:00Z", "2027-03-29T15:00:00Z", "2027-03-29", 0},
	} {
		t.Run(x.name, func(t *testing.T) {
			t.Parallel()
			var closed []days.Day
			if x.closed != "" {
				closed = append(closed, on(t, x.closed))
			}
			now, err := time.Parse(time.RFC3339, x.now)
			if err != nil {
				t.Fatal(err)
			}
			got := Judge(Matter{Day: on(t, x.day), Tier: 2, Value: 10, Dock: dock(t, x.cutOff, x.zone, closed...)}, now)
			weight := int64(10 * 4)
			if x.missed > 0 {
				weight *= 2
			}
			if by := got.By.UTC().Format(time.RFC3339); by != x.by || got.Day != on(t, x.on) || got.Missed != x.missed || got.Weight != weight {
				t.Errorf("by %s on %s, %d missed, weight %d; want %s on %s, %d, %d", by, got.Day, got.Missed, got.Weight, x.by, x.on, x.missed, weight)
			}
		})
	}
}

func TestTheZeroDockWorksEveryDay(t *testing.T) {
	t.Parallel()
	now := time.Date(2027, 3, 6, 12, 0, 0, 0, time.UTC) // a Saturday
	got := Judge(Matter{Day: on(t, "2027-03-06")}, now)
	if want := time.Date(2027, 3, 7, 0, 0, 0, 0, time.UTC); !got.By.Equal(want) || got.Missed != 0 {
		t.Errorf("by %s, %d missed", got.By, got.Missed)
	}
}

func TestWeightsDoNotOverflow(t *testing.T) {
	t.Parallel()
	if got := Judge(Matter{Tier: 1, Value: math.MaxInt64 / 2}, time.Unix(1e9, 0)).Weight; got != math.MaxInt64 {
		t.Errorf("weight %d", got)
	}
}

func TestTheMostUrgentComesFirst(t *testing.T) {
	t.Parallel()
	k := dock(t, 16*60, "UTC")
	now := time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	today, tomorrow, before := on(t, "2027-03-01"), on(t, "2027-03-02"), on(t, "2027-02-26")
	want := []Matter{
		{Dispatch, "late, of tier 3", 3, 500, before, k}, // 500 × 3 × 2
		{Allocate, "dear", 3, 900, today, k},             // 2,700
		{Pick, "of tier 1", 1, 500, today, k},            // 2,500
		{Release, "as much, further back", 1, 500, today, k},
		{Release, "by its name", 1, 500, today, k},
		{Pick, "of tier 5", 5, 2000, today, k}, // 2,000
		{Hold, "without a value", 2, 0, today, k},
		{Dispatch, "tomorrow, however dear", 1, 1e12, tomorrow, k},
	}
	for range 50 {
		mixed := slices.Clone(want)
		rand.Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
		for i, got := range Rank(mixed, now) {
			if got.Ref != want[i].Ref || mixed[got.At].Ref != got.Ref {
				t.Fatalf("%d is %q, want %q", i, got.Ref, want[i].Ref)
			}
		}
	}
}

// Waiting never makes a matter less urgent: as time goes by, it is due no earlier, no fewer days are lost, and it weighs no less.
func TestUrgencyOnlyGrows(t *testing.T) {
	t.Parallel()
	for i := range 300 {
		r := rand.New(rand.NewPCG(7, uint64(i)))
		start := time.Date(2027, 3, 1+r.IntN(40), r.IntN(24), r.IntN(60), 0, 0, time.UTC)
		m := Matter{
			Day: days.Of(start) + days.Day(r.IntN(12)-6), Tier: 1 + r.IntN(5), Value: r.Int64N(1e6),
			Dock: dock(t, r.IntN(24*60), []string{"UTC", "Europe/London", "Asia/Tokyo"}[r.IntN(3)], days.Of(start)+days.Day(r.IntN(5))),
		}
		was := Judge(m, start)
		for h := 1; h < 24*9; h += 5 {
			now := start.Add(time.Duration(h) * time.Hour)
			is := Judge(m, now)
			if is.By.Before(was.By) || is.Missed < was.Missed || is.Weight < was.Weight || !is.By.After(now) {
				t.Fatalf("%d: at %s %+v, before %+v", i, now, is, was)
			}
			was = is
		}
	}
}
