package floor_test

import (
	"context"
	"strings"
	"testing"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
)

// sized are an item whose size is known, one whose size is not, and a large one.
const sized = "sku,name,unit,multiple,lead_days,buyable,weight_kg,length_cm,width_cm,height_cm,price,cost\n" +
	"GL-2040-1,\"Celadon glaze, 1 L\",bottle,1,15,yes,1.4,9,9,24,14.20,8.10\n" +
	"KL-070,\"Top-loading kiln, 70 L\",each,1,0,no,96,60,60,80,1890.00,1310.00\n"

// picked takes lines of a new order for a customer up to where they wait to be packed, and returns its number.
func picked(t *testing.T, o *desktest.Office, draft sales.Draft) string {
	t.Helper()
	ctx, ok := context.Background(), desktest.Done(t)
	number := o.Enter(draft)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), desktest.Whole(number).Selection))
	for _, d := range ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole(number))).Documents {
		if d.Kind == "pick list" {
			o.PickAll(d.Number)
		}
	}
	return number
}

func TestCartonsAreProposedByRoomAndWeight(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	if r := o.Load("items.csv", sized); len(r.Faults) > 0 {
		t.Fatal(r.Faults)
	}
	number := picked(t, o, sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{
		{SKU: "GL-2040-1", Qty: 20, Warehouse: "HL"}, {SKU: "TL-014", Qty: 3, Warehouse: "HL"},
	}})
	ask := floor.ProposeAsk{Order: number, Warehouse: "HL"}
	v, err := o.Floor.Propose(ctx, ask)
	if err != nil || len(v.Left) > 0 || v.Unsized != 3 || len(v.Kinds) != 4 {
		t.Fatalf("%+v %v", v, err)
	}
	pack := floor.Packing{Order: number, Warehouse: "HL"}
	var units int64
	for _, p := range v.Packages {
		if p.Of == "" {
			t.Errorf("%+v", p)
		}
		for _, c := range p.Contents {
			units += c.Qty
		}
		pack.Packages = append(pack.Packages, floor.PackageToBe{Kind: "carton", Of: p.Of, Contents: p.Contents})
	}
	// Twenty bottles weigh 28 kg: more than the largest carton carries with its own 0.9.
	if units != 23 || len(v.Packages) != 2 || !v.Fewest {
		t.Errorf("%d units in %+v, fewest %v", units, v.Packages, v.Fewest)
	}
	ask.Ware = "pallets"
	if v, err := o.Floor.Propose(ctx, ask); err != nil || len(v.Packages) != 1 || v.Packages[0].Of != "PALLET" {
		t.Errorf("onto pallets: %+v %v", v.Packages, err)
	}
	_, err = o.Floor.Propose(ctx, floor.ProposeAsk{Order: number, Warehouse: "DQ"})
	desktest.Refused(t, err, command.KindNotFound, "Nothing of "+number+" is picked at DQ")

	// What is proposed can be packed as it stands; a carton weighs what is in it and itself.
	heavy := pack
	heavy.Packages = []floor.PackageToBe{{Kind: "carton", Of: "BOX-L", Contents: []floor.Content{{Line: o.Line(number, 1).ID, Qty: 20}}}}
	_, err = o.Floor.Pack(ctx, o.By(o.Flo), heavy)
	desktest.Refused(t, err, command.KindConflict, "Package 1 weighs 28.9 kg", "may weigh 28.0 kg")
	for of, want := range map[string]string{"BOX-X": "no kind of package BOX-X", "PALLET": "Pallet is no carton"} {
		heavy.Packages[0].Of = of
		if _, err = o.Floor.Pack(ctx, o.By(o.Flo), heavy); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", of, err)
		}
	}
	out := ok(o.Floor.Pack(ctx, o.By(o.Flo), pack))
	ship, err := o.Query.Shipment(ctx, out.Documents[0].Number)
	if err != nil || len(ship.Contents) != 2 || ship.WeightG <= 28_900 || !strings.HasSuffix(ship.Contents[0].Kind, "carton") {
		t.Errorf("%+v %v", ship.Contents, err)
	}
	o.Sound()
}

func TestTheScaleAndTheItemsAreCompared(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	number := picked(t, o, sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 5, Warehouse: "HL"}}})
	in := []floor.Content{{Line: o.Line(number, 1).ID, Qty: 5}}
	w, err := o.Floor.Weigh(ctx, floor.WeighAsk{Order: number, Warehouse: "HL", Of: "BOX-M", Contents: in})
	if err != nil || w.ShouldG != 7420 || w.WeightG != 7449 || w.Off {
		t.Errorf("%+v %v", w, err)
	}
	x, err := o.Floor.RehearsePack(ctx, floor.PackTry{Order: number, Warehouse: "HL", Packages: []floor.TryOf{
		{Of: "BOX-M", WeightG: 6000, Contents: in}, {Of: "BOX-S", WeightG: 10_001},
	}})
	if err != nil || !x.Packages[0].Off || x.Packages[0].Heavy || !x.Packages[1].Heavy || x.Packages[0].WeightG != 7420 {
		t.Errorf("%+v %v", x, err)
	}
}

func TestWhatDoesNotFitAShipmentIsRefusedWithWhy(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	line := []sales.DraftLine{{SKU: "GL-2040-1", Qty: 2, Warehouse: "HL"}}
	first := picked(t, o, sales.Draft{Customer: "ALD", Lines: line})
	alike := picked(t, o, sales.Draft{Customer: "ALD", Lines: line})
	annex := picked(t, o, sales.Draft{Customer: "ALD", ShipTo: "ANNEX", Lines: line})
	byPallet := picked(t, o, sales.Draft{Customer: "ALD", Service: "pallet", Lines: line})
	other := picked(t, o, sales.Draft{Customer: "SPC", Service: "parcel", Terms: "included", Lines: line})
	ship := o.PackPicked(first, "HL")
	into := func(number string) error {
		_, err := o.Floor.Pack(ctx, o.By(o.Flo), floor.Packing{
			Order: number, Warehouse: "HL", Shipment: ship,
			Packages: []floor.PackageToBe{{Kind: "carton", Of: "BOX-S", Contents: []floor.Content{{Line: o.Line(number, 1).ID, Qty: 2}}}},
		})
		return err
	}
	for number, why := range map[string]string{
		annex:    "it goes to Aldersyke College stores, Aldersyke, not to Aldersyke College annex, Aldersyke",
		byPallet: "it goes by parcel, not by pallet", other: "it is for ALD, not for SPC",
	} {
		desktest.Refused(t, into(number), command.KindConflict, number, ship, why)
	}
	v, err := o.Floor.Propose(ctx, floor.ProposeAsk{Order: annex, Warehouse: "HL"})
	if err != nil || len(v.Into) != 1 || v.Into[0].Shipment != ship || !strings.Contains(v.Into[0].Why.String(), "annex") {
		t.Errorf("offered: %+v %v", v.Into, err)
	}
	if err := into(alike); err != nil {
		t.Fatal(err)
	}
	page, err := o.Query.Shipment(ctx, ship)
	if err != nil || len(page.Orders) != 2 || len(page.Contents) != 2 {
		t.Errorf("%+v %v", page.Orders, err)
	}
	ok(o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}}))
	desktest.Refused(t, into(annex), command.KindConflict, "carrier is being asked")
	if n, err := o.Dock.BookAll(ctx); err != nil || n != 1 {
		t.Fatalf("%d were booked, %v", n, err)
	}
	desktest.Refused(t, into(annex), command.KindConflict, "has left")
	o.Sound()
}

func TestKindsOfPackagesAreSet(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	tube := supply.PackageKind{Code: "tube", Name: "Tube", LengthMM: 1200, WidthMM: 120, HeightMM: 120, TareG: 300, MostG: 5000}
	ok(o.Admin.SetPackageKind(ctx, o.By(o.Max), tube))
	tube.MostG = 200
	_, err := o.Admin.SetPackageKind(ctx, o.By(o.Max), tube)
	desktest.Refused(t, err, command.KindInvalid, "more than it does empty")
	tube.MostG, tube.Code = 5000, "TUBE-2"
	_, err = o.Admin.SetPackageKind(ctx, o.By(o.Max), tube)
	desktest.Refused(t, err, command.KindConflict, "its own name")
	v, err := o.Admin.Settings(ctx)
	if err != nil || len(v.Packages) != 5 || v.Packages[1].Code != "TUBE" {
		t.Errorf("%+v %v", v.Packages, err)
	}
	ok(o.Admin.DropPackageKind(ctx, o.By(o.Max), admin.PackageKindNamed{Code: "TUBE"}))
	_, err = o.Admin.DropPackageKind(ctx, o.By(o.Max), admin.PackageKindNamed{Code: "TUBE"})
	desktest.Refused(t, err, command.KindNotFound, "TUBE")
}
