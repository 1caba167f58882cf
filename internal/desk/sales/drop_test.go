package sales_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

func TestDropAndReopen(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	_, err := o.Sales.Drop(ctx, o.By(o.Tom), o.Qty("SO-1002", 1, 4))
	desktest.Refused(t, err, command.KindInvalid, "Say why")
	call := o.By(o.Tom)
	call.Reason = "no longer wanted"
	ok(o.Sales.Drop(ctx, call, command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	if v := o.Order("SO-1002"); !v.Finished || v.At.Dropped != 64 {
		t.Errorf("dropped: %+v", v.At)
	}
	ok(o.Sales.Reopen(ctx, o.By(o.Tom), o.Qty("SO-1002", 2, 40)))
	if v := o.Order("SO-1002"); v.Finished || v.At.Open != 40 {
		t.Errorf("reopened: %+v", v.At)
	}
	o.Sound()
}
