package allocation_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

func TestWhatCannotBeAllocatedSaysWhy(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	cases := []struct {
		why   string
		ask   command.Selection
		kind  command.Kind
		words []string
	}{
		{"more than is free", o.Qty("SO-1001", 1, 69), command.KindConflict, []string{"Only 68 of GL-2040-1 are free at HL"}},
		{"more than is open", o.Qty("SO-1002", 1, 25), command.KindConflict, []string{"has 24 open"}},
		{"no whole pack", o.Qty("SO-1002", 2, 6), command.KindInvalid, []string{"packs of 4"}},
		{"none free here", o.Qty("SO-1003", 2, 3), command.KindConflict, []string{"Only 2 of KL-070"}},
		{"nothing chosen", command.Selection{}, command.KindInvalid, []string{"Choose lines or orders"}},
		{
			"no such line",
			command.Selection{Lines: []command.LineQty{{Line: 999_999, Qty: 1}}},
			command.KindNotFound,
			[]string{"no such order line"},
		},
		{
			"no such order",
			command.Selection{Orders: []command.OrderSeen{{Number: "SO-9"}}},
			command.KindNotFound,
			[]string{"no order SO-9"},
		},
		{
			"nothing to allocate",
			command.Selection{Orders: []command.OrderSeen{{Number: "SO-1001"}, {Number: "SO-1001"}}},
			command.KindInvalid,
			[]string{"twice"},
		},
	}
	for _, c := range cases {
		_, err := o.Allocation.Allocate(ctx, o.By(o.Ana), c.ask)
		t.Run(c.why, func(t *testing.T) { desktest.Refused(t, err, c.kind, c.words...) })
	}
	o.Sound()
}

func TestOrdersAreServedInTheOrderListed(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	// 68 bottles are free; SO-1002 wants 24 and SO-1001 wants 100.
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}, {Number: "SO-1001"}}}))
	if a, b := o.Line("SO-1002", 1).At.Allocated, o.Line("SO-1001", 1).At.Allocated; a != 24 || b != 44 {
		t.Errorf("first %d, then %d; want 24 and 44", a, b)
	}
}
