package query_test

import (
	"context"
	"testing"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/undo"
	"journeyman/internal/query"
)

// The journal has every move with who, where and by which document, says what was taken back, and is asked by time, order, item and person.
func TestTheJournalIsAskedLikeAnyList(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	journal := func(state, words string, only ...string) []query.JournalRow {
		t.Helper()
		ask := query.InState(state)
		ask.Query, ask.Only = words, only
		page, err := o.Query.Journal(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		return page.Moves
	}
	imported := len(journal("", ""))
	o.At = o.At.AddDate(0, 0, 10)
	if n := len(journal("", "")); n != 0 || len(journal("month", "")) != imported || len(journal("all", "")) != imported {
		t.Fatalf("ten days later %d of %d entries are of the last seven days", n, imported)
	}
	out := ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1003", 1, 2)))
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command}))
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	shipment := o.Pack("SO-1002", "HL")
	today := journal("today", "")
	if len(today) < 6 || len(journal("", "")) != len(today) {
		t.Fatalf("today: %d entries", len(today))
	}
	if at, err := time.Parse(time.RFC3339, today[0].At); err != nil || !at.Equal(o.At) {
		t.Errorf("the latest is of %s", today[0].At)
	}
	for _, m := range today {
		switch m.Move {
		case "allocate":
			if m.Undone != (m.Order == "SO-1003") || m.From != "open" || m.To != "allocated" || m.Who != "Ana Ruiz" {
				t.Errorf("allocated: %+v", m)
			}
		case "pack":
			if m.Document != shipment || m.DocumentKind != "shipment" || m.Who != "Flo Marsh" || m.Order != "SO-1002" {
				t.Errorf("packed: %+v", m)
			}
		}
	}
	first := today[len(today)-1]
	if first.Order != "SO-1003" || first.Move != "allocate" || first.Qty != 2 {
		t.Errorf("the first of today: %+v", first)
	}
	want := 0
	for _, m := range today {
		if m.Order == "SO-1003" {
			want++
		}
	}
	for _, asked := range [][]query.JournalRow{
		journal("today", "so-1003"), journal("today", "", "order=SO-1003"), journal("today", "", "order~1003"),
		journal("today", "", "order=SO-1003", "item="+first.SKU, "warehouse="+first.Warehouse, "qty=2"),
	} {
		if len(asked) != want || want == 0 {
			t.Errorf("of SO-1003 %d are found, %d were made", len(asked), want)
		}
	}
	if n := len(journal("today", "", "order!=SO-1003")); n != len(today)-want {
		t.Errorf("not of SO-1003: %d of %d", n, len(today)-want)
	}
	if n := len(journal("today", "", "who=Flo Marsh")); n == 0 || n == len(today) {
		t.Errorf("by Flo: %d of %d", n, len(today))
	}
	// A stock entry has no order, and is found by that.
	if none := journal("all", "", "order="); len(none) == 0 || none[0].Order != "" || none[0].From != none[0].To {
		t.Errorf("without an order: %+v", none)
	}
}
