package release

import (
	"math"
	"slices"
	"testing"
)

func TestWhatIsChosenInOneStep(t *testing.T) {
	lines := []Ready{
		{Order: 1, Qty: 1, WeightG: 5000, Due: true},
		{Order: 2, Qty: 1, WeightG: 3000, Whole: true, Completes: true},
		{Order: 3, Qty: 1, WeightG: 1000, Completes: true},
		{Order: 2, Qty: 1, WeightG: 3000, Whole: true, Completes: true, Due: true},
		{Order: 4, Qty: 1, WeightG: 2000, Due: true},
	}
	for _, c := range []struct {
		rule Quick
		most int64
		want []Passed
	}{
		{Complete, 0, []Passed{Unready, Chosen, Chosen, Chosen, Unready}},
		{DueToday, 0, []Passed{Chosen, Later, Later, Later, Chosen}},
		{UpToRows, 3, []Passed{Chosen, Chosen, Limit, Chosen, Limit}},
		{UpToRows, 2, []Passed{Chosen, WithOrder, Chosen, WithOrder, Limit}},
		{UpToG, 8000, []Passed{Chosen, WithOrder, Chosen, WithOrder, Chosen}},
		{UpToG, 0, []Passed{Limit, WithOrder, Limit, WithOrder, Limit}},
	} {
		if got := c.rule.Choose(lines, c.most); !slices.Equal(got, c.want) {
			t.Errorf("%s %d: %v, want %v", c.rule, c.most, got, c.want)
		}
	}
}

func TestTheMostThatFits(t *testing.T) {
	for most := range 40 {
		for limit := range 45 {
			asked := 0
			got := MostThat(most, func(n int) bool { asked++; return n <= limit })
			if got != min(most, limit) || asked > 7 {
				t.Errorf("of %d up to %d: %d, asked %d times", most, limit, got, asked)
			}
		}
	}
}

func TestHowLongPickingTakes(t *testing.T) {
	p := Pace{WalkCM: 6000, LineMillis: 12_000, UnitMillis: 2500}
	if got := p.Seconds(12_000, 10, 3); got != 120+120+8 { // 247.5 s, rounded up
		t.Errorf("%d s", got)
	}
	if got := (Pace{}).Seconds(1, 1, 1); got != 0 {
		t.Errorf("no pace: %d s", got)
	}
	if got := p.Seconds(math.MaxInt64, math.MaxInt64, math.MaxInt64); got <= 0 {
		t.Errorf("very much: %d s", got)
	}
}

func TestHowMuchOfAPalletGoodsFill(t *testing.T) {
	p := Pallet{MostG: 800_000, MostCM3: 1_440_000}
	for _, c := range []struct{ g, cm3, want int64 }{
		{800_000, 0, 100}, {0, 1_440_000, 100}, {1, 0, 1}, {1_200_000, 144_000, 150}, {0, 0, 0}, {math.MaxInt64, 0, math.MaxInt64},
	} {
		if got := p.Hundredths(c.g, c.cm3); got != c.want {
			t.Errorf("%d g and %d cm³: %d, want %d", c.g, c.cm3, got, c.want)
		}
	}
	if (Pallet{}).Hundredths(5, 5) != 0 {
		t.Error("a pallet without limits is filled")
	}
}
