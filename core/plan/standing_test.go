package plan

import (
	"slices"
	"testing"
)

func TestAllocatingKeepsTheEarliestPromisesFirst(t *testing.T) {
	had := []StandingPromise{{1, 10, 5}, {2, 12, 4}, {1, 20, 3}}
	for _, c := range []struct {
		units int64
		want  []StandingPromise
	}{
		{0, had},
		{3, []StandingPromise{{1, 10, 2}, {2, 12, 4}, {1, 20, 3}}},
		{5, []StandingPromise{{2, 12, 4}, {1, 20, 3}}},
		{7, []StandingPromise{{2, 12, 2}, {1, 20, 3}}},
		{12, nil},
		{99, nil},
	} {
		if got := UseUp(had, c.units); !slices.Equal(got, c.want) {
			t.Errorf("%d allocated: %v, want %v", c.units, got, c.want)
		}
	}
	if StandingUnits(had) != 12 || had[0].Qty != 5 {
		t.Error("what was given is changed")
	}
}

func TestWhatIsNotOpenAnyMoreIsCutTheLatestFirst(t *testing.T) {
	had := []StandingPromise{{1, 10, 5}, {2, 12, 4}, {1, 20, 3}}
	for _, c := range []struct {
		open int64
		want []StandingPromise
	}{
		{12, had},
		{10, []StandingPromise{{1, 10, 5}, {2, 12, 4}, {1, 20, 1}}},
		{7, []StandingPromise{{1, 10, 5}, {2, 12, 2}}},
		{0, nil},
	} {
		if got := CutTo(had, c.open); !slices.Equal(got, c.want) {
			t.Errorf("%d open: %v, want %v", c.open, got, c.want)
		}
	}
}
