package dock_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/sales"
)

func TestAHoldStopsWhatIsPackedFromLeaving(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	number := o.Pack("SO-1002", "HL")
	ok(o.Sales.Hold(ctx, o.By(o.Tom), sales.HoldAsk{Order: "SO-1002", Kind: "coordinator", Note: "The customer has cancelled"}))
	_, err := o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: number}})
	desktest.Refused(t, err, command.KindConflict, "SO-1002", "hold", "The customer has cancelled")
	s, err := o.Query.Shipment(ctx, number)
	if err != nil || s.State != "packed" {
		t.Fatalf("%+v %v", s, err)
	}
	ok(o.Floor.Unpack(ctx, o.By(o.Flo), s.Contents[0].Number))
	if l := o.Line("SO-1002", 1); l.At.Picked != 24 || l.At.Packed != 0 {
		t.Errorf("after unpacking: %+v", l.At)
	}
	o.Sound()
}

func TestADeliveryIsRecordedOnce(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	ships := []dock.ShipmentSeen{{Number: o.Pack("SO-1002", "HL")}}
	_, err := o.Dock.Deliver(ctx, o.By(o.Flo), ships)
	desktest.Refused(t, err, command.KindConflict, "not left yet")
	o.Leave(ships...)
	_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), ships)
	desktest.Refused(t, err, command.KindConflict, "left already")
	ok(o.Dock.Deliver(ctx, o.By(o.Flo), ships))
	_, err = o.Dock.Deliver(ctx, o.By(o.Flo), ships)
	desktest.Refused(t, err, command.KindConflict, "delivered already")
	if l := o.Line("SO-1002", 1); l.At.Delivered != 24 {
		t.Errorf("%+v", l.At)
	}
	o.Sound()
}
