package desk_test

import (
	"context"
	"fmt"
	"testing"

	"journeyman/core/days"
	"journeyman/internal/dbtest"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/desk/undo"
	"journeyman/internal/query"
	"journeyman/internal/store"
)

func TestAStaleClickIsRefusedWithWhatChanged(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	stale := o.qty("SO-1001", 1, 10)
	ok(o.Allocation.Allocate(ctx, o.by(o.max), o.qty("SO-1001", 1, 20)))
	_, err := o.Allocation.Allocate(ctx, o.by(o.ana), stale)
	refused(t, err, command.KindConflict, "SO-1001 line 1 has changed", "Max Orme allocated 20", "at 09:00")
	staleOrder := command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002", Seen: o.order("SO-1002").Version}}}
	ok(o.Allocation.Allocate(ctx, o.by(o.max), o.qty("SO-1002", 2, 4)))
	_, err = o.Allocation.Allocate(ctx, o.by(o.ana), staleOrder)
	refused(t, err, command.KindConflict, "SO-1002 has changed", "Max Orme allocated 4")
	if o.line("SO-1001", 1).At.Allocated != 20 || o.order("SO-1002").At.Allocated != 4 {
		t.Error("a refused command changed something")
	}
	o.sound()
}

func TestWhatCannotBeAllocatedSaysWhy(t *testing.T) {
	t.Parallel()
	o, ctx := newOffice(t), context.Background()
	cases := []struct {
		why   string
		ask   command.Selection
		kind  command.Kind
		words []string
	}{
		{"more than is free", o.qty("SO-1001", 1, 69), command.KindConflict, []string{"Only 68 of GL-2040-1 are free at HL"}},
		{"more than is open", o.qty("SO-1002", 1, 25), command.KindConflict, []string{"has 24 open"}},
		{"no whole pack", o.qty("SO-1002", 2, 6), command.KindInvalid, []string{"packs of 4"}},
		{"none free here", o.qty("SO-1003", 2, 3), command.KindConflict, []string{"Only 2 of KL-070"}},
		{"nothing chosen", command.Selection{}, command.KindInvalid, []string{"Choose lines or orders"}},
		{"no such line", command.Selection{Lines: []command.LineQty{{Line: 999_999, Qty: 1}}}, command.KindNotFound, []string{"no such order line"}},
		{"no such order", command.Selection{Orders: []command.OrderSeen{{Number: "SO-9"}}}, command.KindNotFound, []string{"no order SO-9"}},
		{"nothing to allocate", command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}, {Number: "SO-1001"}}}, command.KindInvalid, []string{"twice"}},
	}
	for _, c := range cases {
		_, err := o.Allocation.Allocate(ctx, o.by(o.ana), c.ask)
		t.Run(c.why, func(t *testing.T) { refused(t, err, c.kind, c.words...) })
	}
	o.sound()
}

func TestOrdersAreServedInTheOrderListed(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	// 68 bottles are free; SO-1002 wants 24 and SO-1001 wants 100.
	ok(o.Allocation.Allocate(ctx, o.by(o.ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}, {Number: "SO-1001"}}}))
	if a, b := o.line("SO-1002", 1).At.Allocated, o.line("SO-1001", 1).At.Allocated; a != 24 || b != 44 {
		t.Errorf("first %d, then %d; want 24 and 44", a, b)
	}
}

func TestTheSameKeyIsCarriedOutOnce(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	call, ask := o.by(o.ana), o.qty("SO-1001", 1, 5)
	first := ok(o.Allocation.Allocate(ctx, call, ask))
	again := ok(o.Allocation.Allocate(ctx, call, ask))
	if first.Command != again.Command || first.Sentence != again.Sentence || o.line("SO-1001", 1).At.Allocated != 5 {
		t.Errorf("done twice: %+v %+v", first, again)
	}
	ask.Lines[0].Qty = 6
	_, err := o.Allocation.Allocate(ctx, call, ask)
	refused(t, err, command.KindInvalid, "key that was used")
}

func TestRolesMayDoWhatIsTheirs(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	_, err := o.Allocation.Allocate(ctx, o.by(o.flo), o.qty("SO-1001", 1, 1))
	refused(t, err, command.KindForbidden, "signed in as floor", "coordinator or manager")
	_, err = o.Sales.Lift(ctx, o.by(o.ana), sales.HoldAsk{Order: "SO-1004", Kind: "credit"})
	refused(t, err, command.KindForbidden, "manager")
	ok(o.Sales.Lift(ctx, o.by(o.max), sales.HoldAsk{Order: "SO-1004", Kind: "credit"}))
	if len(o.order("SO-1004").Holds) != 0 {
		t.Error("the hold still stands")
	}
	for _, v := range []string{"allocate", "release", "import"} {
		for _, got := range command.Sales.Verbs() {
			if got == v {
				t.Errorf("sales may %s", v)
			}
		}
	}
}

func TestReleaseObeysHoldsShipRulesAndBins(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	for _, n := range []string{"SO-1003", "SO-1004", "SO-1005"} {
		ok(o.Allocation.Allocate(ctx, o.by(o.ana), command.Selection{Orders: []command.OrderSeen{{Number: n}}}))
	}
	release := func(n string) error {
		_, err := o.Floor.Release(ctx, o.by(o.ana), command.Selection{Orders: []command.OrderSeen{{Number: n}}})
		return err
	}
	refused(t, release("SO-1004"), command.KindConflict, "on hold")
	refused(t, release("SO-1003"), command.KindConflict, "whole order") // one kiln of three is missing
	refused(t, release("SO-1005"), command.KindConflict, "no bin")
	refused(t, release("SO-1001"), command.KindConflict, "Allocate first")
	page, err := o.Query.Releasable(ctx, query.ReleaseAsk{Until: "2027-12-31"})
	if err != nil || len(page.Lines) != 0 {
		t.Fatalf("offered: %+v %v", page.Lines, err)
	}
	why := map[string]int64{}
	for _, n := range page.NotOffered {
		why[n.Reason] = n.Lines
	}
	if why["on_hold"] != 1 || why["rule_order"] != 2 || why["no_bin"] != 1 || why["nothing_allocated"] != 4 {
		t.Errorf("not offered: %v", why)
	}
	call := o.by(o.ana)
	call.Reason = "no more kilns"
	ok(o.Sales.Drop(ctx, call, o.qty("SO-1003", 2, 1)))
	out := ok(o.Floor.Release(ctx, o.by(o.ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1003"}}}))
	if len(out.Documents) != 2 {
		t.Errorf("lines in two warehouses make two pick lists: %v", out.Documents)
	}
	o.sound()
}

func TestAHoldStopsWhatIsPackedFromLeaving(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	ok(o.Allocation.Allocate(ctx, o.by(o.ana), o.qty("SO-1002", 1, 24)))
	number := o.pack("SO-1002", "HL")
	ok(o.Sales.Hold(ctx, o.by(o.tom), sales.HoldAsk{Order: "SO-1002", Kind: "coordinator", Note: "The customer has cancelled"}))
	_, err := o.Dock.Dispatch(ctx, o.by(o.flo), []dock.ShipmentSeen{{Number: number}})
	refused(t, err, command.KindConflict, "SO-1002", "hold", "The customer has cancelled")
	s, err := o.Query.Shipment(ctx, number)
	if err != nil || s.State != "packed" {
		t.Fatalf("%+v %v", s, err)
	}
	ok(o.Floor.Unpack(ctx, o.by(o.flo), s.Contents[0].Number))
	if l := o.line("SO-1002", 1); l.At.Picked != 24 || l.At.Packed != 0 {
		t.Errorf("after unpacking: %+v", l.At)
	}
	o.sound()
}

// pack takes what is allocated on the order up to a packed shipment.
func (o *office) pack(number, house string) string {
	o.t.Helper()
	ctx, ok := context.Background(), done(o.t)
	out := ok(o.Floor.Release(ctx, o.by(o.ana), command.Selection{Orders: []command.OrderSeen{{Number: number}}}))
	list, err := o.Query.PickList(ctx, out.Documents[0].Number)
	if err != nil {
		o.t.Fatal(err)
	}
	var found []floor.Found
	for _, task := range list.Tasks {
		found = append(found, floor.Found{Task: task.ID, Qty: task.Due, Seen: task.Due})
	}
	ok(o.Floor.Pick(ctx, o.by(o.flo), found))
	pack := floor.PackageToBe{Kind: "carton", WeightG: 5000}
	for _, l := range o.order(number).Lines {
		if l.At.Picked > 0 {
			pack.Contents = append(pack.Contents, floor.Content{Line: l.ID, Qty: l.At.Picked})
		}
	}
	out = ok(o.Floor.Pack(ctx, o.by(o.flo), floor.Packing{Order: number, Warehouse: house, Packages: []floor.PackageToBe{pack}}))
	return out.Documents[0].Number
}

func TestAShortPickCorrectsTheCountByItsCause(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		cause              string
		onHand, held, free int64 // how they change when 3 of 6 are not found
		unset              int64 // units whose bin is not known afterwards
	}{{"missing", -3, 0, 0, 0}, {"damaged", 0, 3, 0, 0}, {"elsewhere", 0, 0, 3, 3}} {
		t.Run(c.cause, func(t *testing.T) {
			t.Parallel()
			o, ctx, ok := newOffice(t), context.Background(), done(t)
			ok(o.Allocation.Allocate(ctx, o.by(o.ana), o.qty("SO-1001", 2, 6)))
			out := ok(o.Floor.Release(ctx, o.by(o.ana), o.qty("SO-1001", 2, 6)))
			list, err := o.Query.PickList(ctx, out.Documents[0].Number)
			if err != nil {
				t.Fatal(err)
			}
			before, task := o.cell("TL-014", "HL"), list.Tasks[0]
			_, err = o.Floor.Pick(ctx, o.by(o.flo), []floor.Found{{Task: task.ID, Qty: 3}})
			refused(t, err, command.KindInvalid, "missing, damaged or elsewhere")
			_, err = o.Floor.Pick(ctx, o.by(o.flo), []floor.Found{{Task: task.ID, Qty: 7, Cause: "missing"}})
			refused(t, err, command.KindInvalid, "asks for 6")
			ok(o.Floor.Pick(ctx, o.by(o.flo), []floor.Found{{Task: task.ID, Qty: 3, Cause: c.cause, Seen: 6}}))
			_, err = o.Floor.Pick(ctx, o.by(o.flo), []floor.Found{{Task: task.ID, Qty: 6, Seen: 6}})
			refused(t, err, command.KindConflict, "changed since you saw it")
			after := o.cell("TL-014", "HL")
			if after.OnHand-before.OnHand != c.onHand || after.Held-before.Held != c.held || after.Free-before.Free != c.free {
				t.Errorf("before %+v, after %+v", before, after)
			}
			unset := int64(0)
			for _, b := range after.Bins {
				if b.Bin == "" {
					unset = b.Qty
				}
			}
			if unset != c.unset {
				t.Errorf("%d in no bin, want %d", unset, c.unset)
			}
			if l := o.line("SO-1001", 2); l.At.Picked != 3 || l.At.Open != 7 {
				t.Errorf("the line: %+v", l.At)
			}
			o.sound()
		})
	}
}

func TestUndoRestoresAsLongAsNothingElseHappened(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	before := o.order("SO-1001").At
	all := command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}
	alloc := ok(o.Allocation.Allocate(ctx, o.by(o.ana), all))
	rel := ok(o.Floor.Release(ctx, o.by(o.ana), all))
	_, err := o.Undo.TakeBack(ctx, o.by(o.ana), undo.UndoAsk{Command: alloc.Command})
	refused(t, err, command.KindConflict, "has changed since", "released")
	_, err = o.Undo.TakeBack(ctx, o.by(o.tom), undo.UndoAsk{Command: rel.Command})
	refused(t, err, command.KindForbidden, "Somebody else")
	ok(o.Undo.TakeBack(ctx, o.by(o.ana), undo.UndoAsk{Command: rel.Command}))
	_, err = o.Undo.TakeBack(ctx, o.by(o.ana), undo.UndoAsk{Command: rel.Command})
	refused(t, err, command.KindConflict, "taken back already")
	list, err := o.Query.PickList(ctx, rel.Documents[0].Number)
	if err != nil || list.Due != 0 || list.Tasks[0].Recalled == 0 {
		t.Errorf("the pick list still asks for %d (%v)", list.Due, err)
	}
	ok(o.Allocation.GiveBack(ctx, o.by(o.ana), all))
	if got := o.order("SO-1001").At; got != before {
		t.Errorf("before %+v, after %+v", before, got)
	}
	pick := ok(o.Allocation.Allocate(ctx, o.by(o.ana), o.qty("SO-1001", 2, 1)))
	out := ok(o.Floor.Release(ctx, o.by(o.ana), o.qty("SO-1001", 2, 1)))
	_ = pick
	list, err = o.Query.PickList(ctx, out.Documents[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	picked := ok(o.Floor.Pick(ctx, o.by(o.flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 1}}))
	_, err = o.Undo.TakeBack(ctx, o.by(o.flo), undo.UndoAsk{Command: picked.Command})
	refused(t, err, command.KindInvalid, "goods have moved")
	o.sound()
}

func TestDropAndReopen(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	_, err := o.Sales.Drop(ctx, o.by(o.tom), o.qty("SO-1002", 1, 4))
	refused(t, err, command.KindInvalid, "Say why")
	call := o.by(o.tom)
	call.Reason = "no longer wanted"
	ok(o.Sales.Drop(ctx, call, command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	if v := o.order("SO-1002"); !v.Finished || v.At.Dropped != 64 {
		t.Errorf("dropped: %+v", v.At)
	}
	ok(o.Sales.Reopen(ctx, o.by(o.tom), o.qty("SO-1002", 2, 40)))
	if v := o.order("SO-1002"); v.Finished || v.At.Open != 40 {
		t.Errorf("reopened: %+v", v.At)
	}
	o.sound()
}

func TestReceivingChecksWhatWasSeen(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	in := o.inbound("PO-733")
	_, err := o.Floor.Receive(ctx, o.by(o.flo), floor.Receipt{Inbound: in.ID, Qty: 101})
	refused(t, err, command.KindInvalid, "100 of GL-2040-1 still to come")
	ok(o.Floor.Receive(ctx, o.by(o.flo), floor.Receipt{Inbound: in.ID, Qty: 40, Seen: 1}))
	_, err = o.Floor.Receive(ctx, o.by(o.flo), floor.Receipt{Inbound: in.ID, Qty: 40, Seen: 1})
	refused(t, err, command.KindConflict, "40 of 100")
	c := o.cell("GL-2040-1", "HL")
	if c.OnHand != 112 || c.Bins[0].Bin != "C-14-2" || c.Bins[0].Qty != 100 {
		t.Errorf("not put into its usual bin: %+v", c)
	}
	o.sound()
}

func TestADeliveryIsRecordedOnce(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	ok(o.Allocation.Allocate(ctx, o.by(o.ana), o.qty("SO-1002", 1, 24)))
	ships := []dock.ShipmentSeen{{Number: o.pack("SO-1002", "HL")}}
	_, err := o.Dock.Deliver(ctx, o.by(o.flo), ships)
	refused(t, err, command.KindConflict, "not left yet")
	ok(o.Dock.Dispatch(ctx, o.by(o.flo), ships))
	_, err = o.Dock.Dispatch(ctx, o.by(o.flo), ships)
	refused(t, err, command.KindConflict, "left already")
	ok(o.Dock.Deliver(ctx, o.by(o.flo), ships))
	_, err = o.Dock.Deliver(ctx, o.by(o.flo), ships)
	refused(t, err, command.KindConflict, "delivered already")
	if l := o.line("SO-1002", 1); l.At.Delivered != 24 {
		t.Errorf("%+v", l.At)
	}
	o.sound()
}

func TestTheAuditNamesEachDifference(t *testing.T) {
	t.Parallel()
	o := newOffice(t)
	// Somebody with the owner's rights tampers with counts behind the journal's back.
	o.owner(`UPDATE line_count SET open = open - 3, allocated = allocated + 3 WHERE line_id = ` + fmt.Sprint(o.line("SO-1001", 1).ID))
	o.owner(`UPDATE stock_cell SET on_hand = on_hand + 1, binned = binned + 1 WHERE (item_id, warehouse_id) = (SELECT i.id, w.id FROM item i, warehouse w WHERE i.sku = 'GL-2040-1' AND w.code = 'HL')`)
	diff, _, err := o.store.Audit(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]bool{
		"SO-1001 line 1, open": true, "SO-1001 line 1, allocated": true,
		"GL-2040-1 at HL, on hand": true, "GL-2040-1 at HL, free": true, "GL-2040-1 at HL, in bins": true,
	}
	for _, d := range diff {
		if !want[d.What] {
			t.Errorf("not expected: %s", d)
		}
		delete(want, d.What)
	}
	if len(want) > 0 {
		t.Errorf("not named: %v", want)
	}
}

// owner runs SQL with the rights of the database's owner.
func (o *office) owner(query string) {
	o.t.Helper()
	if err := ownerExec(o.t, o.store, query); err != nil {
		o.t.Fatal(err)
	}
}

func ownerExec(t testing.TB, s *store.Store, query string) error {
	t.Helper()
	_, err := dbtest.Owner(t, s).Exec(context.Background(), query)
	return err
}

func TestWhoMayNoLongerDoItMayNotTakeItBack(t *testing.T) {
	t.Parallel()
	o, ctx, ok := newOffice(t), context.Background(), done(t)
	alloc := ok(o.Allocation.Allocate(ctx, o.by(o.ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}))
	moved := o.ana
	moved.Role = command.Floor
	_, err := o.Undo.TakeBack(ctx, o.by(moved), undo.UndoAsk{Command: alloc.Command})
	refused(t, err, command.KindForbidden, "signed in as floor")
	ok(o.Undo.TakeBack(ctx, o.by(o.ana), undo.UndoAsk{Command: alloc.Command}))
}

// Four parts of 2^62 units and one more add up to 1 where a sum wraps.
func TestPromisesThatWrapAreNotTaken(t *testing.T) {
	t.Parallel()
	o, ctx := newOffice(t), context.Background()
	l := o.order("SO-1001").Lines[0]
	parts := []supply.PromisePart{}
	for i := range 4 {
		parts = append(parts, supply.PromisePart{Warehouse: l.Warehouse, Day: (o.Today() + days.Day(7*i)).String(), Qty: 1 << 62})
	}
	parts = append(parts, supply.PromisePart{Warehouse: l.Warehouse, Day: (o.Today() + 28).String(), Qty: 1})
	_, err := o.Promising.Promise(ctx, o.by(o.ana), promising.PromiseAsk{Lines: []promising.LinePromise{{Line: l.ID, Seen: l.Version, Parts: parts}}})
	refused(t, err, command.KindConflict, "has 100 open")
	o.sound()
}
