package allocation_test

import (
	"context"
	"errors"
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

// takes is what each line takes in a plan: "SO-6001/1 12".
func takes(v allocation.RunView, plan int) string {
	m := map[string]int64{}
	for _, l := range v.Lines {
		m[fmt.Sprintf("%s/%d", l.Order, l.No)] = l.In[plan].Takes
	}
	return fmt.Sprintf("%d %d %d+%d %d", m["SO-6001/1"], m["SO-6002/1"], m["SO-6003/1"], m["SO-6003/2"], m["SO-6004/1"])
}

func TestAPolicyIsRehearsedComparedAndAppliedAsShown(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	v := o.Rehearse(allocation.RunAsk{Compare: "First come", Scope: desktest.ShortageOrders})
	// By tier and date: 15 to tier 1; the whole order of tier 2 does not fit any more; 5 to tier 3.
	if got := takes(v, 0); got != "5 15 0+0 0" {
		t.Errorf("by tier and date: %s", got)
	}
	// First come: 12 to the first, 8 and 3 to the whole order, nothing to the others.
	if got := takes(v, 1); got != "12 0 8+3 0" {
		t.Errorf("first come: %s", got)
	}
	if v.Differ != 4 || v.Count != 5 || v.Scope.String() != "4 chosen orders" {
		t.Errorf("%d of %d differ, %q", v.Differ, v.Count, v.Scope)
	}
	a, b := v.Plans[0], v.Plans[1]
	if a.All.Complete != 1 || a.All.Units != 20 || a.All.ValueMinor != 4000 || b.All.Complete != 2 || b.All.Units != 23 {
		t.Errorf("totals %+v and %+v", a.All, b.All)
	}
	if v.Before.Units != 0 || v.Before.LateLines == 0 {
		t.Errorf("before %+v", v.Before)
	}
	var why string
	for _, l := range v.Lines {
		if l.Order == "SO-6001" {
			why = l.In[0].Why.String()
		}
	}
	if why != "7 of 12: SO-6002 line 1 (tier 1, due Tue 2 Mar) came first by tier." {
		t.Errorf("why: %s", why)
	}
	if l := o.Line("SO-6002", 1); l.At.Allocated != 0 {
		t.Fatal("rehearsing allocated")
	}

	out := ok(o.Allocation.ApplyRun(ctx, o.By(o.Ana), allocation.ApplyAsk{Plan: a.Key}))
	if out.Sentence != "By tier and date: allocated 20 units on 2 lines of 2 orders." || !out.Undoable {
		t.Errorf("%+v", out)
	}
	if x, y := o.Line("SO-6001", 1).At.Allocated, o.Line("SO-6002", 1).At.Allocated; x != 5 || y != 15 {
		t.Errorf("allocated %d and %d", x, y)
	}
	o.Sound()
	// The reasons are kept with every line that was looked at.
	w, err := o.Allocation.Why(ctx, o.Line("SO-6003", 1).ID)
	if err != nil || !strings.Contains(
		w.Said.String(), "8 of 8: the order goes only whole; SO-6002 line 1 (tier 1, due Tue 2 Mar) came first by tier",
	) ||
		!strings.HasPrefix(w.Run.String(), "By tier and date, run by Ana Ruiz") || len(w.Reasons) != 1 || len(w.Holders) != 2 {
		t.Errorf("why: %+v %v", w, err)
	}
	// A plan is applied once.
	_, err = o.Allocation.ApplyRun(ctx, o.By(o.Ana), allocation.ApplyAsk{Plan: a.Key})
	desktest.Refused(t, err, command.KindConflict, "applied already")
	// The other one would come out otherwise now.
	_, err = o.Allocation.ApplyRun(ctx, o.By(o.Max), allocation.ApplyAsk{Plan: b.Key})
	desktest.Refused(t, err, command.KindConflict, "has changed since you rehearsed", "Ana Ruiz allocated", "of ZB-1")
	// Taken back as a whole, it fits again.
	ok(o.Undo.TakeBack(ctx, o.By(o.Ana), undo.UndoAsk{Command: out.Command}))
	if w, _ := o.Allocation.Why(ctx, o.Line("SO-6003", 1).ID); w.Run.String() != "" {
		t.Errorf("the reasons of what was taken back are still told: %s", w.Run)
	}
	ok(o.Allocation.ApplyRun(ctx, o.By(o.Max), allocation.ApplyAsk{Plan: b.Key}))
	o.Sound()
	for _, c := range []struct {
		who command.Actor
		why [2]string
	}{
		{o.Ana, [2]string{"Somebody else did that; only they or a manager can undo it.", ""}},
		{o.Max, [2]string{"", ""}},
		{o.Flo, [2]string{"Somebody else", "Somebody else"}},
	} {
		v, err := o.Allocation.Runs(ctx, c.who)
		if err != nil || len(v.Runs) != 2 {
			t.Fatalf("%+v %v", v, err)
		}
		last, first := v.Runs[0], v.Runs[1]
		if last.Said.String() != "First come: allocated 23 units on 3 lines of 2 orders." || last.Who != "Max Orme" || last.Back.String() != "" ||
			first.Command != out.Command ||
			first.Policy != "By tier and date" || !strings.HasPrefix(first.Back.String(), "undone by Ana Ruiz at ") {
			t.Errorf("%+v", v.Runs)
		}
		if !strings.HasPrefix(last.Why.String(), c.why[0]) || !strings.HasPrefix(first.Why.String(), c.why[1]) ||
			last.Why.IsZero() != (c.why[0] == "") {
			t.Errorf("%s may take back: %q, %q", c.who.Name, last.Why, first.Why)
		}
	}
}

func TestTheRulesOfAPolicyReachThePlan(t *testing.T) {
	t.Parallel()
	o := desktest.Shortage(t)
	rules := allocation.PolicyRules{
		Keys: []string{"tier"}, Sharing: "in-turn", Goal: "keys", Protect: true, ShipRules: "respect", Reserves: []allocation.Reserve{},
	}
	week := 7
	for name, c := range map[string]struct {
		change func(*allocation.PolicyRules)
		scope  allocation.RunScope
		want   string
	}{
		"as it is":             {func(*allocation.PolicyRules) {}, desktest.ShortageOrders, "5 15 0+0 0"},
		"from other places":    {func(r *allocation.PolicyRules) { r.Elsewhere = true }, desktest.ShortageOrders, "3 15 8+3 0"},
		"rules not respected":  {func(r *allocation.PolicyRules) { r.ShipRules = "ignore" }, desktest.ShortageOrders, "0 15 5+3 0"},
		"most orders complete": {func(r *allocation.PolicyRules) { r.Goal = "orders" }, desktest.ShortageOrders, "3 15 0+0 2"},
		"by entry, a week": {
			func(r *allocation.PolicyRules) { r.Keys, r.Window = []string{"entered"}, &week }, desktest.ShortageOrders, "12 0 8+3 0",
		},
		"shared equally": {
			func(r *allocation.PolicyRules) { r.Keys, r.Sharing = []string{"urgency"}, "equal" }, desktest.ShortageOrders, "5 5 8+3 2",
		},
		"a part for the fair": {func(r *allocation.PolicyRules) {
			r.Keys, r.Reserves = []string{"entered"}, []allocation.Reserve{{SKU: "ZB-1", Percent: 50, Channel: "fair"}}
		}, desktest.ShortageOrders, "10 10 0+0 0"},
		"in the order listed": {
			func(*allocation.PolicyRules) {},
			allocation.RunScope{Orders: []string{"SO-6004", "SO-6001", "SO-6003", "SO-6002"}, Listed: true},
			"12 6 0+0 2",
		},
		"two chosen orders": {
			func(*allocation.PolicyRules) {}, allocation.RunScope{Orders: []string{"SO-6004", "SO-6001"}}, "12 0 0+0 2",
		},
		"one channel": {func(*allocation.PolicyRules) {}, allocation.RunScope{Channel: "fair", Customer: "SPC"}, "0 15 0+0 0"},
	} {
		r := rules
		c.change(&r)
		if got := takes(o.Rehearse(allocation.RunAsk{Rules: &r, Scope: c.scope}), 0); got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
	}
	// A customer who insists on one warehouse is sent nothing from another.
	o.Load("customers.csv", "customer,name,one_warehouse,ship_to\nSPC,"+o.Order("SO-6001").Customer+",yes,"+o.ShipTo("SPC")+"\n")
	r := rules
	r.Elsewhere = true
	if got := takes(o.Rehearse(allocation.RunAsk{Rules: &r, Scope: desktest.ShortageOrders}), 0); got != "5 15 0+0 0" {
		t.Errorf("from one warehouse only: %s", got)
	}
	if v := o.Rehearse(allocation.RunAsk{Policy: "Most orders complete", Scope: desktest.ShortageOrders}); len(v.Plans[0].Goal) == 0 ||
		v.Plans[0].Goal[0].Reached > v.Plans[0].Goal[0].Bound {
		t.Errorf("goal %+v", v.Plans[0].Goal)
	}
}

func TestAManagerComposesPolicies(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.Shortage(t), context.Background(), desktest.Done(t)
	rules := allocation.PolicyRules{
		Keys: []string{"value", "entered"}, Sharing: "in-turn", Goal: "keys", Protect: true, ShipRules: "respect",
		Reserves: []allocation.Reserve{{Percent: 20, Tier: 1}},
	}
	_, err := o.Allocation.SetPolicy(ctx, o.By(o.Ana), allocation.PolicyAsk{Name: "The dear first", Rules: rules})
	desktest.Refused(t, err, command.KindForbidden, "manager")
	for words, r := range map[string]allocation.PolicyRules{
		"twice":     {Keys: []string{"tier", "tier"}},
		"not a key": {Keys: []string{"colour"}},
		"either":    {Keys: []string{"tier"}, Reserves: []allocation.Reserve{{Percent: 20}}},
		"More than": {Keys: []string{"tier"}, Reserves: []allocation.Reserve{{Percent: 60, Tier: 1}, {Percent: 60, Channel: "web"}}},
	} {
		_, err := o.Allocation.SetPolicy(ctx, o.By(o.Max), allocation.PolicyAsk{Name: "Not to be", Rules: r})
		desktest.Refused(t, err, command.KindInvalid, words)
	}
	ok(o.Allocation.SetPolicy(ctx, o.By(o.Max), allocation.PolicyAsk{Name: "The dear first", Rules: rules}))
	_, err = o.Allocation.SetPolicy(ctx, o.By(o.Max), allocation.PolicyAsk{Name: "The dear first", Rules: rules})
	desktest.Refused(t, err, command.KindConflict, "another name")
	find := func(name string) allocation.PolicyView {
		t.Helper()
		ps, err := o.Allocation.Policies(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range ps.Policies {
			if p.Name == name {
				return p
			}
		}
		t.Fatalf("there is no policy %s", name)
		return allocation.PolicyView{}
	}
	p := find("The dear first")
	if p.Words.String() != "Serves by value, then time of entry; keeps 20 % of everything for tier 1." || p.Default {
		t.Errorf("%+v", p)
	}
	ok(o.Allocation.DefaultPolicy(ctx, o.By(o.Max), allocation.PolicySeen{ID: p.ID, Seen: p.Version}))
	_, err = o.Allocation.DropPolicy(ctx, o.By(o.Max), allocation.PolicySeen{ID: p.ID, Seen: p.Version})
	desktest.Refused(t, err, command.KindConflict, "has been changed since")
	p = find("The dear first")
	_, err = o.Allocation.DropPolicy(ctx, o.By(o.Max), allocation.PolicySeen{ID: p.ID, Seen: p.Version})
	desktest.Refused(t, err, command.KindConflict, "default")
	if v := o.Rehearse(allocation.RunAsk{Scope: desktest.ShortageOrders}); v.Plans[0].Policy != "The dear first" {
		t.Errorf("the default is %s", v.Plans[0].Policy)
	}
	old := find("By tier and date")
	ok(o.Allocation.DefaultPolicy(ctx, o.By(o.Max), allocation.PolicySeen{ID: old.ID, Seen: old.Version}))
	p = find("The dear first")
	ok(o.Allocation.DropPolicy(ctx, o.By(o.Max), allocation.PolicySeen{ID: p.ID, Seen: p.Version}))
	ps, _ := o.Allocation.Policies(ctx)
	if len(ps.Trail) != 4 || ps.Trail[0].Text.String() != "dropped The dear first" || ps.Trail[3].Text.String() != "made The dear first" {
		t.Errorf("trail %+v", ps.Trail)
	}
	_, err = o.Allocation.Rehearse(ctx, o.By(o.Ana), allocation.RunAsk{Policy: "The dear first"})
	desktest.Refused(t, err, command.KindNotFound, "no policy")
	_, err = o.Allocation.Rehearse(ctx, o.By(o.Flo), allocation.RunAsk{})
	desktest.Refused(t, err, command.KindForbidden, "floor")
}

// Runs are applied while others allocate, give back, release and drop by hand on the same items: a
// plan is carried out as shown or not at all, and no unit is given away twice.
func TestRunsAreAppliedInACrowd(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	orders := "order,customer,wanted,line,sku,warehouse,qty,tier\n"
	var scope []string
	for i := range 20 {
		for l, sku := range []string{"GL-2040-1", "TL-014", "CB-110"} {
			orders += fmt.Sprintf("SO-7%03d,SPC,2027-03-10,%d,%s,HL,%d,%d\n", i, l+1, sku, []int{6, 5, 9}[l], 1+i%4)
		}
		scope = append(scope, fmt.Sprintf("SO-7%03d", i))
	}
	o.Load("orders.csv", orders)
	var ids []int64
	for _, n := range scope {
		for _, l := range o.Order(n).Lines {
			ids = append(ids, l.ID)
		}
	}
	ctx, stop := context.WithTimeout(context.Background(), 5*time.Minute)
	defer stop()
	var applied, changed atomic.Int64
	var wg sync.WaitGroup
	for client := range 16 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(client), 77))
			for range 12 {
				call := o.By(o.Max)
				call.Reason = "in the crowd"
				sel := command.Selection{Lines: []command.LineQty{{Line: ids[r.IntN(len(ids))], Qty: 2}}}
				var err error
				switch {
				case client < 6:
					var v allocation.RunView
					v, err = o.Allocation.Rehearse(
						ctx, call,
						allocation.RunAsk{
							Policy: []string{"First come", "Fair shares by tier", "Most orders complete"}[r.IntN(3)],
							Scope:  allocation.RunScope{Orders: scope},
						},
					)
					if err != nil || v.Plans[0].Takes == 0 {
						break
					}
					var out command.Outcome
					if out, err = o.Allocation.ApplyRun(ctx, o.By(o.Max), allocation.ApplyAsk{Plan: v.Plans[0].Key}); err == nil {
						applied.Add(1)
						if out.Units != v.Plans[0].All.Units {
							t.Errorf("shown were %d units, %d were allocated", v.Plans[0].All.Units, out.Units)
						}
						_, err = o.Undo.TakeBack(ctx, o.By(o.Max), undo.UndoAsk{Command: out.Command})
					} else if strings.Contains(err.Error(), "changed since you rehearsed") {
						changed.Add(1)
					}
				case r.IntN(3) == 0:
					_, err = o.Allocation.GiveBack(ctx, call, sel)
				case r.IntN(3) == 0:
					_, err = o.Sales.Drop(ctx, call, sel)
				default:
					_, err = o.Allocation.Allocate(ctx, call, sel)
				}
				var refusal *command.Refusal
				if err != nil && !errors.As(err, &refusal) {
					t.Errorf("client %d: %v", client, err)
				}
			}
		})
	}
	wg.Wait()
	if applied.Load() == 0 || changed.Load() == 0 {
		t.Errorf("%d plans were applied, %d refused because the book had changed: the test shows little", applied.Load(), changed.Load())
	}
	o.Sound()
}
