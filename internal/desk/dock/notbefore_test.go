package dock_test

import (
	"context"
	"testing"
	"time"

	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/query"
)

func TestAnOrderLeavesNotBeforeItsDay(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	number := o.Enter(sales.Draft{
		Customer: "ALD", Wanted: "2027-03-15", NotBefore: "2027-03-10", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 6, Warehouse: "HL"}},
	})
	if x := o.Order(number); x.NotBefore != "2027-03-10" || x.Lines[0].Promises[0].Day < "2027-03-10" {
		t.Fatalf("not before %s, promised %+v", x.NotBefore, x.Lines[0].Promises)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), desktest.Whole(number).Selection))
	_, err := o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole(number))
	desktest.Refused(t, err, command.KindConflict, number, "must not leave before Wed 10 Mar")
	early := desktest.Whole(number)
	early.Until = "2027-03-09"
	_, err = o.Floor.Release(ctx, o.By(o.Ana), early)
	desktest.Refused(t, err, command.KindConflict, "must not leave before Wed 10 Mar")

	// The line is due on a day of its own before it may leave, as a file may have it: that is the reason then, in the list and in its counts.
	o.Owner("UPDATE order_line SET ship_by = '2027-03-02' WHERE order_id = (SELECT id FROM sales_order WHERE number = '" + number + "')")
	for until, want := range map[string]int64{"2027-03-09": 1, "2027-03-10": 0} {
		offer, err := o.Floor.Offer(ctx, floor.DueAsk{Until: until})
		if err != nil {
			t.Fatal(err)
		}
		counted := int64(0)
		for _, n := range offer.NotOffered {
			if n.Reason == string(release.Early) {
				counted = n.Lines
			}
		}
		list, err := o.Query.Release(ctx, query.Ask{Scope: map[string]string{"until": until, "state": string(release.Early)}})
		if err != nil || counted != want || int64(len(list.Lines)) != want {
			t.Errorf("until %s: %d counted, %d listed, want %d, %v", until, counted, len(list.Lines), want, err)
		}
	}
	out := ok(o.Floor.ReleaseDue(ctx, o.By(o.Ana), floor.ReleaseDueAsk{DueAsk: floor.DueAsk{Until: "2027-03-10", Query: number}}))
	o.PickAll(out.Documents[0].Number)
	ship := []dock.ShipmentSeen{{Number: o.PackPicked(number, "HL")}}
	view, err := o.Query.Shipment(ctx, ship[0].Number)
	if err != nil || view.Waits.String() != "must not leave before Wed 10 Mar" {
		t.Errorf("at the dock: %q %v", view.Waits, err)
	}
	for _, day := range []int{1, 9} {
		o.At = time.Date(2027, 3, day, 9, 0, 0, 0, time.UTC)
		_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), ship)
		desktest.Refused(t, err, command.KindConflict, number, "must not leave before Wed 10 Mar")
	}
	o.At = time.Date(2027, 3, 10, 0, 30, 0, 0, time.UTC)
	ok(o.Dock.Dispatch(ctx, o.By(o.Flo), ship))
	o.Sound()
}

func TestADayNotBeforeWhichAnOrderLeavesIsChanged(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	draft := sales.Draft{Customer: "ALD", NotBefore: "2027-03-10", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 6, Warehouse: "HL"}}}
	// With no day requested it is there as soon as can be after that day; a day that cannot be kept with it is a fault.
	if v := o.Draft(draft); len(v.Missing) > 0 || v.Lines[0].ShipBy != "2027-03-10" {
		t.Errorf("ship by %s, %+v", v.Lines[0].ShipBy, v.Missing)
	}
	clash := draft
	clash.Wanted = "2027-03-05"
	if v := o.Draft(clash); len(v.Missing) != 1 || v.Missing[0].Field != "not_before" {
		t.Errorf("requested before it may leave: %+v", v.Missing)
	}
	_, err := o.Sales.MakeQuote(ctx, o.By(o.Tom), sales.QuoteAsk{Draft: draft})
	desktest.Refused(t, err, command.KindInvalid, "when the quote is accepted")
	number := o.Enter(draft)
	change := func(day string) error {
		d, err := o.Sales.DraftOf(ctx, number)
		if err != nil {
			t.Fatal(err)
		}
		d.NotBefore = day
		_, err = o.Sales.Change(ctx, o.By(o.Tom), d)
		return err
	}
	if err := change("2027-03-08"); err != nil {
		t.Fatal(err)
	}
	if err := change(""); err != nil || o.Order(number).NotBefore != "" {
		t.Fatalf("taken away: %q %v", o.Order(number).NotBefore, err)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), desktest.Whole(number).Selection))
	ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole(number)))
	desktest.Refused(t, change("2027-03-09"), command.KindInvalid, "kept until later", "Recall")
	o.Sound()
}
