package floor_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
	"journeyman/internal/store"
)

// everywhere brings units of SO-1001, line 1 (100 GL-2040-1 at HL), to every station in the house: 60 stay open, 10 allocated, 8 on a
// printed list, 12 picked, 10 packed.
func everywhere(t *testing.T, o *desktest.Office) (list query.PickListView, ship string) {
	t.Helper()
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, 40)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 1, 30), Print: true}))
	list, err := o.Query.PickList(ctx, out.Documents[0].Number)
	if err != nil || len(list.Tasks) != 1 {
		t.Fatal(err, list.Tasks)
	}
	task := list.Tasks[0].ID
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task, Qty: 10, Later: true}}))
	ship = o.PackPicked("SO-1001", "HL")
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task, Qty: 12, Later: true}}))
	at := o.Line("SO-1001", 1).At
	at.Promised = 0
	if at != (supply.Counts{Ordered: 100, Open: 60, Allocated: 10, Released: 8, Picked: 12, Packed: 10}) {
		t.Fatalf("it begins with %+v", at)
	}
	return list, ship
}

func because(o *desktest.Office, a command.Actor, why string) command.Call {
	call := o.By(a)
	call.Reason = why
	return call
}

func recallOf(line, qty int64, ends string) floor.RecallAsk {
	ask := floor.RecallAsk{Order: "SO-1001", Ends: ends}
	if line != 0 {
		ask.Lines = []floor.RecallQty{{Line: line, Qty: qty}}
	}
	return ask
}

func TestACancelledOrderIsStoppedWhereverItsUnitsAre(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	list, ship := everywhere(t, o)
	before := o.Cell("GL-2040-1", "HL")
	ask := recallOf(0, 0, "dropped")
	// What would be done is said first, and nothing is done.
	v, err := o.Floor.RehearseRecall(ctx, ask)
	if err != nil {
		t.Fatal(err)
	}
	said := strings.Join(desktest.Texts(v.Does), " ")
	for _, part := range []string{
		"Free at once: 18 units.", "Taken off " + list.Number, "The printed sheets of " + list.Number + " are void",
		"To be put back: 22 units, free after that.",
	} {
		if !strings.Contains(said, part) {
			t.Errorf("%q is not in: %s", part, said)
		}
	}
	if v.Units != 110 || v.Late != 0 || v.Gone != 0 || o.Line("SO-1001", 1).At.Packed != 10 {
		t.Errorf("rehearsed: %+v", v)
	}
	// It is refused without a reason, and for whoever may not.
	_, err = o.Floor.RecallUnits(ctx, o.By(o.Ana), ask)
	desktest.Refused(t, err, command.KindInvalid, "Say why")
	_, err = o.Floor.RecallUnits(ctx, because(o, o.Flo, "no"), ask)
	desktest.Refused(t, err, command.KindForbidden, "coordinator or sales or manager")
	out := ok(o.Floor.RecallUnits(ctx, because(o, o.Tom, "cancelled by customer"), ask))
	if out.Units != 110 || !strings.Contains(out.Sentence, "Recalled and dropped 110 units of SO-1001. Free at once: 18 units.") {
		t.Errorf("said: %d, %s", out.Units, out.Sentence)
	}
	if got := o.Order("SO-1001"); !got.Finished || got.At.Dropped != 110 {
		t.Errorf("the order: %+v", got.At)
	}
	// 18 are free at once, 22 lie in the put-back place and are held.
	cell := o.Cell("GL-2040-1", "HL")
	if cell.Free != before.Free+18 || cell.Held != before.Held+22 || cell.OnHand != before.OnHand {
		t.Errorf("stock: %+v, before %+v", cell, before)
	}
	after, err := o.Query.PickList(ctx, list.Number)
	if err != nil {
		t.Fatal(err)
	}
	if after.Due != 0 || after.Papers[0].VoidWho != "Tom Sale" || after.Papers[0].VoidWhy != "recalled" {
		t.Errorf("the list and its sheet: %d due, %+v", after.Due, after.Papers[0])
	}
	// Whoever scans the sheet is told who recalled it, when, why, and where to bring what was picked by it.
	sheet, err := o.Query.Scan(ctx, after.Papers[0].Code)
	if err != nil {
		t.Fatal(err)
	}
	for _, part := range []string{
		"is void: Tom Sale recalled something on it", "Why: cancelled by customer.", "Bring 22 units that were recalled to PUT-BACK at HL.",
	} {
		if said := sheet.Refused.String(); sheet.Kind != "sheet" || !strings.Contains(said, part) {
			t.Errorf("a void sheet says %q, without %q", said, part)
		}
	}
	_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 1, Sheet: after.Papers[0].Code}})
	desktest.Refused(t, err, command.KindConflict, "has changed")
	// What is packed cannot leave: the shipment is empty.
	_, err = o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}})
	desktest.Refused(t, err, command.KindConflict, ship+" is empty")
	_, err = o.Floor.RecallUnits(ctx, because(o, o.Ana, "again"), ask)
	desktest.Refused(t, err, command.KindConflict, "Nothing of SO-1001 can be recalled")
	_, err = o.Floor.RecallUnits(ctx, because(o, o.Ana, "again"), floor.RecallAsk{Order: "SO-0", Ends: "dropped"})
	desktest.Refused(t, err, command.KindNotFound, "SO-0")
	o.Sound()
}

func TestRecalledUnitsAreFreeOnceTheyArePutBack(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	list, _ := everywhere(t, o)
	line := o.Line("SO-1001", 1)
	before := o.Cell("GL-2040-1", "HL")
	// Of 30 units those go first that have come least far: 10 allocated, 8 on the list, and 12 that were picked.
	ok(o.Floor.RecallUnits(ctx, because(o, o.Ana, "wanted later"), recallOf(line.ID, 30, "open")))
	if at := o.Line("SO-1001", 1).At; at.Open != 90 || at.Packed != 10 || at.Picked+at.Released+at.Allocated != 0 {
		t.Errorf("recalled: %+v", at)
	}
	tasks, err := o.Query.PutBacks(ctx)
	if err != nil || len(tasks) != 1 {
		t.Fatal(tasks, err)
	}
	task := tasks[0]
	if task.Qty != 12 || task.Bin != list.Tasks[0].Bin || task.List != list.Number || task.Order != "SO-1001" ||
		task.Why != "wanted later" || task.Place == "" {
		t.Errorf("the task: %+v", task)
	}
	for _, c := range []struct {
		ask  floor.PutAway
		kind command.Kind
		says string
	}{
		{floor.PutAway{Task: task.ID, Qty: 13, Bin: task.Bin}, command.KindInvalid, "12 of GL-2040-1 are to be put back"},
		{floor.PutAway{Task: task.ID, Qty: 12, Bin: "Z-99-99"}, command.KindInvalid, "no bin “Z-99-99”"},
		{floor.PutAway{Task: task.ID, Qty: 12, Bin: task.Place}, command.KindInvalid, "no bin “" + task.Place},
		{floor.PutAway{Task: task.ID, Qty: 12, Bin: task.Bin, Item: "TL-014"}, command.KindConflict, "TL-014 was scanned"},
		{floor.PutAway{Task: task.ID, Qty: 5, Bin: task.Bin, Seen: 11}, command.KindConflict, "12 of GL-2040-1 are still"},
		{floor.PutAway{Task: task.ID + 100, Qty: 5, Bin: task.Bin}, command.KindNotFound, "nothing like that"},
	} {
		_, err := o.Floor.PutBack(ctx, o.By(o.Flo), c.ask)
		desktest.Refused(t, err, c.kind, c.says)
	}
	// Nothing else comes to lie where they wait.
	in := o.Inbound("PO-733")
	_, err = o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 1, Bin: task.Place, Seen: in.Received + 1})
	desktest.Refused(t, err, command.KindInvalid, "PUT-BACK is where recalled units wait")
	counted := desktest.File("stock.csv", "warehouse,sku,bin,on_hand\nHL,GL-2040-1,PUT-BACK,5\n")
	report, err := o.Importing.CheckImport(ctx, o.By(o.Ana), counted)
	if err != nil || len(report.Faults) != 1 || !strings.Contains(report.Faults[0].Expected.String(), "recalled units wait") {
		t.Errorf("a file that counts them: %+v, %v", report.Faults, err)
	}
	ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: task.ID, Qty: 5, Bin: strings.ToLower(task.Bin), Item: "gl-2040-1", Seen: 12}))
	half := o.Cell("GL-2040-1", "HL")
	if half.Free != before.Free+18+5 || half.Held != before.Held+7 {
		t.Errorf("after 5: %+v, before %+v", half, before)
	}
	out := ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: task.ID, Qty: 7, Bin: task.Bin, Seen: 7}))
	if !strings.Contains(out.Sentence, "Put back: 7 units of GL-2040-1 in "+task.Bin) {
		t.Error(out.Sentence)
	}
	if cell := o.Cell("GL-2040-1", "HL"); cell.Free != before.Free+30 || cell.Held != before.Held {
		t.Errorf("after all: %+v, before %+v", cell, before)
	}
	_, err = o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: task.ID, Qty: 1, Bin: task.Bin})
	desktest.Refused(t, err, command.KindConflict, "put back already")
	if tasks, err := o.Query.PutBacks(ctx); err != nil || len(tasks) != 0 {
		t.Error(tasks, err)
	}
	o.Sound()
}

func TestUnitsThatStayAllocatedWaitUntilTheyArePutBack(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	everywhere(t, o)
	before := o.Cell("GL-2040-1", "HL")
	out := ok(o.Floor.RecallUnits(ctx, because(o, o.Ana, "on hold"), recallOf(0, 0, "allocated")))
	if at := o.Line("SO-1001", 1).At; out.Units != 30 || at.Allocated != 40 || at.Open != 60 {
		t.Errorf("recalled %d: %+v", out.Units, at)
	}
	if cell := o.Cell("GL-2040-1", "HL"); cell.Held != before.Held || cell.Free != before.Free {
		t.Errorf("nothing of it is held: %+v", cell)
	}
	_, err := o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 1, 10)})
	desktest.Refused(t, err, command.KindConflict, "were recalled and are still to be put back")
	offer, err := o.Floor.Offer(ctx, floor.DueAsk{Until: "2027-12-31"})
	if err != nil {
		t.Fatal(err)
	}
	if !slices.ContainsFunc(offer.NotOffered, func(n floor.NotOffered) bool { return n.Reason == string(release.Waiting) && n.Lines == 1 }) {
		t.Errorf("nothing waits to be put back: %+v", offer.NotOffered)
	}
	kept, err := o.Query.Release(ctx, query.Ask{Scope: map[string]string{"until": "2027-12-31", "state": string(release.Waiting)}})
	if err != nil || len(kept.Lines) != 1 || kept.Lines[0].Order != "SO-1001" {
		t.Errorf("kept back: %+v, %v", kept.Lines, err)
	}
	tasks, err := o.Query.PutBacks(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range tasks {
		ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: x.ID, Qty: x.Qty, Bin: x.Bin}))
	}
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 1, 40)}))
	o.Sound()
}

func TestADispatchIsStoppedBeforeTheCarrierIsAskedAndNotAfterwards(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	_, ship := everywhere(t, o)
	line := o.Line("SO-1001", 1)
	ask := func() store.Shipment {
		t.Helper()
		ok(o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}}))
		s, found, err := o.Store.Read(ctx).ShipmentByNumber(ship)
		if err != nil || !found {
			t.Fatal(err)
		}
		return s
	}
	// Nobody has asked the carrier yet: the dispatch is stopped, and the job finds nothing to do.
	asked := ask()
	out := ok(o.Floor.RecallUnits(ctx, because(o, o.Ana, "cancelled"), recallOf(line.ID, 94, "dropped")))
	if !strings.Contains(out.Sentence, "The dispatch of "+ship+" is stopped") {
		t.Error(out.Sentence)
	}
	if err := o.Dock.Book(ctx, dock.BookShipment{Shipment: asked.ID, Asked: *asked.AskedBy}, false); err != nil {
		t.Error(err)
	}
	if at := o.Line("SO-1001", 1).At; at.Shipped != 0 || at.Packed != 6 || at.Dropped != 94 {
		t.Errorf("after the first: %+v", at)
	}
	// What was taken out may still lie in the package: until it is put back, the shipment does not leave, and says so to whoever scans it.
	_, err := o.Dock.Dispatch(ctx, o.By(o.Flo), []dock.ShipmentSeen{{Number: ship}})
	desktest.Refused(t, err, command.KindConflict, "may still hold 4 of GL-2040-1 that Ana Ruiz recalled for SO-1001")
	tasks, err := o.Query.PutBacks(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range tasks {
		for _, code := range []string{x.Package, ship} {
			if code == "" {
				continue // it was picked, and not packed yet
			}
			v, err := o.Query.Scan(ctx, strings.ToLower(code))
			if err != nil || !strings.Contains(v.Refused.String(), "Why: cancelled. Bring the 4 of GL-2040-1 to "+x.Place) {
				t.Errorf("%s says %q, %v", code, v.Refused, err)
			}
		}
		ok(o.Floor.PutBack(ctx, o.By(o.Flo), floor.PutAway{Task: x.ID, Qty: x.Qty, Bin: x.Bin}))
	}
	if v, err := o.Query.Scan(ctx, ship); err != nil || !v.Refused.IsZero() || v.Shipment != ship {
		t.Errorf("once they are put back: %+v, %v", v, err)
	}
	// The carrier is being asked: it is too late for what lies in the shipment, and that is said.
	asked = ask()
	if err := o.Store.InTx(ctx, func(tx *store.Tx) error {
		waits, err := tx.BeginAsking(asked.ID, *asked.AskedBy, o.At)
		if !waits {
			t.Error("nobody waits")
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	_, err = o.Floor.RecallUnits(ctx, because(o, o.Ana, "cancelled"), recallOf(line.ID, 6, "dropped"))
	desktest.Refused(t, err, command.KindConflict, "the carrier is being asked to take "+ship)
	v, err := o.Floor.RehearseRecall(ctx, recallOf(0, 0, "dropped"))
	if err != nil || v.Late != 6 || v.Units != 10 {
		t.Errorf("rehearsed: %+v, %v", v, err)
	}
	out = ok(o.Floor.RecallUnits(ctx, because(o, o.Ana, "cancelled"), recallOf(0, 0, "dropped")))
	if out.Units != 10 || !strings.Contains(out.Sentence, "Too late for 6 units") {
		t.Errorf("%d: %s", out.Units, out.Sentence)
	}
	_, err = o.Floor.RecallUnits(ctx, because(o, o.Ana, "cancelled"), recallOf(0, 0, "dropped"))
	desktest.Refused(t, err, command.KindConflict, "It is too late for SO-1001")
	// It leaves; then nothing can be recalled any more.
	if err := o.Dock.Book(ctx, dock.BookShipment{Shipment: asked.ID, Asked: *asked.AskedBy}, false); err != nil {
		t.Error(err)
	}
	if at := o.Line("SO-1001", 1).At; at.Shipped != 6 {
		t.Errorf("after the second: %+v", at)
	}
	_, err = o.Floor.RecallUnits(ctx, because(o, o.Ana, "cancelled"), recallOf(0, 0, "dropped"))
	desktest.Refused(t, err, command.KindConflict, "Nothing of SO-1001 can be recalled")
	o.Sound()
}

func TestARecallRefusesWhatCannotBe(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	everywhere(t, o)
	one, two, other := o.Line("SO-1001", 1).ID, o.Line("SO-1001", 2).ID, o.Line("SO-1002", 1).ID
	for _, c := range []struct {
		ask  floor.RecallAsk
		says string
	}{
		{recallOf(one, 101, "dropped"), "SO-1001 line 1 has 100 that can still be recalled; 101 were asked for"},
		{recallOf(one, 41, "open"), "has 40 that can still be recalled"},
		{recallOf(one, 31, "allocated"), "has 30 that can still be recalled"},
		{recallOf(two, 1, "open"), "has 0 that can still be recalled"},
		{recallOf(other, 1, "dropped"), "not of order SO-1001"},
		{recallOf(one, 1, "shipped"), "dropped, open or allocated"},
		{floor.RecallAsk{Order: "SO-1001", Ends: "open", Lines: []floor.RecallQty{{Line: one}, {Line: one}}}, "twice"},
	} {
		_, err := o.Floor.RecallUnits(ctx, because(o, o.Ana, "x"), c.ask)
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%+v: %v", c.ask, err)
		}
		if _, err := o.Floor.RehearseRecall(ctx, c.ask); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("rehearsed, %+v: %v", c.ask, err)
		}
	}
	o.Sound()
}
