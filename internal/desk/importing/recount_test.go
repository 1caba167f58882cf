package importing_test

import (
	"context"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/exchange"
)

func TestACountThatBreaksAllocationsGivesBackAndAllocatesAnewInOneStep(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6001", 1, 12)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 8)))
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-6001", 1, 2)}))
	file := func(onHand string) []exchange.File {
		return []exchange.File{
			{Name: "count.csv", Data: []byte("warehouse,sku,bin,on_hand\nHL,ZB-1,A-1-1," + onHand + "\nHL,ZB-2,A-1-2,9\n")},
		}
	}
	// Eleven are counted: two are on a pick list, nine are left for the eighteen that are allocated.
	check := o.By(o.Ana)
	rep, err := o.Importing.CheckImport(ctx, check, file("11"))
	if err != nil || rep.Faulty != 0 || len(rep.Breaks) != 1 {
		t.Fatalf("%+v %v", rep, err)
	}
	b := rep.Breaks[0]
	if b.SKU != "ZB-1" || b.Allocated != 18 || b.Left != 9 || len(b.Lines) != 2 {
		t.Fatalf("%+v", b)
	}
	// By tier and date the nine go to the line of tier 1; the other one gets none.
	if x := b.Lines[0]; x.Order != "SO-6002" || x.Has != 8 || x.Gets != 9 ||
		!strings.Contains(x.Why.String(), "6 of 15: nothing more is free at HL") {
		t.Errorf("first %+v", x)
	}
	if x := b.Lines[1]; x.Order != "SO-6001" || x.Has != 10 || x.Gets != 0 || !strings.Contains(x.Why.String(), "SO-6002 line 1 (tier 1") {
		t.Errorf("then %+v", x)
	}
	_, err = o.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, false)
	desktest.Refused(t, err, command.KindConflict, "given back and allocated anew")
	if l := o.Line("SO-6001", 1); l.At.Allocated != 10 {
		t.Fatal("looking changed something")
	}

	// Somebody changes what was shown: nothing is done.
	ok(o.Allocation.GiveBack(ctx, o.By(o.Max), o.Qty("SO-6001", 1, 1)))
	_, err = o.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, true)
	desktest.Refused(t, err, command.KindConflict, "has changed since you looked")
	ok(o.Allocation.Allocate(ctx, o.By(o.Max), o.Qty("SO-6001", 1, 1)))

	out := ok(o.Importing.ApplyImport(ctx, o.By(o.Ana), check.Key, true))
	if !strings.HasSuffix(out.Sentence, "Given back and allocated anew by By tier and date: 1 item, other units for 2 lines.") {
		t.Error(out.Sentence)
	}
	if x, y := o.Line("SO-6001", 1).At, o.Line("SO-6002", 1).At; x.Allocated != 0 || x.Released != 2 || y.Allocated != 9 {
		t.Errorf("afterwards %+v and %+v", x, y)
	}
	if it, err := o.Query.Item(ctx, "ZB-1"); err != nil || it.Cells[0].OnHand != 11 || it.Cells[0].Free != 0 {
		t.Errorf("stock %+v %v", it.Cells, err)
	}
	if w, err := o.Allocation.Why(ctx, o.Line("SO-6001", 1).ID); err != nil ||
		!strings.HasPrefix(w.Run.String(), "By tier and date, run by Ana Ruiz") {
		t.Errorf("why %+v %v", w, err)
	}
	o.Sound()

	// What is on a pick list cannot be given back: that is a fault of the count, as it was before.
	rep, err = o.Importing.CheckImport(ctx, o.By(o.Ana), file("1"))
	if err != nil || rep.Faulty != 1 || !strings.Contains(rep.Faults[0].Expected.String(), "pick lists") {
		t.Errorf("%+v %v", rep.Faults, err)
	}
	// On the command line it is refused, with what to do.
	_, _, err = o.Importing.Import(ctx, o.By(o.Ana), file("5"))
	desktest.Refused(t, err, command.KindConflict, "give some back first")
	o.Sound()
}
