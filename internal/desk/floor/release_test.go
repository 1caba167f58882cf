package floor_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
)

func TestReleaseObeysHoldsShipRulesAndBins(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	for _, n := range []string{"SO-1003", "SO-1004", "SO-1005"} {
		ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: n}}}))
	}
	release := func(n string) error {
		_, err := o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole(n))
		return err
	}
	desktest.Refused(t, release("SO-1004"), command.KindConflict, "on hold")
	desktest.Refused(t, release("SO-1003"), command.KindConflict, "whole order") // one kiln of three is missing
	desktest.Refused(t, release("SO-1005"), command.KindConflict, "no bin")
	desktest.Refused(t, release("SO-1001"), command.KindConflict, "Allocate first")
	page, err := o.Floor.Offer(ctx, floor.DueAsk{Until: "2027-12-31"})
	if err != nil || page.Offered != 0 {
		t.Fatalf("offered: %+v %v", page, err)
	}
	why := map[string]int64{}
	for _, n := range page.NotOffered {
		why[n.Reason] = n.Lines
	}
	// Each reason opens the list of its lines.
	for _, reason := range []string{"", "on_hold", "not_due", "rule_line", "rule_order", "no_bin"} {
		list, err := o.Query.Release(ctx, query.Ask{Scope: map[string]string{"until": "2027-12-31", "state": reason}})
		if err != nil || int64(len(list.Lines)) != why[reason] {
			t.Errorf("%q: %d lines are listed, %d were counted, %v", reason, len(list.Lines), why[reason], err)
		}
	}
	if why["on_hold"] != 1 || why["rule_order"] != 2 || why["no_bin"] != 1 || why["nothing_allocated"] != 4 {
		t.Errorf("not offered: %v", why)
	}
	call := o.By(o.Ana)
	call.Reason = "no more kilns"
	ok(o.Sales.Drop(ctx, call, o.Qty("SO-1003", 2, 1)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole("SO-1003")))
	if len(out.Documents) != 2 {
		t.Errorf("lines in two warehouses make two pick lists: %v", out.Documents)
	}
	o.Sound()
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
			o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
			ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 2, 6)))
			out := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 2, 6)}))
			list, err := o.Query.PickList(ctx, out.Documents[0].Number)
			if err != nil {
				t.Fatal(err)
			}
			before, task := o.Cell("TL-014", "HL"), list.Tasks[0]
			_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 3}})
			desktest.Refused(t, err, command.KindInvalid, "missing, damaged or elsewhere")
			_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 7, Cause: "missing"}})
			desktest.Refused(t, err, command.KindInvalid, "asks for 6")
			ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 3, Cause: c.cause, Seen: 6}}))
			_, err = o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task.ID, Qty: 6, Seen: 6}})
			desktest.Refused(t, err, command.KindConflict, "changed since you saw it")
			after := o.Cell("TL-014", "HL")
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
			if l := o.Line("SO-1001", 2); l.At.Picked != 3 || l.At.Open != 7 {
				t.Errorf("the line: %+v", l.At)
			}
			o.Sound()
		})
	}
}

func TestReceivingChecksWhatWasSeen(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	in := o.Inbound("PO-733")
	_, err := o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 101})
	desktest.Refused(t, err, command.KindInvalid, "100 of GL-2040-1 still to come, and 101 came. Say why")
	ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 40, Seen: 1}))
	_, err = o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 40, Seen: 1})
	desktest.Refused(t, err, command.KindConflict, "40 of 100")
	c := o.Cell("GL-2040-1", "HL")
	if c.OnHand != 112 || c.Bins[0].Bin != "C-14-2" || c.Bins[0].Qty != 100 {
		t.Errorf("not put into its usual bin: %+v", c)
	}
	o.Sound()
}
