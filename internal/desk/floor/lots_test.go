package floor_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
)

// byLots keeps the celadon glaze by lots, and takes in 60 of lot A7 and 40 of lot B1 of it: C-14-2 holds 60 more of which no lot is noted.
func byLots(t *testing.T) *desktest.Office {
	t.Helper()
	o, ctx := desktest.New(t), context.Background()
	o.Load("items.csv", "sku,name,lots\nGL-2040-1,\"Celadon glaze, 1 L\",yes\n")
	po := o.Inbound("PO-733")
	_, err := o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: po.ID, Qty: 60, Bin: "C-14-2"})
	desktest.Refused(t, err, command.KindInvalid, "GL-2040-1 is kept by lots")
	desktest.Done(t)(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: po.ID, Qty: 60, Bin: "C-14-2", Lots: of("a7", 60)}))
	desktest.Done(t)(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: po.ID, Qty: 40, Bin: "D-01-1", Lots: of("B1", 40)}))
	return o
}

func of(lot string, qty int64) []command.LotQty { return []command.LotQty{{Lot: lot, Qty: qty}} }

// lotsAt are where units of the lots of an item are, as "A7 bin C-14-2 60", in that order.
func lotsAt(t *testing.T, o *desktest.Office, only ...string) string {
	t.Helper()
	page, err := o.Query.Lots(context.Background(), query.Ask{Only: only, Scope: map[string]string{}})
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, l := range page.Lots {
		s := fmt.Sprintf("%s %s %s%s %d", l.Lot, l.Where, l.Bin, l.Order, l.Qty)
		if l.Aside > 0 {
			s += fmt.Sprintf(" (%d aside)", l.Aside)
		}
		out = append(out, s)
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

// onList allocates units of SO-1001, line 1, and releases them onto one list.
func onList(t *testing.T, o *desktest.Office, qty int64) query.PickListView {
	t.Helper()
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, qty)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 1, qty)}))
	list, err := o.Query.PickList(ctx, out.Documents[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

func TestALotIsKeptFromTheReceiptToWhoeverGetsIt(t *testing.T) {
	t.Parallel()
	o, ctx, ok := byLots(t), context.Background(), desktest.Done(t)
	list := onList(t, o, 40)
	task := list.Tasks[0]
	if task.Bin != "D-01-1" || task.Lot != "B1" {
		t.Fatalf("the row: %+v", task)
	}
	// The row's bin holds one lot alone: it need not be said. From another bin it has to be.
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 10, Later: true}}))
	_, err := o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 10, Later: true, From: "C-14-2"}})
	desktest.Refused(t, err, command.KindInvalid, "say which was taken out of C-14-2. Noted there: A7 (60); of 60 units no lot is.")
	_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 30, From: "D-01-1", Lots: of("A7", 30)}})
	desktest.Refused(t, err, command.KindConflict, "D-01-1 holds 0 of GL-2040-1 of lot A7, not 30. Noted there: B1 (30).")
	_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 10, Later: true, From: "C-14-2", Lots: of("A7", 9)}})
	desktest.Refused(t, err, command.KindInvalid, "say it of all 10")
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 20, Later: true, From: "C-14-2", Lots: of("a7", 20)}}))
	// Of units whose lot nobody has noted it is noted now.
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 10, From: "C-14-2", Lots: of("Z3", 10)}}))
	if got := lotsAt(t, o); got != "A7 bin C-14-2 40; A7 picked SO-1001 20; B1 bin D-01-1 30; B1 picked SO-1001 10; Z3 picked SO-1001 10" {
		t.Errorf("picked: %s", got)
	}
	line := o.Line("SO-1001", 1).ID
	pack := func(packs ...floor.PackageToBe) (command.Outcome, error) {
		return o.Floor.Pack(ctx, o.By(o.Flo), floor.Packing{Order: "SO-1001", Warehouse: "HL", Packages: packs})
	}
	box := func(qty int64, lots ...command.LotQty) floor.PackageToBe {
		return floor.PackageToBe{Kind: "carton", WeightG: 5000, Contents: []floor.Content{{Line: line, Qty: qty, Lots: lots}}}
	}
	_, err = pack(box(25))
	desktest.Refused(t, err, command.KindInvalid, "say which was taken out of SO-1001. Noted there: A7 (20), B1 (10), Z3 (10).")
	_, err = pack(box(25, command.LotQty{Lot: "A7", Qty: 21}, command.LotQty{Lot: "B1", Qty: 4}))
	desktest.Refused(t, err, command.KindConflict, "SO-1001 holds 20 of GL-2040-1 of lot A7, not 21")
	first := ok(pack(box(25, command.LotQty{Lot: "A7", Qty: 20}, command.LotQty{Lot: "B1", Qty: 5}))).Documents[0].Number
	o.Leave(dock.ShipmentSeen{Number: first})
	ok(pack(box(15))) // all that is left
	if got := lotsAt(t, o, "order=SO-1001"); got != "A7 shipped SO-1001 20; B1 packed SO-1001 5; B1 shipped SO-1001 5; Z3 packed SO-1001 10" {
		t.Errorf("who got which: %s", got)
	}
	head, err := o.Query.Lot(ctx, "GL-2040-1", "b1")
	if err != nil || head.InBins != 30 || head.Packed != 5 || head.Gone != 5 || head.Customers != 1 || len(head.Trail) != 4 {
		t.Errorf("the lot: %+v, %v", head, err)
	}
	if got := strings.Join(trailOf(head), "; "); got != "packed: 5; packed: 5; picked: 10 out of D-01-1; received: 40 into D-01-1" {
		t.Errorf("what was noted of it: %s", got)
	}
	o.Sound()
}

func trailOf(h query.LotHead) (out []string) {
	for _, m := range h.Trail {
		out = append(out, m.Text.String())
	}
	return out
}

func TestARecalledLotIsTakenBackWhereverItIsInTheHouse(t *testing.T) {
	t.Parallel()
	o, ctx, ok := byLots(t), context.Background(), desktest.Done(t)
	ask := floor.LotAsk{SKU: "GL-2040-1", Lot: "A7"}
	// 20 of it have left, 10 are packed, 5 picked; 25 lie in C-14-2 beside 60 of other lots. Everything else of the item is allocated: 55
	// to SO-1001 (of these 5 on a list that is to be picked from that bin), the rest to SO-1002 and free.
	list := onList(t, o, 40)
	row := list.Tasks[0].ID
	pick := func(qty int64) floor.Found {
		return floor.Found{Task: row, Qty: qty, Later: true, From: "C-14-2", Lots: of("A7", qty)}
	}
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{pick(20)}))
	gone := o.PackPicked("SO-1001", "HL")
	o.Leave(dock.ShipmentSeen{Number: gone})
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{pick(10)}))
	packed := o.PackPicked("SO-1001", "HL")
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{pick(5)}))
	before := o.Cell("GL-2040-1", "HL")
	v, err := o.Floor.RehearseLot(ctx, ask)
	if err != nil || v.Aside != 25 || v.Back != 15 || v.Gone != 20 || v.Late != 0 {
		t.Fatalf("rehearsed: %+v, %v", v, err)
	}
	_, err = o.Floor.RecallLot(ctx, o.By(o.Ana), ask)
	desktest.Refused(t, err, command.KindInvalid, "Say why")
	_, err = o.Floor.RecallLot(ctx, because(o, o.Flo, "no"), ask)
	desktest.Refused(t, err, command.KindForbidden)
	_, err = o.Floor.RecallLot(ctx, because(o, o.Ana, "no"), floor.LotAsk{SKU: "GL-2040-1", Lot: "Q"})
	desktest.Refused(t, err, command.KindNotFound, "No lot Q of GL-2040-1")
	out := ok(o.Floor.RecallLot(ctx, because(o, o.Ana, "the supplier found lead in it"), ask))
	for _, part := range []string{
		"Lot A7 of GL-2040-1 must not be sent any more.", "Set aside: 25 units in 1 bin.", "To be put back, and set aside then: 15 units.",
		"Left the house already: 20 units.",
	} {
		if !strings.Contains(out.Sentence, part) {
			t.Errorf("%q is not in: %s", part, out.Sentence)
		}
	}
	cell := o.Cell("GL-2040-1", "HL")
	if cell.Held != before.Held+40 || cell.Free != before.Free-25 || cell.OnHand != before.OnHand {
		t.Errorf("stock: %+v, before %+v", cell, before)
	}
	if at := o.Line("SO-1001", 1).At; at.Picked+at.Packed != 0 || at.Shipped != 20 || at.Released != 5 {
		t.Errorf("the line: %+v", at)
	}
	o.Sound()
	// Neither what is packed leaves, nor is any of it picked, whatever is scanned.
	_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: packed}})
	desktest.Refused(t, err, command.KindConflict)
	_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: row, Qty: 5, From: "C-14-2", Lots: of("A7", 5)}})
	desktest.Refused(
		t, err, command.KindConflict, "Lot A7 of GL-2040-1 must not be sent: Ana Ruiz recalled it", "Why: the supplier found lead in it.",
	)
	_, err = o.Floor.RecallLot(ctx, because(o, o.Ana, "again"), ask)
	desktest.Refused(t, err, command.KindConflict, "Nothing more of it can be recalled.")
	// Put back, it is set aside; another lot cannot be put back in its place.
	backs, err := o.Query.PutBacks(ctx)
	if err != nil || len(backs) != 2 || backs[0].Lot != "A7" || !backs[0].ByLots {
		t.Fatalf("to be put back: %+v, %v", backs, err)
	}
	other := floor.PutAway{Task: backs[0].ID, Qty: backs[0].Qty, Bin: "C-14-9", Lots: of("B1", backs[0].Qty)}
	_, err = o.Floor.PutBack(ctx, o.By(o.Flo), other)
	desktest.Refused(t, err, command.KindConflict, "Lot A7 of GL-2040-1 is to be put back; B1 was scanned")
	for _, b := range backs {
		out = ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: b.ID, Qty: b.Qty, Bin: "C-14-9"}))
		if !strings.Contains(out.Sentence, "Set aside, since the lot must not be sent") {
			t.Errorf("put back: %s", out.Sentence)
		}
	}
	if got := lotsAt(t, o, "lot=A7"); got != "A7 bin C-14-2 25 (25 aside); A7 bin C-14-9 15 (15 aside); A7 shipped SO-1001 20" {
		t.Errorf("after that: %s", got)
	}
	// More of it that arrives is set aside at once.
	if got := o.Cell("GL-2040-1", "HL"); got.Held != cell.Held || got.Free != cell.Free {
		t.Errorf("stock after putting back: %+v, before %+v", got, cell)
	}
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty,kind,supplier\nPO-800,GL-2040-1,HL,2027-03-10,8,purchase,Harebell Glazes\n")
	po := o.Inbound("PO-800")
	out = ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: po.ID, Qty: 8, Bin: "C-14-9", Lots: of("A7", 8)}))
	said := "Set aside, since the lot must not be sent: 8 units."
	if got := o.Cell("GL-2040-1", "HL"); got.Free != cell.Free || !strings.Contains(out.Sentence, said) {
		t.Errorf("received: %s, %+v", out.Sentence, got)
	}
	o.Sound()
	// A count by file cannot free it.
	file := desktest.File("stock.csv", "warehouse,sku,bin,on_hand,held\nHL,GL-2040-1,C-14-9,35,0\n")
	_, report, err := o.Importing.Import(ctx, o.By(o.Ana), file)
	if err == nil || !strings.Contains(fmt.Sprint(report), "which are of lots that must not be sent") {
		t.Errorf("a count by file: %v, %v", err, report)
	}
	// It is written off, or freed again.
	_, err = o.Floor.WriteOffLot(ctx, o.By(o.Ana), ask)
	desktest.Refused(t, err, command.KindInvalid, "went back to the supplier")
	out = ok(o.Floor.WriteOffLot(ctx, because(o, o.Ana, "back to Harebell"), ask))
	if got := o.Cell("GL-2040-1", "HL"); got.Free != cell.Free || got.OnHand != before.OnHand+8-48 || got.Held != before.Held {
		t.Errorf("%s: %+v", out.Sentence, got)
	}
	_, err = o.Floor.WriteOffLot(ctx, because(o, o.Ana, "again"), ask)
	desktest.Refused(t, err, command.KindConflict, "Nothing of lot A7")
	ok(o.Floor.LiftLot(ctx, o.By(o.Ana), ask))
	_, err = o.Floor.LiftLot(ctx, o.By(o.Ana), ask)
	desktest.Refused(t, err, command.KindConflict, "is not recalled")
	o.Sound()
}

func TestOrdersLoseWhatARecalledLotTakesAway(t *testing.T) {
	t.Parallel()
	o, ctx, ok := byLots(t), context.Background(), desktest.Done(t)
	// 172 less 4 held: 100 for SO-1001, of these 40 on a list from the bin of lot B1; 24 for SO-1002; 44 are free.
	list := onList(t, o, 40)
	if list.Tasks[0].Bin != "D-01-1" {
		t.Fatalf("the row: %+v", list.Tasks[0])
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, 60)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	// Those on the list have to be picked elsewhere; nobody loses anything, since 44 are free.
	out := ok(o.Floor.RecallLot(ctx, because(o, o.Ana, "cloudy"), floor.LotAsk{SKU: "GL-2040-1", Lot: "B1"}))
	off := "Taken off " + list.Number + ", since their bin holds too few without the lot."
	if !strings.Contains(out.Sentence, off) || strings.Contains(out.Sentence, "lose") {
		t.Errorf("said: %s", out.Sentence)
	}
	if at := o.Line("SO-1001", 1).At; at.Allocated != 100 || at.Released != 0 {
		t.Errorf("SO-1001: %+v", at)
	}
	// The other lot takes 60 more of 128, of which 124 are allocated: 56 are given back, and the rest goes to whoever comes first.
	out = ok(o.Floor.RecallLot(ctx, because(o, o.Ana, "cloudy, too"), floor.LotAsk{SKU: "GL-2040-1", Lot: "A7"}))
	if !strings.Contains(out.Sentence, "Orders lose 56 units at HL.") || !strings.Contains(out.Sentence, "Allocated anew by") {
		t.Errorf("said: %s", out.Sentence)
	}
	cell := o.Cell("GL-2040-1", "HL")
	if got := o.Line("SO-1001", 1).At.Allocated + o.Line("SO-1002", 1).At.Allocated; got != 68 || cell.Free != 0 || cell.Held != 104 {
		t.Errorf("allocated are %d; %+v", got, cell)
	}
	ok(o.Floor.LiftLot(ctx, o.By(o.Ana), floor.LotAsk{SKU: "GL-2040-1", Lot: "B1"}))
	if got := o.Cell("GL-2040-1", "HL"); got.Free != 40 || got.Held != 64 {
		t.Errorf("lifted: %+v", got)
	}
	o.Sound()
}

func TestACountSaysOfWhichLotsUnitsAre(t *testing.T) {
	t.Parallel()
	o, ctx, ok := byLots(t), context.Background(), desktest.Done(t)
	list := onList(t, o, 20)
	// Two are missing: a count is asked for, and meanwhile they are taken to be of the lot that was noted first.
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 18, Cause: "missing"}}))
	if got := lotsAt(t, o, "lot=B1"); got != "B1 bin D-01-1 20; B1 picked SO-1001 18" {
		t.Fatalf("picked: %s", got)
	}
	counts, err := o.Query.Counts(ctx)
	if err != nil || len(counts) != 1 || !counts[0].ByLots {
		t.Fatalf("counts: %+v, %v", counts, err)
	}
	ask := floor.CountAsk{Count: counts[0].ID, Counted: 33, Lots: []command.LotQty{{Lot: "B1", Qty: 20}, {Lot: "B2", Qty: 14}}}
	_, err = o.Floor.Count(ctx, o.By(o.Flo), ask)
	desktest.Refused(t, err, command.KindInvalid, "34 of GL-2040-1 are said to be of some lot, and there are 33")
	ask.Lots[1].Qty = 12
	ok(o.Floor.Count(ctx, o.By(o.Flo), ask))
	if got := lotsAt(t, o, "bin="+counts[0].Bin); got != "B1 bin D-01-1 20; B2 bin D-01-1 12" {
		t.Errorf("counted: %s", got)
	}
	o.Sound()
}

// A lot is recalled while it is picked and packed: of what is packed and of what lies in the bin nothing can be sent, whoever was first.
func TestRecallingALotRacesWithTheFloor(t *testing.T) {
	t.Parallel()
	o, ctx, ok := byLots(t), context.Background(), desktest.Done(t)
	list := onList(t, o, 60)
	line := o.Line("SO-1001", 1).ID
	var all sync.WaitGroup
	began := make(chan struct{})
	for _, task := range list.Tasks {
		for range task.Due / 4 {
			all.Go(func() {
				<-began
				_, _ = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 4, Later: true, From: "C-14-2", Lots: of("A7", 4)}})
				_, _ = o.Floor.Pack(ctx, o.By(o.Flo), floor.Packing{Order: "SO-1001", Warehouse: "HL", Packages: []floor.PackageToBe{
					{Kind: "carton", WeightG: 5000, Contents: []floor.Content{{Line: line, Qty: 4}}},
				}})
			})
		}
	}
	all.Go(func() {
		<-began
		ok(o.Floor.RecallLot(ctx, because(o, o.Ana, "lead in it"), floor.LotAsk{SKU: "GL-2040-1", Lot: "A7"}))
	})
	close(began)
	all.Wait()
	if at := o.Line("SO-1001", 1).At; at.Picked+at.Packed != 0 {
		t.Errorf("of the lot %d are picked and %d packed", at.Picked, at.Packed)
	}
	backs, err := o.Query.PutBacks(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, b := range backs {
		ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: b.ID, Qty: b.Qty, Bin: "C-14-9"}))
	}
	head, err := o.Query.Lot(ctx, "GL-2040-1", "A7")
	if err != nil || head.Aside != 60 || head.InBins != 60 || head.Picked+head.Packed+head.Gone != 0 {
		t.Errorf("the lot: %+v, %v", head, err)
	}
	o.Sound()
}
