package floor_test

import (
	"bytes"
	"context"
	"strings"
	"testing"

	"journeyman/core/shipping"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
	"journeyman/internal/store"
)

// labelled packs what is picked of SO-1001 into two cartons with labels, and returns the shipment.
func labelled(t *testing.T, o *desktest.Office) string {
	t.Helper()
	line := o.Line("SO-1001", 1).ID
	carton := floor.PackageToBe{Kind: "carton", WeightG: 9000, Contents: []floor.Content{{Line: line, Qty: 6}}}
	out := desktest.Done(t)(o.Floor.Pack(context.Background(), o.By(o.Flo), floor.Packing{
		Order: "SO-1001", Warehouse: "HL", Labels: true, Packages: []floor.PackageToBe{carton, carton},
	}))
	return out.Documents[0].Number
}

func shipmentOf(t *testing.T, o *desktest.Office, number string) query.ShipmentPage {
	t.Helper()
	s, err := o.Query.Shipment(context.Background(), number)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func TestEachPackageHasALabelOfItsOwnUntilSomethingIsTakenOut(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	everywhere(t, o)
	ok(o.Admin.SetCompanyPrefix(ctx, o.By(o.Max), admin.CompanyAsk{Prefix: "7610425"}))
	_, err := o.Admin.SetCompanyPrefix(ctx, o.By(o.Max), admin.CompanyAsk{Prefix: "76-104"})
	desktest.Refused(t, err, command.KindInvalid, "4 to 12 digits")
	ship := labelled(t, o)
	// The first package was packed without a label; the other two have one each, with the firm's prefix and a check digit.
	s := shipmentOf(t, o, ship)
	if len(s.Contents) != 3 || s.Contents[0].Label != "" || s.Contents[0].Bare {
		t.Fatalf("packed: %+v", s.Contents)
	}
	first, second := s.Contents[1], s.Contents[2]
	for _, p := range []query.PackageView{first, second} {
		if code, is := shipping.ReadSSCC(p.Label); !is || !strings.HasPrefix(code, "07610425") || p.Bare {
			t.Errorf("the label of %s: %q", p.Number, p.Label)
		}
	}
	if first.Label == second.Label {
		t.Error("two packages have the same code")
	}
	// They are drawn as one document, a page each.
	papers, err := o.Query.Papers(ctx, query.Ask{})
	if err != nil {
		t.Fatal(err)
	}
	if err := o.Floor.Put(ctx, floor.PrintDocument{Run: papers.Papers[0].Run}); err != nil {
		t.Fatal(err)
	}
	pdf, err := o.Query.Document(ctx, papers.Papers[0].Run)
	label, e := o.Query.Paper(ctx, first.Label)
	if err != nil || e != nil || !bytes.HasPrefix(pdf, []byte("%PDF-")) || label.Pages != 2 || label.Kind != store.LabelPaper {
		t.Errorf("the document: %+v, %v", label, err)
	}
	// However a scanner says the code, it is the package's.
	for _, read := range []string{first.Label, "]C100" + first.Label, "(00)" + first.Label} {
		v, err := o.Query.Scan(ctx, read)
		if err != nil || v.Kind != "label" || v.Shipment != ship || !v.Refused.IsZero() {
			t.Errorf("%s: %+v, %v", read, v, err)
		}
	}
	// Those that were packed last are taken out first: 4 of the second package. Its label is void, and it does not leave without another.
	ok(o.Floor.RecallUnits(ctx, because(o, o.Ana, "ordered twice"), recallOf(o.Line("SO-1001", 1).ID, 82, "dropped")))
	if s = shipmentOf(t, o, ship); s.Contents[1].Label != first.Label || !s.Contents[2].Bare || s.Contents[2].Label != "" {
		t.Errorf("after the recall: %+v", s.Contents)
	}
	if s.Contents[2].WeightG >= second.WeightG {
		t.Errorf("it weighs %d g, before %d", s.Contents[2].WeightG, second.WeightG)
	}
	v, err := o.Query.Scan(ctx, second.Label)
	for _, part := range []string{"recalled something in " + second.Number, "Why: ordered twice. Bring"} {
		if said := v.Refused.String(); err != nil || !strings.Contains(said, part) {
			t.Errorf("the void label says %q, %v", said, err)
		}
	}
	tasks, err := o.Query.PutBacks(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range tasks {
		ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: x.ID, Qty: x.Qty, Bin: x.Bin}))
	}
	_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}})
	desktest.Refused(t, err, command.KindConflict, "The label of "+second.Number+" in shipment "+ship+" is void")
	ok(o.Floor.PrintLabels(ctx, o.By(o.Flo), floor.LabelAsk{Shipment: ship}))
	s = shipmentOf(t, o, ship)
	for i, was := range []string{"", first.Label, second.Label} {
		if now := s.Contents[i].Label; now == "" || now == was || s.Contents[i].Bare {
			t.Errorf("printed again: %q, before %q", now, was)
		}
	}
	if v, err := o.Query.Scan(ctx, first.Label); err != nil || !strings.Contains(v.Refused.String(), "Go by "+s.Contents[1].Label) {
		t.Errorf("a label that was printed again says %q, %v", v.Refused, err)
	}
	o.Leave(dock.ShipmentSeen{Number: ship})
	_, err = o.Floor.PrintLabels(ctx, o.By(o.Flo), floor.LabelAsk{Shipment: ship})
	desktest.Refused(t, err, command.KindConflict, "has left")
	_, err = o.Floor.PrintLabels(ctx, o.By(o.Flo), floor.LabelAsk{Shipment: "SH-0"})
	desktest.Refused(t, err, command.KindNotFound, "SH-0")
	o.Sound()
}

func TestWhatIsUnpackedNeedsALabelAnew(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	everywhere(t, o)
	ship := labelled(t, o)
	p := shipmentOf(t, o, ship).Contents[1]
	ok(o.Floor.Unpack(ctx, o.By(o.Flo), p.Number))
	v, err := o.Query.Scan(ctx, p.Label)
	if err != nil || !strings.Contains(v.Refused.String(), "Flo Marsh unpacked "+p.Number) {
		t.Errorf("its label says %q, %v", v.Refused, err)
	}
	if v, err = o.Query.Scan(ctx, p.Number); err != nil || !strings.Contains(v.Refused.String(), p.Number+" is empty") {
		t.Errorf("the package says %q, %v", v.Refused, err)
	}
	_, err = o.Query.Scan(ctx, "XX-1")
	desktest.Refused(t, err, command.KindNotFound, "Nothing here has the code XX-1")
	for code, kind := range map[string]string{"so-1001": "order", ship: "shipment"} {
		if v, err := o.Query.Scan(ctx, code); err != nil || v.Kind != kind {
			t.Errorf("%s: %+v, %v", code, v, err)
		}
	}
	o.Sound()
}
