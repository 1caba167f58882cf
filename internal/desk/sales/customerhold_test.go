package sales_test

import (
	"context"
	"slices"
	"strings"
	"sync"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/sales"
	"journeyman/internal/query"
)

func TestAHoldOnACustomerHoldsEachOfItsOrders(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	number, line := "SO-1002", 1
	code := o.Order(number).CustomerCode
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty(number, line, 24)))
	shipment := o.Pack(number, "HL")
	hold := sales.CustomerHoldAsk{Customer: code, Kind: "credit", Note: "Owes for March"}
	_, err := o.Sales.HoldCustomer(ctx, o.By(o.Tom), sales.CustomerHoldAsk{Customer: code, Kind: "credit", Note: "  "})
	desktest.Refused(t, err, command.KindInvalid, "Say why")
	_, err = o.Sales.HoldCustomer(ctx, o.By(o.Tom), sales.CustomerHoldAsk{Customer: "NOBODY", Kind: "credit", Note: "x"})
	desktest.Refused(t, err, command.KindNotFound, "NOBODY")
	out := ok(o.Sales.HoldCustomer(ctx, o.By(o.Tom), hold))
	if !strings.Contains(out.Sentence, "on credit hold") {
		t.Errorf("said: %s", out.Sentence)
	}
	_, err = o.Sales.HoldCustomer(ctx, o.By(o.Tom), hold)
	desktest.Refused(t, err, command.KindConflict, "already")
	list, err := o.Query.Orders(ctx, query.Ask{Only: []string{"customer=" + code}, Scope: map[string]string{"state": "open"}})
	if err != nil || len(list.Orders) == 0 {
		t.Fatalf("%d orders, %v", len(list.Orders), err)
	}
	for _, x := range list.Orders {
		if !slices.Contains(x.Holds, "customer") {
			t.Errorf("%s is on hold for %v", x.Number, x.Holds)
		}
	}
	_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: shipment}})
	desktest.Refused(t, err, command.KindConflict, "customer hold", "Owes for March")

	// What comes in meanwhile is on hold, too, and whoever enters it is told.
	draft := sales.Draft{Customer: code, Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 10}}}
	if v := o.Draft(draft); v.Customer == nil || !strings.Contains(v.Customer.Hold.String(), "Owes for March") {
		t.Errorf("beside the draft: %+v", v.Customer)
	}
	out = ok(o.Sales.Enter(ctx, o.By(o.Tom), draft))
	later := out.Documents[0].Number
	if h := o.Order(later).HoldNotes; len(h) != 1 || h[0].Kind != "customer" || !h[0].Manager || !strings.Contains(out.Sentence, "on hold") {
		t.Errorf("entered later: %+v, said: %s", h, out.Sentence)
	}
	// One order is let through by a manager; the others stay.
	lift := sales.LiftAsk{Order: number, Kind: "customer"}
	_, err = o.Sales.Lift(ctx, o.By(o.Ana), lift)
	desktest.Refused(t, err, command.KindForbidden, "manager")
	ok(o.Sales.Lift(ctx, o.By(o.Max), lift))
	ok(o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: shipment}}))
	if h := o.Order(later).Holds; len(h) != 1 {
		t.Errorf("%s is on hold for %v", later, h)
	}
	// A hold of the order's own stays when that on the customer is lifted.
	ok(o.Sales.Hold(ctx, o.By(o.Ana), sales.HoldAsk{Order: later, Kind: "coordinator", Note: "colour to be confirmed"}))
	_, err = o.Sales.LiftCustomer(ctx, o.By(o.Ana), sales.CustomerAsk{Customer: code})
	desktest.Refused(t, err, command.KindForbidden, "manager")
	ok(o.Sales.LiftCustomer(ctx, o.By(o.Max), sales.CustomerAsk{Customer: code}))
	_, err = o.Sales.LiftCustomer(ctx, o.By(o.Max), sales.CustomerAsk{Customer: code})
	desktest.Refused(t, err, command.KindConflict, "not on hold")
	if h := o.Order(later).Holds; strings.Join(h, " ") != "coordinator" {
		t.Errorf("%s is on hold for %v", later, h)
	}
	page, err := o.Query.Customer(ctx, code)
	if err != nil || page.Held != nil || page.Hold != "" {
		t.Errorf("the customer: %+v %v", page.Held, err)
	}
	o.Sound()
}

func TestWhatIsReopenedOrImportedBesideAHoldIsOnHold(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	number := "SO-1001"
	code := o.Order(number).CustomerCode
	because := o.By(o.Ana)
	because.Reason = "not wanted any more"
	ok(o.Sales.Drop(ctx, because, desktest.Whole(number).Selection))
	ok(o.Sales.HoldCustomer(ctx, o.By(o.Ana), sales.CustomerHoldAsk{Customer: code, Kind: "coordinator", Note: "moves house"}))
	if h := o.Order(number).Holds; len(h) != 0 {
		t.Errorf("nothing of it can be sent, and it is on hold for %v", h)
	}
	ok(o.Sales.Reopen(ctx, o.By(o.Ana), desktest.Whole(number).Selection))
	report := o.Load("orders.csv", "order,customer,wanted,line,sku,qty,warehouse\nSO-2001,"+code+",2027-03-09,1,GL-2040-1,5,HL\n")
	if len(report.Faults) > 0 {
		t.Fatal(report.Faults)
	}
	for _, n := range []string{number, "SO-2001"} {
		if h := o.Order(n).Holds; strings.Join(h, " ") != "customer" {
			t.Errorf("%s is on hold for %v", n, h)
		}
	}
	ok(o.Sales.LiftCustomer(ctx, o.By(o.Ana), sales.CustomerAsk{Customer: code}))
	for _, n := range []string{number, "SO-2001"} {
		if h := o.Order(n).Holds; len(h) != 0 {
			t.Errorf("%s is on hold for %v", n, h)
		}
	}
	o.Sound()
}

// While orders come in from several people, one places a hold on their customer and lifts it again: no order slips past it.
func TestNoOrderSlipsPastAHoldOnItsCustomer(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	const code = "ALD"
	var entering sync.WaitGroup
	for range 3 {
		entering.Add(1)
		go func() {
			defer entering.Done()
			for range 12 {
				_, err := o.Sales.Enter(ctx, o.By(o.Tom), sales.Draft{Customer: code, Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 1}}})
				if err != nil {
					t.Error(err)
				}
			}
		}()
	}
	ended := make(chan struct{})
	go func() { entering.Wait(); close(ended) }()
	check := func(want string) {
		list, err := o.Query.Orders(ctx, query.Ask{Only: []string{"customer=" + code}, Scope: map[string]string{"state": "open"}})
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range list.Orders {
			if got := strings.Join(x.Holds, " "); got != want {
				t.Errorf("%s is on hold for %q, want %q", x.Number, got, want)
			}
		}
	}
	for busy := true; busy; {
		select {
		case <-ended:
			busy = false
		default:
		}
		_, err := o.Sales.HoldCustomer(ctx, o.By(o.Ana), sales.CustomerHoldAsk{Customer: code, Kind: "coordinator", Note: "wait"})
		if err != nil {
			desktest.Refused(t, err, command.KindConflict, "come in just now")
			continue
		}
		check("customer")
		for {
			if _, err = o.Sales.LiftCustomer(ctx, o.By(o.Ana), sales.CustomerAsk{Customer: code}); err == nil {
				break
			}
			desktest.Refused(t, err, command.KindConflict, "come in just now")
		}
	}
	check("")
	o.Sound()
}
