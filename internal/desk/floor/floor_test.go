package floor_test

import (
	"context"
	"slices"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/supply"
	"journeyman/internal/desk/undo"
	"journeyman/internal/query"
)

// released puts 40 bottles and 10 tools of SO-1001 on a pick list.
func released(t *testing.T, o *desktest.Office) query.PickListView {
	t.Helper()
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 1, 40)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 2, 10)))
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole("SO-1001")))
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
	desktest.Refused(t, err, command.KindForbidden, "coordinator or sales or manager")
	// A recall is not taken back: the paper is on the floor.
	_, err = o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command})
	desktest.Refused(t, err, command.KindInvalid, "cannot be undone")
	o.Sound()
}

func TestOpenLinesThatCanBeHelpedComeFirst(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	page, err := o.Query.Open(ctx, query.Ask{})
	if err != nil {
		t.Fatal(err)
	}
	if len(page.Lines) != 8 {
		t.Fatalf("%d lines are open", len(page.Lines))
	}
	helped := slices.IndexFunc(page.Lines, func(l supply.LineView) bool { return l.Free == 0 })
	for i, l := range page.Lines {
		if helped >= 0 && i > helped && l.Free > 0 {
			t.Errorf("%s line %d could be helped and comes after one that cannot", l.Order, l.Line)
		}
	}
	found, err := o.Query.Open(ctx, query.Ask{Query: "kiln 1005"})
	if err != nil || len(found.Lines) != 1 || found.Lines[0].Order != "SO-1005" {
		t.Errorf("two words: %d found, %v", len(found.Lines), err)
	}
	if none, err := o.Query.Open(ctx, query.Ask{Query: "50%"}); err != nil || len(none.Lines) != 0 {
		t.Errorf("a per cent sign is a letter like others: %d found, %v", len(none.Lines), err)
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
