package allocation_test

import (
	"context"
	"strings"
	"testing"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

// By tier and date 15 units go to tier 1, none to the whole order of tier 2, which wants 11, and 5 to tier 3.
func TestWhatWouldBeOtherwise(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.Shortage(t), context.Background()
	entries := o.Entries()
	tried := o.Rehearse(allocation.RunAsk{})
	line := func(order string, no int) int64 { return o.Line(order, no).ID }
	first := tried.Lines[0]
	ask := func(a allocation.WhatIfAsk) allocation.WhatIfView {
		t.Helper()
		v, err := o.Allocation.WhatIf(ctx, a)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	v := ask(allocation.WhatIfAsk{SKU: first.SKU, Warehouse: first.Warehouse, More: 1000})
	if len(v.Lines) == 0 || !strings.Contains(v.What.String(), "1000 more of "+first.SKU) {
		t.Errorf("with a thousand more: %+v", v)
	}
	for _, l := range v.Lines {
		if l.SKU == first.SKU && (l.After < l.Before || l.After != l.Wanted) {
			t.Errorf("with more than enough, %s line %d gets %d of %d", l.Order, l.No, l.After, l.Wanted)
		}
	}
	if v := ask(allocation.WhatIfAsk{SKU: first.SKU, Warehouse: first.Warehouse, More: -1}); len(v.Lines) == 0 {
		t.Errorf("with one fewer nothing is otherwise: %v", v.Says)
	}
	// What is said is what a run says once it is so.
	for _, l := range tried.Lines {
		if l.In[0].Takes == l.Wanted || l.Tier == 1 {
			continue
		}
		v := ask(allocation.WhatIfAsk{Line: l.Line, Tier: 1})
		if !strings.Contains(v.What.String(), "in tier 1 instead of") {
			t.Errorf("%q", v.What)
		}
	}
	number := desktest.ShortageOrders.Orders[0]
	v = ask(allocation.WhatIfAsk{Line: line(number, 1), Sooner: -1})
	if len(v.Says) == 0 || !strings.Contains(v.What.String(), "to ship by") {
		t.Errorf("a day later: %+v", v)
	}
	for words, a := range map[string]allocation.WhatIfAsk{
		"Ask about one thing": {}, "one thing": {Tier: 1, Sooner: 1, Line: line(number, 1)},
		"no stock of":   {SKU: "NONE", Warehouse: "HL", More: 1},
		"no open units": {Line: 999_999, Tier: 1}, "cannot be changed by": {SKU: first.SKU, Warehouse: first.Warehouse, More: -1_000_000},
	} {
		_, err := o.Allocation.WhatIf(ctx, a)
		kind := command.KindConflict
		switch {
		case strings.Contains(words, "thing"):
			kind = command.KindInvalid
		case strings.Contains(words, "no stock"):
			kind = command.KindNotFound
		}
		desktest.Refused(t, err, kind, words)
	}
	if o.Entries() != entries {
		t.Error("asking has written to the journal")
	}
}

// The answer is what a rehearsal says once the thing is so: here, more is counted than was there.
func TestWhatIfIsTheRunAfterwards(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.Shortage(t), context.Background()
	before := o.Rehearse(allocation.RunAsk{})
	l := before.Lines[0]
	v, err := o.Allocation.WhatIf(ctx, allocation.WhatIfAsk{SKU: l.SKU, Warehouse: l.Warehouse, More: 7})
	if err != nil {
		t.Fatal(err)
	}
	o.Owner(`UPDATE stock_cell SET on_hand = on_hand + 7, binned = binned + 7 WHERE (item_id, warehouse_id) =
		(SELECT i.id, w.id FROM item i, warehouse w WHERE i.sku = '` + l.SKU + `' AND w.code = '` + l.Warehouse + `')`)
	after := map[int64]int64{}
	for _, x := range o.Rehearse(allocation.RunAsk{}).Lines {
		after[x.Line] = x.In[0].Takes
	}
	said := map[int64]int64{}
	for _, x := range v.Lines {
		said[x.Line] = x.After
	}
	for _, x := range before.Lines {
		want := after[x.Line]
		if got, is := said[x.Line]; is && got != want || !is && x.In[0].Takes != want {
			t.Errorf("%s line %d: %d is said, a run then says %d", x.Order, x.No, got, want)
		}
	}
	if len(said) == 0 {
		t.Error("seven more make no difference: the test shows nothing")
	}
}
