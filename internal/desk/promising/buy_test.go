package promising_test

import (
	"context"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/query"
)

func TestWhatIsLackingIsProposed(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	// Of the clay 96 are free at HL and 40 are open; it goes in packs of four and takes ten working days.
	if p := o.Propose("CB-110", "HL"); p.Qty != 0 || p.Open != 40 || p.Free != 96 || p.Coming != 0 || p.LeadDays != 10 ||
		p.Wanted != "2027-03-15" {
		t.Errorf("nothing is lacking: %+v", p)
	}
	o.Enter(sales.Draft{Customer: "SPC", Wanted: "2027-04-30", Lines: []sales.DraftLine{{SKU: "CB-110", Qty: 70}}})
	// 14 are lacking: 16 in whole packs, on the day on which the last order is to leave.
	if p := o.Propose("CB-110", "HL"); p.Qty != 16 || p.Open != 110 || p.Wanted != "2027-04-27" {
		t.Errorf("lacking 14: %+v", p)
	}
	desktest.Done(t)(o.Promising.RequestBuy(
		context.Background(), o.By(o.Tom), promising.BuyAsk{SKU: "CB-110", Warehouse: "HL", Qty: 8, Wanted: "2027-03-20"},
	))
	if p := o.Propose("CB-110", "HL"); p.Qty != 8 || p.Asked != 8 {
		t.Errorf("with 8 requested: %+v", p)
	}
	// What is expected is enough for the glaze, the overdue does not count.
	if p := o.Propose("GL-2040-1", "HL"); p.Qty != 0 || p.Coming != 100 || p.Open != 124 {
		t.Errorf("glaze: %+v", p)
	}
	if p := o.Propose("KL-070", "DQ"); p.Why.String() == "" {
		t.Error("a kiln that cannot be bought is proposed")
	}
	for _, c := range [][2]string{{"XX", "HL"}, {"CB-110", "XX"}} {
		_, err := o.Promising.ProposeBuy(context.Background(), c[0], c[1])
		desktest.Refused(t, err, command.KindNotFound, "XX")
	}
}

func TestARequestIsExpectedOnceItIsConfirmed(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	out := desktest.Done(t)(o.Promising.RequestBuy(
		ctx, o.By(o.Tom), promising.BuyAsk{SKU: "CB-110", Warehouse: "HL", Qty: 40, Wanted: "2027-03-08", Note: "for the fair"},
	))
	number := out.Documents[0].Number
	ask := sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "CB-110", Qty: 110}}}
	before := o.Draft(ask).Lines[0]
	if desktest.Parts(before.Parts) != "96 HL 03-02, 14 HL 03-15" || before.Next != nil {
		t.Errorf("a request alone promises %q, next %+v", desktest.Parts(before.Parts), before.Next)
	}
	_, err := o.Promising.ConfirmBuy(ctx, o.By(o.Tom), promising.BuyConfirm{Number: number, Ref: "PO-9", Due: "2027-03-08", Qty: 36})
	desktest.Refused(t, err, command.KindForbidden, "coordinator")
	out = desktest.Done(t)(o.Promising.ConfirmBuy(
		ctx, o.By(o.Ana), promising.BuyConfirm{Number: number, Ref: " PO-9 ", Due: "2027-03-08", Qty: 36, Supplier: "Marlpit"},
	))
	if out.Sentence != "36 of CB-110 are expected at HL on Mon 8 Mar: PO-9." {
		t.Error(out.Sentence)
	}
	after := o.Draft(ask).Lines[0]
	if desktest.Parts(after.Parts) != "96 HL 03-02, 14 HL 03-08" || after.Next == nil || after.Next.Ref != "PO-9" || after.Next.Qty != 36 {
		t.Errorf("confirmed, it promises %q, next %+v", desktest.Parts(after.Parts), after.Next)
	}
	list, err := o.Query.BuyRequests(ctx, "", "CB-110")
	if err != nil || len(list) != 1 || list[0].State != "confirmed" || list[0].Ref != "PO-9" || list[0].SettledBy != "Ana Ruiz" ||
		list[0].Who != "Tom Sale" || list[0].CostMinor != 40*505 {
		t.Errorf("listed as %+v (%v)", list, err)
	}
	page, err := o.Query.Inbound(ctx, query.Ask{Query: "PO-9"})
	in := page.Inbound
	if err != nil || len(in) != 1 || in[0].Qty != 36 || len(page.Inbound) != 1 {
		t.Fatalf("expected %+v (%v)", page, err)
	}
	// And it is received like any other.
	desktest.Done(t)(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in[0].ID, Qty: 36}))
	o.Sound()
	_, err = o.Promising.ConfirmBuy(ctx, o.By(o.Ana), promising.BuyConfirm{Number: number, Ref: "PO-10", Due: "2027-03-08", Qty: 36})
	desktest.Refused(t, err, command.KindConflict, number+" is settled already: confirmed as PO-9 by Ana Ruiz")
}

func TestRequestsThatCannotBeAreRefused(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	good := promising.BuyAsk{SKU: "CB-110", Warehouse: "HL", Qty: 40, Wanted: "2027-03-08"}
	for _, c := range []struct {
		name   string
		change func(*promising.BuyAsk)
		kind   command.Kind
		words  string
	}{
		{"no item", func(a *promising.BuyAsk) { a.SKU = "XX" }, command.KindNotFound, "no item XX"},
		{"no warehouse", func(a *promising.BuyAsk) { a.Warehouse = "XX" }, command.KindNotFound, "no warehouse XX"},
		{"nothing", func(a *promising.BuyAsk) { a.Qty = 0 }, command.KindInvalid, "at least 1"},
		{"half a pack", func(a *promising.BuyAsk) { a.Qty = 42 }, command.KindInvalid, "packs of 4: request 40 or 44"},
		{"yesterday", func(a *promising.BuyAsk) { a.Wanted = "2027-02-28" }, command.KindInvalid, "has passed"},
		{"no day", func(a *promising.BuyAsk) { a.Wanted = "soon" }, command.KindInvalid, "not a day"},
		{
			"what cannot be bought", func(a *promising.BuyAsk) { a.SKU, a.Warehouse, a.Qty = "KL-070", "DQ", 1 }, command.KindConflict,
			"cannot be bought",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			ask := good
			c.change(&ask)
			_, err := o.Promising.RequestBuy(ctx, o.By(o.Ana), ask)
			desktest.Refused(t, err, c.kind, c.words)
		})
	}
	number := desktest.Done(t)(o.Promising.RequestBuy(ctx, o.By(o.Ana), good)).Documents[0].Number
	fine := promising.BuyConfirm{Number: number, Ref: "PO-9", Due: "2027-03-08", Qty: 40}
	for _, c := range []struct {
		name   string
		change func(*promising.BuyConfirm)
		kind   command.Kind
		words  string
	}{
		{"no request", func(a *promising.BuyConfirm) { a.Number = "BR-1" }, command.KindNotFound, "no request to buy BR-1"},
		{"no reference", func(a *promising.BuyConfirm) { a.Ref = " " }, command.KindInvalid, "reference"},
		{"yesterday", func(a *promising.BuyConfirm) { a.Due = "2027-02-28" }, command.KindInvalid, "has passed"},
		{"nothing", func(a *promising.BuyConfirm) { a.Qty = 0 }, command.KindInvalid, "at least 1"},
	} {
		t.Run("confirmed with "+c.name, func(t *testing.T) {
			ask := fine
			c.change(&ask)
			_, err := o.Promising.ConfirmBuy(ctx, o.By(o.Ana), ask)
			desktest.Refused(t, err, c.kind, c.words)
		})
	}
	desktest.Done(t)(o.Promising.ConfirmBuy(ctx, o.By(o.Ana), fine))
	second := desktest.Done(t)(o.Promising.RequestBuy(ctx, o.By(o.Ana), good)).Documents[0].Number
	fine.Number = second
	_, err := o.Promising.ConfirmBuy(ctx, o.By(o.Ana), fine)
	desktest.Refused(t, err, command.KindConflict, "PO-9 of CB-110 is expected at HL already")
	_, err = o.Promising.WithdrawBuy(ctx, o.By(o.Ana), promising.BuyNamed{Number: second})
	desktest.Refused(t, err, command.KindInvalid, "Say why")
	call := o.By(o.Ana)
	call.Reason = "too dear"
	desktest.Done(t)(o.Promising.WithdrawBuy(ctx, call, promising.BuyNamed{Number: second}))
	list, err := o.Query.BuyRequests(ctx, strings.ToLower(second), "")
	if err != nil || len(list) != 1 || list[0].State != "withdrawn" || list[0].Why != "too dear" {
		t.Errorf("withdrawn: %+v (%v)", list, err)
	}
	again := o.By(o.Ana)
	again.Reason = "once more"
	_, err = o.Promising.WithdrawBuy(ctx, again, promising.BuyNamed{Number: second})
	desktest.Refused(t, err, command.KindConflict, "settled already: withdrawn by Ana Ruiz")
}

func TestItemsAreFoundByParts(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	for _, c := range []struct{ words, want string }{
		{"gl-2040-1", "GL-2040-1"},
		{"glaze", "GL-1310-5 GL-2040-1"},
		{"GLAZE 5", "GL-1310-5"},
		{"l 1", "GL-2040-1 GL-1310-5 CB-110 TL-014"}, // a whole word before a part of one
		{"clay stoneware", "CB-110"},
		{"45 60", "KF-330"},
		{"100%", ""},
		{"", ""},
	} {
		hits, err := o.Query.FindItems(context.Background(), c.words, "HL")
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, h := range hits {
			got = append(got, h.SKU)
		}
		if s := strings.Join(got, " "); s != c.want {
			t.Errorf("%q finds %q, want %q", c.words, s, c.want)
		}
	}
	hits, err := o.Query.FindItems(context.Background(), "CB-110", "HL")
	if err != nil || hits[0].Free != 96 || hits[0].Elsewhere != 400 {
		t.Errorf("clay: %+v (%v)", hits, err)
	}
	lines, err := o.Sales.Paste(context.Background(), "cb-110\t4\nloop tool\t2\nglaze\t1\n")
	if err != nil || len(lines) != 3 || lines[0].SKU != "CB-110" || lines[1].SKU != "TL-014" || lines[1].Qty != 2 ||
		lines[2].SKU != "glaze" || lines[2].Name != "" {
		t.Errorf("pasted: %+v (%v)", lines, err)
	}
}
