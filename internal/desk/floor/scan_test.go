package floor_test

import (
	"context"
	"fmt"
	"sync"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
)

// onFloor is an office in which 40 units of an item that lies in two bins, 30 and 50, are on a pick list.
func onFloor(t *testing.T) (*desktest.Office, query.PickListView) {
	t.Helper()
	o := desktest.New(t)
	o.Load("items.csv", "sku,name,barcode\nTW-1,Twine,5012345678900\n")
	o.Load("stock.csv", "warehouse,sku,bin,zone,on_hand\nHL,TW-1,P-01-1,P,50\nHL,TW-1,Q-01-1,Q,30\n")
	o.Load("orders.csv", "order,customer,wanted,line,sku,qty,warehouse\nTW-90,SPC,2027-03-02,1,TW-1,40,HL\n")
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("TW-90", 1, 40)))
	ask := desktest.Whole("TW-90")
	ask.Print = true
	number := ok(o.Floor.Release(ctx, o.By(o.Ana), ask)).Documents[0].Number
	return o, listOf(t, o, number)
}

func listOf(t *testing.T, o *desktest.Office, number string) query.PickListView {
	t.Helper()
	l, err := o.Query.PickList(context.Background(), number)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

func TestPickingFromAnotherBinThanTheListSays(t *testing.T) {
	t.Parallel()
	o, list := onFloor(t)
	ctx, ok := context.Background(), desktest.Done(t)
	task := list.Tasks[0]
	if task.Bin != "P-01-1" || task.Tote != "A" || task.Barcode != "5012345678900" || fmt.Sprint(task.Others) != "[{Q-01-1 30}]" {
		t.Fatalf("%+v", task)
	}
	pick := func(f floor.Found) error {
		f.Task = task.ID
		_, err := o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{f})
		return err
	}
	// What cannot be is refused, and nothing is done.
	desktest.Refused(t, pick(floor.Found{Qty: 40, Seen: 40, From: "Q-01-1"}), command.KindConflict, "holds 30 of TW-1")
	desktest.Refused(t, pick(floor.Found{Qty: 1, Seen: 40, From: "Z-9", Later: true}), command.KindConflict, "Bin Z-9 holds no TW-1")
	desktest.Refused(t, pick(floor.Found{Qty: 40, Seen: 40, Item: "TL-014"}), command.KindConflict, "TL-014 was scanned")
	desktest.Refused(t, pick(floor.Found{Qty: 40, Seen: 40, Later: true}), command.KindInvalid, "there has to be a rest")
	desktest.Refused(t, pick(floor.Found{Qty: 4, Seen: 40, Later: true, Cause: "missing"}), command.KindInvalid, "say of how many")
	desktest.Refused(t, pick(floor.Found{Qty: 4, Seen: 40, Later: true, Sheet: "PL-1-R1"}), command.KindConflict, "not of "+list.Number)
	if l := o.Line("TW-90", 1); l.At.Released != 40 {
		t.Errorf("%+v", l.At)
	}
	// Twelve are taken where the list says, the rest lies in the other bin.
	if err := pick(floor.Found{Qty: 12, Seen: 40, Later: true, Item: "5012345678900", Sheet: list.Number + "-r1"}); err != nil {
		t.Fatal(err)
	}
	if err := pick(floor.Found{Qty: 28, Seen: 28, From: "q-01-1", Item: "tw-1"}); err != nil {
		t.Fatal(err)
	}
	bins := map[string]int64{}
	for _, b := range o.Cell("TW-1", "HL").Bins {
		bins[b.Bin] = b.Qty
	}
	if l := o.Line("TW-90", 1); l.At.Picked != 40 || bins["P-01-1"] != 38 || bins["Q-01-1"] != 2 {
		t.Errorf("%+v, %v", l.At, bins)
	}
	if l := listOf(t, o, list.Number); l.Picker != o.Flo.Name || l.Due != 0 {
		t.Errorf("whoever picks has the list: %+v", l.ListView)
	}
	ok(o.Floor.Print(ctx, o.By(o.Ana), floor.PrintAsk{Lists: []string{list.Number}}))
	o.Sound()
}

// Eight are expected, five are found, one of them broken.
func TestSomeAreMissingAndSomeAreDamaged(t *testing.T) {
	t.Parallel()
	o, list := onFloor(t)
	ctx, ok := context.Background(), desktest.Done(t)
	task, before := list.Tasks[0].ID, o.Cell("TW-1", "HL")
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task, Qty: 36, Seen: 40, Later: true, Cause: "damaged", Short: 1}}))
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: task, Seen: 3, Cause: "missing"}}))
	after := o.Cell("TW-1", "HL")
	if l := o.Line("TW-90", 1); l.At.Picked != 36 || l.At.Open != 4 || after.Held-before.Held != 1 || after.OnHand-before.OnHand != -3 {
		t.Errorf("%+v, before %+v, after %+v", l.At, before, after)
	}
	for text, f := range map[string]floor.Found{
		"say of how many": {Qty: 1, Short: 1}, "there has to be a rest": {Qty: 1, Later: true, Cause: "missing", Short: 39},
	} {
		o, list := onFloor(t)
		f.Task = list.Tasks[0].ID
		_, err := o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{f})
		desktest.Refused(t, err, command.KindInvalid, text)
	}
	// The coordinator is asked about it, once; what is free can be allocated at once.
	page, err := o.Query.Todo(ctx, o.Ana, query.TodoOffice)
	if err != nil {
		t.Fatal(err)
	}
	var about []query.Todo
	for _, x := range page.Todos {
		if x.Number == "TW-90" {
			about = append(about, x)
		}
	}
	if len(about) != 1 || about[0].Kind != "short" || about[0].Units != 3 || about[0].SKU != "TW-1" || len(about[0].Chosen) != 1 ||
		about[0].Note.String() != o.Flo.Name+" found fewer in P-01-1" {
		t.Fatalf("%+v", about)
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Lines: about[0].Chosen}))
	if page, err = o.Query.Todo(ctx, o.Ana, query.TodoOffice); err != nil {
		t.Fatal(err)
	}
	for _, x := range page.Todos {
		if x.Kind == "short" {
			t.Errorf("it is still asked: %+v", x)
		}
	}
	o.Sound()
}

func TestAVoidSheetIsRefusedAtPicking(t *testing.T) {
	t.Parallel()
	o, list := onFloor(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Floor.Print(ctx, o.By(o.Ana), floor.PrintAsk{Lists: []string{list.Number}}))
	_, err := o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 40, Seen: 40, Sheet: list.Number + "-R1"}})
	desktest.Refused(t, err, command.KindConflict, "is void: printed again by "+o.Ana.Name)
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 40, Seen: 40, Sheet: list.Number + "-R2"}}))
}

func TestWhoPicksAList(t *testing.T) {
	t.Parallel()
	o, list := onFloor(t)
	ctx, ok := context.Background(), desktest.Done(t)
	hand := func(a command.Actor, ask floor.HandAsk) error {
		ask.List = list.Number
		_, err := o.Floor.Hand(ctx, o.By(a), ask)
		return err
	}
	is := func(name string) {
		t.Helper()
		if l := listOf(t, o, list.Number); l.Picker != name || (l.Taken == "") != (name == "") {
			t.Errorf("%q picks it, want %q", l.Picker, name)
		}
	}
	is("")
	ok(o.Floor.Hand(ctx, o.By(o.Flo), floor.HandAsk{List: list.Number}))
	is(o.Flo.Name)
	login := listOf(t, o, list.Number).Login
	// Whoever has not seen that somebody has it is told; who has seen it may hand it over.
	desktest.Refused(t, hand(o.Ana, floor.HandAsk{}), command.KindConflict, o.Flo.Name+" has picked")
	if err := hand(o.Ana, floor.HandAsk{Seen: login}); err != nil {
		t.Fatal(err)
	}
	is(o.Ana.Name)
	desktest.Refused(t, hand(o.Ana, floor.HandAsk{To: "nobody"}), command.KindInvalid, "nobody who picks")
	desktest.Refused(t, hand(o.Tom, floor.HandAsk{}), command.KindForbidden, "floor")
	people, err := o.Query.Pickers(ctx)
	if err != nil || len(people) < 2 || people[0].Name != o.Flo.Name || people[0].Lists != 0 {
		t.Fatalf("%+v %v", people, err)
	}
	if err := hand(o.Ana, floor.HandAsk{To: people[0].Login}); err != nil {
		t.Fatal(err)
	}
	is(o.Flo.Name)
	if err := hand(o.Flo, floor.HandAsk{Back: true}); err != nil {
		t.Fatal(err)
	}
	is("")
	// Two who take it at once: one has it.
	var won, lost int
	var mu sync.Mutex
	var both sync.WaitGroup
	for _, a := range []command.Actor{o.Ana, o.Flo, o.Max} {
		both.Go(func() {
			err := hand(a, floor.HandAsk{})
			mu.Lock()
			defer mu.Unlock()
			if err == nil {
				won++
			} else {
				lost++
			}
		})
	}
	both.Wait()
	if won != 1 || lost != 2 {
		t.Errorf("%d have it, %d were refused", won, lost)
	}
}

func TestABinInWhichUnitsWereMissingIsCounted(t *testing.T) {
	t.Parallel()
	o, list := onFloor(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Floor.Pick(ctx, o.By(o.Flo), []floor.Found{{Task: list.Tasks[0].ID, Qty: 37, Seen: 40, Cause: "missing"}}))
	counts, err := o.Query.Counts(ctx)
	if err != nil || len(counts) != 1 || counts[0].Bin != "P-01-1" || counts[0].Who != o.Flo.Name || counts[0].Why != "missing" {
		t.Fatalf("%+v %v", counts, err)
	}
	id := counts[0].ID
	// 50 lay there, 37 were taken and 3 are missing: it should hold 10. Of the 40 on hand in both bins 40 are free.
	count := func(n int64) error {
		_, err := o.Floor.Count(ctx, o.By(o.Flo), floor.CountAsk{Count: id, Counted: n})
		return err
	}
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("TW-90", 1, 3)))
	o.Load("orders.csv", "order,customer,wanted,line,sku,qty,warehouse\nTW-91,SPC,2027-03-05,1,TW-1,32,HL\n")
	ok(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("TW-91", 1, 32)))
	desktest.Refused(t, count(2), command.KindConflict, "only 5 of TW-1 are free at HL")
	if err := count(6); err != nil {
		t.Fatal(err)
	}
	cell := o.Cell("TW-1", "HL")
	if cell.OnHand != 50+30-3-4 || cell.Free != 1 {
		t.Errorf("%+v", cell)
	}
	desktest.Refused(t, count(6), command.KindConflict, "has been counted: 6")
	_, err = o.Floor.Count(ctx, o.By(o.Flo), floor.CountAsk{Count: 999, Counted: 1})
	desktest.Refused(t, err, command.KindNotFound, "Nobody asked")
	if counts, err = o.Query.Counts(ctx); err != nil || len(counts) != 0 {
		t.Errorf("%+v %v", counts, err)
	}
	o.Sound()
}

func TestTwoItemsHaveNoBarCodeInCommon(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	o.Load("items.csv", "sku,name,barcode\nTW-1,Twine,5012345678900\n")
	for _, text := range []string{
		"sku,name,barcode\nTW-2,Rope,5012345678900\n", "sku,name,barcode\nTW-3,Cord,77\nTW-4,Cord,77\n",
	} {
		_, report, err := o.Importing.Import(context.Background(), o.By(o.Ana), desktest.File("items.csv", text))
		if err == nil || len(report.Faults) != 1 || report.Faults[0].Column != "barcode" {
			t.Errorf("%v %+v", err, report.Faults)
		}
	}
	o.Load("items.csv", "sku,name,barcode\nTW-1,Twine,5012345678900\n")
	o.Load("items.csv", "sku,name,barcode\nTW-1,Twine,5012345678901\nTW-2,Rope,5012345678902\n")
}
