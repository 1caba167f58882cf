package undo_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/undo"
)

func TestUndoRestoresAsLongAsNothingElseHappened(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	before := o.Order("SO-1001").At
	all := command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}
	alloc := ok(o.Allocation.Allocate(ctx, o.By(o.Ana), all))
	rel := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: all}))
	_, err := o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: alloc.Command})
	desktest.Refused(t, err, command.KindConflict, "has changed since", "released")
	_, err = o.Undo.TakeBack(ctx, o.By(o.Tom), undo.UndoAsk{Command: rel.Command})
	desktest.Refused(t, err, command.KindForbidden, "Somebody else")
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: rel.Command}))
	_, err = o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: rel.Command})
	desktest.Refused(t, err, command.KindConflict, "undone already")
	list, err := o.Query.PickList(ctx, rel.Documents[0].Number)
	if err != nil || list.Due != 0 || list.Tasks[0].Recalled == 0 {
		t.Errorf("the pick list still asks for %d (%v)", list.Due, err)
	}
	ok(o.Allocation.GiveBack(ctx, o.By(o.Ana), all))
	if got := o.Order("SO-1001").At; got != before {
		t.Errorf("before %+v, after %+v", before, got)
	}
	pick := ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 2, 1)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 2, 1)}))
	_ = pick
	list, err = o.Query.PickList(ctx, out.Documents[0].Number)
	if err != nil {
		t.Fatal(err)
	}
	picked := ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 1}}))
	_, err = o.Undo.TakeBack(ctx, o.By(o.Flo), undo.UndoAsk{Command: picked.Command})
	desktest.Refused(t, err, command.KindInvalid, "goods have moved")
	o.Sound()
}

func TestWhoMayNoLongerDoItMayNotTakeItBack(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	alloc := ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}}}))
	moved := o.Ana
	moved.Role = command.Floor
	_, err := o.Undo.TakeBack(ctx, o.By(moved), undo.UndoAsk{Command: alloc.Command})
	desktest.Refused(t, err, command.KindForbidden, "signed in as floor")
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: alloc.Command}))
}
