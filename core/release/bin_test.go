package release

import (
	"testing"

	"journeyman/core/days"
	"journeyman/core/journey"
)

func TestWhichBinAPickerIsSentTo(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		bins []Bin
		q    journey.Qty
		want int
	}{
		"the smallest that holds all":             {[]Bin{{"A-1", 3, 0}, {"A-2", 5, 0}, {"A-3", 9, 0}}, 5, 1},
		"what others are sent for does not count": {[]Bin{{"A-1", 3, 0}, {"A-2", 5, 1}, {"A-3", 9, 4}}, 5, 2},
		"none holds all: the smallest remains":    {[]Bin{{"A-1", 3, 0}, {"A-2", 5, 0}}, 6, 0},
		"an empty one is passed over":             {[]Bin{{"A-1", 3, 3}, {"A-2", 2, 0}}, 4, 1},
		"where none is set, if it holds all":      {[]Bin{{"", 6, 0}, {"A-1", 9, 0}}, 6, 0},
		"a set one before where none is set":      {[]Bin{{"", 2, 0}, {"A-1", 3, 0}}, 6, 1},
		"where none is set, if it alone has any":  {[]Bin{{"", 2, 0}, {"A-1", 3, 3}}, 6, 0},
		"none has any":                            {[]Bin{{"A-1", 3, 3}}, 1, -1},
		"there is none":                           {nil, 1, -1},
	} {
		if got := PickFrom(c.bins, c.q); got != c.want {
			t.Errorf("%s: %d, want %d", name, got, c.want)
		}
	}
}

func TestWhereWhatComesInIsPut(t *testing.T) {
	t.Parallel()
	for want, bins := range map[int][]Bin{
		2: {{"A-1", 1, 0}, {"", 2, 0}, {"A-2", 3, 3}}, 0: {{"A-1", 1, 0}, {"", 2, 0}}, -1: {{"", 2, 0}},
	} {
		if got := PutInto(bins); got != want {
			t.Errorf("%v: %d, want %d", bins, got, want)
		}
	}
}

func TestWorkIsDueTwoWorkingDaysAhead(t *testing.T) {
	t.Parallel()
	weekdays, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		t.Fatal(err)
	}
	friday := days.Date(2027, 3, 5)
	if got := DueUntil(friday, []days.Calendar{weekdays, {}}); got != friday+4 {
		t.Errorf("%s", got)
	}
	if got := DueUntil(friday, nil); got != friday {
		t.Errorf("without a warehouse %s", got)
	}
}
