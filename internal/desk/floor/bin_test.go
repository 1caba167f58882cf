package floor_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
)

func TestABinThatWasNeverSetIsSetOnce(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	l := o.Line("SO-1005", 1)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1005", 1, 1)))
	_, err := o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1005", 1, 1)})
	desktest.Refused(t, err, command.KindConflict, "no bin")
	for text, ask := range map[string]floor.BinAsk{
		"not the code of a bin": {SKU: l.SKU, Warehouse: l.Warehouse, Bin: "left of the door"},
		"no item X":             {SKU: "X", Warehouse: l.Warehouse, Bin: "C-1"},
		"no warehouse ZZ":       {SKU: l.SKU, Warehouse: "ZZ", Bin: "C-1"},
	} {
		if _, err := o.Floor.SetBin(ctx, o.By(o.Flo), ask); err == nil {
			t.Errorf("%s: %+v was done", text, ask)
		} else {
			refusal, _ := command.AsRefusal(err)
			desktest.Refused(t, err, refusal.Kind, text)
		}
	}
	before := o.Cell(l.SKU, l.Warehouse)
	ok(o.Floor.SetBin(ctx, o.By(o.Flo), floor.BinAsk{SKU: l.SKU, Warehouse: l.Warehouse, Bin: "k-90-3"}))
	after := o.Cell(l.SKU, l.Warehouse)
	if len(after.Bins) != 1 || after.Bins[0].Bin != "K-90-3" || after.Bins[0].Zone != "K" || after.OnHand != before.OnHand ||
		after.Free != before.Free {
		t.Errorf("before %+v, after %+v", before, after)
	}
	_, err = o.Floor.SetBin(ctx, o.By(o.Flo), floor.BinAsk{SKU: l.SKU, Warehouse: l.Warehouse, Bin: "K-90-4"})
	desktest.Refused(t, err, command.KindConflict, "lies in no bin")
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1005", 1, 1)}))
	o.Sound()
}
