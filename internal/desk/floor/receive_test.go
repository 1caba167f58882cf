package floor_test

import (
	"context"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
)

func TestMoreOrFewerComeThanWereExpected(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	in := o.Inbound("PO-733")
	_, err := o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 30, Item: "TL-014", Seen: 1})
	desktest.Refused(t, err, command.KindConflict, "PO-733 brings GL-2040-1; TL-014 was scanned")
	_, err = o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 30, Last: true, Seen: 1})
	desktest.Refused(t, err, command.KindInvalid, "30 of 100 of GL-2040-1 came. Say why the rest does not")
	// A part of it, then more than was left, into two bins.
	ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 60, Item: "gl-2040-1", Bin: "C-14-2", Seen: 1}))
	out := ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 52, Bin: "C-14-9", Why: "a full pallet came", Seen: 61}))
	if !strings.HasSuffix(out.Sentence, "Expected were 40: a full pallet came.") {
		t.Errorf("said: %s", out.Sentence)
	}
	n := o.Inbound("PO-733")
	if n.Qty != 112 || n.Received != 112 || n.Left != 0 || !strings.HasPrefix(n.Note.String(), "100 were expected until Flo Marsh") ||
		!strings.HasSuffix(n.Note.String(), "a full pallet came.") {
		t.Errorf("more came: %+v, %s", n, n.Note)
	}
	if c := o.Cell("GL-2040-1", "HL"); c.OnHand != 72+112 {
		t.Errorf("%d on hand", c.OnHand)
	}
	// Fewer, and nothing more comes: what rests on the rest knows it.
	other := o.Inbound("PO-734")
	out = ok(o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: other.ID, Qty: 1, Last: true, Why: "the rest was broken", Seen: 1}))
	other = o.Inbound("PO-734")
	if other.Left != 0 || other.Qty != 1 || !strings.Contains(out.Sentence, "not expected any more: the rest was broken.") {
		t.Errorf("fewer came: %+v, said: %s", other, out.Sentence)
	}
	_, err = o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 1, Seen: 61})
	desktest.Refused(t, err, command.KindConflict, "112 of 112")
	o.Sound()
}

func TestWhoIsOnABreakIsSeenUntilTheyPickAgain(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	number := ok(o.Floor.Release(ctx, o.By(o.Ana), desktest.Whole("SO-1002"))).Documents[0].Number
	ok(o.Floor.Hand(ctx, o.By(o.Flo), floor.HandAsk{List: number}))
	away := func() (onList, ofPerson bool) {
		l, err := o.Query.PickList(ctx, number)
		if err != nil {
			t.Fatal(err)
		}
		people, err := o.Query.Pickers(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range people {
			ofPerson = ofPerson || p.Name == "Flo Marsh" && p.Break != ""
		}
		return l.Break != "", ofPerson
	}
	for _, c := range []struct {
		do   func()
		want bool
	}{
		{func() { ok(o.Floor.Break(ctx, o.By(o.Flo), floor.BreakAsk{})) }, true},
		{func() { ok(o.Floor.Break(ctx, o.By(o.Flo), floor.BreakAsk{})) }, true},
		{func() { ok(o.Floor.Break(ctx, o.By(o.Flo), floor.BreakAsk{Back: true})) }, false},
		{func() { ok(o.Floor.Break(ctx, o.By(o.Flo), floor.BreakAsk{})) }, true},
		{func() { o.PickAll(number) }, false},
	} {
		c.do()
		if onList, ofPerson := away(); onList != c.want || ofPerson != c.want {
			t.Errorf("on a break: %v on the list, %v of the person, want %v", onList, ofPerson, c.want)
		}
	}
}

// No bin is called like the place where recalled units wait before there is one: its goods would be taken for such units.
func TestNoBinIsCalledLikeThePlaceOfWhatWasRecalled(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	in := o.Inbound("PO-733")
	_, err := o.Floor.Receive(ctx, o.By(o.Flo), floor.Receipt{Inbound: in.ID, Qty: 1, Bin: "put-back", Seen: 1})
	desktest.Refused(t, err, command.KindInvalid, "recalled units wait to be put back")
	files := desktest.File("stock.csv", "warehouse,sku,bin,zone,on_hand\nHL,TL-014,PUT-BACK,T,5\n")
	_, r, err := o.Importing.Import(ctx, o.By(o.Ana), files)
	if err == nil || len(r.Faults) != 1 || r.Faults[0].Column != "bin" {
		t.Errorf("imported into it: %+v %v", r.Faults, err)
	}
}
