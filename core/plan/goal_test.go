package plan

import (
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/book"
	"journeyman/core/policy"
)

// slowGoal is the most that a tier can reach, the first tier of which there is anything, found by
// trying every set of what goes only whole, and for the rest what goes in.
func slowGoal(b *book.Book, s *slowAllocation, options AllocateOptions, tier uint8) int64 {
	scope := func(l int32) bool {
		if !b.Eligible(l) {
			return false
		}
		if s.due(l) || s.rule(l) != book.Whole {
			return s.due(l)
		}
		first, after := b.LinesOf(b.Lines[l].Order)
		for x := first; x < after; x++ {
			if b.Lines[x].Open > 0 && s.due(x) {
				return true
			}
		}
		return false
	}
	for l := range b.Lines {
		if !scope(int32(l)) {
			continue
		}
		delete(s.given, int32(l))
	}
	room := map[int32]int64{}
	for c := range b.Cells {
		room[int32(c)] = s.there(int32(c))
	}
	var bundles [][]int32
	var parts []int32
	for o := range b.Orders {
		first, after := b.LinesOf(int32(o))
		var lines []int32
		all := true
		for l := first; l < after; l++ {
			if b.Lines[l].Open > 0 {
				lines = append(lines, l)
				all = all && scope(l)
			}
		}
		if b.Orders[o].Tier != tier || len(lines) == 0 {
			continue
		}
		if options.Goal == MostOrders || s.rule(lines[0]) == book.Whole {
			if all {
				bundles = append(bundles, lines)
			}
			continue
		}
		for _, l := range lines {
			switch {
			case !scope(l):
			case s.rule(l) == book.Lines:
				bundles = append(bundles, []int32{l})
			default:
				parts = append(parts, l)
			}
		}
	}
	best := int64(0)
	var fill func(x int, sum int64)
	fill = func(x int, sum int64) {
		if x == len(parts) {
			best = max(best, sum)
			return
		}
		l := &b.Lines[parts[x]]
		m := max(1, b.Items[b.Cells[l.Cell].Item].Multiple)
		if m == 1 { // by the unit the dearest line first is best: parts are sorted so
			q := min(l.Open, room[l.Cell])
			room[l.Cell] -= q
			fill(x+1, sum+q*l.Price)
			room[l.Cell] += q
			return
		}
		for q := int64(0); q <= l.Open && q <= room[l.Cell]; q++ {
			if q%m == 0 || q == l.Open {
				room[l.Cell] -= q
				fill(x+1, sum+q*l.Price)
				room[l.Cell] += q
			}
		}
	}
	slices.SortStableFunc(parts, func(x, y int32) int { return int(b.Lines[y].Price - b.Lines[x].Price) })
	var try func(j int, sum int64)
	try = func(j int, sum int64) {
		if j == len(bundles) {
			fill(0, sum)
			return
		}
		try(j+1, sum)
		ok, worth := true, int64(0)
		for _, l := range bundles[j] {
			room[b.Lines[l].Cell] -= b.Lines[l].Open
			worth += b.Lines[l].Open * b.Lines[l].Price
		}
		for _, l := range bundles[j] {
			ok = ok && room[b.Lines[l].Cell] >= 0
		}
		if options.Goal == MostOrders {
			worth = 1
		}
		if ok {
			try(j+1, sum+worth)
		}
		for _, l := range bundles[j] {
			room[b.Lines[l].Cell] += b.Lines[l].Open
		}
	}
	try(0, 0)
	return best
}

func TestAGoalReachesWhatTryingEverySetFinds(t *testing.T) {
	t.Parallel()
	n := uint64(1200)
	if testing.Short() {
		n = 300
	}
	proved, better, asked := 0, 0, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 31))
		b, receipts := randomBook(r)
		options := AllocateOptions{
			Keys: []policy.Key{policy.Entered}, Goal: []Goal{MostOrders, MostValue}[seed%2], Unprotected: r.IntN(3) == 0,
			IgnoreRules: r.IntN(6) == 0, Window: []int{NoWindow, 5}[r.IntN(2)],
		}
		a := Allocate(b, options)
		complete := map[uint8]int64{}
		value := map[uint8]int64{}
		free := map[int32]int64{}
		for o := range b.Orders {
			first, after := b.LinesOf(int32(o))
			open, all := false, true
			for l := first; l < after; l++ {
				line := &b.Lines[l]
				sum := int64(0)
				for _, x := range a.TakenBy(l) {
					sum += x.Qty
					free[x.Cell] += x.Qty
				}
				if sum > line.Open {
					t.Fatalf("seed %d: line %d takes %d of %d", seed, l, sum, line.Open)
				}
				if !options.IgnoreRules && line.Rule != book.Any && sum != 0 && sum != line.Open {
					t.Fatalf("seed %d: line %d goes only whole and takes %d of %d", seed, l, sum, line.Open)
				}
				open = open || line.Open > 0
				all = all && sum == line.Open
				value[b.Orders[o].Tier] += sum * line.Price
				said := int64(0)
				for _, y := range a.Why(b, l, All) {
					said += y.Qty
				}
				if said != line.Open {
					t.Fatalf("seed %d: the reasons of line %d are of %d of %d units: %+v", seed, l, said, line.Open, a.Why(b, l, All))
				}
			}
			if open && all {
				complete[b.Orders[o].Tier]++
			}
		}
		for c, q := range free {
			if q > b.Cells[c].Free() {
				t.Fatalf("seed %d: %d are taken of %d that are free", seed, q, b.Cells[c].Free())
			}
		}
		for i, tier := range a.Tiers {
			got := value[tier.Tier]
			if options.Goal == MostOrders {
				got = complete[tier.Tier]
			}
			if got < tier.Reached || tier.Bound < tier.Reached {
				t.Fatalf("seed %d: tier %+v is said to be reached, and has %d", seed, tier, got)
			}
			if i > 0 {
				continue // the others stand on what this one left
			}
			s := &slowAllocation{
				slow: slow{b: b, receipts: receipts, given: map[int32][]book.Promise{}, taken: map[int32]int64{}}, options: options,
				got: map[int32]map[int32]int64{},
			}
			for l := range b.Lines {
				s.given[int32(l)] = slices.Clone(b.PromisesOf(int32(l)))
			}
			best := slowGoal(b, s, options, tier.Tier)
			if tier.Reached > best || tier.Bound < best {
				t.Fatalf(
					"seed %d, %+v: tier %d reached %d of at most %d; trying finds %d", seed, options, tier.Tier, tier.Reached, tier.Bound,
					best,
				)
			}
			asked++
			if tier.Reached == best {
				proved++
			}
		}
		plain := Allocate(
			b,
			AllocateOptions{Keys: options.Keys, Unprotected: options.Unprotected, IgnoreRules: options.IgnoreRules, Window: options.Window},
		)
		if len(plain.Taken) > 0 && len(a.Tiers) > 0 && a.Tiers[0].Reached > 0 {
			better++
		}
	}
	if proved < asked*99/100 || asked < 200 || better < 50 {
		t.Errorf("only %d of %d are the best, %d reach anything", proved, asked, better)
	}
}

// No goal is worse, tier by tier, than serving what it is about in the order of the policy.
func TestAGoalIsNeverWorseThanServingInTurn(t *testing.T) {
	t.Parallel()
	better, same := 0, 0
	for seed := range uint64(600) {
		r := rand.New(rand.NewPCG(seed, 33))
		b, receipts := randomBook(r)
		keys := []policy.Key{[]policy.Key{policy.Tier, policy.ShipBy, policy.Entered, policy.Value}[r.IntN(4)]}
		options := AllocateOptions{Keys: keys, Goal: MostOrders, Window: NoWindow, Unprotected: r.IntN(2) == 0}
		a := Allocate(b, options)
		s := &slowAllocation{
			slow: slow{b: b, receipts: receipts, given: map[int32][]book.Promise{}, taken: map[int32]int64{}}, options: options,
			got: map[int32]map[int32]int64{},
		}
		for l := range b.Lines {
			if !b.Eligible(int32(l)) {
				s.given[int32(l)] = slices.Clone(b.PromisesOf(int32(l)))
			}
		}
		room := map[int32]int64{}
		for c := range b.Cells {
			room[int32(c)] = s.there(int32(c))
		}
		// Orders in turn: at the place of their first line, whole or not at all.
		var lines []int32
		for l := range b.Lines {
			if b.Eligible(int32(l)) {
				lines = append(lines, int32(l))
			}
		}
		slices.SortStableFunc(lines, func(x, y int32) int { return policy.Compare(b, keys, x, y) })
		var reached [6]int64
		seen := map[int32]bool{}
		for _, x := range lines {
			o := b.Lines[x].Order
			if seen[o] {
				continue
			}
			seen[o] = true
			first, after := b.LinesOf(o)
			need := map[int32]int64{}
			for l := first; l < after; l++ {
				need[b.Lines[l].Cell] += b.Lines[l].Open
			}
			fits := true
			for c, q := range need {
				fits = fits && room[c] >= q
			}
			if fits {
				reached[b.Orders[o].Tier]++
				for c, q := range need {
					room[c] -= q
				}
			}
		}
		for _, tier := range a.Tiers {
			plain := reached[tier.Tier]
			if tier.Reached > plain {
				better++
				break // the tiers after it stand on what this one left
			}
			if tier.Reached < plain {
				t.Fatalf("seed %d, %v: tier %d reaches %d, in turn it is %d: %+v", seed, keys, tier.Tier, tier.Reached, plain, a.Tiers)
			}
			same++
		}
	}
	if better < 20 || same < 100 {
		t.Errorf("better %d times, the same %d times: the test shows little", better, same)
	}
}
