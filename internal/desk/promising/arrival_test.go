package promising_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
)

// arriving is an item that cannot be bought, with 20 on hand, 50 due on the 10th and
// three orders promised: 20 from stock, 30 and 15 from what comes.
func arriving(t *testing.T) (*desktest.Office, int64) {
	t.Helper()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	files := []exchange.File{
		{Name: "items.csv", Data: []byte("sku,name,price,cost,buyable,lead_days\nZA-1,An awaited thing,2.00,1.00,no,0\n")},
		{Name: "stock.csv", Data: []byte("warehouse,sku,bin,on_hand\nHL,ZA-1,A-1-1,20\n")},
		{Name: "inbound.csv", Data: []byte("ref,sku,warehouse,due,qty\nPA-1,ZA-1,HL,2027-03-10,50\nPA-2,ZA-1,HL,2027-03-24,10\n")},
		{Name: "orders.csv", Data: []byte(desktest.Leaving("order,customer,wanted,line,sku,warehouse,qty,tier,ship_rule\n" +
			"SO-5001,SPC,2027-03-03,1,ZA-1,HL,20,3,any\nSO-5002,SPC,2027-03-12,1,ZA-1,HL,30,2,any\nSO-5003,SPC,2027-03-11,1,ZA-1,HL,15,1,lines\n"))},
	}
	if _, rep, err := o.Importing.Import(ctx, o.By(o.Ana), files); err != nil {
		t.Fatal(err, rep.Faults)
	}
	for _, n := range []string{"SO-5001", "SO-5002", "SO-5003"} {
		ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise(n)))
	}
	page, err := o.Query.Inbound(ctx, query.Ask{Query: "PA-1"})
	in := page.Inbound
	if err != nil || len(in) != 1 {
		t.Fatal(in, err)
	}
	return o, in[0].ID
}

func TestMovingAnArrivalShowsWhatSlipsBeforeItIsDone(t *testing.T) {
	t.Parallel()
	o, id := arriving(t)
	ctx, ok := context.Background(), desktest.Done(t)
	see := func(due string) promising.ArrivalEffect {
		t.Helper()
		e, err := o.Promising.ArrivalMoved(ctx, id, due)
		if err != nil {
			t.Fatal(err)
		}
		return e
	}
	// A day later the order for the 11th can still be kept; two days later neither can, and the stock's promise stands.
	if e := see("2027-03-11"); len(e.Slips) != 0 || e.Kept != 3 {
		t.Errorf("a day later %d slip and %d are kept", len(e.Slips), e.Kept)
	}
	e := see("2027-03-15")
	if len(e.Slips) != 2 || e.Kept != 1 || len(e.Saved) != 0 || e.Was != "2027-03-10" {
		t.Fatalf("on the 15th: %+v", e)
	}
	// By tier: the tier-1 line first, each with the day it could have.
	first, second := e.Slips[0], e.Slips[1]
	if first.Order != "SO-5003" || first.Was[0].Day != "2027-03-11" || first.Now[0].Day != "2027-03-15" || first.Short != 0 {
		t.Errorf("first %+v", first)
	}
	if second.Order != "SO-5002" || second.Now[0].Day != "2027-03-15" || second.Now[0].Qty != 30 {
		t.Errorf("then %+v", second)
	}
	// It was only a look.
	if l := o.Line("SO-5003", 1); desktest.Promises(l) != "03-11 HL 15" {
		t.Errorf("looking changed the promise to %q", desktest.Promises(l))
	}

	call := o.By(o.Ana)
	call.Reason = "the kiln at the works is down"
	move := promising.ArrivalMove{Inbound: id, Due: "2027-03-15", Seen: "2027-03-10", Anew: true, Effect: 2}
	out := ok(o.Promising.MoveArrival(ctx, call, move))
	if out.Sentence != "PA-1 is due Mon 15 Mar now; it was Wed 10 Mar. Promised anew: 2 lines." {
		t.Error(out.Sentence)
	}
	if a, b := desktest.Promises(o.Line("SO-5002", 1)), desktest.Promises(o.Line("SO-5003", 1)); a != "03-15 HL 30" || b != "03-15 HL 15" {
		t.Errorf("promised anew %q and %q", a, b)
	}
	o.Sound()
	if e := see("2027-03-12"); len(e.History) != 1 || e.History[0].Reason != call.Reason || e.History[0].Who != "Ana Ruiz" {
		t.Errorf("its history is %+v", e.History)
	}
	trail, err := o.Query.Trail(ctx, "SO-5002", o.Ana)
	if err != nil || trail[len(
		trail,
	)-1].Text.String() != "promised 30 for Mon 15 Mar of ZA-1, line 1; it was 30 for Fri 12 Mar: the kiln at the works is down" {
		t.Errorf("the trail ends with %q (%v)", trail[len(trail)-1].Text, err)
	}
}

func TestMovingAnArrivalWithoutPromisingAnewLeavesThemAndSaysSo(t *testing.T) {
	t.Parallel()
	o, id := arriving(t)
	ctx, ok := context.Background(), desktest.Done(t)
	out := ok(
		o.Promising.MoveArrival(ctx, o.By(o.Ana), promising.ArrivalMove{Inbound: id, Due: "2027-03-29", Seen: "2027-03-10", Effect: 2}),
	)
	if out.Sentence != "PA-1 is due Mon 29 Mar now; it was Wed 10 Mar. As it stands the promises of 2 lines cannot be kept." {
		t.Error(out.Sentence)
	}
	page, err := o.Query.Promised(ctx, query.Ask{Query: "ZA-1", Who: o.Ana})
	if err != nil {
		t.Fatal(err)
	}
	shaky := 0
	for _, p := range page.Promises {
		if p.Shaky {
			shaky++
		}
	}
	if shaky != 2 {
		t.Errorf("%d of %d promises are shown as shaky", shaky, len(page.Promises))
	}
	// Moved back, what was lost is saved.
	e, err := o.Promising.ArrivalMoved(ctx, id, "2027-03-09")
	if err != nil || len(e.Saved) != 2 || len(e.Slips) != 0 {
		t.Errorf("back on the 9th: %+v %v", e, err)
	}
	o.Sound()
}

func TestAnArrivalIsMovedOnlyAsItWasSeen(t *testing.T) {
	t.Parallel()
	o, id := arriving(t)
	ctx, ok := context.Background(), desktest.Done(t)
	move := func(due, seen string, effect int) error {
		_, err := o.Promising.MoveArrival(ctx, o.By(o.Ana), promising.ArrivalMove{Inbound: id, Due: due, Seen: seen, Effect: effect})
		return err
	}
	desktest.Refused(t, move("2027-03-15", "2027-03-09", 2), command.KindConflict, "is due Wed 10 Mar now")
	desktest.Refused(t, move("2027-03-15", "2027-03-10", 1), command.KindConflict, "2 lines would slip now")
	desktest.Refused(t, move("2027-03-10", "2027-03-10", 0), command.KindInvalid, "already")
	desktest.Refused(t, move("2027-02-10", "2027-03-10", 0), command.KindInvalid, "has passed")
	desktest.Refused(t, move("soon", "2027-03-10", 0), command.KindInvalid, "not a day")
	_, err := o.Promising.MoveArrival(ctx, o.By(o.Flo), promising.ArrivalMove{Inbound: id, Due: "2027-03-15", Seen: "2027-03-10"})
	desktest.Refused(t, err, command.KindForbidden, "for coordinator or manager")
	_, err = o.Promising.ArrivalMoved(ctx, 999_999, "2027-03-15")
	desktest.Refused(t, err, command.KindNotFound, "no such inbound")
	ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: id, Qty: 50}))
	desktest.Refused(t, move("2027-03-15", "2027-03-10", 0), command.KindConflict, "has come in full")
}

// What slips and can be had nowhere is said, not promised.
func TestWhatCanBeHadOnNoDayIsSaidToBeShort(t *testing.T) {
	t.Parallel()
	o, id := arriving(t)
	ctx := context.Background()
	desktest.Done(t)(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: id, Qty: 40})) // ten are still to come
	e, err := o.Promising.ArrivalMoved(ctx, id, "2027-03-30")
	if err != nil {
		t.Fatal(err)
	}
	// 60 are on hand for 65 promised: the ten that come with PA-2 on the 24th are enough for the last five.
	if len(e.Slips) != 1 || e.Slips[0].Now[len(e.Slips[0].Now)-1].Day != "2027-03-24" || e.Slips[0].Short != 0 {
		t.Errorf("with PA-2 to come: %+v", e.Slips)
	}
}

func TestAnOrderThatGoesOnlyWholeSlipsWhole(t *testing.T) {
	t.Parallel()
	o, id := arriving(t)
	ctx, ok := context.Background(), desktest.Done(t)
	number := o.Enter(sales.Draft{
		Customer: "TDW", Wanted: "2027-03-14",
		Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 6}, {SKU: "ZA-1", Qty: 2}, {SKU: "CB-110", Qty: 4}},
	})
	if a, b := o.Line(number, 1), o.Line(number, 2); a.Promises[0].Day != b.Promises[0].Day || a.Promises[0].Day > "2027-03-12" {
		t.Fatalf("promised %+v and %+v", a.Promises, b.Promises)
	}
	e, err := o.Promising.ArrivalMoved(ctx, id, "2027-03-16")
	if err != nil {
		t.Fatal(err)
	}
	slipped := 0
	for _, s := range e.Slips {
		if s.Order == number {
			slipped++
			if len(s.Now) != 1 || s.Now[0].Day < "2027-03-16" || s.Now[0].Day != e.Slips[len(e.Slips)-1].Now[0].Day &&
				s.Order == e.Slips[len(e.Slips)-1].Order {
				t.Errorf("line %d slips to %+v", s.No, s.Now)
			}
		}
	}
	if slipped != 3 {
		t.Errorf("%d of its three lines slip: %+v", slipped, e.Slips)
	}
	ok(o.Promising.MoveArrival(
		ctx, o.By(o.Ana), promising.ArrivalMove{Inbound: id, Due: "2027-03-16", Seen: "2027-03-10", Anew: true, Effect: len(e.Slips)},
	))
	day := o.Line(number, 2).Promises[0].Day
	for n := 1; n <= 3; n++ {
		if l := o.Line(number, n); len(l.Promises) != 1 || l.Promises[0].Day != day || day < "2027-03-16" {
			t.Errorf("line %d is promised %+v, line 2 for %s", n, l.Promises, day)
		}
	}
	o.Sound()
}
