package promising_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/undo"
)

// crowded is an item of which 60 are there, 60 more come on the 10th, and three orders have 50 promised
// for this week; a fourth, of tier 1, wants 40 by the 3rd.
func crowded(t *testing.T) *desktest.Office {
	t.Helper()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	o.Load(
		"items.csv", "sku,name,price,cost,buyable,lead_days\nZC-1,A thing in demand,2.00,1.00,no,0\nZC-2,A thing with it,2.00,1.00,yes,0\n",
	)
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZC-1,A-1-1,60\nHL,ZC-2,A-1-2,60\n")
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPC-1,ZC-1,HL,2027-03-10,60\n")
	o.Load(
		"customers.csv",
		"customer,name,tier,email,ship_to,street,city,postcode,country\nKLN,Kiln Row Studio,4,hello@kilnrow.example,MAIN,1 Row,Saltby,SB1 1AA,GB\nBRD,Bridge Pottery,5,,MAIN,2 Row,Saltby,SB1 1AB,GB\n",
	)
	o.Load("orders.csv", "order,customer,wanted,line,sku,warehouse,qty,tier,ship_rule\n"+
		"SO-8001,KLN,2027-03-03,1,ZC-1,HL,20,4,any\n"+
		"SO-8002,BRD,2027-03-04,1,ZC-1,HL,15,5,whole\nSO-8002,BRD,2027-03-04,2,ZC-2,HL,5,5,whole\n"+
		"SO-8003,BRD,2027-03-04,1,ZC-1,HL,15,5,any\n"+
		"SO-8004,SPC,2027-03-03,1,ZC-1,HL,40,1,any\n")
	for _, n := range []string{"SO-8001", "SO-8002", "SO-8003"} {
		ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise(n)))
	}
	return o
}

func TestRoomIsMadeAtTheLeastHarm(t *testing.T) {
	t.Parallel()
	o, ctx, ok := crowded(t), context.Background(), desktest.Done(t)
	l := o.Line("SO-8004", 1)
	ask := promising.RoomAsk{Line: l.ID, SKU: "ZC-1", Warehouse: "HL", Qty: 40, By: "2027-03-03"}
	v, err := o.Promising.MakeRoomFor(ctx, ask)
	if err != nil {
		t.Fatal(err)
	}
	if v.Fits || !v.Possible || v.There.Units != 10 || len(v.Ways) != 2 || len(v.Candidates) != 3 || v.Standing == nil ||
		v.Standing.Code != "SPC" || v.Order != "SO-8004" {
		t.Fatalf("%+v", v)
	}
	// 30 are lacking. The order that goes only whole weighs 2, one for each of its lines: as much as the line of tier 4.
	if w := v.Ways[0]; w.Kind != "number" || w.Title != "Least harm" || w.Harm != 3 || !w.Proved || !w.Enough {
		t.Errorf("least harm: %+v", w)
	}
	least := v.Ways[1]
	if least.Kind != "customers" || least.Harm != 1 || !least.Proved || !least.Enough || least.Lines != 3 ||
		least.Customers != 1 || least.MakesLate != 3 || least.Days != 18 {
		t.Errorf("fewest customers: %+v", least)
	}
	with := 0
	for _, m := range least.Moves {
		if m.To != "2027-03-10" || m.Customer != "Bridge Pottery" {
			t.Errorf("moves %+v", m)
		}
		if m.With {
			with++
		}
	}
	if with != 1 || len(least.Moves) != 3 {
		t.Errorf("the other line of the whole order goes with it: %+v", least.Moves)
	}
	if least.Title != "Fewest customers, fewest days" {
		t.Errorf("the ways that are the same are told once: %s", least.Title)
	}

	// By hand: one is not enough, and says by how much.
	var one promising.RoomMove
	for _, c := range v.Candidates {
		if c.Order == "SO-8001" {
			one = c.RoomMove
			one.To = "2027-03-10"
		}
	}
	ask.Chosen = []promising.RoomMove{one}
	v, err = o.Promising.MakeRoomFor(ctx, ask)
	if err != nil {
		t.Fatal(err)
	}
	if w := v.Ways[2]; w.Kind != "chosen" || w.Enough || w.Lacking != 10 {
		t.Errorf("by hand: %+v", w)
	}
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Seen: l.Version})
	desktest.Refused(t, err, command.KindConflict, "10 are still short")

	ask.Chosen = nil
	for _, m := range least.Moves {
		if !m.With {
			ask.Chosen = append(ask.Chosen, m.RoomMove)
		}
	}
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Tom), promising.RoomApply{RoomAsk: ask, Seen: l.Version})
	desktest.Refused(t, err, command.KindForbidden, "coordinator")
	out := ok(o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Seen: l.Version}))
	if !strings.HasPrefix(out.Sentence, "Postponed the promises of 2 orders. Promised 40 of ZC-1 on SO-8004 line 1 for Wed 3 Mar.") {
		t.Error(out.Sentence)
	}
	for n, want := range map[string]string{
		"SO-8001": "03-03 HL 20", "SO-8002": "03-10 HL 15", "SO-8003": "03-10 HL 15", "SO-8004": "03-03 HL 40",
	} {
		if got := desktest.Promises(o.Line(n, 1)); got != want {
			t.Errorf("%s is promised %s, want %s", n, got, want)
		}
	}
	if got := desktest.Promises(o.Line("SO-8002", 2)); got != "03-10 HL 5" {
		t.Errorf("its other line: %s", got)
	}
	o.Sound()
	// Who was put back has the reason in the trail and a message that is ready.
	trail, err := o.Query.Trail(ctx, "SO-8003", o.Ana)
	if err != nil {
		t.Fatal(err)
	}
	if last := trail[len(trail)-1].Text; !strings.Contains(
		last.String(), "put the promise of ZC-1, line 1 back to 15 for Wed 10 Mar; it was 15 for Thu 4 Mar: to make room for",
	) || !strings.Contains(last.String(), "SO-8004") {
		t.Errorf("trail: %s", last)
	}
	if ms := o.Order("SO-8003").Messages; len(ms) != 1 || !strings.Contains(ms[0].Body, "15 on Wed 10 Mar") ||
		!strings.Contains(ms[0].Subject, "SO-8003") || ms[0].To != "" {
		t.Errorf("messages %+v", ms)
	}

	// What was shown is not done twice, and can be taken back as a whole.
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Seen: l.Version})
	desktest.Refused(t, err, command.KindConflict, "no longer what it was")
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command}))
	for n, want := range map[string]string{"SO-8002": "03-04 HL 15", "SO-8003": "03-04 HL 15", "SO-8004": ""} {
		if got := desktest.Promises(o.Line(n, 1)); got != want {
			t.Errorf("taken back, %s is promised %s, want %s", n, got, want)
		}
	}
	o.Sound()
}

func TestRoomForSomebodyWhoAsks(t *testing.T) {
	t.Parallel()
	o, ctx, ok := crowded(t), context.Background(), desktest.Done(t)
	ask := promising.RoomAsk{SKU: "ZC-1", Warehouse: "HL", Qty: 30, By: "2027-03-06", Customer: "SPC"} // a Saturday: it leaves on Friday
	v, err := o.Promising.MakeRoomFor(ctx, ask)
	if err != nil || v.By != "2027-03-05" || v.Fits || v.Ways[0].Harm != 2 {
		t.Fatalf("%+v %v", v, err)
	}
	// A line that has to stay makes it dearer.
	ask.Fixed = []int64{o.Line("SO-8003", 1).ID}
	v, err = o.Promising.MakeRoomFor(ctx, ask)
	if err != nil || v.Ways[0].Harm != 2 && v.Ways[0].Harm != 3 || len(v.Candidates) != 2 {
		t.Fatalf("%+v %v", v.Ways, err)
	}
	for _, m := range v.Ways[0].Moves {
		if m.Order == "SO-8003" {
			t.Error("the fixed line is put back")
		}
		if !m.With {
			ask.Chosen = append(ask.Chosen, m.RoomMove)
		}
	}
	out := ok(o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask}))
	if !strings.Contains(out.Sentence, "30 of ZC-1 can be promised to") || !strings.HasSuffix(out.Sentence, "for Fri 5 Mar now.") {
		t.Error(out.Sentence)
	}
	v, err = o.Promising.MakeRoomFor(ctx, promising.RoomAsk{SKU: "ZC-1", Warehouse: "HL", Qty: 30, By: "2027-03-05"})
	if err != nil || !v.Fits || v.There.Units < 30 || v.Standing != nil {
		t.Errorf("then it fits: %+v %v", v, err)
	}
	v, err = o.Promising.MakeRoomFor(ctx, promising.RoomAsk{SKU: "ZC-1", Warehouse: "HL", Qty: 300, By: "2027-03-05"})
	if err != nil || v.Possible || v.Fits || !strings.Contains(v.Why.String(), "Even if all promises") {
		t.Errorf("never: %+v %v", v, err)
	}
	for words, bad := range map[string]promising.RoomAsk{
		"no item":       {SKU: "ZZ", Warehouse: "HL", Qty: 1, By: "2027-03-05"},
		"neither stock": {SKU: "ZC-1", Warehouse: "EG", Qty: 1, By: "2027-03-05"},
		"not a day":     {SKU: "ZC-1", Warehouse: "HL", Qty: 1, By: "soon"},
		"fewer open":    {SKU: "ZC-1", Warehouse: "HL", Qty: 99, By: "2027-03-05", Line: o.Line("SO-8004", 1).ID},
	} {
		if _, err := o.Promising.MakeRoomFor(ctx, bad); err == nil || !strings.Contains(err.Error(), words) {
			t.Errorf("%q: %v", words, err)
		}
	}
	o.Sound()
}

// The order is entered in the step that makes the room, so that nobody comes in between.
func TestRoomIsMadeAndTheOrderEnteredInOneStep(t *testing.T) {
	t.Parallel()
	o, ctx, ok := crowded(t), context.Background(), desktest.Done(t)
	// By parcel it takes two working days: to be there on Friday it leaves on Wednesday.
	ask := promising.RoomAsk{SKU: "ZC-1", Warehouse: "HL", Qty: 30, By: "2027-03-03", Customer: "SPC"}
	v, err := o.Promising.MakeRoomFor(ctx, ask)
	if err != nil || v.Fits || len(v.Ways) != 2 {
		t.Fatalf("%+v %v", v, err)
	}
	for _, m := range v.Ways[1].Moves { // those of the one customer
		if !m.With {
			ask.Chosen = append(ask.Chosen, m.RoomMove)
		}
	}
	order := &promising.RoomOrder{Wanted: "2027-03-05", Service: "parcel"}
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Tom), promising.RoomApply{RoomAsk: ask, Order: order})
	desktest.Refused(t, err, command.KindForbidden, "to make room is for coordinator")
	nobody := ask
	nobody.Customer = ""
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: nobody, Order: order})
	desktest.Refused(t, err, command.KindInvalid, "say who it is")
	line := ask
	line.Line = o.Line("SO-8004", 1).ID
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: line, Order: order})
	desktest.Refused(t, err, command.KindInvalid, "for a customer who asks")
	// An order that would be promised for later than room is made for changes nothing.
	_, err = o.Sales.MakeRoom(
		ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Order: &promising.RoomOrder{Wanted: "2027-03-20", Service: "parcel"}},
	)
	desktest.Refused(t, err, command.KindConflict, "only 0 could leave HL by Wed 3 Mar", "Nothing was done")
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Order: &promising.RoomOrder{Wanted: "soon"}})
	desktest.Refused(t, err, command.KindInvalid, "not a day")
	if got := desktest.Promises(o.Line("SO-8003", 1)); got != "03-04 HL 15" {
		t.Errorf("after all that was refused SO-8003 is promised %s", got)
	}

	out := ok(o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Order: order}))
	if len(out.Documents) != 1 || out.Undoable || !strings.HasPrefix(
		out.Sentence, "Postponed the promises of 2 orders. Entered "+out.Documents[0].Number+" for ",
	) ||
		!strings.HasSuffix(out.Sentence, ": 30 of ZC-1 promised for Wed 3 Mar. It is there in time.") {
		t.Fatalf("%+v", out)
	}
	entered := o.Line(out.Documents[0].Number, 1)
	if got := desktest.Promises(entered); got != "03-03 HL 30" || entered.At.Open != 30 {
		t.Errorf("the order is promised %s", got)
	}
	for n, want := range map[string]string{"SO-8001": "03-03 HL 20", "SO-8002": "03-10 HL 15", "SO-8003": "03-10 HL 15"} {
		if got := desktest.Promises(o.Line(n, 1)); got != want {
			t.Errorf("%s is promised %s, want %s", n, got, want)
		}
	}
	if ms := o.Order("SO-8003").Messages; len(ms) != 1 {
		t.Errorf("messages %+v", ms)
	}
	trail, err := o.Query.Trail(ctx, "SO-8003", o.Ana)
	if err != nil || !strings.Contains(trail[len(trail)-1].Text.String(), "room was made for") {
		t.Errorf("%v %+v", err, trail)
	}
	o.Sound()
	// A second time the room is no longer there to be made.
	_, err = o.Sales.MakeRoom(ctx, o.By(o.Ana), promising.RoomApply{RoomAsk: ask, Order: order})
	desktest.Refused(t, err, command.KindConflict, "no longer what it was")
}

func TestTheStandingOfACustomer(t *testing.T) {
	t.Parallel()
	o := crowded(t)
	s, err := o.Promising.Standing(context.Background(), "KLN")
	if err != nil || s.ValueMinor != 4000 || s.Tier != 4 || s.Rank < 1 || s.Of < 3 || s.TrendBP != nil {
		t.Errorf("%+v %v", s, err)
	}
	_, err = o.Promising.Standing(context.Background(), "NOBODY")
	desktest.Refused(t, err, command.KindNotFound, "NOBODY")
}

// Orders of many customers come through one channel: it is customers that are counted.
func TestTheFewestCustomersAreCustomersAndNotChannels(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	o.Load("items.csv", "sku,name,price,cost,buyable,lead_days\nZC-1,A thing in demand,2.00,1.00,no,0\n")
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZC-1,A-1-1,70\n")
	o.Load("inbound.csv", "ref,sku,warehouse,due,qty\nPC-1,ZC-1,HL,2027-03-10,70\n")
	o.Load(
		"customers.csv",
		"customer,name,tier,email,ship_to,street,city,postcode,country\nKLN,Kiln Row Studio,5,,MAIN,1 Row,Saltby,SB1 1AA,GB\nBRD,Bridge Pottery,5,,MAIN,2 Row,Saltby,SB1 1AB,GB\nHLL,Hill School,1,,MAIN,3 Row,Saltby,SB1 1AC,GB\n",
	)
	o.Load("orders.csv", "order,customer,channel,wanted,line,sku,warehouse,qty,tier\n"+
		"SO-8001,KLN,web,2027-03-03,1,ZC-1,HL,20,5\nSO-8002,BRD,web,2027-03-04,1,ZC-1,HL,15,5\nSO-8003,HLL,web,2027-03-04,1,ZC-1,HL,35,1\n")
	for _, n := range []string{"SO-8001", "SO-8002", "SO-8003"} {
		ok(o.Promising.Promise(ctx, o.By(o.Tom), o.Promise(n)))
	}
	v, err := o.Promising.MakeRoomFor(ctx, promising.RoomAsk{SKU: "ZC-1", Warehouse: "HL", Qty: 35, By: "2027-03-03"})
	if err != nil {
		t.Fatal(err)
	}
	for kind, want := range map[string][2]int{"number": {2, 2}, "customers": {1, 1}} { // both of tier 5 weigh less than the one of tier 1
		i := slices.IndexFunc(v.Ways, func(w promising.RoomWay) bool { return w.Kind == kind })
		if i < 0 || v.Ways[i].Harm != int64(want[0]) || v.Ways[i].Customers != want[1] || !v.Ways[i].Proved {
			t.Errorf("%s: %+v, want harm %d among %d customers", kind, v.Ways, want[0], want[1])
		}
	}
}
