package query_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/query"
)

// Two working days from Monday are Wednesday; with Tuesday and Wednesday closed everywhere, Friday.
func TestDueLooksAheadOverClosedDays(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	o.At = time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)
	until := func(warehouse string) string {
		t.Helper()
		page, err := o.Query.Releasable(ctx, query.ReleaseAsk{Warehouse: warehouse})
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
	const lines = 5_100
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
	for _, ask := range []query.ReleaseAsk{
		{Until: "2027-12-31"},
		{Until: "2027-12-31", Query: "ZR-1"},
		{Until: "2027-12-31", Warehouse: "HL", Query: "thing"},
	} {
		page, err := o.Query.Releasable(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		if page.Offered != lines+1 || page.Orders != lines/100+1 || len(page.Lines) != 5_000 || page.Lines[0].Order != "SO-70000" {
			t.Errorf(
				"%+v: %d offered of %d orders, %d listed, first %s", ask, page.Offered, page.Orders, len(page.Lines), page.Lines[0].Order,
			)
		}
	}
	nothing := func(ask query.ReleaseAsk) int64 {
		page, err := o.Query.Releasable(ctx, ask)
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
		ask  query.ReleaseAsk
		want int64
	}{
		{query.ReleaseAsk{Query: "ZR-2"}, 1},
		{query.ReleaseAsk{Query: "ZR-1"}, 0},
		{query.ReleaseAsk{Query: "Another thing", Warehouse: "HL"}, 0},
		{query.ReleaseAsk{Query: "another", Warehouse: "DQ"}, 1},
	} {
		if got := nothing(c.ask); got != c.want {
			t.Errorf("%+v: nothing allocated on %d lines, want %d", c.ask, got, c.want)
		}
	}
}

// However many are under way, those that should have arrived first are listed, and all are counted.
func TestShipmentsUnderWayAreListedUpToABound(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	o.Send("SO-1002", "HL")
	before, err := o.Query.Shipments(ctx)
	if err != nil || before.Total != int64(len(before.UnderWay)) || before.Total == 0 {
		t.Fatalf("%d are listed of %d under way, %v", len(before.UnderWay), before.Total, err)
	}
	// A hundred and more like it, each with its package, expected later than it.
	o.Owner(`WITH made AS (INSERT INTO shipment (number, customer_id, ship_to_id, warehouse_id, packed_by, dispatched_by, dispatched_at,
			carrier, tracking, expected)
		SELECT 'MANY-' || n, customer_id, ship_to_id, warehouse_id, packed_by, dispatched_by, dispatched_at, carrier, tracking || n,
			expected + 1 FROM (SELECT * FROM shipment WHERE dispatched_at IS NOT NULL LIMIT 1) s, generate_series(1, 130) n RETURNING id),
		packed AS (INSERT INTO package (shipment_id, number, kind, weight_g) SELECT id, 'MANY-' || id, 'carton', 5 FROM made RETURNING id)
		INSERT INTO package_line (package_id, line_id, qty) SELECT p.id, (SELECT min(line_id) FROM package_line), 1 FROM packed p`)
	page, err := o.Query.Shipments(ctx)
	if err != nil || len(page.UnderWay) != 100 || page.Total != before.Total+130 {
		t.Fatalf("%d are listed of %d under way, %v", len(page.UnderWay), page.Total, err)
	}
	if page.UnderWay[0].Number != before.UnderWay[0].Number {
		t.Errorf("%s is listed first, %s is expected before it", page.UnderWay[0].Number, before.UnderWay[0].Number)
	}
}
