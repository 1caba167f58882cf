package query_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
)

func numbers(page query.OrdersPage) string {
	var out []string
	for _, o := range page.Orders {
		out = append(out, strings.TrimPrefix(o.Number, "SO-100"))
	}
	return strings.Join(out, " ")
}

func TestOrdersAreFoundFilteredAndSorted(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	call := o.By(o.Ana)
	call.Reason = "gone"
	ok(o.Sales.Drop(ctx, call, command.Selection{Orders: []command.OrderSeen{{Number: "SO-1004"}}}))
	o.At = o.At.AddDate(0, 0, 3) // 4 March: one is late
	for _, c := range []struct {
		why  string
		ask  query.OrdersAsk
		want string
	}{
		{"everything, by wanted day", query.OrdersAsk{}, "1 2 4 5 3"},
		{"part of a number", query.OrdersAsk{Query: "o-1003"}, "3"},
		{"part of a customer", query.OrdersAsk{Query: "saltp"}, "2 4"},
		{"part of an item's name", query.OrdersAsk{Query: "celadon"}, "1 2"},
		{"the customer's own number", query.OrdersAsk{Query: "88-2"}, "1"},
		{"two words, both", query.OrdersAsk{Query: "aldersyke shelf"}, "5"},
		{"a percent sign is a percent sign", query.OrdersAsk{Query: "%"}, ""},
		{"nothing of the kind", query.OrdersAsk{Query: "zebra"}, ""},
		{"with units allocated", query.OrdersAsk{Station: "allocated"}, "2"},
		{"unfinished", query.OrdersAsk{State: "open"}, "1 2 5 3"},
		{"finished", query.OrdersAsk{State: "done"}, "4"},
		{"late", query.OrdersAsk{State: "late"}, "1"},
		{"on hold", query.OrdersAsk{State: "held"}, "4"},
		{"by channel", query.OrdersAsk{Channel: "web"}, "2 4"},
		{"by customer", query.OrdersAsk{Customer: "ALD"}, "1 5"},
		{"dearest first", query.OrdersAsk{Sort: "value", Down: true}, "3 1 2 4 5"},
		{"by tier", query.OrdersAsk{Sort: "tier"}, "1 5 3 2 4"},
		{"by a column that is not there", query.OrdersAsk{Sort: "colour"}, "1 2 4 5 3"},
		{"a page that is not there", query.OrdersAsk{Page: 7}, ""},
	} {
		t.Run(c.why, func(t *testing.T) {
			page, err := o.Query.Orders(ctx, c.ask)
			if err != nil || numbers(page) != c.want {
				t.Errorf("got %q, want %q (%v)", numbers(page), c.want, err)
			}
		})
	}
}

// Of very many orders it is said that there are more, until somebody asks how many.
func TestVeryManyOrdersAreCountedWhenAskedFor(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	before, err := o.Query.Orders(ctx, query.OrdersAsk{})
	if err != nil || before.More {
		t.Fatalf("%+v, %v", before, err)
	}
	o.Owner(`INSERT INTO sales_order (number, customer_id, ship_to_id, tier, ship_rule, entered_at, wanted)
		SELECT 'MANY-' || n, 1, (SELECT min(id) FROM ship_to WHERE customer_id = 1), 3, 'any', now(), '2027-03-01'
			FROM generate_series(1, 10000) n`)
	page, err := o.Query.Orders(ctx, query.OrdersAsk{Sort: "number", Down: true, Page: 3})
	if err != nil || page.Total != 10_000 || !page.More || len(page.Orders) != query.PageSize || page.ValueMinor != 0 {
		t.Errorf("%d orders, more %v, %d on the page, worth %d, %v", page.Total, page.More, len(page.Orders), page.ValueMinor, err)
	}
	all, err := o.Query.Orders(ctx, query.OrdersAsk{Exact: true})
	if err != nil || all.Total != before.Total+10_000 || all.More || all.ValueMinor != before.ValueMinor {
		t.Errorf(
			"%d orders, more %v, worth %d, want %d worth %d; %v", all.Total, all.More, all.ValueMinor, before.Total+10_000,
			before.ValueMinor, err,
		)
	}
	few, err := o.Query.Orders(ctx, query.OrdersAsk{Query: "many-999"})
	if err != nil || few.Total != 11 || few.More {
		t.Errorf("%d orders are found by a part of their number, want 11; more %v, %v", few.Total, few.More, err)
	}
	some, err := o.Query.Orders(ctx, query.OrdersAsk{Query: "y-1"}) // a part that a thousand have, which is too short for the index alone
	if err != nil || some.Total != 1112 || some.More {
		t.Errorf("%d orders are found by a part of their number, want 1112; more %v, %v", some.Total, some.More, err)
	}
}

// Words, filters and sorts of the open lines come to the same lines in the same order as looking at each of them.
func TestOpenLinesComeHelpedFirstHoweverTheyArePaged(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.Many(t, 2100), context.Background()
	var seen []int64
	first := true
	for page := 1; ; page++ {
		v, err := o.Query.Open(ctx, "", page)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range v.Lines {
			if slices.Contains(seen, l.ID) {
				t.Fatalf("%s line %d comes twice", l.Order, l.Line)
			}
			if seen = append(seen, l.ID); l.Free > 0 && !first {
				t.Fatalf("%s line %d could be helped and comes after one that cannot", l.Order, l.Line)
			}
			first = l.Free > 0
		}
		if page >= v.Pages {
			if int64(len(seen)) != v.Total {
				t.Errorf("%d lines came, %d were told", len(seen), v.Total)
			}
			break
		}
	}
}

func TestAnOrderShowsWhatIsPossibleAndWhyNot(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	v := o.Order("SO-1003") // goes only whole; two of three kilns are there, at another warehouse than the tools
	if v.Ready != 1 || v.OpenLines != 2 || v.MarginBP == nil || v.Late {
		t.Errorf("%+v", v.OrderRow)
	}
	can := func(cs []supply.Can, verb string) supply.Can {
		for _, c := range cs {
			if c.Verb == verb {
				return c
			}
		}
		t.Fatalf("nothing is said of %s", verb)
		return supply.Can{}
	}
	if c := can(v.Can, "allocate"); c.Qty != 4 {
		t.Errorf("allocate: %+v", c)
	}
	if c := can(v.Can, "release"); c.Qty != 0 || c.Why != "nothing is allocated" {
		t.Errorf("release: %+v", c)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1003"}}}))
	v = o.Order("SO-1003")
	if c := can(v.Can, "release"); c.Qty != 0 || !strings.Contains(c.Why, "only whole") {
		t.Errorf("release: %+v", c)
	}
	l := o.Line("SO-1003", 2)
	if l.Next == nil || l.Next.Ref != "PO-734" || l.Next.Overdue || l.At.Open != 1 {
		t.Errorf("%+v", l)
	}
	if c := can(l.Can, "allocate"); c.Qty != 0 || c.Why != "none is free at DQ" {
		t.Errorf("allocate: %+v", c)
	}
	if l := o.Line("SO-1002", 2); l.Elsewhere != 400 || l.Multiple != 4 {
		t.Errorf("clay elsewhere: %+v", l)
	}
	if v := o.Order("SO-1004"); v.HoldNotes[0].Note != "Over the limit by £410" || v.HoldNotes[0].Who != "Ana Ruiz" {
		t.Errorf("%+v", v.HoldNotes)
	}
	if _, err := o.Query.Order(ctx, "SO-0"); err == nil {
		t.Error("an order that is not there is shown")
	}
}

func TestTheStripCountsTheWholeBook(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	o.Pack("SO-1002", "HL")
	strip, err := o.Query.Strip(ctx)
	if err != nil {
		t.Fatal(err)
	}
	got := map[string][3]int64{}
	for _, s := range strip.Stations {
		got[s.Station] = [3]int64{s.Units, s.Lines, s.Waiting}
	}
	// 187 units were ordered; 24 are packed. Six of the seven lines with open units could have some now.
	for station, want := range map[string][3]int64{
		"open": {163, 7, 7}, "allocated": {0, 0, 0}, "packed": {24, 1, 1}, "delivered": {0, 0, 0},
	} {
		if got[station] != want {
			t.Errorf("%s: %v, want %v", station, got[station], want)
		}
	}
}

func TestAnythingIsFoundByPartOfItsNumberOrName(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	for words, want := range map[string]string{
		"so-1001": "order SO-1001", "glaze": "item GL-1310-5", "GL-2040-1": "item GL-2040-1", "tidew": "customer TDW",
		"po-733": "inbound PO-733", "PO/88": "order SO-1001",
	} {
		hits, err := o.Query.Search(ctx, words)
		if err != nil || len(hits) == 0 || hits[0].Kind+" "+hits[0].Number != want {
			t.Errorf("%s: %+v, want %s first (%v)", words, hits, want, err)
		}
	}
	if hits, err := o.Query.Search(ctx, "  "); err != nil || len(hits) != 0 {
		t.Errorf("nothing was asked: %+v %v", hits, err)
	}
}
