package allocation_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/undo"
	"journeyman/internal/exchange"
)

// A coordinator's day at random: policies are run, units of contested items are moved, room is made, all
// is given back, counts are loaded, and much of it is taken back. After each step the journal adds up,
// what was shown is what was done, and no promise that could be kept is broken by it.
func TestARandomDayOfWhoGetsTheStock(t *testing.T) {
	t.Parallel()
	done := map[string]int{}
	for seed := range uint64(4) {
		o := desktest.New(t)
		r := rand.New(rand.NewPCG(seed, 91))
		o.Load(
			"items.csv",
			"sku,name,price,cost,buyable,lead_days,multiple\nZD-1,A first thing,2.00,1.00,no,0,1\nZD-2,A second thing,5.00,1.00,yes,12,6\n",
		)
		o.Load(
			"inbound.csv",
			"ref,sku,warehouse,due,qty\nPD-1,ZD-1,HL,2027-03-09,60\nPD-2,ZD-2,HL,2027-03-05,48\nPD-3,ZD-1,HL,2027-03-17,60\n",
		)
		o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZD-1,A-1-1,70\nHL,ZD-2,A-1-2,60\n")
		text := "order,customer,wanted,line,sku,warehouse,qty,tier,ship_rule\n"
		for i := range 12 {
			rule, tier, day := []string{"any", "any", "lines", "whole"}[r.IntN(4)], 1+r.IntN(5), 2+r.IntN(20)
			for l, sku := range []string{"ZD-1", "ZD-2"} {
				text += fmt.Sprintf(
					"SO-4%03d,SPC,2027-03-%02d,%d,%s,HL,%d,%d,%s\n", i, day, l+1, sku, []int{3 + r.IntN(15), 6 * (1 + r.IntN(3))}[l], tier,
					rule,
				)
			}
		}
		o.Load("orders.csv", text)
		ctx := context.Background()
		for i := range 12 {
			if _, err := o.Promising.Promise(ctx, o.By(o.Max), o.Promise(fmt.Sprintf("SO-4%03d", i))); err != nil && i == 0 {
				t.Fatal(err)
			}
		}
		var last int64
		for range 34 {
			call := o.By(o.Max)
			call.Reason = "at random"
			var out command.Outcome
			var err error
			sku := []string{"ZD-1", "ZD-2"}[r.IntN(2)]
			number := fmt.Sprintf("SO-4%03d", r.IntN(12))
			what := ""
			switch r.IntN(10) {
			case 0:
				what = "run"
				rules := allocation.PolicyRules{
					Keys:    []string{[]string{"tier", "entered", "value"}[r.IntN(3)]},
					Sharing: []string{"in-turn", "fair", "equal"}[r.IntN(3)], Goal: []string{"keys", "orders", "value"}[r.IntN(3)],
					Protect: r.IntN(3) > 0, ShipRules: []string{"respect", "respect", "ignore"}[r.IntN(3)],
				}
				v := o.Rehearse(allocation.RunAsk{Rules: &rules})
				if v.Plans[0].Takes == 0 {
					continue
				}
				if out, err = o.Allocation.ApplyRun(ctx, call, allocation.ApplyAsk{Plan: v.Plans[0].Key}); err == nil &&
					out.Units != v.Plans[0].All.Units {
					t.Fatalf("seed %d: %d units were shown, %d allocated", seed, v.Plans[0].All.Units, out.Units)
				}
			case 2, 3:
				what = "move"
				ask := allocation.ContestAsk{
					SKU: sku, Warehouse: "HL", Policy: []string{"By date", "First come", "Fair shares by tier"}[r.IntN(3)],
				}
				v, e := o.Allocation.Contest(ctx, ask)
				if e != nil {
					t.Fatal(e)
				}
				move := allocation.MoveAsk{SKU: sku, Warehouse: "HL"}
				for _, c := range v.Claims {
					if c.Gets != c.Has {
						move.Units = append(move.Units, allocation.UnitsOf{Line: c.Line, Allocated: c.Gets, Seen: c.Version})
					}
				}
				if len(move.Units) == 0 || !v.Effect.Not.IsZero() {
					continue
				}
				if out, err = o.Allocation.MoveUnits(ctx, call, move); err == nil {
					now, _ := o.Allocation.Contest(ctx, allocation.ContestAsk{SKU: sku, Warehouse: "HL"})
					for i, c := range now.Claims {
						if c.Has != v.Claims[i].Gets {
							t.Fatalf("seed %d: %s has %d, shown was %d", seed, c.Order, c.Has, v.Claims[i].Gets)
						}
					}
					if now.Effect.Late != v.Effect.Late || now.Effect.Whole != v.Effect.Whole || now.Free != v.Left {
						t.Fatalf("seed %d: it came out as %+v, shown was %+v", seed, now.Effect, v.Effect)
					}
				}
			case 4:
				what = "promise"
				out, err = o.Promising.Promise(ctx, call, o.Promise(number))
			case 5, 9:
				what = "room"
				l := o.Line(number, 1+r.IntN(2))
				if l.At.Open == 0 {
					continue
				}
				ask := promising.RoomAsk{Line: l.ID, SKU: l.SKU, Warehouse: "HL", Qty: l.At.Open, By: "2027-03-02"}
				v, e := o.Promising.MakeRoomFor(ctx, ask)
				if e != nil {
					t.Fatal(e)
				}
				if len(v.Ways) == 0 {
					continue
				}
				way := v.Ways[r.IntN(len(v.Ways))]
				for _, m := range way.Moves {
					if !m.With {
						ask.Chosen = append(ask.Chosen, m.RoomMove)
					}
				}
				if out, err = o.Sales.MakeRoom(ctx, call, promising.RoomApply{RoomAsk: ask, Seen: v.Version}); err == nil {
					if l := o.Line(number, l.Line); desktest.Promises(l) != fmt.Sprintf("03-02 HL %d", ask.Qty) {
						t.Fatalf("seed %d: room was made, and %s is promised %s", seed, number, desktest.Promises(l))
					}
				}
			case 6:
				what = "give back"
				units := int64(0)
				ps, e := o.Allocation.Policies(ctx)
				if e != nil {
					t.Fatal(e)
				}
				if len(ps.Allocated) > 0 {
					units = ps.Allocated[0].Units
				}
				if units == 0 {
					continue
				}
				out, err = o.Allocation.GiveBackAll(ctx, call, allocation.GiveBackAllAsk{Units: units})
			case 7:
				what = "count"
				check := o.By(o.Max)
				bin := map[string]string{"ZD-1": "A-1-1", "ZD-2": "A-1-2"}[sku]
				rep, e := o.Importing.CheckImport(
					ctx, check,
					[]exchange.File{
						{Name: "c.csv", Data: []byte(fmt.Sprintf("warehouse,sku,bin,on_hand\nHL,%s,%s,%d\n", sku, bin, 10+r.IntN(80)))},
					},
				)
				if e != nil {
					t.Fatal(e)
				}
				if rep.Does == 0 {
					continue
				}
				out, err = o.Importing.ApplyImport(ctx, call, check.Key, true)
				if len(rep.Breaks) > 0 {
					what = "count that breaks"
				}
			case 8:
				what = "undo"
				if last == 0 {
					continue
				}
				out, err = o.Undo.TakeBack(ctx, call, undo.UndoAsk{Command: last})
			}
			var refusal *command.Refusal
			switch {
			case errors.As(err, &refusal):
				done["refused"]++
			case err != nil:
				t.Fatalf("seed %d, %s: %v", seed, what, err)
			default:
				done[what]++
				if last = 0; out.Undoable {
					last = out.Command
				}
			}
		}
		o.Sound()
	}
	for _, what := range []string{"run", "move", "promise", "room", "give back", "count", "count that breaks", "undo"} {
		if done[what] < 2 {
			t.Errorf("%s was done %d times only: %v", what, done[what], done)
		}
	}
}
