package floor_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
)

// Two working days from Monday are Wednesday; with Tuesday and Wednesday closed everywhere, Friday.
func TestDueLooksAheadOverClosedDays(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	o.At = time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	until := func(warehouse string) string {
		t.Helper()
		page, err := o.Floor.Offer(ctx, floor.DueAsk{Warehouse: warehouse})
		if err != nil {
			t.Fatal(err)
		}
		return page.Until
	}
	if got := until(""); got != "2027-03-03" {
		t.Errorf("due until %s", got)
	}
	for _, day := range []string{"2027-03-02", "2027-03-03"} {
		ok(o.Admin.CloseDays(ctx, o.By(o.Max), admin.ClosedAsk{Warehouse: "HL", Day: day, Name: "Stocktaking"}))
	}
	for warehouse, want := range map[string]string{"": "2027-03-05", "HL": "2027-03-05", "DQ": "2027-03-03"} {
		if got := until(warehouse); got != want {
			t.Errorf("%q is due until %s, want %s", warehouse, got, want)
		}
	}
}

// More can be released than is listed: what is most urgent is listed first, whatever order it came in.
func TestTheMostUrgentLinesAreListedHoweverManyThereAre(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	const lines = 1_200
	var orders strings.Builder
	orders.WriteString("order,customer,wanted,line,sku,warehouse,qty,tier\n")
	for i := range lines {
		fmt.Fprintf(&orders, "SO-%d,SPC,2027-04-%02d,%d,ZR-1,HL,1,3\n", 60000+i/100, 30-i/100%28, i%100+1)
	}
	orders.WriteString("SO-70000,SPC,2027-03-02,1,ZR-1,HL,1,1\n")
	o.Load("items.csv", "sku,name,price,cost,buyable\nZR-1,A thing,2.00,1.00,no\nZR-2,Another thing,2.00,1.00,no\n")
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZR-1,Z-1-1,6000\n")
	o.Load("orders.csv", orders.String())
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty,tier\nSO-70001,SPC,2027-03-02,1,ZR-2,DQ,1,1\n")
	all := command.Selection{}
	for i := range lines/100 + 1 {
		all.Orders = append(all.Orders, command.OrderSeen{Number: fmt.Sprint("SO-", 60000+i)})
	}
	all.Orders = all.Orders[:lines/100]
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), all))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-70000"}}}))
	for _, ask := range []floor.DueAsk{
		{Until: "2027-12-31"},
		{Until: "2027-12-31", Query: "ZR-1"},
		{Until: "2027-12-31", Warehouse: "HL", Query: "thing"},
	} {
		page, err := o.Floor.Offer(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		if page.Offered != lines+1 || page.More || page.Units != lines+1 {
			t.Errorf("%+v: %d offered with %d units", ask, page.Offered, page.Units)
		}
		seen, last := map[int64]bool{}, ""
		list := query.Ask{Query: ask.Query, Scope: map[string]string{"until": ask.Until, "warehouse": ask.Warehouse}}
		for more := true; more; more = list.After != "" {
			some, err := o.Query.Release(ctx, list)
			if err != nil {
				t.Fatal(err)
			}
			for _, l := range some.Lines {
				if seen[l.ID] || l.ShipBy < last || len(seen) == 0 && l.Order != "SO-70000" {
					t.Fatalf("%+v: %s line %d comes twice, or too late", ask, l.Order, l.Line)
				}
				seen[l.ID], last = true, l.ShipBy
			}
			list.After = some.Next.Next
		}
		if len(seen) != lines+1 {
			t.Errorf("%+v: %d lines are listed on all pages", ask, len(seen))
		}
	}
	nothing := func(ask floor.DueAsk) int64 {
		page, err := o.Floor.Offer(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		for _, n := range page.NotOffered {
			if n.Reason == "nothing_allocated" {
				return n.Lines
			}
		}
		return 0
	}
	for _, c := range []struct {
		ask  floor.DueAsk
		want int64
	}{
		{floor.DueAsk{Query: "ZR-2"}, 1},
		{floor.DueAsk{Query: "ZR-1"}, 0},
		{floor.DueAsk{Query: "Another thing", Warehouse: "HL"}, 0},
		{floor.DueAsk{Query: "another", Warehouse: "DQ"}, 1},
	} {
		if got := nothing(c.ask); got != c.want {
			t.Errorf("%+v: nothing allocated on %d lines, want %d", c.ask, got, c.want)
		}
	}
	_, err := o.Query.Release(ctx, query.Ask{Scope: map[string]string{"until": "soon"}})
	desktest.Refused(t, err, command.KindInvalid, "not a date")

	// All that could go is released at once but for what is to stay, which was seen.
	due := query.Ask{Scope: map[string]string{"until": "2027-04-20"}}
	first, err := o.Query.Release(ctx, due)
	if err != nil {
		t.Fatal(err)
	}
	counted, err := o.Floor.Offer(ctx, floor.DueAsk{Until: "2027-04-20"})
	if err != nil {
		t.Fatal(err)
	}
	stays, part := first.Lines[0], first.Lines[1]
	out := ok(o.Floor.ReleaseDue(ctx, o.By(o.Ana), floor.ReleaseDueAsk{
		DueAsk: floor.DueAsk{Until: "2027-04-20"}, But: []floor.LineUnits{{Line: stays.ID, Seen: stays.Version}},
	}))
	if out.Units != counted.Units-stays.At.Allocated {
		t.Errorf("%d units were released of %d but %d: %s", out.Units, counted.Units, stays.At.Allocated, out.Sentence)
	}
	_, err = o.Floor.ReleaseDue(ctx, o.By(o.Ana), floor.ReleaseDueAsk{
		DueAsk: floor.DueAsk{Until: "2027-12-31"}, But: []floor.LineUnits{{Line: part.ID, Qty: 1, Seen: part.Version}},
	})
	desktest.Refused(t, err, command.KindConflict, "can no longer be released")
	left, err := o.Query.Release(ctx, due)
	if err != nil || len(left.Lines) != 1 || left.Lines[0].ID != stays.ID {
		t.Errorf("%+v is left, %v", left.Lines, err)
	}
	o.Sound()
}
