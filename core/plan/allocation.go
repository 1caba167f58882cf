package plan

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"

	"journeyman/core/book"
	"journeyman/core/policy"
)

// Why is a reason as the plan keeps it: who came first, by index of the line.
type Why struct {
	Code  Code
	Qty   int64
	After []int32
}

// Why says why line l takes what it takes, and no more.
func (a *Allocation) Why(b *book.Book, l int32) []Why {
	s := &a.lines[l]
	out := []Why{}
	switch {
	case s.wanted == 0:
		return out
	case s.held:
		return append(out, Why{Code: OnHold, Qty: s.wanted})
	case s.notDue:
		return append(out, Why{Code: NotDue, Qty: s.wanted})
	case s.cut && s.rule == book.Lines:
		return append(out, Why{RuleLine, s.wanted, a.ahead(b, l)})
	case s.cut:
		return append(out, Why{RuleOrder, s.wanted, a.aheadOfOrder(b, l)})
	}
	if s.taken > 0 {
		out = append(out, Why{Code: Covered, Qty: s.taken})
	}
	left := s.wanted - s.taken
	if left == 0 {
		return out
	}
	packs := min(left, s.packs)
	reserved := min(left-packs, s.reserved)
	protected := min(left-packs-reserved, s.protected)
	if short := left - packs - reserved - protected; short > 0 {
		out = append(out, Why{ShortStock, short, a.ahead(b, l)})
	}
	if protected > 0 {
		out = append(out, Why{Protects, protected, a.promisedTo(b, l)})
	}
	if reserved > 0 {
		out = append(out, Why{Code: Reserved, Qty: reserved})
	}
	if packs > 0 {
		out = append(out, Why{Code: Multiple, Qty: packs})
	}
	return out
}

// cellsOf are the cells on which a line may draw.
func cellsOf(b *book.Book, l int32) []int32 {
	return append([]int32{b.Lines[l].Cell}, b.OthersOf(l)...)
}

// ahead are the lines that took from the cells of line l before its turn, in their order.
func (a *Allocation) ahead(b *book.Book, l int32) []int32 {
	var out []int32
	for _, c := range cellsOf(b, l) {
		for _, x := range a.takers[c] {
			if x != l && a.lines[x].rank < a.lines[l].rank && !slices.Contains(out, x) {
				out = append(out, x)
			}
		}
	}
	slices.SortFunc(out, func(x, y int32) int { return int(a.lines[x].rank - a.lines[y].rank) })
	return out
}

// aheadOfOrder are those that came before any line of an order that goes only whole.
func (a *Allocation) aheadOfOrder(b *book.Book, l int32) []int32 {
	var out []int32
	first, after := b.LinesOf(b.Lines[l].Order)
	for x := first; x < after; x++ {
		for _, y := range a.ahead(b, x) {
			if b.Lines[y].Order != b.Lines[l].Order && !slices.Contains(out, y) {
				out = append(out, y)
			}
		}
	}
	slices.SortFunc(out, func(x, y int32) int { return int(a.lines[x].rank - a.lines[y].rank) })
	return out
}

// promisedTo are the other lines to which units of the cells of line l are promised.
func (a *Allocation) promisedTo(b *book.Book, l int32) []int32 {
	if a.promised == nil {
		a.promised = map[int32][]int32{}
		for i := range b.Lines {
			for _, p := range b.PromisesOf(int32(i)) {
				if of := a.promised[p.Cell]; len(of) == 0 || of[len(of)-1] != int32(i) {
					a.promised[p.Cell] = append(of, int32(i))
				}
			}
		}
	}
	var out []int32
	for _, c := range cellsOf(b, l) {
		for _, x := range a.promised[c] {
			if x != l && !slices.Contains(out, x) {
				out = append(out, x)
			}
		}
	}
	slices.Sort(out)
	return out
}

// By is the key by which the first line came before the second; "" if only their order and
// line numbers tell them apart.
func (a *Allocation) By(b *book.Book, first, second int32) policy.Key {
	return policy.Between(b, a.Keys, first, second)
}

// Reasons is Why with the lines by their names.
func (a *Allocation) Reasons(b *book.Book, l int32) []Reason {
	out := []Reason{}
	for _, y := range a.Why(b, l) {
		r := Reason{Code: y.Code, Qty: y.Qty}
		for _, x := range y.After {
			r.After = append(r.After, fmt.Sprintf("%s/%d", b.Orders[b.Lines[x].Order].Number, b.Lines[x].No))
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
		line := jsonLine{Order: b.Orders[l.Order].Number, Line: l.No, Allocate: []jsonTaken{}, Promises: []jsonPromise{}, Short: left.Open, Reasons: a.Reasons(b, int32(i))}
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
