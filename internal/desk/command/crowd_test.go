package command_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/undo"
	"journeyman/internal/exchange"
)

// Thirty-two people allocate, give back, release, recall by undo, drop and reopen on
// the same three items at once; some are cut off in the middle of what they ask.
func TestACrowdNeverGivesAUnitAwayTwice(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	orders := "order,customer,wanted,line,sku,warehouse,qty\n"
	for i := range 24 {
		for l, sku := range []string{"GL-2040-1", "TL-014", "CB-110"} {
			orders += fmt.Sprintf("SO-2%03d,SPC,2027-03-10,%d,%s,HL,%d\n", i, l+1, sku, []int{12, 8, 20}[l])
		}
	}
	if _, rep, err := o.Importing.Import(context.Background(), o.By(o.Ana),
		[]exchange.File{{Name: "orders.csv", Data: []byte(desktest.Leaving(orders))}}); err != nil {
		t.Fatal(err, rep.Faults)
	}
	var ids []int64
	for i := range 24 {
		for _, l := range o.Order(fmt.Sprintf("SO-2%03d", i)).Lines {
			ids = append(ids, l.ID)
		}
	}
	var did, no, cut atomic.Int64
	ctx, stop := context.WithTimeout(context.Background(), 5*time.Minute)
	defer stop()
	var wg sync.WaitGroup
	// Meanwhile the sums to which all of them add are put together, again and again.
	adding, added := context.WithCancel(ctx)
	var sums sync.WaitGroup
	sums.Go(func() {
		for adding.Err() == nil {
			if err := o.Store.CompactCounts(adding); err != nil && adding.Err() == nil {
				t.Error(err)
				return
			}
		}
	})
	defer sums.Wait()
	defer added()
	for client := range 32 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(client), 42))
			for range 30 {
				call := o.By(o.Max)
				call.Reason = "in the crowd"
				c, cancel := ctx, context.CancelFunc(func() {})
				if r.IntN(6) == 0 {
					c, cancel = context.WithTimeout(ctx, time.Duration(r.IntN(12_000))*time.Microsecond)
				}
				var err error
				sel := command.Selection{}
				for _, k := range r.Perm(len(ids))[:1+r.IntN(8)/6] {
					sel.Lines = append(sel.Lines, command.LineQty{Line: ids[k], Qty: 4})
				}
				order := command.Selection{Orders: []command.OrderSeen{{Number: fmt.Sprintf("SO-2%03d", r.IntN(24))}, {Number: "SO-1001"}}}
				var out command.Outcome
				switch r.IntN(8) {
				case 0, 1:
					out, err = o.Allocation.Allocate(c, call, sel)
				case 2:
					out, err = o.Allocation.Allocate(c, call, order)
				case 3:
					if r.IntN(2) == 0 {
						sel = command.Selection{Orders: order.Orders[:1]}
					}
					out, err = o.Allocation.GiveBack(c, call, sel)
				case 4:
					out, err = o.Floor.Release(c, call, floor.ReleaseAsk{Selection: sel})
				case 5:
					out, err = o.Sales.Drop(c, call, sel)
				case 6:
					out, err = o.Sales.Reopen(c, call, sel)
				case 7:
					if out, err = o.Allocation.Allocate(c, call, sel); err == nil {
						out, err = o.Undo.TakeBack(c, o.By(o.Max), undo.UndoAsk{Command: out.Command})
					}
				}
				_ = out
				var refusal *command.Refusal
				switch {
				case err == nil:
					did.Add(1)
				case errors.As(err, &refusal):
					no.Add(1)
				case c.Err() != nil && ctx.Err() == nil:
					cut.Add(1)
				default:
					t.Errorf("client %d: neither done nor refused: %v", client, err)
				}
				cancel()
			}
		})
	}
	wg.Wait()
	t.Logf("%d done, %d refused, %d cut off", did.Load(), no.Load(), cut.Load())
	if did.Load() < 100 || cut.Load() < 10 {
		t.Errorf("%d done and %d cut off: the test shows little", did.Load(), cut.Load())
	}
	for _, sku := range []string{"GL-2040-1", "TL-014", "CB-110"} {
		if c := o.Cell(sku, "HL"); c.Free < 0 || c.Allocated+c.Released > c.OnHand-c.Held {
			t.Errorf("%s is over-allocated: %+v", sku, c)
		}
	}
	o.Sound()
}
