package plan

import (
	"cmp"
	"slices"

	"journeyman/core/book"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

// Sharing says how lines that are equal in all keys are served.
type Sharing string

// The ways of sharing.
const (
	InTurn Sharing = "in-turn" // one after another, by order and line number
	Fair   Sharing = "fair"    // the next pack to the one with the lowest filled share
	Equal  Sharing = "equal"   // the next pack to the one with the fewest units
)

// NoWindow is the window of a run that serves all days.
const NoWindow = -1

// AllocateHow says how an allocation run goes.
type AllocateHow struct {
	Keys        []policy.Key // policy.Default if empty
	Unprotected bool         // promises of others may be broken; the plan lists them
	Share       Sharing      // InTurn if empty
	Goal        Goal         // InOrder if empty
	Prove       bool         // the bounds of the goal come with their proofs
	IgnoreRules bool         // every order is treated as "any"
	Reserves    []Reserve    // parts of the stock that are kept for some lines
	Window      int          // calendar days: lines with a later ship-by day are not served; NoWindow for all
}

// Reserve keeps so many of the free units of a cell for the lines for which For says so: those take
// them first. A run for a goal leaves them to what is served in turn afterwards.
type Reserve struct {
	Cell  int32
	Units int64
	For   func(line int32) bool
}

// Allocation is which line takes what from the shelf, and why no more.
type Allocation struct {
	Taken  []book.Taken // by line, then as the line may draw on its cells
	Broken []Broken     // promises that could be kept before the run and cannot after it
	Keys   []policy.Key // by which lines were served
	Goal   Goal         // of the run; InOrder if it had none
	Tiers  []TierGoal   // what the goal reached, if there was one: the first tier first

	lines  []served
	unkept []Broken     // all promises that cannot be kept after the run, those that could not before among them
	takers linesOfCells // those that took from the cells, by rank

	promised linesOfCells // the lines with promises on the cells, by index; made when it is first asked for
}

// Broken is a promise that the run makes impossible to keep.
type Broken struct {
	Line int32
	book.Promise
}

// served is what became of a line.
type served struct {
	taken, wanted     int64
	packs, protected  int64 // units left on the shelf because of its packs, and for promises to others
	reserved          int64 // units left on the shelf for others
	rank              int32 // its place among all lines that were served; -1 if it was not
	rule              book.Rule
	notDue, cut, held bool // cut: refused whole by its ship rule
	from, to          int32
}

// Allocate runs over the eligible lines in policy order (CORE section 4). Cost: linear in lines,
// cells, receipts and promises; sharing adds the packs that are shared, times the logarithm of
// those who share.
func Allocate(b *book.Book, how AllocateHow) *Allocation {
	keys := how.Keys
	if len(keys) == 0 {
		keys = policy.Default
	}
	eligible := make([]int32, 0, len(b.Lines))
	for i := range b.Lines {
		if b.Eligible(int32(i)) {
			eligible = append(eligible, int32(i))
		}
	}
	a := &allocating{
		b: b, how: how, outlooks: b.Outlooks(nil), free: make([]int64, len(b.Cells)), left: make(map[int32][]book.Promise),
		out: &Allocation{
			Keys: keys, Goal: cmp.Or(how.Goal, InOrder), lines: make([]served, len(b.Lines)),
			takers: linesOfCells{of: map[int32][]int32{}},
		},
		served: make([]bool, len(b.Orders)),
	}
	for i := range b.Cells {
		a.free[i] = b.Cells[i].Free()
	}
	for _, r := range how.Reserves {
		if a.reserves == nil {
			a.reserves = map[int32][]*reserve{}
		}
		a.reserves[r.Cell] = append(a.reserves[r.Cell], &reserve{Reserve: r})
	}
	for i := range a.out.lines {
		l := &b.Lines[i]
		a.out.lines[i] = served{rank: -1, wanted: l.Open, rule: a.rule(l), held: l.Open > 0 && !b.Eligible(int32(i))}
	}
	turns := policy.Sort(b, eligible, keys)
	if how.Goal == MostOrders || how.Goal == MostValue {
		a.aim(turns)
	}
	for len(turns) > 0 {
		n := 1
		if how.Share == Fair || how.Share == Equal {
			for n < len(turns) && policy.Between(b, keys, turns[0], turns[n]) == "" {
				n++
			}
		}
		if n == 1 {
			a.turn(turns[0])
		} else {
			a.group(turns[:n])
		}
		turns = turns[n:]
	}
	a.finish()
	return a.out
}

type allocating struct {
	b        *book.Book
	how      AllocateHow
	outlooks []outlook.Outlook
	free     []int64
	left     map[int32][]book.Promise // of each line that took: the promises that are not used up
	out      *Allocation
	served   []bool // whole orders that had their turn
	rank     int32
	taken    []book.Taken
	reserves map[int32][]*reserve // of each cell
}

// reserve is a part of the stock and what those for whom it is kept took of all there was.
type reserve struct {
	Reserve
	taken int64
}

// kept is how many units of a cell are kept for others than line l.
func (a *allocating) kept(c, l int32) (n int64) {
	for _, r := range a.reserves[c] {
		if !r.For(l) {
			n += max(0, r.Units-r.taken)
		}
	}
	return n
}

func (a *allocating) use(c, l int32, q int64) {
	for _, r := range a.reserves[c] {
		if r.For(l) {
			r.taken += q
		}
	}
}

func (a *allocating) rule(l *book.Line) book.Rule {
	if a.how.IgnoreRules {
		return book.Any
	}
	return l.Rule
}

func (a *allocating) due(l int32) bool {
	return a.how.Window < 0 || int64(a.b.Lines[l].ShipBy)-int64(a.b.Today) <= int64(a.how.Window)
}

// turn serves a line, or the order that goes only whole to which it belongs.
func (a *allocating) turn(l int32) {
	line := &a.b.Lines[l]
	if a.rule(line) == book.Whole {
		if !a.served[line.Order] {
			a.served[line.Order] = true
			a.whole(line.Order)
		}
		return
	}
	if !a.due(l) {
		a.out.lines[l].notDue = true
		return
	}
	a.lift(l)
	mark := len(a.taken)
	ok := a.take(l)
	if !ok && a.rule(line) == book.Lines {
		a.undo(mark)
		a.out.lines[l].cut = true
	}
	a.settle(l)
}

// whole serves all lines of an order if any of them is due: everything or nothing.
func (a *allocating) whole(order int32) {
	var lines []int32
	due := false
	first, after := a.b.LinesOf(order)
	for l := first; l < after; l++ {
		if a.b.Lines[l].Open > 0 {
			lines = append(lines, l)
			due = due || a.due(l)
		}
	}
	if !due {
		for _, l := range lines {
			a.out.lines[l].notDue = true
		}
		return
	}
	slices.SortStableFunc(lines, func(x, y int32) int { return policy.Compare(a.b, a.out.Keys, x, y) })
	for _, l := range lines {
		a.lift(l)
	}
	mark, all := len(a.taken), true
	for _, l := range lines {
		all = a.take(l) && all
	}
	if !all {
		a.undo(mark)
		for _, l := range lines {
			a.out.lines[l].cut = true
		}
	}
	for _, l := range lines {
		a.settle(l)
	}
}

// cells are those on which a line may draw, its own first.
func (a *allocating) cells(l int32) []int32 {
	line := &a.b.Lines[l]
	if !line.HasOthers() {
		return []int32{line.Cell}
	}
	return append([]int32{line.Cell}, a.b.OthersOf(l)...)
}

// there is how many units of a cell may be taken now.
func (a *allocating) there(cell int32) int64 {
	n := max(0, a.free[cell])
	if !a.how.Unprotected {
		n = min(n, a.outlooks[cell].ATP(a.b.Today))
	}
	return n
}

// take takes for a line whose promises are lifted what it can have, and says whether that is all.
func (a *allocating) take(l int32) bool {
	s := &a.out.lines[l]
	if s.rank < 0 {
		s.rank = a.rank
		a.rank++
	}
	for _, c := range a.cells(l) {
		left := s.wanted - s.taken
		if left == 0 {
			break
		}
		all := a.there(c)
		there := max(0, all-a.kept(c, l))
		q := take(left, there, a.b.Items[a.b.Cells[c].Item].Multiple)
		a.give(l, c, q)
		left -= q
		packs := min(left, there-q)
		reserved := min(left-packs, all-there)
		s.packs += packs
		s.reserved += reserved
		s.protected += min(left-packs-reserved, max(0, a.free[c])-(all-q))
	}
	return s.taken == s.wanted
}

func (a *allocating) give(l, c int32, q int64) {
	if q == 0 {
		return
	}
	a.out.lines[l].taken += q
	a.free[c] -= q
	a.use(c, l, q)
	a.outlooks[c].Take(a.b.Today, q)
	a.taken = append(a.taken, book.Taken{Line: l, Cell: c, Qty: q})
}

// undo gives back what was taken since the mark.
func (a *allocating) undo(mark int) {
	for _, t := range a.taken[mark:] {
		a.out.lines[t.Line].taken -= t.Qty
		a.free[t.Cell] += t.Qty
		a.use(t.Cell, t.Line, -t.Qty)
		a.outlooks[t.Cell].Lift(a.b.Today, t.Qty)
	}
	a.taken = a.taken[:mark]
}

// standing are the promises of a line that it has not used up.
func (a *allocating) standing(l int32) []book.Promise {
	if left, took := a.left[l]; took {
		return left
	}
	return a.b.PromisesOf(l)
}

func (a *allocating) lift(l int32) {
	for _, p := range a.standing(l) {
		a.outlooks[p.Cell].Lift(p.Day, p.Qty)
	}
}

// settle puts the promises of a line back as far as what it took has not used them up.
func (a *allocating) settle(l int32) {
	ps := a.b.PromisesOf(l)
	units := a.out.lines[l].taken
	if units > 0 && len(ps) > 0 {
		var left []book.Promise
		for _, p := range ps {
			q := min(p.Qty, units)
			units -= q
			if p.Qty -= q; p.Qty > 0 {
				left = append(left, p)
			}
		}
		a.left[l] = left
		ps = left
	}
	for _, p := range ps {
		a.outlooks[p.Cell].Take(p.Day, p.Qty)
	}
}

// finish puts what was taken in the order of lines and finds the promises that are broken.
func (a *allocating) finish() {
	for _, t := range a.taken {
		a.out.takers.of[t.Cell] = append(a.out.takers.of[t.Cell], t.Line)
	}
	for c, of := range a.out.takers.of {
		if !slices.IsSortedFunc(of, a.out.byRank) {
			slices.SortFunc(of, a.out.byRank)
		}
		a.out.takers.of[c] = slices.Compact(of)
	}
	slices.SortStableFunc(a.taken, func(x, y book.Taken) int { return int(x.Line) - int(y.Line) })
	a.out.Taken = a.taken
	for i, t := range a.taken {
		s := &a.out.lines[t.Line]
		if s.from == s.to {
			s.from = int32(i)
		}
		s.to = int32(i + 1)
	}
	took := func(l int32) bool { return a.out.lines[l].taken > 0 }
	before := keepable(a.b, nil, func(c int32) int64 { return a.b.Cells[c].Free() }, took)
	after := keepable(a.b, a.left, func(c int32) int64 { return a.free[c] }, took)
	for i := range a.b.Lines {
		of := a.standing(int32(i))
		gone := len(a.b.PromisesOf(int32(i))) - len(of)
		for k, p := range of {
			x := Broken{int32(i), p}
			if after[entry{x.Line, int32(gone + k)}] {
				continue
			}
			a.out.unkept = append(a.out.unkept, x)
			if before[entry{x.Line, int32(gone + k)}] {
				a.out.Broken = append(a.out.Broken, x)
			}
		}
	}
}

// entry is a promise by its place among those of its line in the book.
type entry struct{ line, n int32 }

// keepable says which promises can be kept from what is free and expected: those of lines that took
// nothing before those that did, who have to stand back for what they did; of each the earliest
// first, ties by order and line number, then as they are listed. One that cannot be kept whole is not. left are the
// promises of lines that used some up: those that are left are the last ones.
func keepable(b *book.Book, left map[int32][]book.Promise, free func(cell int32) int64, took func(line int32) bool) map[entry]bool {
	type due struct {
		entry
		book.Promise
	}
	var all []due
	for i := range b.Lines {
		ps := b.PromisesOf(int32(i))
		gone := 0
		if l, used := left[int32(i)]; used {
			gone = len(ps) - len(l)
			ps = l
		}
		for k, p := range ps {
			all = append(all, due{entry{int32(i), int32(gone + k)}, p})
		}
	}
	last := func(l int32) int {
		if took(l) {
			return 1
		}
		return 0
	}
	slices.SortStableFunc(all, func(x, y due) int { return cmp.Or(last(x.line)-last(y.line), int(x.Day)-int(y.Day)) })
	outlooks := map[int32]*outlook.Outlook{}
	out := map[entry]bool{}
	for _, p := range all {
		o := outlooks[p.Cell]
		if o == nil {
			o = outlook.New(b.CalendarOf(p.Cell), b.Today, b.Items[b.Cells[p.Cell].Item].Lead, free(p.Cell), b.ReceiptsOf(p.Cell))
			outlooks[p.Cell] = o
		}
		if o.ATP(p.Day) >= p.Qty {
			o.Take(p.Day, p.Qty)
			out[p.entry] = true
		}
	}
	return out
}

// TakenBy returns what a line takes.
func (a *Allocation) TakenBy(line int32) []book.Taken {
	s := &a.lines[line]
	return a.Taken[s.from:s.to]
}
