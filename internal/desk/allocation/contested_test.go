package allocation_test

import (
	"context"
	"slices"
	"testing"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/undo"
)

func claimOf(t *testing.T, v allocation.ContestView, order string) allocation.Claim {
	t.Helper()
	for _, c := range v.Claims {
		if c.Order == order {
			return c
		}
	}
	t.Fatalf("%s claims nothing", order)
	return allocation.Claim{}
}

func TestAContestedItemShowsWhoWantsItAndWhatAMoveDoes(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	page, err := o.Allocation.Contested(ctx, "scarce")
	if err != nil || len(page.Items) != 1 {
		t.Fatalf("%+v %v", page, err)
	}
	x := page.Items[0]
	if x.SKU != "ZB-1" || x.Wanted != 37 || x.Free != 20 || x.Missing != 17 || x.Lines != 4 || x.Relief == nil ||
		x.Relief.Ref != "PB-1" || !x.Enough || x.Overdue {
		t.Errorf("%+v", x)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6001", 1, 12)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 8)))
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-6001", 1, 2)}))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6003", 2, 3)))

	v := o.Contest(allocation.ContestAsk{})
	if v.Free != 0 || v.Left != 0 || v.Wanted != 17 || v.Missing != 17 || v.Allocated != 18 || v.Floor != 2 || len(v.Coming) != 1 ||
		v.Effect.Changes != 0 {
		t.Errorf("as it is: %+v", v)
	}
	if order := []string{
		v.Claims[0].Order, v.Claims[1].Order, v.Claims[2].Order, v.Claims[3].Order,
	}; !slices.Equal(order, []string{"SO-6002", "SO-6003", "SO-6001", "SO-6004"}) {
		t.Errorf("in the order %v", order)
	}
	a, b := claimOf(t, v, "SO-6001"), claimOf(t, v, "SO-6002")
	if a.Has != 10 || a.Fixed != 2 || len(a.Lists) != 1 || a.Wants != 10 || a.Most != 10 || !a.Whole {
		t.Errorf("the first %+v", a)
	}
	if b.Has != 8 || b.Lacks != 7 || b.Most != 8 || b.Left != "2027-03-10" || !b.WasLate || b.Ready != 0 || b.OpenLines != 1 {
		t.Errorf("the second %+v", b)
	}
	if c := claimOf(t, v, "SO-6003"); len(c.OtherLines) != 1 || c.OtherLines[0].SKU != "ZB-2" || c.OtherLines[0].At.Allocated != 3 {
		t.Errorf("the third %+v", c)
	}

	// Seven units from the first to the second: the second becomes whole and leaves today, the first waits.
	try := []allocation.UnitsOf{{Line: a.Line, Allocated: 3}, {Line: b.Line, Allocated: 15}}
	v = o.Contest(allocation.ContestAsk{Units: try})
	a2, b2 := claimOf(t, v, "SO-6001"), claimOf(t, v, "SO-6002")
	if a2.Gets != 3 || a2.Lacks != 7 || a2.Whole || a2.Leaves != "2027-03-10" || !a2.Late || b2.Leaves != "2027-03-01" || b2.Late ||
		!b2.Whole {
		t.Errorf("tried: %+v and %+v", a2, b2)
	}
	want := []string{
		"Saltpan Ceramics, SO-6002: in time, Mon 1 Mar in place of Wed 10 Mar", "SO-6002 becomes complete",
		"Saltpan Ceramics, SO-6001: becomes late, Wed 10 Mar in place of Mon 1 Mar", "SO-6001 is no longer whole",
	}
	for i := range want {
		want[i] = replaceName(want[i], a.Customer)
	}
	if e := v.Effect; e.Changes != 2 || e.Moves != 7 || !slices.Equal(desktest.Texts(e.Says), want) ||
		!e.Not.IsZero() || e.Whole != e.WasWhole {
		t.Errorf("effect %+v", e)
	}
	if v := o.Contest(allocation.ContestAsk{Units: []allocation.UnitsOf{{Line: b.Line, Allocated: 15}}}); v.Effect.Not.IsZero() ||
		v.Left != -7 {
		t.Errorf("more than there is: %+v", v.Effect)
	}

	ask := allocation.MoveAsk{
		SKU: "ZB-1", Warehouse: "HL",
		Units: []allocation.UnitsOf{{Line: a.Line, Allocated: 3, Seen: a.Version}, {Line: b.Line, Allocated: 15, Seen: b.Version}},
	}
	_, err = o.Allocation.MoveUnits(ctx, o.By(o.Tom), ask)
	desktest.Refused(t, err, command.KindForbidden, "coordinator")
	out := ok(o.Allocation.MoveUnits(ctx, o.By(o.Ana), ask))
	if out.Sentence != "ZB-1: gave back 7 units, allocated 7 units, on 2 lines." || !out.Undoable {
		t.Errorf("%+v", out)
	}
	_, err = o.Allocation.MoveUnits(ctx, o.By(o.Max), ask)
	desktest.Refused(t, err, command.KindConflict, "has changed since you saw it", "Ana Ruiz")
	o.Sound()
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command}))
	if l := o.Line("SO-6001", 1); l.At.Allocated != 10 {
		t.Errorf("taken back: %d", l.At.Allocated)
	}

	// What a policy would do if all were given back.
	v = o.Contest(allocation.ContestAsk{Policy: "By tier and date"})
	if x, y := claimOf(t, v, "SO-6002").Gets, claimOf(t, v, "SO-6001").Gets; x != 15 || y != 3 {
		t.Errorf("by policy %d and %d", x, y)
	}
	_, err = o.Allocation.Contest(ctx, allocation.ContestAsk{SKU: "ZB-1", Warehouse: "HL", Policy: "No such"})
	desktest.Refused(t, err, command.KindNotFound, "No such")
}

func replaceName(s, name string) string {
	const stands = "Saltpan Ceramics"
	if len(s) > len(stands) && s[:len(stands)] == stands {
		return name + s[len(stands):]
	}
	return s
}

func TestEverythingIsGivenBackAtOnce(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6001", 1, 12)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6002", 1, 8)))
	sel := o.Qty("SO-6002", 1, 6)
	sel.Lines[0].Warehouse = "DQ"
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), sel))
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-6001", 1, 2)}))
	_, err := o.Allocation.GiveBackAll(ctx, o.By(o.Ana), allocation.GiveBackAllAsk{Units: 20})
	desktest.Refused(t, err, command.KindConflict, "by now it is 24")
	ok(o.Allocation.GiveBackAll(ctx, o.By(o.Ana), allocation.GiveBackAllAsk{Warehouse: "DQ", Units: 6}))
	if l := o.Line("SO-6002", 1); l.At.Allocated != 8 {
		t.Errorf("only what stood at DQ was to come back: %d", l.At.Allocated)
	}
	out := ok(o.Allocation.GiveBackAll(ctx, o.By(o.Ana), allocation.GiveBackAllAsk{Units: 18}))
	if l := o.Line("SO-6001", 1); l.At.Allocated != 0 || l.At.Released != 2 {
		t.Errorf("what is on a pick list stays: %+v", l.At)
	}
	o.Sound()
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command}))
	o.Sound()
}

// The steps of a trial are those of the packs and of what is left, from what is tried already.
func TestATrialIsSteppedByThePack(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	ctx := context.Background()
	a, b := o.Line("SO-6002", 1).ID, o.Line("SO-6001", 1).ID
	gets := func(v allocation.ContestView, line int64) int64 {
		for _, c := range v.Claims {
			if c.Line == line {
				return c.Gets
			}
		}
		return -1
	}
	v := o.Contest(allocation.ContestAsk{Step: &allocation.Step{Do: "most", Line: a}})
	if gets(v, a) != 15 || v.Left != 5 {
		t.Fatalf("%d, %d left", gets(v, a), v.Left)
	}
	tried := []allocation.UnitsOf{{Line: a, Allocated: 15}}
	for do, want := range map[string][2]int64{"more": {15, 1}, "most": {15, 5}, "none": {15, 0}, "less": {15, 0}} {
		v = o.Contest(allocation.ContestAsk{Units: tried, Step: &allocation.Step{Do: do, Line: b}})
		if gets(v, a) != want[0] || gets(v, b) != want[1] {
			t.Errorf("%s: %d and %d", do, gets(v, a), gets(v, b))
		}
	}
	v = o.Contest(allocation.ContestAsk{Units: tried, Step: &allocation.Step{Do: "over", Line: b, From: a}})
	if gets(v, a) != 3 || gets(v, b) != 12 || v.Left != 5 {
		t.Errorf("over: %d and %d, %d left", gets(v, a), gets(v, b), v.Left)
	}
	for _, s := range []allocation.Step{{Do: "more", Line: 1 << 40}, {Do: "over", Line: a}, {Do: "over", Line: a, From: a}, {Do: "more"}} {
		if _, err := o.Allocation.Contest(ctx, allocation.ContestAsk{SKU: "ZB-1", Warehouse: "HL", Step: &s}); err == nil {
			t.Errorf("%+v is taken", s)
		}
	}
}

func TestWhatOrdersOnHoldKeepIsGivenBackInOneStep(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	wants := o.Line("SO-6002", 1)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-6001", 1, 12)))
	if v := o.Contest(allocation.ContestAsk{}); v.Kept != 0 || v.KeptBy != 0 {
		t.Fatalf("nothing is on hold: %d by %d", v.Kept, v.KeptBy)
	}
	ok(o.Sales.Hold(ctx, o.By(o.Ana), sales.HoldAsk{Order: "SO-6001", Kind: "credit", Note: "two bills are open"}))
	v := o.Contest(allocation.ContestAsk{})
	if v.Kept != 12 || v.KeptBy != 1 || v.KeptFrom != 15+8+2 || v.Left != 8 {
		t.Errorf("on hold: %d by %d from %d, %d left", v.Kept, v.KeptBy, v.KeptFrom, v.Left)
	}
	v = o.Contest(allocation.ContestAsk{Step: &allocation.Step{Do: "kept"}})
	if v.Kept != 0 || v.KeptBy != 0 || v.Left != 20 || v.Effect.Changes != 1 {
		t.Errorf("given back: %d by %d, %d left, %d changes", v.Kept, v.KeptBy, v.Left, v.Effect.Changes)
	}
	// What is tried besides stays tried, and can be applied.
	v = o.Contest(allocation.ContestAsk{
		Units: []allocation.UnitsOf{{Line: wants.ID, Allocated: 8}}, Step: &allocation.Step{Do: "kept"},
	})
	if v.Left != 12 || v.Effect.Changes != 2 || !v.Effect.Not.IsZero() {
		t.Errorf("with another: %d left, %+v", v.Left, v.Effect)
	}
	units := []allocation.UnitsOf{}
	for _, c := range v.Claims {
		if c.Gets != c.Has {
			units = append(units, allocation.UnitsOf{Line: c.Line, Allocated: c.Gets, Seen: c.Version})
		}
	}
	ok(o.Allocation.MoveUnits(ctx, o.By(o.Ana), allocation.MoveAsk{SKU: "ZB-1", Warehouse: "HL", Units: units}))
	if n := o.Line("SO-6001", 1).At.Allocated; n != 0 {
		t.Errorf("the order on hold still has %d", n)
	}
	if n := o.Line("SO-6002", 1).At.Allocated; n != 8 {
		t.Errorf("the other has %d", n)
	}
}
