package order

import (
	"testing"

	"journeyman/core/journey"
)

func TestOpenUnitsGoBeforeAllocatedOnes(t *testing.T) {
	t.Parallel()
	l := journey.Line{Ordered: 20, At: journey.Counts{journey.Open: 5, journey.Allocated: 6, journey.Picked: 7, journey.Dropped: 2}}
	for wanted, want := range map[journey.Qty]Resized{
		25: {10, 0, 9}, 20: {5, 0, 9}, 16: {1, 0, 9}, 15: {0, 0, 9}, 12: {0, 3, 9}, 9: {0, 6, 9}, 4: {0, 6, 9},
	} {
		if got := Resize(l, wanted); got != want {
			t.Errorf("%d wanted: %+v, want %+v", wanted, got, want)
		}
	}
	if OnTheFloor(l.At) != 7 || MayMove(l) {
		t.Errorf("%d are on the floor", OnTheFloor(l.At))
	}
	if !MayMove(journey.Line{Ordered: 7, At: journey.Counts{journey.Open: 5, journey.Dropped: 2}}) {
		t.Error("nothing of it is set aside: it may go from another warehouse")
	}
}

func TestWhatNoLongerReachesTheFloor(t *testing.T) {
	t.Parallel()
	was := Head[string]{100, 95, "Fellside", "parcel", "DAP"}
	for want, now := range map[Change]Head[string]{
		None: {99, 94, "Fellside", "parcel", "DAP"}, PutOff: {101, 96, "Harrow", "parcel", "DAP"}, KeptBack: {100, 96, "Harrow", "parcel", "DAP"},
		Readdress: {100, 0, "Harrow", "courier", "DAP"},
		OtherWay:  {100, 95, "Fellside", "courier", "EXW"}, OtherTerms: {100, 95, "Fellside", "parcel", "EXW"},
	} {
		if got := Unreachable(was, now); got != want {
			t.Errorf("%+v: %q, want %q", now, got, want)
		}
	}
}

func TestHowALineIsPromised(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		rule          journey.ShipRule
		asked         How
		held, refused bool
		want          How
	}{
		{journey.ShipAny, "", false, false, Split},
		{journey.ShipAny, "", true, false, Unasked},
		{journey.ShipAny, Whole, true, false, Whole},
		{journey.ShipAny, Unasked, false, true, Unasked},
		{journey.ShipLines, "", false, false, Whole},
		{journey.ShipLines, Split, true, false, Whole},
		{journey.ShipLines, Unasked, false, true, Unasked},
		{journey.ShipLines, "", true, false, Unasked},
		{journey.ShipWhole, Split, true, false, Whole},
		{journey.ShipWhole, Split, false, true, Unasked},
	} {
		if got := HowOf(c.rule, c.asked, c.held, c.refused); got != c.want {
			t.Errorf("%+v: %q", c, got)
		}
	}
}

func TestThoseThatHaveComeLeastFarAreStoppedFirst(t *testing.T) {
	at := journey.Counts{
		journey.Open: 1, journey.Allocated: 2, journey.Released: 3, journey.Picked: 4, journey.Packed: 5, journey.Shipped: 6,
		journey.Delivered: 7, journey.Dropped: 8,
	}
	for _, c := range []struct {
		ends  journey.Station
		units journey.Qty
		can   journey.Qty
		want  journey.Counts
	}{
		{journey.Dropped, 0, 15, journey.Counts{}},
		{journey.Dropped, 2, 15, journey.Counts{1, 1}},
		{journey.Dropped, 99, 15, journey.Counts{1, 2, 3, 4, 5}},
		{journey.Open, 6, 14, journey.Counts{0, 2, 3, 1}},
		{journey.Open, 99, 14, journey.Counts{0, 2, 3, 4, 5}},
		{journey.Allocated, 8, 12, journey.Counts{0, 0, 3, 4, 1}},
		{journey.Allocated, 99, 12, journey.Counts{0, 0, 3, 4, 5}},
	} {
		if got := Stop(at, c.ends, c.units); got != c.want {
			t.Errorf("%d that end as %s: %v, want %v", c.units, c.ends, got, c.want)
		}
		if got := Stoppable(at, c.ends); got != c.can {
			t.Errorf("so that they end as %s %d can be stopped, want %d", c.ends, got, c.can)
		}
	}
}
