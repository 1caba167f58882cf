package shipping

import (
	"testing"

	"journeyman/core/journey"
)

func TestAShipRuleMakesAShipmentWait(t *testing.T) {
	for _, x := range []struct {
		rule              journey.ShipRule
		line, order, want journey.Qty
	}{
		{journey.ShipAny, 5, 9, 0},
		{journey.ShipLines, 5, 9, 5},
		{journey.ShipLines, 0, 9, 0},
		{journey.ShipWhole, 0, 9, 9},
		{journey.ShipWhole, 0, 0, 0},
	} {
		if got := Behind(x.rule, x.line, x.order); got != x.want {
			t.Errorf("%s with %d of the line and %d of the order behind waits for %d, want %d", x.rule, x.line, x.order, got, x.want)
		}
	}
}

func TestAShipmentIsAsFarAsTheLastThatHappened(t *testing.T) {
	for _, x := range []struct {
		asked, dispatched, delivered bool
		want                         State
	}{
		{false, false, false, Packed},
		{true, false, false, Asking},
		{true, true, false, UnderWay},
		{false, true, false, UnderWay}, // before the carrier was asked by a job
		{true, true, true, Delivered},
	} {
		if got := StateOf(x.asked, x.dispatched, x.delivered); got != x.want {
			t.Errorf("%+v is %s", x, got)
		}
	}
}
