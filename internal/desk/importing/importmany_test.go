package importing_test

import (
	"context"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
)

// Two servers are asked eight times at once to apply one import: it is applied once.
func TestOneImportIsAppliedOnceHoweverManyAsk(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	other := rooms.Open(o.Store, rooms.Options{WeakHash: true, Now: func() time.Time { return o.At }, Carrier: standin.Carrier{}})
	check := o.By(o.Ana)
	if _, err := o.Importing.CheckImport(ctx, check, []exchange.File{
		{
			Name: "stock.csv",
			Data: []byte("warehouse,sku,bin,on_hand\nHL,TL-014,A-1-1,777\n"),
		},
		{Name: "items.csv", Data: []byte("sku,name,price,cost\nNEW-7,A new thing,2.00,1.00\n")},
	}); err != nil {
		t.Fatal(err)
	}
	before := o.Entries()
	var applied, refused atomic.Int64
	var wg sync.WaitGroup
	for i := range 8 {
		wg.Go(func() {
			d := []*rooms.Rooms{o.Rooms, other}[i%2]
			_, err := d.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, false)
			switch _, no := command.AsRefusal(err); {
			case err == nil:
				applied.Add(1)
			case no:
				refused.Add(1)
			default:
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if applied.Load() != 1 || refused.Load() != 7 {
		t.Errorf("applied %d times, refused %d times", applied.Load(), refused.Load())
	}
	after := o.Entries()
	if _, err := o.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, true); err == nil || o.Entries() != after || after <= before {
		t.Errorf("a ninth time: %v, %d entries before, %d after, %d now", err, before, after, o.Entries())
	}
	o.Sound()
}

// An import that moves an arrival does what moving it by hand does: it is noted, and promises that rest on it are made again.
func TestAnImportThatMovesAnArrivalPromisesAnew(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	o.Load("items.csv", "sku,name,price,cost,buyable,lead_days\nZA-1,A thing to come,2.00,1.00,no,0\n")
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZA-1,A-1-1,0\n")
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPA-1,ZA-1,HL,2027-03-08,50\n")
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty\nSO-8201,SPC,2027-03-10,1,ZA-1,HL,50\n")
	ok(o.Promising.Promise(ctx, o.By(o.Ana), o.Promise("SO-8201")))
	if got := desktest.Parts(promisedOf(o, "SO-8201")); got != "50 HL 03-10" {
		t.Fatalf("promised %s", got)
	}
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPA-1,ZA-1,HL,2027-03-17,50\n")
	if got := desktest.Parts(promisedOf(o, "SO-8201")); got != "50 HL 03-17" {
		t.Errorf("after the arrival slipped it is promised %s", got)
	}
	var was, now string
	if err := o.Store.Pool.QueryRow(ctx, `SELECT was::text, now::text FROM due_change ORDER BY id DESC LIMIT 1`).Scan(&was,
		&now); err != nil || was != "2027-03-08" || now != "2027-03-17" {
		t.Errorf("noted: %s to %s (%v)", was, now, err)
	}
	if trail, err := o.Query.Trail(ctx, "SO-8201", o.Ana); err != nil || !strings.Contains(trail[len(trail)-1].Text.String(), "17") {
		t.Errorf("the trail says %+v (%v)", trail[len(trail)-1], err)
	}
	o.Sound()
}

// An imported order leaves when an entered one does: the days under way before it is wanted.
func TestAnImportedOrderLeavesWhenAnEnteredOneDoes(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	entered := o.Enter(sales.Draft{Customer: "SPC", Wanted: "2027-03-24", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1, How: "none"}}})
	want := o.Order(entered).Lines[0].ShipBy
	if _, _, err := o.Importing.Import(ctx, o.By(o.Ana), []exchange.File{{
		Name: "orders.csv",
		Data: []byte("order,customer,wanted,line,sku,warehouse,qty\nSO-8300,SPC,2027-03-24,1,TL-014,HL,1\n"),
	}}); err != nil {
		t.Fatal(err)
	}
	if got := o.Order("SO-8300").Lines[0].ShipBy; got != want || got == "2027-03-24" {
		t.Errorf("imported it leaves by %s, entered by %s", got, want)
	}
}

// An order has the currency of its items; one with two is refused.
func TestAnImportedOrderHasTheCurrencyOfItsItems(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	o.Load("items.csv", "sku,name,price,cost,currency\nZE-1,A thing in euro,2.00,1.00,EUR\n")
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty\nSO-8400,SPC,2027-03-24,1,ZE-1,HL,1\n")
	page, err := o.Query.Orders(ctx, query.Ask{Query: "SO-8400"})
	if err != nil || len(page.Orders) != 1 || page.Orders[0].Currency != "EUR" {
		t.Errorf("%+v %v", page, err)
	}
	_, report, err := o.Importing.Import(ctx, o.By(o.Ana), []exchange.File{{
		Name: "orders.csv",
		Data: []byte(
			"order,customer,wanted,line,sku,warehouse,qty\nSO-8401,SPC,2027-03-24,1,ZE-1,HL,1\nSO-8401,SPC,2027-03-24,2,TL-014,HL,1\n",
		),
	}})
	if err == nil || len(report.Faults) == 0 || !strings.Contains(report.Faults[0].Error(), "EUR") {
		t.Errorf("an order in two currencies: %v %+v", err, report.Faults)
	}
	// A run adds up what is sold in the firm's currency, and says how many lines are not.
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZE-1,A-1-1,5\n")
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty,price\nSO-8402,SPC,2027-03-24,1,TL-014,HL,1,3.50\n")
	v := o.Rehearse(allocation.RunAsk{Scope: allocation.RunScope{Orders: []string{"SO-8400", "SO-8402"}}})
	if all := v.Plans[0].All; v.Currency != "GBP" || v.Others != 1 || all.Units != 2 || all.ValueMinor != 350 {
		t.Errorf("a run over two currencies: %+v, %d others, in %s", all, v.Others, v.Currency)
	}
}

func promisedOf(o *desktest.Office, number string) []supply.PromisePart {
	o.T.Helper()
	var out []supply.PromisePart
	for _, p := range o.Order(number).Lines[0].Promises {
		out = append(out, supply.PromisePart{Warehouse: p.Warehouse, Day: p.Day, Qty: p.Qty})
	}
	return out
}
