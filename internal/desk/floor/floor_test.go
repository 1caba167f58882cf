package floor_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/supply"
	"journeyman/internal/desk/undo"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
)

// released puts 40 bottles and 10 tools of SO-1001 on a pick list.
func released(t *testing.T, o *desktest.Office) query.PickListView {
	t.Helper()
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, 40)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 2, 10)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}))
	list, err := o.Query.PickList(ctx, out.Documents[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

func TestWhatNobodyHasPickedIsRecalled(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	list := released(t, o)
	var glaze, tool query.TaskView
	for _, x := range list.Tasks {
		if x.SKU == "GL-2040-1" {
			glaze = x
		} else {
			tool = x
		}
	}
	out := ok(o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: glaze.ID, Seen: glaze.Due}}))
	if out.Units != glaze.Due || len(out.Documents) != 1 || out.Documents[0].Number != list.Number {
		t.Errorf("recalled: %+v", out)
	}
	if l := o.Line("SO-1001", 1); l.At.Allocated != 40 || l.At.Released != 0 {
		t.Errorf("after the recall: %+v", l.At)
	}
	// Recalled twice, picked meanwhile, unknown, none: each is refused with a sentence.
	_, err := o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: glaze.ID, Seen: glaze.Due}})
	desktest.Refused(t, err, command.KindConflict, "has changed since you saw it", "were recalled")
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: tool.ID, Qty: 10}}))
	_, err = o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: tool.ID, Seen: tool.Due}})
	desktest.Refused(t, err, command.KindConflict, "10 are picked")
	_, err = o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: 999_999}})
	desktest.Refused(t, err, command.KindNotFound, "no such task")
	_, err = o.Floor.Recall(ctx, o.By(o.Ana), nil)
	desktest.Refused(t, err, command.KindInvalid, "Choose what")
	_, err = o.Floor.Recall(ctx, o.By(o.Flo), []floor.RecallTask{{Task: tool.ID}})
	desktest.Refused(t, err, command.KindForbidden, "coordinator or manager")
	// A recall is not taken back: the paper is on the floor.
	_, err = o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command})
	desktest.Refused(t, err, command.KindInvalid, "cannot be undone")
	o.Sound()
}

func TestOpenLinesThatCanBeHelpedComeFirst(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	page, err := o.Query.Open(ctx, "", 1)
	if err != nil {
		t.Fatal(err)
	}
	if page.Total != 8 || len(page.Lines) != 8 {
		t.Fatalf("%d lines are open", page.Total)
	}
	helped := slices.IndexFunc(page.Lines, func(l supply.LineView) bool { return l.Free == 0 })
	for i, l := range page.Lines {
		if helped >= 0 && i > helped && l.Free > 0 {
			t.Errorf("%s line %d could be helped and comes after one that cannot", l.Order, l.Line)
		}
	}
	found, err := o.Query.Open(ctx, "kiln 1005", 1)
	if err != nil || found.Total != 1 || found.Lines[0].Order != "SO-1005" {
		t.Errorf("two words: %d found, %v", found.Total, err)
	}
	if none, err := o.Query.Open(ctx, "50%", 1); err != nil || none.Total != 0 {
		t.Errorf("a per cent sign is a letter like others: %d found, %v", none.Total, err)
	}
}

func TestOrdersAreFilteredSortedAndPaged(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	text := "order,customer,channel,wanted,line,sku,warehouse,qty,price\n"
	for i := range 60 {
		text += "SO-6" + string(rune('0'+i/10)) + string(rune('0'+i%10)) + ",SPC,fair,2027-04-" +
			string(rune('0'+1+i/30)) + string(rune('0'+i%10)) + ",1,TL-014,HL,1," + string(rune('1'+i%9)) + ".00\n"
	}
	if _, rep, err := o.Importing.Import(
		ctx, o.By(o.Ana), []exchange.File{{Name: "orders.csv", Data: []byte(desktest.Leaving(text))}},
	); err != nil {
		t.Fatal(err, rep.Faults)
	}
	list := func(ask query.OrdersAsk) query.OrdersPage {
		t.Helper()
		p, err := o.Query.Orders(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	first, second := list(query.OrdersAsk{Sort: "number"}), list(query.OrdersAsk{Sort: "number", Page: 2})
	if first.Total != 65 || first.Pages != 2 || len(first.Orders) != 50 || len(second.Orders) != 15 {
		t.Errorf("%d orders on %d pages of %d and %d", first.Total, first.Pages, len(first.Orders), len(second.Orders))
	}
	if first.Orders[49].Number >= second.Orders[0].Number {
		t.Error("the second page does not follow the first")
	}
	down := list(query.OrdersAsk{Sort: "value", Down: true, Channel: "fair"})
	for i := 1; i < len(down.Orders); i++ {
		if down.Orders[i-1].ValueMinor < down.Orders[i].ValueMinor {
			t.Fatal("the values do not fall")
		}
	}
	if !slices.Contains(down.Channels, "fair") || down.Total != 61 {
		t.Errorf("channels %v, %d of the fair", down.Channels, down.Total)
	}
	sum := int64(0)
	for _, x := range append(list(query.OrdersAsk{Customer: "SPC"}).Orders, list(query.OrdersAsk{Customer: "SPC", Page: 2}).Orders...) {
		sum += x.ValueMinor
	}
	if got := list(query.OrdersAsk{Customer: "SPC"}).ValueMinor; got != sum {
		t.Errorf("the sub-total is %d, the orders add up to %d", got, sum)
	}
	if held := list(query.OrdersAsk{State: "held"}); held.Total != 1 || held.Orders[0].Number != "SO-1004" {
		t.Errorf("%d are on hold", held.Total)
	}
	o.At = time.Date(2027, 3, 4, 9, 0, 0, 0, time.UTC)
	if late := list(query.OrdersAsk{State: "late"}); late.Total != 1 || late.Orders[0].Number != "SO-1001" || !late.Orders[0].Late {
		t.Errorf("%d are late on the 4th", late.Total)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1003", 1, 2)))
	if at := list(query.OrdersAsk{Station: "allocated"}); at.Total != 1 || at.Orders[0].Number != "SO-1003" {
		t.Errorf("%d have something allocated", at.Total)
	}
}

func TestCustomersAreFoundByPartOfTheirName(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	all, err := o.Query.Customers(ctx, "", 1)
	if err != nil || all.Total != 3 || all.Customers[0].Tier > all.Customers[2].Tier {
		t.Fatalf("%d customers, %v", all.Total, err)
	}
	found, err := o.Query.Customers(ctx, "ald", 1)
	if err != nil || found.Total != 1 || found.Customers[0].Code != "ALD" || found.Customers[0].OpenOrders != 2 {
		t.Errorf("by part of a name: %+v %v", found.Customers, err)
	}
	if _, err := o.Query.Customer(ctx, "NONE"); err == nil {
		t.Error("a customer who is not there was shown")
	}
}

func TestAPromiseThatOthersHaveTakenIsNotTakenBack(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	part := func(day string, qty int64) supply.PromisePart {
		return supply.PromisePart{Warehouse: "HL", Day: day, Qty: qty}
	}
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, part("2027-03-03", 60))))
	given := ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1001", 1, part("2027-03-10", 60)))) // a week later will do
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1002", 1, part("2027-03-03", 24))))          // so these go to the shop
	_, err := o.Undo.TakeBack(ctx, o.By(o.Tom), undo.UndoAsk{Command: given.Command})
	desktest.Refused(t, err, command.KindConflict, "has been promised to others since")
	if l := o.Line("SO-1001", 1); desktest.Promises(l) != "03-10 HL 60" {
		t.Errorf("refused, and the promise is %q", desktest.Promises(l))
	}
	// What nobody took comes back.
	ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Parts("SO-1002", 1)))
	ok(o.Undo.TakeBack(ctx, o.By(o.Tom), undo.UndoAsk{Command: given.Command}))
	if l := o.Line("SO-1001", 1); desktest.Promises(l) != "03-03 HL 60" {
		t.Errorf("taken back, and the promise is %q", desktest.Promises(l))
	}
	o.Sound()
}
