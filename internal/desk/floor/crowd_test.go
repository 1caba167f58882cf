package floor_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/query"
)

// Some release all that could go while others release single orders, give back, hold, lift and recall on the same orders: nothing is
// released twice, and all that is refused is refused with a sentence.
func TestReleasingAllWhileOthersAreAtTheSameOrders(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	const orders = 40
	var file strings.Builder
	file.WriteString("order,customer,wanted,line,sku,warehouse,qty,ship_rule\n")
	for i := range orders {
		for line := 1; line <= 3; line++ {
			fmt.Fprintf(&file, "SO-%d,SPC,2027-03-%02d,%d,ZQ-%d,HL,%d,%s\n", 81000+i, 2+i%20, line, line, 1+i%4, []string{"any", "lines", "whole"}[i%3])
		}
	}
	o.Load("items.csv", "sku,name,price,cost\nZQ-1,One,2.00,1.00\nZQ-2,Two,2.00,1.00\nZQ-3,Three,2.00,1.00\n")
	o.Load("stock.csv", "warehouse,sku,bin,on_hand\nHL,ZQ-1,Q-1-1,80\nHL,ZQ-1,Q-1-2,20\nHL,ZQ-2,Q-2-1,60\nHL,ZQ-3,Q-3-1,200\n")
	o.Load("orders.csv", file.String())
	every := command.Selection{}
	for i := range orders {
		every.Orders = append(every.Orders, command.OrderSeen{Number: fmt.Sprint("SO-", 81000+i)})
	}
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), every))
	one := func(r *rand.Rand) command.Selection {
		return command.Selection{Orders: []command.OrderSeen{{Number: fmt.Sprint("SO-", 81000+r.IntN(orders))}}}
	}
	due := floor.DueAsk{Until: "2027-12-31", Query: "ZQ"}
	steps := []func(r *rand.Rand) error{
		func(*rand.Rand) error {
			return desktest.Second(o.Floor.ReleaseDue(ctx, o.By(o.Ana), floor.ReleaseDueAsk{DueAsk: due}))
		},
		func(r *rand.Rand) error {
			return desktest.Second(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: one(r)}))
		},
		func(r *rand.Rand) error { return desktest.Second(o.Allocation.Allocate(ctx, o.By(o.Ana), one(r))) },
		func(r *rand.Rand) error { return desktest.Second(o.Allocation.GiveBack(ctx, o.By(o.Ana), one(r))) },
		func(r *rand.Rand) error {
			hold := sales.HoldAsk{Order: one(r).Orders[0].Number, Kind: "coordinator", Note: "wait"}
			if r.IntN(2) == 0 {
				return desktest.Second(o.Sales.Hold(ctx, o.By(o.Ana), hold))
			}
			return desktest.Second(o.Sales.Lift(ctx, o.By(o.Ana), sales.LiftAsk{Order: hold.Order, Kind: hold.Kind}))
		},
		func(*rand.Rand) error {
			page, err := o.Query.Release(ctx, query.Ask{Scope: map[string]string{"until": due.Until}})
			if err != nil || len(page.Lines) == 0 {
				return err
			}
			l := page.Lines[len(page.Lines)/2]
			return desktest.Second(o.Floor.ReleaseDue(ctx, o.By(o.Ana), floor.ReleaseDueAsk{
				DueAsk: due, But: []floor.LineUnits{{Line: l.ID, Seen: l.Version, Qty: l.At.Allocated - 1}},
			}))
		},
		func(*rand.Rand) error {
			page, err := o.Query.PickLists(ctx, query.Ask{})
			if err != nil || len(page.Lists) == 0 {
				return err
			}
			list, err := o.Query.PickList(ctx, page.Lists[0].Number)
			if err != nil || len(list.Tasks) == 0 {
				return err
			}
			return desktest.Second(o.Floor.Recall(ctx, o.By(o.Ana), []floor.RecallTask{{Task: list.Tasks[0].ID, Seen: list.Tasks[0].Due}}))
		},
	}
	var all sync.WaitGroup
	for who := range 6 {
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(who), 7))
			for range 25 {
				err := steps[r.IntN(len(steps))](r)
				if _, refused := command.AsRefusal(err); err != nil && !refused {
					t.Errorf("%d: %v", who, err)
				}
			}
		})
	}
	all.Wait()
	// When all is quiet, what could still go goes, and then nothing could.
	page, err := o.Floor.Offer(ctx, due)
	if err != nil {
		t.Fatal(err)
	}
	if page.Offered > 0 {
		out := desktest.Done(t)(o.Floor.ReleaseDue(ctx, o.By(o.Ana), floor.ReleaseDueAsk{DueAsk: due}))
		if out.Units != page.Units {
			t.Errorf("%d units could go, and %d went", page.Units, out.Units)
		}
	}
	if page, err = o.Floor.Offer(ctx, due); err != nil || page.Offered != 0 {
		t.Errorf("%d lines could go after all that could went, %v", page.Offered, err)
	}
	o.Sound()
}
