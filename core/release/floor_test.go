package release

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

// hall is a floor of zones with so many aisles of so many places each, and all of its bins.
func hall(zones, aisles, places int) (*Floor, []Stop) {
	var bins []Stop
	for z := range zones {
		zone := string(rune('A' + z))
		for a := range aisles {
			for p := range places {
				bins = append(bins, Stop{zone, fmt.Sprintf("%s-%02d-%d", zone, a+1, p+1)})
			}
		}
	}
	return NewFloor(bins, Spacing{300, 100}), bins
}

func TestHowFarItIsBetweenBins(t *testing.T) {
	f, _ := hall(2, 3, 9) // aisles 300 cm apart, 10 m deep
	at := func(bin string) Stop { return Stop{bin[:1], bin} }
	for _, c := range []struct {
		a, b string
		want int64
	}{
		{"A-01-2", "A-01-7", 500},
		{"A-01-2", "A-02-3", 300 + 500},
		{"A-01-8", "A-02-9", 300 + 200 + 100}, // by the back
		{"A-01-5", "A-03-5", 600 + 1000},
		{"A-03-9", "B-01-9", 300 + 1800}, // another zone is reached by the front only
	} {
		if got := f.Between(at(c.a), at(c.b)); got != c.want || f.Between(at(c.b), at(c.a)) != got {
			t.Errorf("%s to %s: %d, want %d", c.a, c.b, got, c.want)
		}
	}
	if got := f.FromDoor(at("B-02-4")); got != 4*300+400 {
		t.Errorf("from the door %d", got)
	}
	if got := f.Length([]Stop{at("A-01-2"), {}, at("A-01-7"), {"Z", "Z-9"}, at("A-01-7")}); got != 200+500+700 {
		t.Errorf("a walk past what lies nowhere: %d", got)
	}
	if f.Length(nil) != 0 || f.Between(Stop{}, at("A-01-2")) != 0 || NewFloor(nil, Spacing{}).Length([]Stop{at("A-01-2")}) != 0 {
		t.Error("nowhere is somewhere")
	}
}

func TestPlacesThatAreNoNumbersLieInTheirOrder(t *testing.T) {
	f := NewFloor([]Stop{
		{"A", "A-1-top"}, {"A", "A-1-bottom"}, {"B", "B"}, {"B", ""}, {"C", "C-1-99999999999"}, {"C", "C-2-7"},
	}, Spacing{300, 100})
	for bin, want := range map[Stop]int64{
		{"A", "A-1-bottom"}: 100, {"A", "A-1-top"}: 200, {"B", "B"}: 300 + 100, {"C", "C-1-99999999999"}: 600 + 100, {"C", "C-2-7"}: 900 + 700,
	} {
		if got := f.FromDoor(bin); got != want {
			t.Errorf("%s: %d, want %d", bin.Bin, got, want)
		}
	}
}

// shortest tries every order of the stops.
func shortest(f *Floor, stops []Stop) int64 {
	best := f.Length(stops)
	var try func(k int)
	try = func(k int) {
		if k == len(stops) {
			best = min(best, f.Length(stops))
			return
		}
		for i := k; i < len(stops); i++ {
			stops[k], stops[i] = stops[i], stops[k]
			try(k + 1)
			stops[k], stops[i] = stops[i], stops[k]
		}
	}
	try(0)
	return best
}

// least is no more than any walk past the stops is long: to the furthest aisle and back along the front, and into each aisle as far as
// one has to, which is through all of it or all of it but twice its widest gap (H. D. Ratliff and A. S. Rosenthal 1983, from memory).
func least(f *Floor, stops []Stop) int64 {
	into := map[Stop][]int64{}
	depth := map[Stop]int64{}
	far := int64(0)
	for _, s := range stops {
		in, y, _ := f.at(s)
		into[s.lane()] = append(into[s.lane()], y)
		depth[s.lane()] = in.depth
		far = max(far, in.along)
	}
	bound := 2 * far
	for aisle, ys := range into {
		slices.Sort(ys)
		gap, last := int64(0), int64(0)
		for _, y := range append(ys, depth[aisle]) {
			gap, last = max(gap, y-last), y
		}
		bound += min(depth[aisle], 2*(depth[aisle]-gap))
	}
	return bound
}

func someOf(r *rand.Rand, bins []Stop, n int) []Stop {
	var out []Stop
	for _, i := range r.Perm(len(bins))[:n] {
		out = append(out, bins[i])
	}
	return out
}

func walked(stops []Stop) []Stop {
	out := slices.Clone(stops)
	Walk(out, func(s Stop) Stop { return s })
	return out
}

// Alternate aisles reversed is the rule that people can follow without a map. It is the shortest in one aisle, and on small floors it is
// compared with every order that there is.
func TestTheWalkOnSmallFloorsBesideEveryOrder(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	var sum, best int64
	for range 400 {
		f, bins := hall(1+r.IntN(2), 1+r.IntN(4), 2+r.IntN(9))
		stops := someOf(r, bins, min(len(bins), 1+r.IntN(7)))
		got := f.Length(walked(stops))
		want := shortest(f, slices.Clone(stops))
		bound := least(f, stops)
		if got < want || want < bound {
			t.Fatalf("walked %d, shortest %d, bound %d: %s", got, want, bound, ids(stops))
		}
		if got > 2*want {
			t.Errorf("walked %d, twice the shortest %d: %s", got, want, ids(walked(stops)))
		}
		sum, best = sum+got, best+want
	}
	if sum*100 > best*112 {
		t.Errorf("all walks together are %d, the shortest %d", sum, best)
	}
}

func TestInOneAisleTheWalkIsToTheFurthestAndBack(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 8))
	f, bins := hall(1, 1, 40)
	for range 50 {
		stops, furthest := someOf(r, bins, 1+r.IntN(20)), int64(0)
		for _, s := range stops {
			furthest = max(furthest, f.FromDoor(s))
		}
		if got := f.Length(walked(stops)); got != 2*furthest {
			t.Fatalf("walked %d, to the furthest and back %d: %s", got, 2*furthest, ids(stops))
		}
	}
}

func TestTheWalkOnLargeFloorsBesideAPlainBound(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	for range 60 {
		f, bins := hall(1+r.IntN(4), 4+r.IntN(12), 20+r.IntN(40))
		stops := someOf(r, bins, 30+r.IntN(120))
		got, bound, before := f.Length(walked(stops)), least(f, stops), f.Length(stops)
		if got < bound || got*10 > bound*22 {
			t.Errorf("walked %d, at least %d", got, bound)
		}
		if got >= before/2 {
			t.Errorf("walked %d, in no order %d", got, before)
		}
	}
}
