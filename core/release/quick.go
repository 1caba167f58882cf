package release

import (
	"journeyman/core/capped"
	"journeyman/core/journey"
)

// Quick is a rule by which lines that could go are chosen in one step.
type Quick string

// The rules.
const (
	Complete Quick = "complete" // the orders that are completed by what could go
	DueToday Quick = "due"      // what ships today or should have
	UpToRows Quick = "lines"    // the most urgent, up to so many lines
	UpToG    Quick = "weight"   // the most urgent, up to so much weight
	UpToTime Quick = "time"     // the most urgent, up to what can be picked in so much time
)

// Quicks lists them.
var Quicks = []Quick{Complete, DueToday, UpToRows, UpToG, UpToTime}

// Passed is why a line that could go was not chosen.
type Passed string

// The reasons.
const (
	Chosen    Passed = ""
	Unready   Passed = "not_complete" // part of its order could not go
	Later     Passed = "later"        // it ships later
	Limit     Passed = "limit"        // it would be more than was asked for
	WithOrder Passed = "with_order"   // its order goes only whole, and all of it would be more than was asked for
)

// Ready is a line that could go.
type Ready struct {
	Order     int64
	Whole     bool // its order goes only whole
	Completes bool // all that is still to be sent of its order is allocated, and could go
	Due       bool // it ships today or should have
	Qty       journey.Qty
	WeightG   int64 // of all these units
}

// Bundles are lines that go together, by their place among those that were given: an order that goes only whole, where the first of its
// lines stands; others each by itself.
func Bundles(lines []Ready) [][]int {
	at := map[int64]int{}
	var out [][]int
	for i, l := range lines {
		if !l.Whole {
			out = append(out, []int{i})
			continue
		}
		n, known := at[l.Order]
		if !known {
			n = len(out)
			at[l.Order] = n
			out = append(out, nil)
		}
		out[n] = append(out[n], i)
	}
	return out
}

// Choose goes through lines, the most urgent first, and says of each whether it is chosen or why it is passed over. What does not fit any
// more is passed over and the next is looked at, so that the limit is used up. most is so many lines or grams, by the rule. UpToTime is not
// decided here, since how long picking takes is not a sum over lines: see MostThat. Cost: proportional to the number of lines.
func (q Quick) Choose(lines []Ready, most int64) []Passed {
	out := make([]Passed, len(lines))
	used := int64(0)
	for _, bundle := range Bundles(lines) {
		n := int64(len(bundle))
		if q == UpToG {
			n = 0
			for _, i := range bundle {
				n = capped.Plus(n, lines[i].WeightG)
			}
		}
		why := Chosen
		switch first := lines[bundle[0]]; {
		case q == Complete && !first.Completes:
			why = Unready
		case q == DueToday && !first.Due:
			why = Later
		case (q == UpToRows || q == UpToG) && capped.Plus(used, n) > most:
			why = Limit
			if len(bundle) > 1 {
				why = WithOrder
			}
		default:
			used = capped.Plus(used, n)
		}
		for _, i := range bundle {
			out[i] = why
		}
	}
	return out
}

// MostThat returns the greatest n up to most of which fits says that it fits, if it says so of all that are smaller, too; 0 if none does.
// It asks of about as many as most has bits.
func MostThat(most int, fits func(n int) bool) int {
	low, high := 0, most
	for low < high {
		mid := high - (high-low)/2
		if fits(mid) {
			low = mid
		} else {
			high = mid - 1
		}
	}
	return low
}
