package query_test

import (
	"context"
	"fmt"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
)

// However orders are grouped, the groups have all of them once, and come to what they come to; and a group is what its key finds.
func TestGroupsOfOrdersAddUpToTheOrders(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty,tier,channel\nSO-77001,SPC,2027-03-09,1,GL-2040-1,HL,7,2,fair\n"+
		"SO-77002,SPC,2027-03-09,1,GL-2040-1,HL,9,2,web\n")
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}))
	list := func(ask query.OrdersAsk) (orders, value int64, at supply.Counts) {
		t.Helper()
		page, err := o.Query.Orders(ctx, ask)
		if err != nil || page.Pages > 1 {
			t.Fatalf("%+v: %v on %d pages", ask, err, page.Pages)
		}
		for _, x := range page.Orders {
			at = supply.AddCounts(at, x.At)
		}
		return page.Total, page.ValueMinor, at
	}
	for _, ask := range []query.OrdersAsk{{}, {State: "open"}, {Station: "allocated"}, {Channel: "web"}, {Query: "glaze"}} {
		orders, value, at := list(ask)
		if orders == 0 {
			t.Errorf("%+v finds nothing", ask)
		}
		for by, narrow := range map[string]func(query.OrdersAsk, string) query.OrdersAsk{
			"customer": func(a query.OrdersAsk, key string) query.OrdersAsk { a.Customer = key; return a },
			"channel":  func(a query.OrdersAsk, key string) query.OrdersAsk { a.Channel = key; return a },
			"wanted":   func(a query.OrdersAsk, key string) query.OrdersAsk { a.Wanted = key; return a },
			"tier": func(a query.OrdersAsk, key string) query.OrdersAsk {
				_, _ = fmt.Sscan(key, &a.Tier)
				return a
			},
		} {
			page, err := o.Query.OrderGroups(ctx, ask, by)
			if err != nil || page.Total != int64(len(page.Groups)) {
				t.Fatalf("%+v by %s: %d groups of %d, %v", ask, by, len(page.Groups), page.Total, err)
			}
			var n, worth int64
			var sum supply.Counts
			for _, g := range page.Groups {
				n, worth, sum = n+g.Orders, worth+g.ValueMinor, supply.AddCounts(sum, g.At)
				if by == "channel" && ask.Channel != "" {
					continue
				}
				if g.Key == "" { // no channel is no filter
					continue
				}
				if k, v, c := list(narrow(ask, g.Key)); k != g.Orders || v != g.ValueMinor || c != g.At {
					t.Errorf("%+v by %s: %s has %d orders worth %d with %+v, and its list %d worth %d with %+v", ask, by, g.Key, g.Orders,
						g.ValueMinor, g.At, k, v, c)
				}
			}
			if n != orders || worth != value || sum != at {
				t.Errorf("%+v by %s: %d orders worth %d with %+v, of %d worth %d with %+v", ask, by, n, worth, sum, orders, value, at)
			}
		}
	}
	if _, err := o.Query.OrderGroups(ctx, query.OrdersAsk{Wanted: "soon"}, "tier"); err == nil {
		t.Error("a day that is none is accepted")
	}
}
