package query_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
)

// From every document, bin and line to what was done with it, and from each move back to the document.
func TestTheTrailOfDocumentsLinesAndBins(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 2, 6)))
	list := ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole("SO-1002"))).Documents[0].Number
	ok(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 2, 6)}))
	o.PickAll(list)
	ship := o.PackPicked("SO-1002", "HL")
	in, err := o.Query.Inbound(ctx, query.Ask{})
	if err != nil || len(in.Inbound) == 0 {
		t.Fatal(in, err)
	}
	n := in.Inbound[0]
	ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: n.ID, Qty: 2}))
	moves := func(only ...string) []query.JournalRow {
		page, err := o.Query.Journal(ctx, query.Ask{Only: only, Scope: map[string]string{"state": "all"}})
		if err != nil {
			t.Fatal(only, err)
		}
		return page.Moves
	}
	for _, c := range []struct {
		only []string
		want map[string]bool // which moves there are
		all  func(query.JournalRow) bool
	}{
		{[]string{"list=" + list}, map[string]bool{"release": true, "pick": true}, func(m query.JournalRow) bool { return m.Document == list }},
		{[]string{"shipment=" + ship}, map[string]bool{"pack": true}, func(m query.JournalRow) bool { return m.Document == ship }},
		{[]string{"receipt=" + n.Ref}, map[string]bool{"receive": true}, func(m query.JournalRow) bool { return m.Document == n.Ref }},
		{
			[]string{"order=SO-1002", "line=1"},
			map[string]bool{"enter": true, "allocate": true, "release": true, "pick": true, "pack": true},
			func(m query.JournalRow) bool { return m.Order == "SO-1002" && m.Line == 1 },
		},
		{[]string{"bin=T-03-4"}, map[string]bool{"gain": true, "release": true}, func(m query.JournalRow) bool { return m.Bin == "T-03-4" }},
	} {
		got := map[string]bool{}
		for _, m := range moves(c.only...) {
			if got[m.Move] = true; !c.all(m) {
				t.Errorf("%v: %+v", c.only, m)
			}
		}
		for move := range c.want {
			if !got[move] {
				t.Errorf("%v lacks %s: %v", c.only, move, got)
			}
		}
		if len(got) != len(c.want) {
			t.Errorf("%v: %v, want %v", c.only, got, c.want)
		}
	}
	if len(moves("list=PL-NONE")) > 0 {
		t.Error("a list that there is not has moves")
	}
}
