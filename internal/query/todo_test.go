package query_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
)

func todos(t *testing.T, o *desktest.Office, who command.Actor) query.TodoPage {
	t.Helper()
	p, err := o.Query.Todo(context.Background(), who, query.TodoAll)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// said is what waits about a document, in few words: kind, units, missed days.
func said(p query.TodoPage, number string) string {
	var out []string
	for _, x := range p.Todos {
		if x.Number == number {
			out = append(out, fmt.Sprintf("%s %d", x.Kind, x.Units))
		}
	}
	return strings.Join(out, ", ")
}

// What an order waits for follows its units from station to station, and each step that is offered can be taken as it is offered.
func TestWhatWaitsFollowsTheUnits(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx, ok := context.Background(), desktest.Done(t)
	find := func(kind, number string) query.Todo {
		t.Helper()
		p := todos(t, o, o.Ana)
		i := slices.IndexFunc(p.Todos, func(x query.Todo) bool { return x.Kind == kind && x.Number == number })
		if i < 0 {
			t.Fatalf("%s is not to %s: %q", number, kind, said(p, number))
		}
		return p.Todos[i]
	}
	// 20 are free: 15 for the order that is due first, 5 for the next; the third goes only whole and is due outside the window.
	got := find("allocate", "SO-6002")
	if got.Units != 15 || got.Tier != 1 || got.ValueMinor != 3000 || got.Missed != 0 || got.Day != "2027-03-02" {
		t.Errorf("%+v", got)
	}
	if got := find("allocate", "SO-6001"); got.Units != 5 || got.Lines != 1 || got.SKU != "ZB-1" {
		t.Errorf("%+v", got)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Lines: find("allocate", "SO-6002").Chosen}))
	if got := said(todos(t, o, o.Ana), "SO-6002"); got != "release 15" {
		t.Errorf("allocated, it waits for: %q", got)
	}
	hold := sales.HoldAsk{Order: "SO-6002", Kind: "coordinator", Note: "the customer telephones back"}
	ok(o.Sales.Hold(ctx, o.By(o.Ana), hold))
	if got := said(todos(t, o, o.Ana), "SO-6002"); got != "hold 15" {
		t.Errorf("on hold, it waits for: %q", got)
	}
	if got := find("hold", "SO-6002"); got.Note.String() != "coordinator" || got.Verb != "lift" {
		t.Errorf("%+v", got)
	}
	ok(o.Sales.Lift(ctx, o.By(o.Ana), sales.LiftAsk{Order: "SO-6002", Kind: "coordinator"}))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: command.Selection{Lines: find("release", "SO-6002").Chosen}}))
	list := out.Documents[0].Number
	if got := find("pick", list); got.Units != 15 || got.Customers != 1 || got.ValueMinor != 3000 || got.Currency != "GBP" {
		t.Errorf("%+v", got)
	}
	o.PickAll(list)
	if got := said(todos(t, o, o.Ana), "SO-6002"); got != "pack 15" {
		t.Errorf("picked, it waits for: %q", got)
	}
	ship := o.PackPicked("SO-6002", "HL")
	if got := find("dispatch", ship); got.Units != 15 || got.ValueMinor != 3000 {
		t.Errorf("%+v", got)
	}
	o.At = o.At.AddDate(0, 0, 2) // the day after that on which it should leave
	if got := find("dispatch", ship); got.Missed != 1 {
		t.Errorf("a day late %+v", got)
	}
}

// Nobody is shown what they may not do, and what waits for a manager waits for a manager.
func TestWhatWaitsIsWhatOnesRoleMayDo(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	number := o.Quoted(o.Tom)
	desktest.Done(t)(o.Admin.SetQuoteLimit(context.Background(), o.By(o.Max), admin.LimitAsk{Minor: 1}))
	o.At = o.At.AddDate(0, 0, 14) // so that the quote runs out
	for _, x := range []struct {
		who  command.Actor
		want string
	}{{o.Max, "quote 42"}, {o.Ana, ""}, {o.Flo, ""}} {
		p := todos(t, o, x.who)
		if got := said(p, number); got != x.want {
			t.Errorf("%s is shown %q of the quote, want %q", x.who.Name, got, x.want)
		}
		for _, m := range p.Todos {
			if !x.who.Role.May(command.Verb(m.Verb)) {
				t.Errorf("%s is shown what they may not do: %s %s", x.who.Name, m.Verb, m.Number)
			}
		}
	}
}

// A promise that rests on nothing, and what waits for an overdue receipt.
func TestWhatCannotBeKeptWaits(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Parts("SO-6002", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-10", Qty: 15})))
	ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Parts("SO-6001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-10", Qty: 12})))
	ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Parts("SO-6003", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-10", Qty: 8})))
	o.At = o.At.AddDate(0, 0, 10) // the day after the receipt was due, and has not come
	p := todos(t, o, o.Ana)
	if got := said(p, "PB-1"); got != "arrival 30" {
		t.Errorf("the receipt waits as %q", got)
	}
	// 20 are free for 35 that are promised: whoever took some would break the promise of another.
	if got := said(p, "SO-6002"); got != "keep 15" {
		t.Errorf("SO-6002 waits as %q", got)
	}
	i := slices.IndexFunc(p.Todos, func(x query.Todo) bool { return x.Kind == "keep" && x.Number == "SO-6003" })
	if i < 0 || p.Todos[i].Note.String() != "rests on PB-1, overdue" || p.Todos[i].Promise.Line != o.Line("SO-6003", 1).ID {
		t.Errorf("SO-6003 waits as %q", said(p, "SO-6003"))
	}
}

// The day is done when nothing is left that is due.
func TestNothingLeftIsADayDone(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	o.At = o.At.AddDate(-1, 0, 0) // long before anything is due
	p := todos(t, o, o.Ana)
	if len(p.Todos) != 0 || len(p.More) != 0 || !p.Begun.Orders || p.Begun.Left {
		t.Errorf("%+v", p)
	}
}

// An item is shown first where something is wrong with it, though another warehouse has more of it.
func TestAnItemOpensWhereSomethingIsWrong(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx, ok := context.Background(), desktest.Done(t)
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nDQ,ZB-1,B-1-1,400\n")
	read := func() string {
		t.Helper()
		it, err := o.Query.Item(ctx, "ZB-1")
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, c := range it.Cells {
			out = append(out, fmt.Sprintf("%s %d short %d overdue %s", c.Warehouse, c.Short, c.Overdue, c.Over))
		}
		return strings.Join(out, ", ")
	}
	if got := read(); got != "HL 17 short 0 overdue , DQ 0 short 0 overdue " {
		t.Error(got)
	}
	ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Parts("SO-6002", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-10", Qty: 15})))
	ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Parts("SO-6001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-10", Qty: 12})))
	o.At = o.At.AddDate(0, 0, 10) // the receipt has not come
	if got := read(); got != "HL 17 short 30 overdue 2027-03-11, DQ 0 short 0 overdue " {
		t.Error(got)
	}
	// A warehouse that never had any is shown if it expects some.
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPB-2,KL-070,HL,2027-03-20,5\n")
	it, err := o.Query.Item(ctx, "KL-070")
	if err != nil || !slices.ContainsFunc(it.Cells, func(c query.CellView) bool { return c.Warehouse == "HL" }) {
		t.Errorf("%+v, %v", it.Cells, err)
	}
}
