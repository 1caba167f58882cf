package allocation_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/undo"
)

func TestARunOverThousandsOfLinesIsAppliedAndTakenBackAsSets(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	o := desktest.Many(t, 3000)
	open, allocated, promised := o.Total()
	v := o.Rehearse(allocation.RunAsk{})
	if v.Plans[0].Takes < 2001 {
		t.Fatalf("%d lines take something: too few for sets", v.Plans[0].Takes)
	}
	out, err := o.Allocation.ApplyRun(ctx, o.By(o.Ana), allocation.ApplyAsk{Plan: v.Plans[0].Key})
	if err != nil || out.Units != v.Plans[0].All.Units || int(out.Lines) != v.Plans[0].Takes {
		t.Fatalf("%+v, %v; shown were %+v", out, err, v.Plans[0])
	}
	o.Audited()
	nowOpen, nowAllocated, nowPromised := o.Total()
	if nowOpen != open-out.Units || nowAllocated != allocated+out.Units {
		t.Errorf("open %d → %d, allocated %d → %d by %d units", open, nowOpen, allocated, nowAllocated, out.Units)
	}
	if nowPromised >= promised || nowPromised == 0 {
		t.Errorf("promised %d → %d: what was allocated uses its promises up", promised, nowPromised)
	}
	for _, l := range v.Lines[:50] {
		if x := o.Line(l.Order, l.No); x.At.Allocated != l.In[0].Takes {
			t.Errorf("%s line %d has %d, shown were %d", l.Order, l.No, x.At.Allocated, l.In[0].Takes)
		}
	}
	back, err := o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command})
	if err != nil || back.Units != out.Units || !strings.HasPrefix(back.Sentence, "Undone: ") {
		t.Fatalf("%d units were allocated, %+v %v", out.Units, back, err)
	}
	o.Audited()
	if a, b, c := o.Total(); a != open || b != allocated || c != promised {
		t.Errorf("taken back: open %d, allocated %d, promised %d; before %d, %d, %d", a, b, c, open, allocated, promised)
	}
}

// A line that the plan takes for is gone from the book when it is to be applied.
func TestARunOverThousandsOfLinesIsRefusedIfOneHasGone(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	o := desktest.Many(t, 3000)
	v := o.Rehearse(allocation.RunAsk{})
	gone := o.Line("SO-99999", 1)
	if _, err := o.Sales.Drop(
		ctx, command.Call{Key: command.NewKey(), Actor: o.Tom, Reason: "not wanted any more"},
		command.Selection{Lines: []command.LineQty{{Line: gone.ID, Qty: 5, Seen: gone.Version}}},
	); err != nil {
		t.Fatal(err)
	}
	open, allocated, promised := o.Total()
	_, err := o.Allocation.ApplyRun(ctx, o.By(o.Ana), allocation.ApplyAsk{Plan: v.Plans[0].Key})
	desktest.Refused(
		t, err, command.KindConflict, "The book has changed since you rehearsed: Tom Sale dropped 5 of ZM-99 for SO-99999",
		"1 line would come out otherwise",
	)
	if a, b, c := o.Total(); a != open || b != allocated || c != promised {
		t.Errorf("a refused run changed something: %d %d %d, before %d %d %d", a, b, c, open, allocated, promised)
	}
}

// What is written as sets holds its own beside what is written row by row: sums stay right, and nobody is told of a deadlock.
// Of two runs, one is rehearsed and applied as it comes, and mostly refused; for the other the crowd holds still until the
// run has its locks and writes, so that it is certain to be applied, in the midst of the others.
func TestRunsOverThousandsOfLinesInACrowd(t *testing.T) {
	t.Parallel()
	o := desktest.Many(t, 3000)
	ctx, stop := context.WithTimeout(context.Background(), 5*time.Minute)
	defer stop()
	var rows, refusals, most atomic.Int64
	expected := func(err error) bool {
		if _, refused := command.AsRefusal(err); err != nil && !refused {
			t.Errorf("%v", err)
			return false
		}
		return err == nil
	}
	var still sync.RWMutex // held for reading by every command but a run that is certain to be applied
	among := func(do func() error) bool {
		still.RLock()
		defer still.RUnlock()
		return expected(do())
	}
	var wg, runners sync.WaitGroup
	busy := make(chan struct{})
	for client := range 5 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(client), 78))
			for n, done := 0, 0; n < 500; n++ {
				select {
				case <-busy:
					if done >= 2 {
						return
					}
				default:
				}
				var sel command.Selection
				first := r.IntN(900)
				for i := range 1 + r.IntN(30) {
					number := fmt.Sprintf("SO-%d", 50000+first+i)
					v, err := o.Query.Order(ctx, number)
					if !expected(err) {
						return
					}
					sel.Orders = append(sel.Orders, command.OrderSeen{Number: number, Seen: v.Version})
				}
				if among(func() (err error) {
					if n%2 == 0 {
						_, err = o.Allocation.Allocate(ctx, o.By(o.Ana), sel)
					} else {
						_, err = o.Allocation.GiveBack(ctx, o.By(o.Ana), sel)
					}
					return err
				}) {
					done++
					rows.Add(1)
				}
			}
		})
	}
	run := func(apply func(allocation.ApplyAsk) (command.Outcome, error)) bool {
		v, err := o.Allocation.Rehearse(ctx, o.By(o.Max), allocation.RunAsk{Policy: "First come"})
		if !expected(err) || v.Plans[0].Takes == 0 {
			return false
		}
		out, err := apply(allocation.ApplyAsk{Plan: v.Plans[0].Key})
		if !expected(err) {
			refusals.Add(1)
			return false
		}
		if out.Units != v.Plans[0].All.Units {
			t.Errorf("shown were %d units, %d were allocated", v.Plans[0].All.Units, out.Units)
		}
		most.Store(max(most.Load(), int64(v.Plans[0].Takes)))
		among(func() error {
			_, err := o.Undo.TakeBack(ctx, o.By(o.Max), undo.UndoAsk{Command: out.Command})
			return err
		})
		return true
	}
	for range 2 {
		runners.Go(func() {
			for range 2 {
				run(func(ask allocation.ApplyAsk) (out command.Outcome, err error) {
					among(func() error {
						out, err = o.Allocation.ApplyRun(ctx, o.By(o.Max), ask)
						return err
					})
					return out, err
				})
				still.Lock()
				let := sync.OnceFunc(still.Unlock)
				if _, allocated, _ := o.Total(); allocated > 0 {
					_, err := o.Allocation.GiveBackAll(ctx, o.By(o.Max), allocation.GiveBackAllAsk{Units: allocated})
					expected(err)
				}
				if !run(func(ask allocation.ApplyAsk) (command.Outcome, error) {
					ended := make(chan struct{})
					defer close(ended)
					go func() {
						o.AwaitWriting(ended)
						let()
					}()
					out, err := o.Allocation.ApplyRun(ctx, o.By(o.Max), ask)
					let()
					return out, err
				}) {
					t.Error("a run was refused although nothing had changed")
				}
				let()
			}
		})
	}
	runners.Wait()
	close(busy)
	wg.Wait()
	if rows.Load() < 10 || most.Load() < 2001 {
		t.Errorf("%d other commands, runs over at most %d lines: the test shows little", rows.Load(), most.Load())
	}
	t.Logf("%d other commands, %d runs refused", rows.Load(), refusals.Load())
	o.Audited()
}
