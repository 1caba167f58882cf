package promising_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"journeyman/core/days"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/supply"
	"journeyman/internal/desk/undo"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
)

// tell writes the promises of a line as words.
func TestAPromiseLivesWithItsLine(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)

	// 100 are asked for: 68 are free, 100 more are due on 10 March.
	out := ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise("SO-1001")))
	if l := o.Line("SO-1001", 1); desktest.Promises(l) != "03-02 HL 68, 03-10 HL 32" || l.At.Promised != 100 || l.At.Open != 100 ||
		!l.Promises[1].Late {
		t.Fatalf("promised %q, counts %+v", desktest.Promises(l), l.At)
	}
	if v := o.Order("SO-1001"); v.At.Promised != v.At.Open {
		t.Errorf("of %d open units of the order %d are promised", v.At.Open, v.At.Promised)
	}
	// Every bar says the same: the item's, the customer's, the list's.
	if it, err := o.Query.Item(ctx, "GL-2040-1"); err != nil || it.At.Promised != 100 {
		t.Errorf("the item's bar has %d promised: %v", it.At.Promised, err)
	}
	if c, err := o.Query.Customer(ctx, "ALD"); err != nil || c.At.Promised != 110 {
		t.Errorf("the customer's bar has %d promised: %v", c.At.Promised, err)
	}
	if list, err := o.Query.Orders(ctx, query.Ask{Query: "SO-1001"}); err != nil || list.Orders[0].At.Promised != 110 {
		t.Errorf("the list's bar has %+v: %v", list.Orders, err)
	}
	o.Sound()
	if _, err := o.Promising.Promise(ctx, o.By(o.Tom), o.Promise("SO-1001")); err == nil {
		t.Error("what is promised for the earliest day was promised again")
	} else {
		desktest.Refused(t, err, command.KindConflict, "every open unit has the earliest day")
	}

	// Allocating keeps the earliest promise first; taking it back restores it.
	alloc := ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, 40)))
	if l := o.Line("SO-1001", 1); desktest.Promises(l) != "03-02 HL 28, 03-10 HL 32" || l.At.Promised != 60 {
		t.Errorf("after allocating 40: %q", desktest.Promises(l))
	}
	o.Sound()
	back := ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: alloc.Command}))
	if l := o.Line("SO-1001", 1); desktest.Promises(l) != "03-02 HL 68, 03-10 HL 32" || l.At.Promised != 100 ||
		back.Sentence != "Undone: 40 of GL-2040-1 for SO-1001." {
		t.Errorf("taken back: %q, %s", desktest.Promises(l), back.Sentence)
	}
	o.Sound()

	// What is dropped is cut from the end.
	drop := o.By(o.Ana)
	drop.Reason = "they need fewer"
	ok(o.Sales.Drop(ctx, drop, o.Qty("SO-1001", 1, 40)))
	if l := o.Line("SO-1001", 1); desktest.Promises(l) != "03-02 HL 60" || l.At.Promised != 60 || l.At.Open != 60 {
		t.Errorf("after dropping 40: %q of %d open", desktest.Promises(l), l.At.Open)
	}
	o.Sound()
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1)))
	if l := o.Line("SO-1001", 1); len(l.Promises) != 0 || l.At.Promised != 0 {
		t.Errorf("taken back, and still promised: %q", desktest.Promises(l))
	}
	o.Sound()

	trail, err := o.Query.Trail(ctx, "SO-1001", o.Ana)
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, e := range trail {
		if e.Kind == "promise" {
			said = append(said, e.Who+" "+e.Text.String())
		}
	}
	want := []string{
		"Tom Sale promised 68 for Tue 2 Mar, 32 for Wed 10 Mar of GL-2040-1, line 1",
		"Tom Sale promised 10 for Tue 2 Mar of TL-014, line 2",
		"Ana Ruiz kept 40 promised units of GL-2040-1, line 1 by allocating",
		"Ana Ruiz promised 68 for Tue 2 Mar, 32 for Wed 10 Mar of GL-2040-1, line 1; it was 28 for Tue 2 Mar, 32 for Wed 10 Mar",
		"Ana Ruiz cut the promise of GL-2040-1, line 1 to 60 for Tue 2 Mar: no more is open: they need fewer",
		"Tom Sale took back the promise of 60 for Tue 2 Mar of GL-2040-1, line 1",
	}
	if strings.Join(said, "\n") != strings.Join(want, "\n") {
		t.Errorf("the trail says\n%s\nwant\n%s", strings.Join(said, "\n"), strings.Join(want, "\n"))
	}
	desktest.Refused(
		t, desktest.Second(o.Undo.TakeBack(ctx, o.By(o.Tom), undo.UndoAsk{Command: out.Command})), command.KindConflict, "changed since",
	)
}

func TestNobodyIsPromisedWhatAnotherHas(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	orders := "order,customer,wanted,line,sku,warehouse,qty,ship_rule\nSO-3001,SPC,2027-03-12,1,GL-2040-1,HL,60,any\nSO-3002,SPC,2027-03-12,1,GL-2040-1,HL,30,lines\n"
	if _, rep, err := o.Importing.Import(
		ctx, o.By(o.Ana), []exchange.File{{Name: "orders.csv", Data: []byte(desktest.Leaving(orders))}},
	); err != nil {
		t.Fatal(err, rep.Faults)
	}
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-3001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-05", Qty: 60})))
	// 68 are free: 8 are left before the 10th.
	desktest.Refused(t, desktest.Second(
		o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-01", Qty: 9})),
	),
		command.KindConflict, "Only 8 of GL-2040-1 can be promised from HL for Mon 1 Mar")
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-01", Qty: 8})))
	// A line that goes only whole is promised in one piece, on the first day for all of it from its ship-by day on.
	desktest.Refused(
		t,
		desktest.Second(
			o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-3002", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-10", Qty: 20})),
		),
		command.KindConflict, "only in one piece",
	)
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise("SO-3002")))
	if got := desktest.Promises(o.Line("SO-3002", 1)); got != "03-12 HL 30" {
		t.Errorf("the whole line is promised %q", got)
	}
	for _, c := range []struct {
		part supply.PromisePart
		kind command.Kind
		says string
	}{
		{supply.PromisePart{Warehouse: "HL", Day: "2027-02-26", Qty: 1}, command.KindInvalid, "has passed"},
		{
			supply.PromisePart{Warehouse: "HL", Day: "2027-03-06", Qty: 1},
			command.KindInvalid,
			"nothing leaves HL on that day. The next one is Mon 8 Mar",
		},
		{supply.PromisePart{Warehouse: "XX", Day: "2027-03-08", Qty: 1}, command.KindNotFound, "no warehouse XX"},
		{supply.PromisePart{Warehouse: "HL", Day: "soon", Qty: 1}, command.KindInvalid, "not a day"},
		{supply.PromisePart{Warehouse: "HL", Day: "2027-03-08", Qty: 101}, command.KindConflict, "has 100 open; 101 cannot be promised"},
		{supply.PromisePart{Warehouse: "HL", Day: "2027-03-08", Qty: 0}, command.KindInvalid, "at least 1"},
	} {
		desktest.Refused(t, desktest.Second(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, c.part))), c.kind, c.says)
	}
	desktest.Refused(
		t, desktest.Second(o.Promising.Promise(ctx, o.By(o.Flo), o.Promise("SO-1001"))), command.KindForbidden,
		"coordinator or sales or manager",
	)
	desktest.Refused(
		t, desktest.Second(o.Promising.Promise(ctx, o.By(o.Tom), promising.PromiseAsk{})), command.KindInvalid, "Choose lines or orders",
	)
	// A screen that has not seen the promise is told of it.
	l := o.Line("SO-1001", 1)
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-02", Qty: 5})))
	old := command.Selection{Lines: []command.LineQty{{Line: l.ID, Qty: 1, Seen: l.Version}}}
	desktest.Refused(t, desktest.Second(o.Allocation.Allocate(ctx, o.By(o.Ana), old)), command.KindConflict, "Tom Sale promised 5")
	o.Sound()
}

func TestTheTelephoneQuestion(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-09", Qty: 20})))
	ask := func(q promising.PromiseQuestion) promising.PromiseAnswer {
		t.Helper()
		a, err := o.Promising.CanPromise(ctx, q)
		if err != nil {
			t.Fatal(err)
		}
		return a
	}
	// 80 bottles by Friday: two days by parcel, so they leave on Wednesday. 68 − 20 = 48 can, the rest on the 10th.
	a := ask(promising.PromiseQuestion{SKU: "GL-2040-1", Qty: 80, Wished: "2027-03-05", Service: "parcel"})
	if a.ShipBy != "2027-03-03" || a.TooSoon || a.Warehouse != "HL" || a.Houses[0].By.Units != 48 {
		t.Fatalf("leaves %s from %s, %d by then", a.ShipBy, a.Warehouse, a.Houses[0].By.Units)
	}
	by := a.Ways[0]
	if by.Kind != "by" || len(by.Parts) != 2 || by.Parts[0].Qty != 48 || by.Parts[1].Day != "2027-03-10" ||
		by.Arrives[1] != "2027-03-12" || by.ByWish != 48 || by.Late != 5 {
		t.Errorf("by the wished day: %+v", by)
	}
	if whole := a.Ways[1]; whole.Kind != "whole" || whole.Parts[0].Day != "2027-03-10" || whole.Parts[0].Qty != 80 {
		t.Errorf("all together: %+v", whole)
	}
	seen := 0
	for _, d := range a.Houses[0].Days {
		switch d.Day {
		case "2027-03-01":
			seen++
			if d.Left != 68 || d.ATP.Units != 48 {
				t.Errorf("today %+v", d)
			}
		case "2027-03-09":
			seen++
			if d.Left != 48 || len(d.Commitments) != 1 || d.Commitments[0].Order != "SO-1001" {
				t.Errorf("on the 9th %+v", d)
			}
		case "2027-03-10":
			seen++
			if d.Left != 148 || d.ATP.Units != 148 || d.Receipts[0].Ref != "PO-733" {
				t.Errorf("on the 10th %+v", d)
			}
		case "2027-03-06":
			t.Error("a Saturday is drawn on which nothing happens")
		}
	}
	if seen != 3 {
		t.Errorf("%d of three days are drawn", seen)
	}
	if len(a.Lines) == 0 || a.Lines[0].SKU != "GL-2040-1" {
		t.Errorf("no line of the item is offered to promise on: %d", len(a.Lines))
	}
	// Enough for the wish: one way, and nothing to choose.
	if a := ask(promising.PromiseQuestion{SKU: "GL-2040-1", Qty: 48, Wished: "2027-03-05"}); len(a.Ways) != 1 || a.Ways[0].ByWish != 48 ||
		a.Ways[0].Late != 0 {
		t.Errorf("what is there by then: %+v", a.Ways)
	}
	// Today's parcel is there in two days, not tomorrow.
	if a := ask(promising.PromiseQuestion{SKU: "GL-2040-1", Qty: 10, Wished: "2027-03-02"}); !a.TooSoon || a.ShipBy != "2027-03-01" ||
		a.Ways[0].ByWish != 0 || a.Ways[0].Late != 1 {
		t.Errorf("wished for tomorrow: %+v", a)
	}
	for _, q := range []promising.PromiseQuestion{
		{SKU: "NONE"}, {SKU: "GL-2040-1", Customer: "NONE"}, {SKU: "GL-2040-1", Service: "balloon"}, {SKU: "GL-2040-1", Warehouse: "XX"},
	} {
		desktest.Refused(t, desktest.Second(o.Promising.CanPromise(ctx, q)), command.KindNotFound, "There is no")
	}
	page, err := o.Query.Promised(ctx, query.Ask{Who: o.Ana})
	if err != nil || len(page.Promises) != 1 || page.Promises[0].Rests.String() != "free stock" {
		t.Errorf("what stands: %+v %v", page, err)
	}
}

// Sixteen salespeople promise the same 68 at once, of what is on the shelf and of what was
// never in the house and has no stock row to hold.
func TestManyPromisingAtOnceNeverPromiseTooMuch(t *testing.T) {
	t.Parallel()
	for _, sku := range []string{"GL-2040-1", "ZQ-2"} {
		t.Run(sku, func(t *testing.T) { t.Parallel(); manyPromising(t, sku) })
	}
}

func manyPromising(t *testing.T, sku string) {
	o, ctx := desktest.New(t), context.Background()
	awaited := []exchange.File{
		{Name: "items.csv", Data: []byte("sku,name,price,cost,buyable,lead_days\nZQ-2,An awaited thing,2.00,1.00,no,0\n")},
		{Name: "inbound.csv", Data: []byte("ref,sku,warehouse,due,qty\nPZ-911,ZQ-2,HL,2027-03-02,68\n")},
	}
	if _, rep, err := o.Importing.Import(ctx, o.By(o.Ana), awaited); err != nil {
		t.Fatal(err, rep.Faults)
	}
	orders := "order,customer,wanted,line,sku,warehouse,qty\n"
	for i := range 16 {
		orders += fmt.Sprintf("SO-4%d,SPC,2027-03-05,1,%s,HL,10\n", 100+i, sku)
	}
	if _, rep, err := o.Importing.Import(
		ctx, o.By(o.Ana), []exchange.File{{Name: "orders.csv", Data: []byte(desktest.Leaving(orders))}},
	); err != nil {
		t.Fatal(err, rep.Faults)
	}
	var did, no atomic.Int64
	var wg sync.WaitGroup
	for i := range 16 {
		ask := o.Parts(fmt.Sprintf("SO-4%d", 100+i), 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-03", Qty: 10})
		wg.Go(func() {
			_, err := o.Promising.Promise(ctx, o.By(o.Tom), ask)
			if _, is := command.AsRefusal(err); is {
				no.Add(1)
			} else if err != nil {
				t.Error(err)
			} else {
				did.Add(1)
			}
		})
	}
	wg.Wait()
	if did.Load() != 6 || no.Load() != 10 {
		t.Errorf("%d were promised and %d refused; 68 bear six promises of ten", did.Load(), no.Load())
	}
	o.Sound()
}

// An item that was never in the house has no stock row; what comes can be promised all the same.
func TestWhatWasNeverInTheHouseIsPromisedFromWhatComes(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	files := []exchange.File{
		{Name: "items.csv", Data: []byte("sku,name,price,cost,buyable,lead_days\nZQ-1,An awaited thing,2.00,1.00,no,0\n")},
		{Name: "inbound.csv", Data: []byte("ref,sku,warehouse,due,qty\nPZ-910,ZQ-1,HL,2027-03-08,30\n")},
		{
			Name: "orders.csv",
			Data: []byte("order,customer,wanted,line,sku,warehouse,qty,ship_by\nSO-9200,SPC,2027-03-11,1,ZQ-1,HL,25,2027-03-03\n"),
		},
	}
	if _, rep, err := o.Importing.Import(ctx, o.By(o.Ana), files); err != nil {
		t.Fatal(err, rep.Faults)
	}
	a, err := o.Promising.CanPromise(ctx, promising.PromiseQuestion{SKU: "ZQ-1", Qty: 25})
	if err != nil || a.Warehouse != "HL" || a.Ways[0].Parts[0].Day != "2027-03-08" {
		t.Errorf("%+v %v", a.Ways, err)
	}
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise("SO-9200")))
	if l := o.Line("SO-9200", 1); desktest.Promises(l) != "03-08 HL 25" {
		t.Errorf("promised %q", desktest.Promises(l))
	}
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-9200", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-09", Qty: 25})))
	desktest.Refused(
		t,
		desktest.Second(
			o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-9200", 1, supply.PromisePart{Warehouse: "HL", Day: "2027-03-05", Qty: 1})),
		),
		command.KindConflict, "Only 0 of ZQ-1",
	)
	o.Sound()
}

func TestAPromiseThatIsTakenBackSaysHowMuch(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	out := ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise("SO-1001")))
	back := ok(o.Undo.TakeBack(ctx, o.By(o.Tom), undo.UndoAsk{Command: out.Command}))
	if out.Units != 110 || back.Units != 110 || back.Sentence != "Undone: 110 units of 2 items for SO-1001." {
		t.Errorf("%d were promised; %+v", out.Units, back)
	}
	o.Sound()
}

// Four parts of 2^62 units and one more add up to 1 where a sum wraps.
func TestPromisesThatWrapAreNotTaken(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	l := o.Order("SO-1001").Lines[0]
	parts := []supply.PromisePart{}
	for i := range 4 {
		parts = append(parts, supply.PromisePart{Warehouse: l.Warehouse, Day: (o.Today() + days.Day(7*i)).String(), Qty: 1 << 62})
	}
	parts = append(parts, supply.PromisePart{Warehouse: l.Warehouse, Day: (o.Today() + 28).String(), Qty: 1})
	_, err := o.Promising.Promise(
		ctx, o.By(o.Ana), promising.PromiseAsk{Lines: []promising.LinePromise{{Line: l.ID, Seen: l.Version, Parts: parts}}},
	)
	desktest.Refused(t, err, command.KindConflict, "has 100 open")
	o.Sound()
}
