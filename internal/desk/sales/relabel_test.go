package sales_test

import (
	"context"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
)

func TestWhatIsPackedIsRelabelledInPlaceOfARecall(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	number := o.Enter(sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 4, Warehouse: "HL"}}})
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), desktest.Whole(number).Selection))
	ship := o.Pack(number, "HL")
	ok(o.Floor.PrintLabels(ctx, o.By(o.Flo), floor.LabelAsk{Shipment: ship}))
	before, err := o.Query.Shipment(ctx, ship)
	if err != nil {
		t.Fatal(err)
	}
	draft := func() sales.Draft {
		d, err := o.Sales.DraftOf(ctx, number)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	d := draft()
	d.ShipTo, d.Service = "ANNEX", "pallet"
	v := o.Draft(d)
	if len(v.Missing) != 1 || !v.Missing[0].Recall || !v.Missing[0].Relabel {
		t.Fatalf("offered: %+v", v.Missing)
	}
	_, err = o.Sales.Change(ctx, o.By(o.Tom), d)
	desktest.Refused(t, err, command.KindInvalid, "cannot be sent elsewhere", "4 are packed")
	d.Relabel = true
	if v = o.Draft(d); len(v.Missing) != 0 || v.Relabels.String() != "1 label of "+ship+" will be void: print new ones before it leaves." {
		t.Errorf("with new labels: %+v, said %q", v.Missing, v.Relabels)
	}
	out := ok(o.Sales.Change(ctx, o.By(o.Tom), d))
	if !strings.Contains(out.Sentence, "will be void") {
		t.Errorf("said: %s", out.Sentence)
	}
	s, err := o.Query.Shipment(ctx, ship)
	if err != nil || s.ShipTo.Street != "9 Mill Bank" || s.Service != "pallet" || !s.Contents[0].Bare {
		t.Errorf("it goes to %+v by %s, bare %v, %v", s.ShipTo, s.Service, s.Contents[0].Bare, err)
	}
	scanned, err := o.Query.Scan(ctx, before.Contents[0].Label)
	if err != nil || !strings.Contains(scanned.Refused.String(), "is void: Tom Sale changed where it goes, or how") {
		t.Errorf("the old label: %q %v", scanned.Refused, err)
	}
	// Until there is a new label it does not leave.
	_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}})
	desktest.Refused(t, err, command.KindConflict, "is void", "Print its labels again")
	ok(o.Floor.PrintLabels(ctx, o.By(o.Flo), floor.LabelAsk{Shipment: ship}))
	ok(o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}}))

	// While the carrier is asked it is too late for that.
	d = draft()
	d.ShipTo, d.Relabel = "MAIN", true
	_, err = o.Sales.Change(ctx, o.By(o.Tom), d)
	desktest.Refused(t, err, command.KindInvalid, "carrier is being asked to take shipment "+ship)
	o.Sound()
}

func TestAShipmentThatHoldsAnotherOrderStaysAsItIs(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	var numbers []string
	for range 2 {
		n := o.Enter(sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 4, Warehouse: "HL"}}})
		ok(o.Allocation.Allocate(ctx, o.By(o.Ana), desktest.Whole(n).Selection))
		numbers = append(numbers, n)
	}
	ship := o.Pack(numbers[0], "HL")
	o.PickAll(ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole(numbers[1]))).Documents[0].Number)
	ok(o.Floor.Pack(ctx, o.By(o.Flo), floor.Packing{Order: numbers[1], Warehouse: "HL", Shipment: ship, Packages: []floor.PackageToBe{
		{Kind: "carton", WeightG: 6000, Contents: []floor.Content{{Line: o.Line(numbers[1], 1).ID, Qty: 4}}},
	}}))
	d, err := o.Sales.DraftOf(ctx, numbers[0])
	if err != nil {
		t.Fatal(err)
	}
	d.Terms = "flat"
	if v := o.Draft(d); len(v.Missing) != 1 || !v.Missing[0].Recall || v.Missing[0].Relabel {
		t.Errorf("offered: %+v", v.Missing)
	}
	d.Relabel = true
	_, err = o.Sales.Change(ctx, o.By(o.Tom), d)
	desktest.Refused(t, err, command.KindInvalid, "Shipment "+ship+" holds "+numbers[1]+", too")
	// What is only wanted later has no label that could say it.
	d.Terms, d.Wanted = "included", "2027-06-01"
	if v := o.Draft(d); len(v.Missing) != 1 || v.Missing[0].Relabel {
		t.Errorf("put off: %+v", v.Missing)
	}
	o.Sound()
}
