package plan

import (
	"math/rand/v2"
	"testing"

	"journeyman/core/days"
	"journeyman/core/policy"
)

func TestAPlanIsJudgedByWhatItCompletesAndWhatIsLate(t *testing.T) {
	t.Parallel()
	// Ten are there, six more come on the 8th. The first order wants 8 by the 1st, the second 5 by the 3rd.
	b := reading(t, `"items":[{"sku":"A","buyable":false}],"stock":[{"sku":"A","warehouse":"W","on_hand":10}],
		"inbound":[{"sku":"A","warehouse":"W","due":"2027-03-08","qty":6}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":8,"price":100,"ship_by":"2027-03-01"}]},
		{"order":"2","tier":2,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5,"price":10,"ship_by":"2027-03-03","promises":[{"qty":5,"day":"2027-03-08"}]}]},
		{"order":"3","tier":3,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":9,"price":10,"ship_by":"2027-03-02"}]}]`)
	x := Allocate(b, AllocateOptions{Keys: []policy.Key{policy.Tier}, Window: NoWindow})
	o := x.Judge(b)
	if want := (Effect{Orders: 1, Complete: 1, Lines: 1, Units: 8, Value: 800}); o.Tiers[1] != want {
		t.Errorf("tier 1: %+v, want %+v", o.Tiers[1], want)
	}
	// The second takes the last two, its other three follow on the 8th, five days late.
	if want := (Effect{Orders: 1, Lines: 1, Units: 2, Value: 20, LateLines: 1, LateDays: 5}); o.Tiers[2] != want {
		t.Errorf("tier 2: %+v, want %+v", o.Tiers[2], want)
	}
	if d, ok := o.Leaves(1); !ok || d != days.Date(2027, 3, 8) {
		t.Errorf("the second leaves on %v", d)
	}
	// Of the third nothing more than three is ever there.
	if _, ok := o.Leaves(2); ok || o.Tiers[3].LateLines != 1 {
		t.Errorf("the third: %+v", o.Tiers[3])
	}
	if o.All.Orders != 3 || o.All.Complete != 1 || o.All.Units != 10 || o.All.Value != 820 || o.All.LateLines != 2 {
		t.Errorf("all: %+v", o.All)
	}
	y := Allocate(b, AllocateOptions{Keys: []policy.Key{policy.Value}, Window: NoWindow, Unprotected: true})
	if d := Differ(b, x, y); len(d) != 2 || d[0] != 1 || d[1] != 2 {
		t.Errorf("lines %v differ, want the second and the third", d)
	}
	if d := Differ(b, x, x); len(d) != 0 {
		t.Errorf("a plan differs from itself in %v", d)
	}
}

func TestTheEffectsOfTheTiersAddUp(t *testing.T) {
	t.Parallel()
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 41))
		b, _ := randomBook(r)
		a := Allocate(b, AllocateOptions{Window: NoWindow, Unprotected: seed%2 == 0, Goal: []Goal{InOrder, MostOrders, MostValue}[seed%3]})
		o := a.Judge(b)
		var sum Outcomes
		units := int64(0)
		for tier, e := range o.Tiers {
			if tier > 0 {
				sum.add(uint8(tier), e)
			}
		}
		for _, x := range a.Taken {
			units += x.Qty
		}
		if sum.All != o.All || o.All.Units != units {
			t.Fatalf("seed %d: tiers add up to %+v, all is %+v, %d units are taken", seed, sum.All, o.All, units)
		}
		for _, x := range a.Broken { // a promise that is broken is not what the line leaves by
			if d, ok := o.Leaves(x.Line); ok && d < b.Today {
				t.Fatalf("seed %d: line %d leaves on %v", seed, x.Line, d)
			}
		}
	}
}

// A promise that nothing stands behind is not what a line leaves by.
func TestWhatIsPromisedAndCannotBeKeptIsNotCountedOn(t *testing.T) {
	t.Parallel()
	b := reading(t, `"items":[{"sku":"A","buyable":false}],"inbound":[{"sku":"A","warehouse":"W","due":"2027-02-20","qty":9},{"sku":"A","warehouse":"W","due":"2027-03-10","qty":5}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5,"ship_by":"2027-03-01","promises":[{"qty":5,"day":"2027-03-01"}]}]},
		{"order":"2","tier":2,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":4,"ship_by":"2027-03-12","promises":[{"qty":4,"day":"2027-03-02"}]}]}]`)
	for name, a := range map[string]*Allocation{
		"without a run": Untouched(b, nil), "after one": Allocate(b, AllocateOptions{Window: NoWindow}),
	} {
		o := a.Judge(b)
		if d, ok := o.Leaves(0); !ok || d != days.Date(2027, 3, 10) {
			t.Errorf("%s: the first leaves on %v, want the day of the next arrival", name, d)
		}
		if _, ok := o.Leaves(1); ok || o.All.LateLines != 2 {
			t.Errorf("%s: the second leaves, %+v", name, o.All)
		}
		if len(a.Broken) != 0 {
			t.Errorf("%s: %+v broke by it", name, a.Broken)
		}
	}
}
