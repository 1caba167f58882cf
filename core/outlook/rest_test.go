package outlook

import (
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/days"
)

func TestWhatACommitmentRestsOn(t *testing.T) {
	receipts := []Event{{8, 60}, {8, 10}, {17, 80}}
	for _, c := range []struct {
		day, lead       int
		free, committed int64
		on              Support
		last            int
		missing         int64
	}{
		{3, 30, 76, 76, Stock, 0, 0},
		{40, 30, 76, 76, Stock, 0, 0}, // what is there comes before what can be bought
		{3, 30, 76, 80, Nothing, 0, 4},
		{8, 30, 76, 80, Receipt, 0, 0},
		{8, 30, 76, 140, Receipt, 1, 0},
		{16, 30, 76, 150, Nothing, 0, 4},
		{17, 30, 76, 150, Receipt, 2, 0},
		{30, 30, 76, 999, Buying, 0, 0},
	} {
		on, last, missing := Rest(days.Day(c.day), days.Day(c.lead), c.free, c.committed, receipts)
		if on != c.on || last != c.last || missing != c.missing {
			t.Errorf("day %d, %d committed: %d %d %d, want %d %d %d", c.day, c.committed, on, last, missing, c.on, c.last, c.missing)
		}
	}
}

// A commitment rests on nothing just where C falls below zero on its day, by as much.
func TestNothingIsWhereTooMuchIsCommitted(t *testing.T) {
	nothing := 0
	for seed := range uint64(2000) {
		_, s, _ := random(rand.New(rand.NewPCG(seed, 13)))
		slices.SortFunc(s.receipts, byDay)
		for _, e := range s.commitments {
			d := max(e.Day, s.today)
			committed := int64(0)
			for _, x := range s.commitments {
				if max(x.Day, s.today) <= d {
					committed += x.Qty
				}
			}
			on, _, missing := Rest(d, s.lead, s.free, committed, s.receipts)
			if d >= s.lead {
				continue
			}
			if c := s.c(d); (on == Nothing) != (c < 0) || on == Nothing && missing != -c {
				t.Fatalf("seed %d: on %s C is %d, yet it rests on %d and lacks %d", seed, d, c, on, missing)
			}
			if on == Nothing {
				nothing++
			}
		}
	}
	if nothing < 500 {
		t.Errorf("only %d commitments rest on nothing", nothing)
	}
}
