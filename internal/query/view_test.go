package query_test

import (
	"context"
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

func scope(name, value string) map[string]string { return map[string]string{name: value} }

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
		ask  query.Ask
		want string
	}{
		{"everything, by wanted day", query.Ask{}, "1 2 4 5 3"},
		{"part of a number", query.Ask{Query: "o-1003"}, "3"},
		{"part of a customer", query.Ask{Query: "saltp"}, "2 4"},
		{"part of an item's name", query.Ask{Query: "celadon"}, "1 2"},
		{"the customer's own number", query.Ask{Query: "88-2"}, "1"},
		{"two words, both", query.Ask{Query: "aldersyke shelf"}, "5"},
		{"a percent sign is a percent sign", query.Ask{Query: "%"}, ""},
		{"nothing of the kind", query.Ask{Query: "zebra"}, ""},
		{"with units allocated", query.Ask{Scope: scope("station", "allocated")}, "2"},
		{"unfinished", query.Ask{Scope: scope("state", "open")}, "1 2 5 3"},
		{"finished", query.Ask{Scope: scope("state", "done")}, "4"},
		{"late", query.Ask{Scope: scope("state", "late")}, "1"},
		{"on hold", query.Ask{Scope: scope("state", "held")}, "4"},
		{"by channel", query.Ask{Only: []string{"channel=web"}}, "2 4"},
		{"by customer", query.Ask{Only: []string{"customer=ALD"}}, "1 5"},
		{"dearest first", query.Ask{Sort: "value", Down: true}, "3 1 2 4 5"},
		{"by tier", query.Ask{Sort: "tier"}, "1 5 3 2 4"},
	} {
		t.Run(c.why, func(t *testing.T) {
			page, err := o.Query.Orders(ctx, c.ask)
			if err != nil || numbers(page) != c.want {
				t.Errorf("got %q, want %q (%v)", numbers(page), c.want, err)
			}
		})
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
	if c := can(v.Can, "release"); c.Qty != 0 || c.Why.String() != "nothing is allocated" {
		t.Errorf("release: %+v", c)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1003"}}}))
	v = o.Order("SO-1003")
	if c := can(v.Can, "release"); c.Qty != 0 || !strings.Contains(c.Why.String(), "only whole") {
		t.Errorf("release: %+v", c)
	}
	l := o.Line("SO-1003", 2)
	if l.Next == nil || l.Next.Ref != "PO-734" || l.Next.Overdue || l.At.Open != 1 {
		t.Errorf("%+v", l)
	}
	if c := can(l.Can, "allocate"); c.Qty != 0 || c.Why.String() != "none is free at DQ" {
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
