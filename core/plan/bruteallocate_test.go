package plan

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

// slowAllocation computes an allocation run by the words of CORE section 4: it looks for the
// next line, the next pack and what is there all over again each time.
type slowAllocation struct {
	slow
	options AllocateOptions
	got     map[int32]map[int32]int64 // by line and cell
}

func (s *slowAllocation) rule(l int32) book.Rule {
	if s.options.IgnoreRules {
		return book.Any
	}
	return s.b.Orders[s.b.Lines[l].Order].Rule
}

func (s *slowAllocation) due(l int32) bool {
	return s.options.Window < 0 || int(s.b.Lines[l].ShipBy)-int(s.b.Today) <= s.options.Window
}

func (s *slowAllocation) there(c int32) int64 {
	n := s.b.Cells[c].Free() - s.taken[c]
	if !s.options.Unprotected {
		n = min(n, s.atp(c, s.b.Today))
	}
	return max(0, n)
}

func (s *slowAllocation) has(l int32) (n int64) {
	for _, q := range s.got[l] {
		n += q
	}
	return n
}

func (s *slowAllocation) move(l, c int32, q int64) {
	if s.got[l] == nil {
		s.got[l] = map[int32]int64{}
	}
	s.got[l][c] += q
	s.taken[c] += q
}

func (s *slowAllocation) tryLine(l int32) bool {
	m := s.b.Items[s.b.Cells[s.b.Lines[l].Cell].Item].Multiple
	for _, c := range s.cells(l) {
		left := s.b.Lines[l].Open - s.has(l)
		q := min(left, s.there(c))
		if q < left {
			q = q / m * m
		}
		s.move(l, c, q)
	}
	return s.has(l) == s.b.Lines[l].Open
}

func (s *slowAllocation) giveBack(l int32) {
	for c, q := range s.got[l] {
		s.taken[c] -= q
	}
	delete(s.got, l)
}

// settle gives a line the promises that what it took has not used up.
func (s *slowAllocation) settle(l int32) {
	units := s.has(l)
	s.given[l] = nil
	for _, p := range byDay(s.b.PromisesOf(l)) {
		q := min(p.Qty, units)
		units -= q
		if p.Qty -= q; p.Qty > 0 {
			s.given[l] = append(s.given[l], p)
		}
	}
}

func (s *slowAllocation) one(l int32, done map[int32]bool) {
	b := s.b
	o := b.Lines[l].Order
	if s.rule(l) != book.Whole {
		if !s.due(l) {
			return
		}
		s.given[l] = nil
		if !s.tryLine(l) && s.rule(l) == book.Lines {
			s.giveBack(l)
		}
		s.settle(l)
		return
	}
	if done[o] {
		return
	}
	done[o] = true
	var lines []int32
	due := false
	first, after := b.LinesOf(o)
	for x := first; x < after; x++ {
		if b.Lines[x].Open > 0 {
			lines = append(lines, x)
			due = due || s.due(x)
		}
	}
	if !due {
		return
	}
	slices.SortFunc(lines, s.order)
	all := true
	for _, x := range lines {
		s.given[x] = nil
	}
	for _, x := range lines {
		all = s.tryLine(x) && all
	}
	for _, x := range lines {
		if !all {
			s.giveBack(x)
		}
		s.settle(x)
	}
}

func (s *slowAllocation) order(x, y int32) int {
	if less(s.b, s.options.Keys, x, y) {
		return -1
	}
	return 1
}

func (s *slowAllocation) equal(x, y int32) bool {
	// Neither comes before the other by the keys alone.
	return policy.Between(s.b, s.options.Keys, x, y) == ""
}

func (s *slowAllocation) shareGroup(lines []int32, done map[int32]bool) {
	var any []int32
	for _, l := range lines {
		if s.rule(l) != book.Any {
			s.one(l, done)
		} else if s.due(l) {
			any = append(any, l)
		}
	}
	for _, l := range any {
		s.given[l] = nil
	}
	for k := range 3 {
		for c := range s.b.Cells {
			passed := map[int32]bool{}
			limit := s.there(int32(c))
			used := int64(0)
			for {
				best := int32(-1)
				for _, l := range any {
					cs := s.cells(l)
					if k >= len(cs) || cs[k] != int32(c) || passed[l] || s.has(l) == s.b.Lines[l].Open {
						continue
					}
					if best < 0 || s.before(l, best) {
						best = l
					}
				}
				if best < 0 {
					break
				}
				m := s.b.Items[s.b.Cells[c].Item].Multiple
				pack := min(m, s.b.Lines[best].Open-s.has(best))
				if used+pack > limit {
					passed[best] = true
					continue
				}
				used += pack
				s.move(best, int32(c), pack)
			}
		}
	}
	for _, l := range any {
		s.settle(l)
	}
}

func (s *slowAllocation) before(x, y int32) bool {
	wx, wy := s.b.Lines[x].Open, s.b.Lines[y].Open
	c := 0
	if s.options.Share == Equal {
		c = int(s.has(x) - s.has(y))
	} else {
		c = big.NewRat(s.has(x), wx).Cmp(big.NewRat(s.has(y), wy))
	}
	if c != 0 {
		return c < 0
	}
	if wx != wy {
		return wx < wy
	}
	return x < y
}

func slowAllocate(b *book.Book, receipts map[int32][]outlook.Event, options AllocateOptions) map[int32]map[int32]int64 {
	s := &slowAllocation{
		slow: slow{b: b, receipts: receipts, given: map[int32][]book.Promise{}, taken: map[int32]int64{}}, options: options,
		got: map[int32]map[int32]int64{},
	}
	var lines []int32
	for i := range b.Lines {
		s.given[int32(i)] = slices.Clone(b.PromisesOf(int32(i)))
		if b.Eligible(int32(i)) {
			lines = append(lines, int32(i))
		}
	}
	slices.SortFunc(lines, s.order)
	done := map[int32]bool{}
	for len(lines) > 0 {
		n := 1
		for options.Share != InTurn && n < len(lines) && s.equal(lines[0], lines[n]) {
			n++
		}
		if n == 1 {
			s.one(lines[0], done)
		} else {
			s.shareGroup(lines[:n], done)
		}
		lines = lines[n:]
	}
	return s.got
}

func TestAnAllocationRunIsWhatTheWordsSay(t *testing.T) {
	n := uint64(1500)
	if testing.Short() {
		n = 400
	}
	took, cut, shared, windowed, packs, protects := 0, 0, 0, 0, 0, 0
	for seed := range n {
		r := rand.New(rand.NewPCG(seed, 21))
		b, receipts := randomBook(r)
		keys := slices.Clone(policy.Keys)
		r.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		options := AllocateOptions{
			Keys: keys[:1+r.IntN(3)], Share: []Sharing{InTurn, Fair, Equal}[r.IntN(3)], Unprotected: r.IntN(3) == 0,
			IgnoreRules: r.IntN(6) == 0,
			Window:      []int{NoWindow, 0, 5}[r.IntN(3)],
		}
		a, want := Allocate(b, options), slowAllocate(b, receipts, options)
		free := map[int32]int64{}
		for i := range b.Lines {
			l := int32(i)
			got := map[int32]int64{}
			sum := int64(0)
			for _, x := range a.TakenBy(l) {
				got[x.Cell] += x.Qty
				free[x.Cell] += x.Qty
				sum += x.Qty
				took++
			}
			for c, q := range want[l] {
				if got[c] != q {
					t.Fatalf(
						"seed %d, %+v: %s/%d takes %v, want %v", seed, options, b.Orders[b.Lines[i].Order].Number, b.Lines[i].No, got,
						want[l],
					)
				}
			}
			for c, q := range got {
				if want[l][c] != q {
					t.Fatalf(
						"seed %d, %+v: %s/%d takes %v, want %v", seed, options, b.Orders[b.Lines[i].Order].Number, b.Lines[i].No, got,
						want[l],
					)
				}
			}
			// The reasons account for every unit that was open, and say no nonsense.
			said := int64(0)
			for _, y := range a.Why(b, l, All) {
				said += y.Qty
				switch y.Code {
				case Covered:
					if y.Qty != sum {
						t.Fatalf("seed %d: line %d is covered with %d and took %d", seed, l, y.Qty, sum)
					}
				case RuleLine, RuleOrder:
					cut++
				case NotDue:
					windowed++
				case Multiple:
					packs++
				case Protects:
					protects++
					if options.Unprotected {
						t.Fatalf("seed %d: nothing is protected, and yet line %d stands back for promises", seed, l)
					}
				}
				if slices.Contains(y.After, l) {
					t.Fatalf("seed %d: line %d came before itself", seed, l)
				}
			}
			if said != b.Lines[i].Open {
				t.Fatalf(
					"seed %d: the reasons of line %d are of %d units, open are %d: %+v", seed, l, said, b.Lines[i].Open, a.Why(b, l, All),
				)
			}
			if options.Share != InTurn && sum > 0 {
				shared++
			}
		}
		for c, q := range free {
			if q > b.Cells[c].Free() {
				t.Fatalf("seed %d: %d are taken of %d that are free", seed, q, b.Cells[c].Free())
			}
		}
		if options.Share == InTurn && !options.Unprotected {
			// Nobody else's promise is broken: those that are broken are of lines that took themselves.
			for _, x := range a.Broken {
				if len(a.TakenBy(x.Line)) == 0 && b.Orders[b.Lines[x.Line].Order].Rule != book.Whole {
					t.Fatalf("seed %d, %+v: the promise %+v of a line that took nothing is broken", seed, options, x)
				}
			}
		}
		after := b.WithTaken(a.Taken)
		for i := range after.Lines {
			if after.Lines[i].Open != b.Lines[i].Open-a.Units(int32(i)) {
				t.Fatalf("seed %d: line %d has %d open afterwards", seed, i, after.Lines[i].Open)
			}
		}
	}
	for name, n := range map[string]int{
		"took": took, "cut": cut, "shared": shared, "not due": windowed, "packs": packs, "protects": protects,
	} {
		if n < 40 {
			t.Errorf("%s only %d times: the test shows little", name, n)
		}
	}
}

// More stock never gives a line served in turn without ship rules less.
func TestMoreStockNeverGivesLess(t *testing.T) {
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 22))
		b, _ := randomBook(r)
		options := AllocateOptions{Window: NoWindow, IgnoreRules: true, Unprotected: true}
		before := int64(0)
		for _, x := range Allocate(b, options).Taken {
			before += x.Qty
		}
		more := *b
		more.Cells = slices.Clone(b.Cells)
		more.Cells[r.IntN(len(more.Cells))].OnHand += int64(r.IntN(50)) * 12
		after := int64(0)
		for _, x := range Allocate(&more, options).Taken {
			after += x.Qty
		}
		if after < before {
			t.Fatalf("seed %d: %d with more stock, %d before", seed, after, before)
		}
	}
}

// Three orders that are equal by tier share sixty units by what they want.
func ExampleAllocate() {
	d := book.NewBuilder(days.Date(2027, 3, 1), days.Calendar{})
	it, _ := d.Item("A", 1, 0, false)
	c := d.Cell(it, d.Warehouse("W"))
	_ = d.Stock(c, 60, 0)
	for i, want := range []int64{30, 60, 90} {
		o, _ := d.Order(book.Order{Number: fmt.Sprint(i + 1), Tier: 1, Urgency: 3})
		_ = d.Line(book.NewLine{Order: o, No: 1, Cell: c, Ordered: want, Open: want})
	}
	b, _ := d.Book()
	a := Allocate(b, AllocateOptions{Keys: []policy.Key{policy.Tier}, Share: Fair, Window: NoWindow})
	for _, x := range a.Taken {
		fmt.Println(b.Orders[b.Lines[x.Line].Order].Number, x.Qty)
	}
	// Output:
	// 1 10
	// 2 20
	// 3 30
}
