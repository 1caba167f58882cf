package main

import (
	"cmp"
	"fmt"
	"runtime"
	"slices"
	"time"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/demo"
)

// computation times the core on big books. The measure of each is sorting the same line
// records by slices.SortFunc in the same run.
func (b *benching) computation() error {
	fmt.Printf(
		"\n%-12s %12s %21s %21s %21s %21s %21s %10s %12s\n", "open lines", "sort", "outlooks (of sort)", "promises (of sort)",
		"keeping (of sort)", "allocating (of sort)", "sharing (of sort)", "one ATP", "a line takes",
	)
	for _, n := range []int{10_000, 100_000, 1_000_000} {
		if n > b.book {
			break
		}
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		bk := demo.BigBook(n, days.Date(2027, 3, 1))
		runtime.GC()
		runtime.ReadMemStats(&after)
		var sort, outlooks, afresh, keep, turn, fair []float64
		for range 5 {
			sort = append(sort, timed(func() { sortRecords(bk) }))
			outlooks = append(outlooks, timed(func() { bk.Outlooks(nil) }))
			afresh = append(afresh, timed(func() { plan.Promise(bk, plan.PromiseOptions{}) }))
			turn = append(turn, timed(func() { plan.Allocate(bk, plan.AllocateOptions{Window: plan.NoWindow}) }))
			fair = append(fair, timed(func() {
				plan.Allocate(bk, plan.AllocateOptions{Window: plan.NoWindow, Share: plan.Fair, Keys: []policy.Key{policy.Tier}})
			}))
			keep = append(keep, timed(func() { plan.Promise(bk, plan.PromiseOptions{Keep: true}) }))
		}
		s := median(sort)
		with := func(of []float64) string { return fmt.Sprintf("%8.1f ms %5.2f", median(of), median(of)/s) }
		fmt.Printf(
			"%-12d %9.1f ms %21s %21s %21s %21s %21s %7.0f ns %6d bytes\n", n, s, with(outlooks), with(afresh), with(keep), with(turn),
			with(fair), question(bk), (after.HeapAlloc-before.HeapAlloc)/uint64(n),
		)
	}
	b.goals()
	fmt.Println("goals at 1,000,000, of the sort: promises 0.4, allocating 1.0, sharing 1.5; one ATP question 200 ns, 400 bytes a line")
	return nil
}

// goals times the runs that choose for a goal, on books of which a tenth of the items are short.
func (b *benching) goals() {
	fmt.Printf("\n%-12s %-14s %-8s %12s %16s %16s %10s\n", "open lines", "lines an item", "goal", "time", "reached", "at most", "between")
	for _, each := range []int{10, 30, 100, 300} {
		n := min(100_000, b.book)
		bk := demo.ShortBook(n, each, days.Date(2027, 3, 1))
		for _, goal := range []plan.Goal{plan.MostOrders, plan.MostValue} {
			var a *plan.Allocation
			took := timed(func() { a = plan.Allocate(bk, plan.AllocateOptions{Window: plan.NoWindow, Goal: goal}) })
			var reached, bound int64
			for _, t := range a.Tiers {
				reached, bound = reached+t.Reached, bound+t.Bound
			}
			fmt.Printf(
				"%-12d %-14d %-8s %9.0f ms %16d %16d %9.4f%%\n", n, each, goal, took, reached, bound,
				100*float64(bound-reached)/float64(max(1, bound)),
			)
		}
	}
	fmt.Println("goals at 100,000: within 1 % (orders) and 0.1 % (value), in at most 1000 ms")
}

// timed is how many milliseconds f takes, with no rubbish of others to collect.
func timed(f func()) float64 {
	runtime.GC()
	begin := time.Now()
	f()
	return float64(time.Since(begin).Microseconds()) / 1000
}

// sortRecords sorts copies of the lines by tier, ship-by day, time of entry, order and number.
func sortRecords(bk *book.Book) {
	type record struct {
		book.Line
		tier    uint8
		entered int64
	}
	rs := make([]record, len(bk.Lines))
	for i, l := range bk.Lines {
		o := &bk.Orders[l.Order]
		rs[i] = record{l, o.Tier, o.Entered}
	}
	slices.SortFunc(rs, func(a, b record) int {
		return cmp.Or(
			cmp.Compare(a.tier, b.tier), cmp.Compare(a.ShipBy, b.ShipBy), cmp.Compare(a.entered, b.entered), cmp.Compare(a.Order, b.Order),
			cmp.Compare(a.No, b.No),
		)
	})
}

// question is how many nanoseconds it takes to say how many by a day and which day for all.
func question(bk *book.Book) float64 {
	outlooks := bk.Outlooks(nil)
	const n = 1_000_000
	var sum int64
	var found int
	began := time.Now()
	for i := range n {
		o := &outlooks[(i*7919)%len(outlooks)]
		d := bk.Today + days.Day(i%60)
		if a := o.ATP(d); a != outlook.Unlimited {
			sum += a
		}
		if _, ok := o.Earliest(int64(i%100), d); ok {
			found++
		}
	}
	took := float64(time.Since(began).Nanoseconds()) / (2 * n)
	if sum == 0 || found == 0 {
		return -1 // so that nothing can be left out as unused
	}
	return took
}
