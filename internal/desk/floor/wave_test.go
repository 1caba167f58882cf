package floor_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
)

// busy is an office with ten orders of three lines each, all allocated, at Harrow Lane.
func busy(t *testing.T) (*desktest.Office, []string) {
	t.Helper()
	o := desktest.New(t)
	items := "sku,name,unit,weight_kg,length_cm,width_cm,height_cm\n"
	stock := "warehouse,sku,bin,zone,on_hand\n"
	orders := "order,channel,customer,wanted,line,sku,qty,warehouse,service\n"
	for i := range 12 {
		items += fmt.Sprintf("BX-%02d,Box %d,each,2.5,40,30,20\n", i, i)
		stock += fmt.Sprintf("HL,BX-%02d,%c-%02d-%d,%c,500\n", i, 'P'+rune(i%2), 1+i/4, 1+i%4*3, 'P'+rune(i%2))
	}
	var numbers []string
	for n := range 10 {
		numbers = append(numbers, fmt.Sprintf("WV-%02d", n))
		for l := range 3 {
			orders += fmt.Sprintf(
				"WV-%02d,web,SPC,2027-03-0%d,%d,BX-%02d,%d,HL,%s\n", n, 3+n%2, l+1, (n*5+l*3)%12, 2+l, []string{"parcel", "pallet"}[n%2],
			)
		}
	}
	o.Load("items.csv", items)
	o.Load("stock.csv", stock)
	o.Load("orders.csv", orders)
	desktest.Done(t)(o.Allocation.Allocate(context.Background(), o.By(o.Ana), desktest.Whole(numbers...).Selection))
	return o, numbers
}

func TestAReleaseIsSpreadOverListsAsAsked(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		what  string
		wave  floor.WaveAsk
		lists int
		zoned bool
	}{
		{"one list", floor.WaveAsk{}, 1, false},
		{"one an order", floor.WaveAsk{Together: "order"}, 10, false},
		{"one a service", floor.WaveAsk{Together: "service"}, 2, false},
		{"three orders a list", floor.WaveAsk{MostOrders: 3}, 4, false},
		{"two zones", floor.WaveAsk{ZoneByZone: true}, 2, true},
		{"30 kg a list", floor.WaveAsk{MostG: 30_000}, 10, false},
	} {
		t.Run(c.what, func(t *testing.T) {
			t.Parallel()
			o, numbers := busy(t)
			ctx := context.Background()
			var lines []command.LineQty
			for _, n := range numbers {
				for _, l := range o.Order(n).Lines {
					lines = append(lines, command.LineQty{Line: l.ID})
				}
			}
			said, err := o.Floor.RehearseRelease(ctx, floor.ReleaseAsk{Selection: command.Selection{Lines: lines}, Wave: c.wave})
			if err != nil {
				t.Fatal(err)
			}
			out := desktest.Done(t)(o.Floor.Release(ctx, o.By(o.Ana), waved(numbers, c.wave)))
			if len(out.Documents) != c.lists || said.Lists != int64(c.lists) {
				t.Fatalf("%d lists, %d rehearsed, want %d", len(out.Documents), said.Lists, c.lists)
			}
			// What was rehearsed is what stands on the lists.
			var rows, units, walk, byOrder, seconds int64
			for i, d := range out.Documents {
				l, err := o.Query.PickList(ctx, d.Number)
				if err != nil {
					t.Fatal(err)
				}
				rows, units, walk, byOrder, seconds = rows+l.Rows, units+l.Units, walk+l.Walk, byOrder+l.WalkByOne, seconds+l.Seconds
				if (l.Zone != "") != c.zoned || c.wave.MostOrders > 0 && l.Orders > int64(c.wave.MostOrders) {
					t.Errorf("list %d: zone %q, %d orders", i, l.Zone, l.Orders)
				}
				is := floor.ListEffect{
					Warehouse: l.Warehouse, Zone: l.Zone, Orders: l.Orders, Rows: l.Rows, Walk: l.Walk, Seconds: l.Seconds,
				}
				if on := said.OnLists[i]; on != is {
					t.Errorf("list %d is %+v, rehearsed was %+v", i, l.ListView, on)
				}
				if !slices.IsSortedFunc(l.Tasks, func(a, b query.TaskView) int { return strings.Compare(a.Zone, b.Zone) }) {
					t.Errorf("list %d: its zones are not walked one after the other", i)
				}
			}
			if rows != 30 || units != 90 || said.Units != 90 || said.Lines != 30 || said.Orders != 10 {
				t.Errorf("%d rows, %d units; rehearsed %+v", rows, units, said)
			}
			if walk != said.Walk || byOrder != said.WalkByOne || seconds != said.Seconds || walk == 0 || walk > byOrder {
				t.Errorf("walked %d cm, order by order %d, %d s; rehearsed %d, %d, %d", walk, byOrder, seconds, said.Walk, said.WalkByOne, said.Seconds)
			}
			// 90 boxes of 40 × 30 × 20 cm and 2.5 kg: 2.16 m³ and 225 kg, which is 1.55 pallets of 1.4 m³.
			if said.VolumeCM3 != 2_160_000 || said.WeightG != 225_000 || said.Pallets != 155 || said.Unsized != 0 {
				t.Errorf("%d cm³, %d g, %d hundredths of pallets, %d without a size", said.VolumeCM3, said.WeightG, said.Pallets, said.Unsized)
			}
			o.Sound()
		})
	}
}

// waved asks for the release of orders on lists that are made so.
func waved(numbers []string, w floor.WaveAsk) floor.ReleaseAsk {
	out := desktest.Whole(numbers...)
	out.Wave = w
	return out
}

func TestAWaveThatIsNone(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	for _, w := range []floor.WaveAsk{{Together: "colour"}, {MostOrders: -1}, {MostG: -1}} {
		_, err := o.Floor.Release(context.Background(), o.By(o.Ana), waved(numbers, w))
		desktest.Refused(t, err, command.KindInvalid, "ist")
	}
	if l := o.Line(numbers[0], 1); l.At.Released != 0 {
		t.Errorf("something was released: %+v", l.At)
	}
}

func TestCutOffsOfServicesAreStillToBeMade(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx, ok := context.Background(), desktest.Done(t)
	ok(o.Admin.SetHouse(ctx, o.By(o.Max), admin.HouseAsk{Warehouse: "HL", Workdays: []int{1, 2, 3, 4, 5}, CutOff: "17:00"}))
	ok(o.Admin.SetService(ctx, o.By(o.Max), admin.ServiceAsk{Service: "PALLET", CutOff: "08:30"}))
	var lines []command.LineQty
	for _, n := range numbers {
		for _, l := range o.Order(n).Lines {
			lines = append(lines, command.LineQty{Line: l.ID})
		}
	}
	o.Owner(`UPDATE line_count SET ship_by = '2027-03-01'; UPDATE order_line SET ship_by = '2027-03-01'`)
	said, err := o.Floor.RehearseRelease(ctx, floor.ReleaseAsk{Selection: command.Selection{Lines: lines}})
	if err != nil || len(said.CutOffs) != 2 {
		t.Fatalf("%+v %v", said.CutOffs, err)
	}
	// It is nine o'clock.
	if c := said.CutOffs[0]; c.Service != "pallet" || c.At != "08:30" || c.Left != -30 || c.Lines != 15 {
		t.Errorf("the first: %+v", c)
	}
	if c := said.CutOffs[1]; c.Service != "parcel" || c.At != "17:00" || c.Left != 480 {
		t.Errorf("the second: %+v", c)
	}
	out := ok(o.Floor.Release(ctx, o.By(o.Ana), waved(numbers, floor.WaveAsk{Together: "cut_off"})))
	if len(out.Documents) != 2 {
		t.Errorf("by cut-off: %v", out.Documents)
	}
	_, err = o.Admin.SetService(ctx, o.By(o.Max), admin.ServiceAsk{Service: "camel", CutOff: "08:30"})
	desktest.Refused(t, err, command.KindNotFound, "no service camel")
	_, err = o.Admin.SetService(ctx, o.By(o.Max), admin.ServiceAsk{Service: "parcel", CutOff: "25:00"})
	desktest.Refused(t, err, command.KindInvalid, "not a time")
	ok(o.Admin.SetService(ctx, o.By(o.Max), admin.ServiceAsk{Service: "pallet"}))
	if s, err := o.Admin.Settings(ctx); err != nil || len(s.CutOffs) != 0 {
		t.Errorf("%v %v", s.CutOffs, err)
	}
}

func TestAFloorIsReckonedAsItIsSaidToBe(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx := context.Background()
	is := o.House("HL").Floor
	try := func() floor.ReleaseEffect {
		t.Helper()
		e, err := o.Floor.RehearseRelease(ctx, floor.ReleaseAsk{Selection: command.Selection{
			Lines: []command.LineQty{{Line: o.Line(numbers[0], 1).ID}, {Line: o.Line(numbers[1], 1).ID}},
		}})
		if err != nil {
			t.Fatal(err)
		}
		return e
	}
	before := try()
	is.AisleCM, is.PlaceCM, is.WalkMMin, is.RowS, is.UnitMS, is.PalletKG = 2*is.AisleCM, 2*is.PlaceCM, 30, 60, 1000, 10
	desktest.Done(t)(o.Admin.SetFloor(ctx, o.By(o.Max), admin.FloorAsk{Warehouse: "HL", FloorView: is}))
	after := try()
	// Twice as far at 30 m a minute, two rows of a minute, four units of a second; 10 kg on a pallet.
	want := after.Walk*60/3000 + 120 + 4
	if after.Walk != 2*before.Walk || after.Seconds < want || after.Seconds > want+1 || after.Pallets != 100 {
		t.Errorf("before %+v, after %+v, %d s", before, after, want)
	}
	is.PlaceCM = 0
	_, err := o.Admin.SetFloor(ctx, o.By(o.Max), admin.FloorAsk{Warehouse: "HL", FloorView: is})
	desktest.Refused(t, err, command.KindInvalid, "from 10 to 10000, not 0")
	_, err = o.Admin.SetFloor(ctx, o.By(o.Ana), admin.FloorAsk{Warehouse: "HL", FloorView: is})
	desktest.Refused(t, err, command.KindForbidden, "manager")
}

func TestChoosingInOneStepSaysWhatItLeftOut(t *testing.T) {
	t.Parallel()
	o, numbers := busy(t)
	ctx := context.Background()
	due := floor.DueAsk{Until: "2027-12-31", Query: "WV"}
	choose := func(ask floor.QuickAsk) floor.QuickChoice {
		t.Helper()
		ask.DueAsk = due
		c, err := o.Floor.ChooseQuickly(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		left := int64(0)
		for _, l := range c.Left {
			left += l.Lines
		}
		if int64(len(c.Lines))+left != 30 || c.Comes.Lines != int64(len(c.Lines)) {
			t.Errorf("%s: %d chosen and %d left of 30; they come to %d", ask.Rule, len(c.Lines), left, c.Comes.Lines)
		}
		return c
	}
	if c := choose(floor.QuickAsk{Rule: "complete"}); len(c.Lines) != 30 {
		t.Errorf("complete: %d", len(c.Lines))
	}
	desktest.Done(t)(o.Allocation.GiveBack(ctx, o.By(o.Ana), o.Qty(numbers[3], 2, 1)))
	c := choose(floor.QuickAsk{Rule: "complete"})
	if want := (floor.QuickLeft{Why: "not_complete", Lines: 3, Units: 8}); len(c.Lines) != 27 || len(c.Left) != 1 || c.Left[0] != want {
		t.Errorf("but for one: %d, %+v", len(c.Lines), c.Left)
	}
	if c := choose(floor.QuickAsk{Rule: "due"}); len(c.Lines) != 0 || c.Left[0].Why != "later" {
		t.Errorf("due: %d, %+v", len(c.Lines), c.Left)
	}
	if c := choose(floor.QuickAsk{Rule: "lines", Most: 7}); len(c.Lines) != 7 || c.Left[0].Why != "limit" {
		t.Errorf("lines: %d, %+v", len(c.Lines), c.Left)
	}
	if c := choose(floor.QuickAsk{Rule: "weight", Most: 50_000}); c.Comes.WeightG > 50_000 || c.Comes.WeightG < 45_000 {
		t.Errorf("weight: %d g", c.Comes.WeightG)
	}
	one := choose(floor.QuickAsk{Rule: "time", Most: 4})
	two := choose(floor.QuickAsk{Rule: "time", Most: 4, Pickers: 2})
	if one.Comes.Seconds > 240 || one.Comes.Seconds < 200 || two.Comes.Seconds > 480 || len(two.Lines) <= len(one.Lines) {
		t.Errorf("time: %d s of %d lines, with two %d s of %d", one.Comes.Seconds, len(one.Lines), two.Comes.Seconds, len(two.Lines))
	}
	// It is nine o'clock: until 9:04 there are as many minutes.
	if c := choose(floor.QuickAsk{Rule: "time", CutOff: "09:04"}); len(c.Lines) != len(one.Lines) {
		t.Errorf("until 9:04: %d lines, in four minutes %d", len(c.Lines), len(one.Lines))
	}
	if c := choose(floor.QuickAsk{Rule: "time", CutOff: "08:00"}); len(c.Lines) != 0 {
		t.Errorf("until an hour ago: %d lines", len(c.Lines))
	}
	for text, ask := range map[string]floor.QuickAsk{
		"not chosen by “luck”": {Rule: "luck"}, "not a time of day": {Rule: "time", CutOff: "noon"},
		"use YYYY-MM-DD": {Rule: "due", DueAsk: floor.DueAsk{Until: "soon"}},
	} {
		_, err := o.Floor.ChooseQuickly(ctx, ask)
		desktest.Refused(t, err, command.KindInvalid, text)
	}
}

func TestALaterDaySaysHowManyLinesItBringsIn(t *testing.T) {
	t.Parallel()
	o, _ := busy(t)
	ctx := context.Background()
	offer, err := o.Floor.Offer(ctx, floor.DueAsk{Until: "2027-02-01", Query: "WV"})
	if err != nil || offer.Offered != 0 || len(offer.Later) == 0 {
		t.Fatalf("%+v %v", offer, err)
	}
	for _, l := range offer.Later {
		then, err := o.Floor.Offer(ctx, floor.DueAsk{Until: l.Day, Query: "WV"})
		if err != nil || then.Offered != l.Lines {
			t.Errorf("by %s %d could go, %d were told, %v", l.Day, then.Offered, l.Lines, err)
		}
	}
	if last := offer.Later[len(offer.Later)-1]; last.Lines != 30 {
		t.Errorf("at last: %+v", last)
	}
}
