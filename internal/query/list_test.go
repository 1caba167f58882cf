package query_test

import (
	"cmp"
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/query"
	"journeyman/internal/store"
)

// listed reads a list to its end, so many rows at a time.
func listed(t *testing.T, r *store.Reader, l *store.List, ask store.ListAsk, at int) (ids store.IDs, ends []store.Mark) {
	t.Helper()
	ask.Limit = at
	for {
		some, next, err := r.Keys(l, ask)
		if err != nil {
			t.Fatalf("%s by %s: %v", l.Name, ask.Sort, err)
		}
		ids = append(ids, some...)
		if next == nil {
			return ids, ends
		}
		if len(some) != at {
			t.Fatalf("%s by %s: a page of %d rows, though more come", l.Name, ask.Sort, len(some))
		}
		if ask.After, err = store.ReadMark(next.String()); err != nil {
			t.Fatal(err)
		}
		ends = append(ends, ask.After)
	}
}

// stockedOffice is an office with more orders, some of which are further on, held, or worth nothing.
func stockedOffice(t *testing.T) *desktest.Office {
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	text := "order,customer,channel,wanted,line,sku,warehouse,qty,price\n"
	for i := range 40 {
		text += fmt.Sprintf(
			"SO-6%02d,%s,%s,2099-04-%02d,1,TL-014,HL,%d,%d.00\n", i, []string{"SPC", "ALD"}[i%2], []string{"fair", "web", ""}[i%3],
			1+i%9, 1+i%4, i%7,
		)
	}
	o.Load("orders.csv", desktest.Leaving(text))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1003", 1, 2)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}))
	for _, n := range []int{0, 1, 2, 5, 9, 13} {
		ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Promise(fmt.Sprintf("SO-6%02d", n))))
	}
	// Quotes of all kinds: as they were made, withdrawn, and accepted.
	withdrawn, accepted := o.Quoted(o.Ana), o.Quoted(o.Tom)
	o.Quoted(o.Ana)
	why := o.By(o.Ana)
	why.Reason = "bought elsewhere"
	ok(o.Sales.WithdrawQuote(ctx, why, sales.QuoteNamed{Number: withdrawn, Seen: o.Quote(withdrawn).Version}))
	ok(o.Sales.ApproveQuote(ctx, o.By(o.Max), sales.QuoteNamed{Number: accepted, Seen: o.Quote(accepted).Version}))
	ok(o.Sales.AcceptQuote(ctx, o.By(o.Ana), o.Quote(accepted).Rest))
	// Lots of an item: two in bins, one of which must not be sent.
	o.Load("items.csv", "sku,name,lots\nGL-1310-5,\"Tenmoku glaze, 5 L\",yes\n")
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPO-900,GL-1310-5,HL,2027-03-10,9\n")
	for bin, lot := range map[string]string{"X-1": "A7", "X-2": "B1", "X-3": "B1"} {
		ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{
			Inbound: o.Inbound("PO-900").ID, Qty: 3, Bin: bin, Lots: []command.LotQty{{Lot: lot, Qty: 3}},
		}))
	}
	why.Key = command.NewKey()
	ok(o.Floor.RecallLot(ctx, why, floor.LotAsk{SKU: "GL-1310-5", Lot: "B1"}))
	// Some are on the floor: to be picked, picked, packed, sent.
	for i, n := range []int{14, 15, 16, 17, 18, 20, 21, 22} {
		number := fmt.Sprintf("SO-6%02d", n)
		ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: number}}}))
		switch i / 2 {
		case 0, 1:
			list := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{
				Selection: command.Selection{Orders: []command.OrderSeen{{Number: number}}}, Print: true, PackingLists: i%2 == 0,
			})).Documents[0].Number
			ok(o.Floor.Print(ctx, o.By(o.Flo), floor.PrintAsk{Lists: []string{list}}))
			if i/2 == 1 {
				o.PickAll(list)
			}
		case 2:
			o.Pack(number, "HL")
		default:
			o.Send(number, "HL")
		}
	}
	return o
}

// By whatever column a list is sorted, up or down, it has the same rows once, in pages of any size; and a page that is asked for again
// between its ends is the same.
func TestListsComeWholeInPagesByEveryColumn(t *testing.T) {
	t.Parallel()
	o := stockedOffice(t)
	r := o.Store.Read(context.Background())
	for _, l := range store.Lists {
		scope := map[string]string{}
		if l == store.Release {
			scope["state"] = "all" // hardly anything of this office could go
		}
		whole, _ := listed(t, r, l, store.ListAsk{Today: "2027-03-01", Scope: scope}, 10_000)
		if len(whole) < 2 {
			t.Fatalf("%s has %d rows", l.Name, len(whole))
		}
		for state := range l.FirstIn {
			ask := store.ListAsk{Today: "2027-03-01", Scope: map[string]string{"state": state}}
			want, _ := listed(t, r, l, ask, 10_000)
			if got, _ := listed(t, r, l, ask, 1); !slices.Equal(got, want) {
				t.Errorf("%s in the state %s: %v one by one, else %v", l.Name, state, got, want)
			}
			ask.Down = true
			got, _ := listed(t, r, l, ask, 1)
			slices.Reverse(got)
			if !slices.Equal(got, want) {
				t.Errorf("%s in the state %s, the other way: %v, want %v", l.Name, state, got, want)
			}
		}
		for _, c := range l.Columns {
			if c.Title == "" {
				continue // the list's own, in some state
			}
			up, _ := listed(t, r, l, store.ListAsk{Today: "2027-03-01", Sort: c.Name, Scope: scope}, 10_000)
			for _, down := range []bool{false, true} {
				ask := store.ListAsk{Today: "2027-03-01", Sort: c.Name, Down: down, Scope: scope}
				want := slices.Clone(up)
				if down {
					slices.Reverse(want)
				}
				for _, at := range []int{1, 3, 7} {
					got, ends := listed(t, r, l, ask, at)
					if !slices.Equal(got, want) {
						t.Fatalf("%s by %s, down %v, in pages of %d: %v, want %v", l.Name, c.Name, down, at, got, want)
					}
					i := rand.IntN(max(1, len(ends)-1))
					if i+1 < len(ends) {
						again := ask
						again.After, again.UpTo, again.Limit = ends[i], ends[i+1], 100
						some, more, err := r.Keys(l, again)
						if page := want[at*(i+1) : at*(i+2)]; err != nil || more != nil || !slices.Equal(some, page) {
							t.Fatalf("%s by %s, down %v: between two ends lie %v, want %v (%v)", l.Name, c.Name, down, some, page, err)
						}
					}
				}
			}
			if sorted := slices.Sorted(slices.Values(up)); !slices.Equal(sorted, slices.Sorted(slices.Values(whole))) {
				t.Errorf("%s by %s has other rows", l.Name, c.Name)
			}
		}
	}
}

// However a list is grouped, the groups have all of its rows once and come to what they come to, and a group is what its value finds.
func TestGroupsOfEveryListAddUp(t *testing.T) {
	t.Parallel()
	o, ctx := stockedOffice(t), context.Background()
	for _, l := range store.Lists {
		for _, ask := range []query.Ask{{}, {Query: "tl-014"}, {Query: "s"}, query.InState("all")} {
			for _, c := range l.Columns {
				if c.Sum != "" {
					ask.Sums = append(ask.Sums, c.Name)
				}
			}
			all, err := o.Query.Sum(ctx, l.Name, ask)
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range l.Columns {
				if !c.Group {
					continue
				}
				groups, err := o.Query.Groups(ctx, l.Name, c.Name, ask)
				if err != nil || groups.Total != int64(len(groups.Groups)) {
					t.Fatalf("%s by %s: %d of %d groups, %v", l.Name, c.Name, len(groups.Groups), groups.Total, err)
				}
				rows, sums := int64(0), map[string]int64{}
				for _, g := range groups.Groups {
					rows += g.Rows
					for name, n := range g.Sums {
						sums[name] += n
					}
					one := ask
					one.Only = []string{c.Name + "=" + g.Value}
					if got, err := o.Query.Sum(ctx, l.Name, one); err != nil || got.Rows != g.Rows || fmt.Sprint(got.Sums) != fmt.Sprint(g.Sums) {
						t.Errorf("%s, %s: %+v, in its group %+v, %v", l.Name, one.Only, got, g, err)
					}
				}
				if rows != all.Rows || rows > 0 && fmt.Sprint(sums) != fmt.Sprint(all.Sums) {
					t.Errorf("%s by %s: %d rows and %v, of %d and %v", l.Name, c.Name, rows, sums, all.Rows, all.Sums)
				}
			}
		}
	}
}

func TestListsAreFilteredByTheirColumns(t *testing.T) {
	t.Parallel()
	o, ctx := stockedOffice(t), context.Background()
	orders := func(only ...string) string {
		t.Helper()
		page, err := o.Query.Orders(ctx, query.Ask{Sort: "number", Only: append(only, "number~so-100")})
		if err != nil {
			t.Fatal(only, err)
		}
		return numbers(page)
	}
	for _, c := range []struct {
		only []string
		want string
	}{
		{nil, "1 2 3 4 5"},
		{[]string{"channel=web"}, "2 4"},
		{[]string{"channel!=web"}, "1 3 5"},
		{[]string{"customer=ALD", "customer=SPC"}, "1 2 4 5"},
		{[]string{"customer~aldersyke"}, "1 5"},
		{[]string{"tier<=1"}, "1 5"},
		{[]string{"value>=1000"}, values(t, o, func(v int64) bool { return v >= 1000_00 })},
		{[]string{"value<=999.99"}, values(t, o, func(v int64) bool { return v <= 999_99 })},
		{[]string{"allocated>=1"}, "1 3"},
		{[]string{"wanted<=2000-01-01"}, ""},
		{[]string{"margin>=-1000", "entered>=2000-01-01", "entered<=2099-01-01"}, "1 2 3 4 5"},
	} {
		if got := orders(c.only...); got != c.want {
			t.Errorf("%v: %q, want %q", c.only, got, c.want)
		}
	}
	for only, says := range map[string]string{
		"value>=dear": "not an amount", "tier=one": "not a whole number", "wanted>=soon": "YYYY-MM-DD", "colour=red": "no such column",
		"channel": "not a condition", "tier!3": "not that comparison",
	} {
		_, err := o.Query.Orders(ctx, query.Ask{Only: []string{only}})
		desktest.Refused(t, err, command.KindInvalid, says)
	}
	_, err := o.Query.Orders(ctx, query.Ask{Sort: "colour"})
	desktest.Refused(t, err, command.KindInvalid, "no column")
	_, err = o.Query.Orders(ctx, query.Ask{After: "nonsense"})
	desktest.Refused(t, err, command.KindInvalid, "first page")
	_, err = o.Query.Orders(ctx, query.Ask{After: store.Mark{"1", "2", "3", "4"}.String()})
	desktest.Refused(t, err, command.KindInvalid, "first page")
	_, err = o.Query.Sum(ctx, "orders", query.Ask{Sums: []string{"margin"}})
	desktest.Refused(t, err, command.KindInvalid, "added up")
	_, err = o.Query.Groups(ctx, "orders", "number", query.Ask{})
	desktest.Refused(t, err, command.KindInvalid, "not grouped")
	_, err = o.Query.Sum(ctx, "wishes", query.Ask{})
	desktest.Refused(t, err, command.KindNotFound, "no list")
	// The floor sees no margins: it neither sorts nor filters by them.
	_, err = o.Query.Orders(ctx, query.Ask{Sort: "margin", Who: o.Flo})
	desktest.Refused(t, err, command.KindInvalid, "no column")
	_, err = o.Query.Orders(ctx, query.Ask{Only: []string{"margin<=0"}, Who: o.Flo})
	desktest.Refused(t, err, command.KindInvalid, "no such column")
}

// values are the orders of the office whose value is as asked for.
func values(t *testing.T, o *desktest.Office, is func(int64) bool) string {
	t.Helper()
	var out []string
	for n := 1; n <= 5; n++ {
		if is(o.Order("SO-100" + strconv.Itoa(n)).ValueMinor) {
			out = append(out, strconv.Itoa(n))
		}
	}
	return strings.Join(out, " ")
}

// Of very many orders it is said that there are more, until somebody asks how many.
func TestVeryManyRowsAreCountedWhenAskedFor(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	before, err := o.Query.Sum(ctx, "orders", query.Ask{Sums: []string{"value"}})
	if err != nil || before.More {
		t.Fatalf("%+v, %v", before, err)
	}
	o.Owner(`INSERT INTO sales_order (number, customer_id, ship_to_id, tier, ship_rule, entered_at, wanted)
		SELECT 'MANY-' || n, 1, (SELECT min(id) FROM ship_to WHERE customer_id = 1), 3, 'any', now(), '2027-03-01'
			FROM generate_series(1, 10000) n`)
	sum := func(words string, exact bool) query.ListSum {
		t.Helper()
		s, err := o.Query.Sum(ctx, "orders", query.Ask{Query: words, Exact: exact, Sums: []string{"value"}})
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	if some := sum("", false); some.Rows != 10_000 || !some.More || len(some.Sums) > 0 {
		t.Errorf("%+v", some)
	}
	if all := sum("", true); all.Rows != before.Rows+10_000 || all.More || all.Sums["value"] != before.Sums["value"] {
		t.Errorf("%+v, before %+v", all, before)
	}
	// the second is a part that a thousand have, and which is too short for the index alone
	for words, want := range map[string]int64{"many-999": 11, "y-1": 1112} {
		if found := sum(words, false); found.Rows != want || found.More {
			t.Errorf("%d orders are found by %q, want %d; more %v", found.Rows, words, want, found.More)
		}
	}
}

// Lines that free stock can help come first, however they are paged, and then by tier and day.
func TestOpenLinesComeHelpedFirstHoweverTheyArePaged(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.Many(t, 2100), context.Background()
	type place struct {
		helped int
		tier   int
		day    string
		id     int64
	}
	var seen []place
	for ask := (query.Ask{}); ; {
		v, err := o.Query.Open(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range v.Lines {
			p := place{1, l.Tier, l.ShipBy, l.ID}
			if l.Free > 0 {
				p.helped = 0
			}
			seen = append(seen, p)
		}
		if ask.After = v.Next.Next; ask.After == "" {
			break
		}
	}
	if !slices.IsSortedFunc(seen, func(a, b place) int {
		return cmp.Or(cmp.Compare(a.helped, b.helped), cmp.Compare(a.tier, b.tier), cmp.Compare(a.day, b.day), cmp.Compare(a.id, b.id))
	}) {
		t.Error("the lines are not in order")
	}
	if sum, err := o.Query.Sum(ctx, "open", query.Ask{}); err != nil || sum.Rows != int64(len(seen)) || sum.Rows < 2000 {
		t.Errorf("%d lines came, %d were told, %v", len(seen), sum.Rows, err)
	}
}

func TestCustomersAreFoundByPartOfTheirName(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	all, err := o.Query.Customers(ctx, query.Ask{})
	if err != nil || len(all.Customers) != 3 || all.Customers[0].Tier > all.Customers[2].Tier {
		t.Fatalf("%d customers, %v", len(all.Customers), err)
	}
	found, err := o.Query.Customers(ctx, query.Ask{Query: "ald"})
	if err != nil || len(found.Customers) != 1 || found.Customers[0].Code != "ALD" || found.Customers[0].OpenOrders != 2 {
		t.Errorf("by part of a name: %+v %v", found.Customers, err)
	}
	if _, err := o.Query.Customer(ctx, "NONE"); err == nil {
		t.Error("a customer who is not there was shown")
	}
}
