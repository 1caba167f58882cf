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
	was := Head[string]{100, "Fellside", "parcel", "DAP"}
	for want, now := range map[Change]Head[string]{
		None: {99, "Fellside", "parcel", "DAP"}, PutOff: {101, "Harrow", "parcel", "DAP"}, Readdress: {100, "Harrow", "courier", "DAP"},
		OtherWay: {100, "Fellside", "courier", "EXW"}, OtherTerms: {100, "Fellside", "parcel", "EXW"},
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
