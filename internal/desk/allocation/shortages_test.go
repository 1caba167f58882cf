package allocation_test

import (
	"context"
	"reflect"
	"testing"
	"time"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/sales"
)

// What is kept of who goes short is always what a desk finds that has kept nothing, whatever changed it and whoever did: a command, another
// server, the day, or what puts kept sums together.
func TestWhoGoesShortIsNeverOlderThanTheBook(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	look := func(d *allocation.Desk) allocation.ContestedPage {
		t.Helper()
		page, err := d.Contested(ctx, "")
		if err != nil {
			t.Fatal(err)
		}
		return page
	}
	owner := func(query string) func() { return func() { o.Owner(query) } }
	before := look(o.Allocation)
	for _, step := range []struct {
		what    string
		do      func()
		changes bool // what the page shows
	}{
		{"some is allocated", func() { ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6001", 1, 11))) }, true},
		{"another server allocates", func() {
			ok(allocation.New(o.Runner, o.Supply).Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 2)))
		}, true},
		{"a hold", func() {
			ok(o.Sales.Hold(ctx, o.By(o.Ana), sales.HoldAsk{Order: "SO-6002", Kind: "coordinator", Note: "wait"}))
		}, true},
		{"the hold is lifted", func() { ok(o.Sales.Lift(ctx, o.By(o.Ana), sales.LiftAsk{Order: "SO-6002", Kind: "coordinator"})) }, true},
		{
			"a price",
			owner(`UPDATE order_line SET price_minor = price_minor + 700 WHERE item_id = (SELECT id FROM item WHERE sku = 'ZB-1')`), true,
		},
		{
			"a day",
			owner(`UPDATE order_line SET ship_by = ship_by + 40 WHERE order_id = (SELECT id FROM sales_order WHERE number = 'SO-6002')`),
			false,
		},
		{"a tier", owner(`UPDATE sales_order SET tier = 1 WHERE number = 'SO-6001'`), true},
		{"an urgency", owner(`UPDATE sales_order SET urgency = 1 WHERE number = 'SO-6004'`), false},
		{"when it came in", owner(`UPDATE sales_order SET entered_at = entered_at - interval '9 days' WHERE number = 'SO-6004'`), false},
		{"sums are put together", func() {
			o.Owner(`SELECT compact_counts()`)
			if err := o.Store.CompactCounts(ctx); err != nil {
				t.Fatal(err)
			}
		}, false},
		{"stock comes in", owner(`UPDATE stock_cell SET on_hand = on_hand + 3, binned = binned + 3 WHERE item_id = (SELECT id FROM item WHERE sku = 'ZB-1')
			AND warehouse_id = (SELECT id FROM warehouse WHERE code = 'HL')`), true},
		{"all is given back", func() {
			call := o.By(o.Ana)
			ok(o.Allocation.GiveBack(ctx, call, command.Selection{Orders: []command.OrderSeen{{Number: "SO-6001"}}}))
		}, true},
		{"the default serves only what is due soon", owner(`UPDATE policy SET window_days = 5 WHERE is_default`), true},
		{"the next day", func() { o.At = o.At.Add(24 * time.Hour) }, false},
	} {
		step.do()
		kept, found := look(o.Allocation), look(allocation.New(o.Runner, o.Supply))
		if !reflect.DeepEqual(kept, found) {
			t.Fatalf("%s: kept is\n%+v\nfound is\n%+v", step.what, kept, found)
		}
		if step.changes && reflect.DeepEqual(kept, before) {
			t.Errorf("%s: nothing has changed on the page, so nothing is shown by it", step.what)
		}
		before = kept
	}
}
