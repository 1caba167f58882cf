package command_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/sales"
)

func TestAStaleClickIsRefusedWithWhatChanged(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	stale := o.Qty("SO-1001", 1, 10)
	ok(o.Allocation.Allocate(ctx, o.By(o.Max), o.Qty("SO-1001", 1, 20)))
	_, err := o.Allocation.Allocate(ctx, o.By(o.Ana), stale)
	desktest.Refused(t, err, command.KindConflict, "SO-1001 line 1 has changed", "Max Orme allocated 20", "at 09:00")
	staleOrder := command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002", Seen: o.Order("SO-1002").Version}}}
	ok(o.Allocation.Allocate(ctx, o.By(o.Max), o.Qty("SO-1002", 2, 4)))
	_, err = o.Allocation.Allocate(ctx, o.By(o.Ana), staleOrder)
	desktest.Refused(t, err, command.KindConflict, "SO-1002 has changed", "Max Orme allocated 4")
	if o.Line("SO-1001", 1).At.Allocated != 20 || o.Order("SO-1002").At.Allocated != 4 {
		t.Error("a refused command changed something")
	}
	o.Sound()
}

func TestTheSameKeyIsCarriedOutOnce(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	call, ask := o.By(o.Ana), o.Qty("SO-1001", 1, 5)
	first := ok(o.Allocation.Allocate(ctx, call, ask))
	again := ok(o.Allocation.Allocate(ctx, call, ask))
	if first.Command != again.Command || first.Sentence != again.Sentence || o.Line("SO-1001", 1).At.Allocated != 5 {
		t.Errorf("done twice: %+v %+v", first, again)
	}
	ask.Lines[0].Qty = 6
	_, err := o.Allocation.Allocate(ctx, call, ask)
	desktest.Refused(t, err, command.KindInvalid, "key that was used")
}

func TestRolesMayDoWhatIsTheirs(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	_, err := o.Allocation.Allocate(ctx, o.By(o.Flo), o.Qty("SO-1001", 1, 1))
	desktest.Refused(t, err, command.KindForbidden, "signed in as floor", "coordinator or manager")
	_, err = o.Sales.Lift(ctx, o.By(o.Ana), sales.LiftAsk{Order: "SO-1004", Kind: "credit"})
	desktest.Refused(t, err, command.KindForbidden, "manager")
	ok(o.Sales.Lift(ctx, o.By(o.Max), sales.LiftAsk{Order: "SO-1004", Kind: "credit"}))
	if len(o.Order("SO-1004").Holds) != 0 {
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
