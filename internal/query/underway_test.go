package query_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/query"
	"journeyman/internal/store"
)

// However many are under way, those that should have arrived first come first, and all are counted and come by pages.
func TestShipmentsUnderWayAreListedByThePage(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	o.Send("SO-1002", "HL")
	before, err := o.Query.Shipments(ctx, query.InState("under way"))
	if err != nil || len(before.Shipments) == 0 || before.Next.Next != "" {
		t.Fatalf("%d are listed, %v", len(before.Shipments), err)
	}
	// A hundred and more like it, each with its package, expected later than it, and one that is empty.
	o.Owner(`WITH made AS (INSERT INTO shipment (number, customer_id, ship_to_id, warehouse_id, packed_by, dispatched_by, dispatched_at,
			carrier, tracking, expected)
		SELECT 'MANY-' || n, customer_id, ship_to_id, warehouse_id, packed_by, dispatched_by, dispatched_at, carrier, tracking || n,
			expected + 1 FROM (SELECT * FROM shipment WHERE dispatched_at IS NOT NULL LIMIT 1) s, generate_series(1, 131) n RETURNING id),
		packed AS (INSERT INTO package (shipment_id, number, kind, weight_g) SELECT id, 'MANY-' || id, 'carton', 5 FROM made RETURNING id)
		INSERT INTO package_line (package_id, line_id, qty)
		SELECT p.id, (SELECT min(line_id) FROM package_line), row_number() OVER () - 1 FROM packed p`)
	all := query.InState("under way")
	sum, err := o.Query.Sum(ctx, "shipments", all)
	if want := int64(len(before.Shipments) + 130); err != nil || sum.Rows != want {
		t.Fatalf("%d are under way, want %d, %v", sum.Rows, want, err)
	}
	page, err := o.Query.Shipments(ctx, all)
	if err != nil || len(page.Shipments) != query.PageSize || page.Shipments[0].Number != before.Shipments[0].Number {
		t.Fatalf("%d are listed, %v", len(page.Shipments), err)
	}
	all.After = page.Next.Next
	rest, err := o.Query.Shipments(ctx, all)
	if err != nil || len(page.Shipments)+len(rest.Shipments) != int(sum.Rows) || rest.Next.Next != "" {
		t.Fatalf("then %d, %v", len(rest.Shipments), err)
	}
}

// The lists of the floor have what is in their state, and find it by the order, customer or item of a line in it.
func TestTheListsOfTheFloorAreScopedAndSearched(t *testing.T) {
	t.Parallel()
	o := stockedOffice(t)
	ctx := context.Background()
	found := func(list, state, words string, want int64) {
		t.Helper()
		ask := query.InState(state)
		ask.Query = words
		if sum, err := o.Query.Sum(ctx, list, ask); err != nil || sum.Rows != want {
			t.Errorf("%s, %q in %q: %d, want %d, %v", list, words, state, sum.Rows, want, err)
		}
	}
	count := func(list, state string) int64 {
		t.Helper()
		sum, err := o.Query.Sum(ctx, list, query.InState(state))
		if err != nil {
			t.Fatal(err)
		}
		return sum.Rows
	}
	for list, other := range map[string]string{"pick-lists": "done", "shipments": "under way"} {
		if open, rest, every := count(list, ""), count(list, other), count(list, "all"); open == 0 || rest == 0 || open+rest != every {
			t.Errorf("%s: %d and %d of %d", list, open, rest, every)
		}
	}
	found("shipments", "under way", "so-621", 1)
	found("shipments", "", "so-621", 0)
	found("shipments", "all", "so-621", 1)
	found("shipments", "all", "nobody", 0)
	found("pick-lists", "", "so-614 tl-0", 1)
	found("pick-lists", "done", "so-614", 0)
	found("pick-lists", "done", "so-621 tl-0", 1)
	found("packing", "", "so-616 tl-0", 1)
	found("packing", "", "so-614", 0)
	for _, state := range []string{"", "all"} {
		page, err := o.Query.Shipments(ctx, query.InState(state))
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range page.Shipments {
			found("shipments", state, s.Number, 1)
			found("shipments", state, s.Orders[0]+" "+s.Customer, 1)
		}
	}
	ask := query.Ask{Only: []string{"weight>=0.001"}}
	if sum, err := o.Query.Sum(ctx, "shipments", ask); err != nil || sum.Rows != count("shipments", "") {
		t.Errorf("heavier than a gram: %d, %v", sum.Rows, err)
	}
	ask.Only[0] = "weight>=heavy"
	if _, err := o.Query.Sum(ctx, "shipments", ask); err == nil {
		t.Error("a weight that is none was taken")
	}
	// A place in a list that was never handed out is refused, whatever is in it; and so are very many words.
	for list, ask := range map[string]query.Ask{
		"pick-lists": {After: store.Mark{"x"}.String()}, "quotes": {After: store.Mark{}.String()}, "open": {After: store.Mark{}.String()},
		"shipments": {After: store.Mark{"soon", "1", "1"}.String()}, "journal": {Query: "a b c d e f g h i j k l m"},
	} {
		if _, err := o.Query.Table(ctx, list, nil, ask); err != nil {
			desktest.Refused(t, err, command.KindInvalid, "")
			continue
		}
		read := map[string]func(context.Context, query.Ask) error{
			"pick-lists": func(c context.Context, a query.Ask) error { _, err := o.Query.PickLists(c, a); return err },
			"quotes":     func(c context.Context, a query.Ask) error { _, err := o.Query.Quotes(c, a); return err },
			"open":       func(c context.Context, a query.Ask) error { _, err := o.Query.Open(c, a); return err },
			"shipments":  func(c context.Context, a query.Ask) error { _, err := o.Query.Shipments(c, a); return err },
		}[list]
		desktest.Refused(t, read(ctx, ask), command.KindInvalid, "place")
	}
	ask.Only[0] = "arrived>=2027-03-01" // a column that only the list itself sorts by
	if _, err := o.Query.Sum(ctx, "shipments", ask); err == nil {
		t.Error("a column without a name was asked")
	}
}
