package sales_test

import (
	"context"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
)

// Twelve people enter, change, quote, accept, allocate and promise on the same few items at
// once. Each answer is done or a sentence; afterwards nothing is lost or given twice.
func TestACrowdOfSalesAtOnce(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Minute)
	defer cancel()
	var mu sync.Mutex
	orders := []string{"SO-1001", "SO-1002"}
	var quotes []string
	some := func(r *rand.Rand, of *[]string) string {
		mu.Lock()
		defer mu.Unlock()
		if len(*of) == 0 {
			return ""
		}
		return (*of)[r.IntN(len(*of))]
	}
	var did, refusals atomic.Int64
	tell := func(out command.Outcome, err error) {
		if err != nil {
			if _, no := command.AsRefusal(err); !no {
				t.Errorf("no answer but %v", err)
			}
			refusals.Add(1)
			return
		}
		did.Add(1)
		mu.Lock()
		defer mu.Unlock()
		for _, d := range out.Documents {
			switch d.Kind {
			case "order":
				orders = append(orders, d.Number)
			case "quote":
				quotes = append(quotes, d.Number)
			}
		}
	}
	draft := func(r *rand.Rand) sales.Draft {
		return sales.Draft{Customer: "SPC", Wanted: "2027-03-12", Lines: []sales.DraftLine{
			{SKU: []string{"GL-2040-1", "TL-014", "CB-110"}[r.IntN(3)], Qty: 1 + r.Int64N(6)},
			{SKU: []string{"GL-2040-1", "TL-014", "CB-110"}[r.IntN(3)], Qty: 1 + r.Int64N(6)},
		}}
	}
	var wg sync.WaitGroup
	for n := range uint64(12) {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(n, 12))
			for range 12 {
				switch r.IntN(6) {
				case 0:
					tell(o.Sales.Enter(ctx, o.By(o.Tom), draft(r)))
				case 1:
					ask, err := o.Sales.DraftOf(ctx, some(r, &orders))
					if err != nil {
						t.Error(err)
						continue
					}
					ask.Lines[0].Qty = max(0, ask.Lines[0].Qty+r.Int64N(9)-4)
					tell(o.Sales.Change(ctx, o.By(o.Ana), ask))
				case 2:
					tell(o.Sales.MakeQuote(ctx, o.By(o.Max), sales.QuoteAsk{Draft: draft(r)}))
				case 3:
					if number := some(r, &quotes); number != "" {
						q, err := o.Sales.Quote(ctx, number)
						if err != nil {
							t.Error(err)
							continue
						}
						tell(o.Sales.AcceptQuote(ctx, o.By(o.Tom), q.Rest))
					}
				case 4:
					tell(
						o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: some(r, &orders)}}}),
					)
				case 5:
					tell(
						o.Promising.Promise(
							ctx, o.By(o.Tom), promising.PromiseAsk{Orders: []command.OrderSeen{{Number: some(r, &orders)}}},
						),
					)
				}
			}
		})
	}
	wg.Wait()
	if did.Load() < 50 {
		t.Errorf("only %d things were done, %d refused", did.Load(), refusals.Load())
	}
	o.Sound()
}
