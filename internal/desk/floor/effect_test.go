package floor_test

import (
	"context"
	"fmt"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
)

// some asks for the release of lines.
func some(lines ...command.LineQty) floor.ReleaseAsk {
	return floor.ReleaseAsk{Selection: command.Selection{Lines: lines}}
}

// What is rehearsed is what is done: the tray of the release page says what releasing would come to;
// without a quantity, all that is allocated.
func TestWhatAReleaseWouldComeToIsWhatItComesTo(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 15)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6001", 1, 5)))
	a, b := o.Line("SO-6002", 1).ID, o.Line("SO-6001", 1).ID
	try := func(lines ...command.LineQty) string {
		t.Helper()
		x, err := o.Floor.RehearseRelease(ctx, some(lines...))
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprintf("%d lines, %d orders, %d units, %d g, %d lists", x.Lines, x.Orders, x.Units, x.WeightG, x.Lists)
	}
	for _, x := range []struct {
		ask  []command.LineQty
		want string
	}{
		{nil, "0 lines, 0 orders, 0 units, 0 g, 0 lists"},
		{[]command.LineQty{{Line: a, Qty: 6}}, "1 lines, 1 orders, 6 units, 0 g, 1 lists"},
		{[]command.LineQty{{Line: a, Qty: 99}, {Line: b, Qty: 2}}, "2 lines, 2 orders, 17 units, 0 g, 1 lists"},
		{[]command.LineQty{{Line: a}, {Line: b, Qty: 2}}, "2 lines, 2 orders, 17 units, 0 g, 1 lists"},
	} {
		if got := try(x.ask...); got != x.want {
			t.Errorf("%+v: %s, want %s", x.ask, got, x.want)
		}
	}
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), some(command.LineQty{Line: a}, command.LineQty{Line: b, Qty: 2})))
	if out.Units != 17 || len(out.Documents) != 1 {
		t.Errorf("%+v", out)
	}
	_, err := o.Floor.Release(ctx, o.By(o.Ana), some(command.LineQty{Line: b, Qty: 1}, command.LineQty{Line: b}))
	desktest.Refused(t, err, command.KindInvalid, "chosen twice")
}

func TestWhatPackingWouldComeTo(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 15)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole("SO-6002")))
	o.PickAll(out.Documents[0].Number)
	line := o.Line("SO-6002", 1).ID
	x, err := o.Floor.RehearsePack(ctx, floor.PackTry{Order: "SO-6002", Warehouse: "HL", Packages: []floor.TryOf{
		{Contents: []floor.Content{{Line: line, Qty: 9}}}, {Contents: []floor.Content{{Line: line, Qty: 4}}}, {},
	}})
	if err != nil || x.Units != 2 || x.Left[0].Qty != 2 || len(x.Packages) != 3 {
		t.Fatalf("%+v, %v", x, err)
	}
	for i, most := range []int64{11, 6, 2} {
		if p := x.Packages[i]; p.Most[0].Qty != most {
			t.Errorf("package %d may hold %d, want %d", i+1, p.Most[0].Qty, most)
		}
	}
	// More than there is leaves nothing, and no package may hold less than nothing.
	x, err = o.Floor.RehearsePack(ctx, floor.PackTry{Order: "SO-6002", Warehouse: "HL", Packages: []floor.TryOf{
		{Contents: []floor.Content{{Line: line, Qty: 40}}}, {Contents: []floor.Content{{Line: line, Qty: 1}}},
	}})
	if err != nil || x.Units != 0 || x.Packages[0].Most[0].Qty != 14 || x.Packages[1].Most[0].Qty != 0 {
		t.Errorf("%+v, %v", x, err)
	}
	_, err = o.Floor.RehearsePack(ctx, floor.PackTry{Order: "SO-6001", Warehouse: "HL"})
	desktest.Refused(t, err, command.KindNotFound, "Nothing of SO-6001 is picked at HL")
}

// What nobody weighed weighs what its goods weigh, and it is asked for where nobody knows that either.
func TestAPackageThatWasNotWeighedWeighsWhatItsGoodsWeigh(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 15)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole("SO-6002")))
	o.PickAll(out.Documents[0].Number)
	line := o.Line("SO-6002", 1).ID
	pack := floor.Packing{Order: "SO-6002", Warehouse: "HL", Packages: []floor.PackageToBe{
		{Kind: "carton", Contents: []floor.Content{{Line: line, Qty: 9}}},
		{Kind: "carton", WeightG: 4100, Contents: []floor.Content{{Line: line, Qty: 6}}},
	}}
	_, err := o.Floor.Pack(ctx, o.By(o.Flo), pack)
	desktest.Refused(t, err, command.KindInvalid, "Nobody has said what the goods in package 1 weigh")
	o.Owner("UPDATE item SET weight_g = 250 WHERE sku = 'ZB-1'")
	out = ok(o.Floor.Pack(ctx, o.By(o.Flo), pack))
	ship, err := o.Query.Shipment(ctx, out.Documents[0].Number)
	if err != nil || ship.Contents[0].WeightG != 2250 || ship.Contents[1].WeightG != 4100 {
		t.Errorf("%+v, %v", ship.Contents, err)
	}
}
