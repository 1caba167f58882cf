package plan

import (
	"cmp"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"slices"

	"journeyman/core/book"
	"journeyman/core/policy"
)

// Why is a reason as the plan keeps it: who came first, by index of the line.
type Why struct {
	Code  Code
	Qty   int64
	After []int32 // the first of them
	More  int     // how many came first besides those
}

// All is the number of names that [Allocation.Why] gives if all are wanted.
const All = math.MaxInt

// Why says why line l takes what it takes, and no more. Of those that came first it names so many. Cost: their number, and
// the logarithm of how many came first.
func (a *Allocation) Why(b *book.Book, l int32, names int) []Why {
	line := &b.Lines[l]
	out := []Why{}
	switch {
	case line.Open == 0:
		return out
	case !b.Eligible(l):
		return append(out, Why{Code: OnHold, Qty: line.Open})
	case a.rank[l] == notDue:
		return append(out, Why{Code: NotDue, Qty: line.Open})
	case a.rank[l] == notServed:
		return out // nobody was served
	}
	s := a.served[a.rank[l]-1]
	switch {
	case s.cut && line.Rule == book.Lines:
		return append(out, because(RuleLine, line.Open, a.ahead(b, l), names))
	case s.cut:
		first, more := a.aheadOfOrder(b, line.Order, names)
		return append(out, Why{RuleOrder, line.Open, first, more})
	}
	if s.taken > 0 {
		out = append(out, Why{Code: Covered, Qty: s.taken})
	}
	left := line.Open - s.taken
	if left == 0 {
		return out
	}
	packs := min(left, s.packs)
	reserved := min(left-packs, s.reserved)
	protected := min(left-packs-reserved, s.protected)
	if short := left - packs - reserved - protected; short > 0 {
		out = append(out, because(ShortStock, short, a.ahead(b, l), names))
	}
	if protected > 0 {
		first, more := a.promisedTo(b, l, names)
		out = append(out, Why{Protects, protected, first, more})
	}
	if reserved > 0 {
		out = append(out, Why{Code: Reserved, Qty: reserved})
	}
	if packs > 0 {
		out = append(out, Why{Code: Multiple, Qty: packs})
	}
	return out
}

// because is a reason with so many names of those who came first.
func because(code Code, qty int64, first []int32, names int) Why {
	n := min(names, len(first))
	return Why{code, qty, first[:n:n], len(first) - n}
}

// cellsOf are the cells on which a line may draw.
func cellsOf(b *book.Book, l int32) []int32 {
	return append([]int32{b.Lines[l].Cell}, b.OthersOf(l)...)
}

// linesOfCells gathers the lines of several cells, each line once, and keeps what it gathered: the lines of an item draw on few
// sets of cells.
type linesOfCells struct {
	of   *lists // by cell, in the order of compare
	sets map[string][]int32
}

// lists are lists of numbers, one after another in one slice.
type lists struct {
	from []int32
	of   []int32
}

func (s *lists) list(i int32) []int32 { return s.of[s.from[i]:s.from[i+1]] }

// newLists returns so many lists with what each names for them, in that order. each is called twice.
func newLists(n int, each func(add func(list, x int32))) *lists {
	s := &lists{from: make([]int32, n+2)}
	each(func(list, _ int32) { s.from[list+2]++ })
	for i := range n {
		s.from[i+2] += s.from[i+1]
	}
	s.of = make([]int32, s.from[n+1])
	each(func(list, x int32) {
		s.of[s.from[list+1]] = x
		s.from[list+1]++
	})
	s.from = s.from[:n+1]
	return s
}

func (s *linesOfCells) gather(cells []int32, compare func(x, y int32) int) []int32 {
	if len(cells) == 1 {
		return s.of.list(cells[0])
	}
	name := make([]byte, 0, 4*len(cells))
	for _, c := range slices.Sorted(slices.Values(cells)) {
		name = binary.LittleEndian.AppendUint32(name, uint32(c))
	}
	out, known := s.sets[string(name)]
	if !known {
		for _, c := range cells {
			out = append(out, s.of.list(c)...)
		}
		slices.SortFunc(out, compare)
		out = slices.Compact(out)
		if s.sets == nil {
			s.sets = map[string][]int32{}
		}
		s.sets[string(name)] = out
	}
	return out
}

func (a *Allocation) byRank(x, y int32) int { return cmp.Compare(a.rank[x], a.rank[y]) }

// ahead are the lines that took from the cells of line l before its turn, in their order.
func (a *Allocation) ahead(b *book.Book, l int32) []int32 {
	if a.takers.of == nil {
		a.takers.of = newLists(len(b.Cells), func(add func(cell, line int32)) {
			for i, t := range a.Taken {
				earlier := a.Taken[a.of[t.Line]:i]
				if !slices.ContainsFunc(earlier, func(x book.Taken) bool { return x.Cell == t.Cell }) {
					add(t.Cell, t.Line)
				}
			}
		})
		for c := range b.Cells {
			if of := a.takers.of.list(int32(c)); !slices.IsSortedFunc(of, a.byRank) {
				slices.SortFunc(of, a.byRank)
			}
		}
	}
	took := a.takers.gather(cellsOf(b, l), a.byRank)
	n, _ := slices.BinarySearchFunc(took, l, a.byRank)
	return took[:n]
}

// aheadOfOrder are those that came before any line of an order that goes only whole, and took nothing therefore: so many
// of them by name, and the number of the others.
func (a *Allocation) aheadOfOrder(b *book.Book, order int32, names int) (first []int32, more int) {
	from, after := b.LinesOf(order)
	byItem := map[int32][][]int32{} // lines of different items have different lines ahead of them
	for l := from; l < after; l++ {
		if ahead := a.ahead(b, l); len(ahead) > 0 {
			item := b.Cells[b.Lines[l].Cell].Item
			byItem[item] = append(byItem[item], ahead)
		}
	}
	all := 0
	for _, lists := range byItem {
		of := slices.MaxFunc(lists, func(x, y []int32) int { return len(x) - len(y) })
		if slices.ContainsFunc(lists, func(x []int32) bool { return &x[0] != &of[0] }) { // else the others are its beginnings
			of = slices.Concat(lists...)
			slices.SortFunc(of, a.byRank)
			of = slices.Compact(of)
		}
		all += len(of)
		first = append(first, of[:min(names, len(of))]...)
	}
	slices.SortFunc(first, a.byRank)
	first = first[:min(names, len(first))]
	return first, all - len(first)
}

// promisedTo are the other lines to which units of the cells of line l are promised: so many of them by name, and the
// number of the others.
func (a *Allocation) promisedTo(b *book.Book, l int32, names int) (first []int32, more int) {
	if a.promised.of == nil {
		a.promised.of = newLists(len(b.Cells), func(add func(cell, line int32)) {
			for i := range b.Lines {
				ps := b.PromisesOf(int32(i))
				for k, p := range ps {
					if !slices.ContainsFunc(ps[:k], func(x book.Promise) bool { return x.Cell == p.Cell }) {
						add(p.Cell, int32(i))
					}
				}
			}
		})
	}
	all := a.promised.gather(cellsOf(b, l), cmp.Compare[int32])
	at, own := slices.BinarySearch(all, l)
	if !own {
		n := min(names, len(all))
		return all[:n:n], len(all) - n
	}
	n := min(names, len(all)-1)
	if at >= n {
		return all[:n:n], len(all) - 1 - n
	}
	return slices.Concat(all[:at], all[at+1:n+1]), len(all) - 1 - n
}

// By is the key by which the first line came before the second; "" if only their order and
// line numbers tell them apart.
func (a *Allocation) By(b *book.Book, first, second int32) policy.Key {
	return policy.Between(b, a.Keys, first, second)
}

// Reasons is Why with the lines by their names.
func (a *Allocation) Reasons(b *book.Book, l int32) []Reason {
	out := []Reason{}
	for _, y := range a.Why(b, l, All) {
		r := Reason{Code: y.Code, Qty: y.Qty}
		for _, x := range y.After {
			r.After = append(r.After, fmt.Sprintf("%s/%d", b.Orders[b.Lines[x].Order].Number, b.Lines[x].No))
		}
		if len(y.After) > 0 {
			r.By = a.By(b, y.After[0], l)
		}
		out = append(out, r)
	}
	return out
}

// Write writes the allocation in its JSON form: every line that had open units, by order and
// line number. p is the promise run over what is left, or nil: then the promises are those
// that still stand.
func (a *Allocation) Write(w io.Writer, b *book.Book, p *Plan) error {
	rest := b.WithTaken(a.Taken)
	out := jsonPlan{Format: Format, Today: b.Today.String(), Lines: []jsonLine{}}
	complete := make([]int8, len(b.Orders)) // 1: all so far, -1: not
	t := &out.Totals
	t.Allocated, t.Complete = new(int64), new(int)
	for i := range b.Lines {
		l, left := &b.Lines[i], &rest.Lines[i]
		if l.Open == 0 {
			continue
		}
		promises := rest.PromisesOf(int32(i))
		if p != nil {
			promises = p.PromisesOf(int32(i))
		}
		line := jsonLine{
			Order: b.Orders[l.Order].Number, Line: l.No, Allocate: []jsonTaken{}, Promises: []jsonPromise{}, Short: left.Open,
			Reasons: a.Reasons(b, int32(i)),
		}
		for _, x := range a.TakenBy(int32(i)) {
			line.Allocate = append(line.Allocate, jsonTaken{b.Warehouses[b.Cells[x.Cell].Warehouse], x.Qty})
		}
		for _, x := range promises {
			line.Promises = append(line.Promises, toldOf(b, x))
			line.Short -= x.Qty
			t.Promised += x.Qty
		}
		if n := len(promises); n > 0 && promises[n-1].Day > l.ShipBy {
			t.LateLines++
			t.LateDays += int64(promises[n-1].Day - l.ShipBy)
		}
		t.Lines++
		t.Open += l.Open
		*t.Allocated += l.Open - left.Open
		t.Short += line.Short
		switch {
		case left.Open > 0:
			complete[l.Order] = -1
		case complete[l.Order] == 0:
			complete[l.Order] = 1
		}
		out.Lines = append(out.Lines, line)
	}
	for _, c := range complete {
		if c == 1 {
			*t.Complete++
		}
	}
	if len(a.Tiers) > 0 {
		t.Goal, t.Reached, t.Bound, t.Proof = a.Goal, map[string]int64{}, map[string]int64{}, map[string]*GoalProof{}
		for _, x := range a.Tiers {
			t.Reached[fmt.Sprint(x.Tier)], t.Bound[fmt.Sprint(x.Tier)] = x.Reached, x.Bound
			if x.Proof != nil {
				t.Proof[fmt.Sprint(x.Tier)] = x.Proof
			}
		}
	}
	for _, x := range a.Broken {
		l := &b.Lines[x.Line]
		out.Broken = append(out.Broken, jsonTold{b.Orders[l.Order].Number, l.No, toldOf(b, x.Promise)})
	}
	return json.NewEncoder(w).Encode(out)
}
