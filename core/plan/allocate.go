package plan

import (
	"cmp"
	"slices"

	"journeyman/core/beside"
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

// AllocateOptions says how an allocation run goes.
type AllocateOptions struct {
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

	served   []served     // what became of the lines that were served, by rank
	rank     []int32      // of each line its place among those, counted from 1; notServed or notDue
	of       []int32      // where in Taken the units of each line begin
	unkept   []Broken     // all promises that cannot be kept after the run, those that could not before among them
	takers   linesOfCells // those that took from the cells, by rank; made when they are first asked for
	promised linesOfCells // the lines with promises on the cells, by index; the same
}

// Broken is a promise that the run makes impossible to keep.
type Broken struct {
	Line int32
	book.Promise
}

// served is what became of a line that had its turn.
type served struct {
	taken            int64
	packs, protected int64 // units left on the shelf because of its packs, and for promises to others
	reserved         int64 // units left on the shelf for others
	cut              bool  // refused whole by its ship rule
}

// In place of the rank of a line that has none.
const (
	notServed = 0
	notDue    = -1
)

// Allocate runs over the eligible lines in policy order (CORE section 4). Cost: linear in lines,
// cells, receipts and promises; sharing adds the packs that are shared, times the logarithm of
// those who share.
func Allocate(b *book.Book, options AllocateOptions) *Allocation {
	keys := options.Keys
	if len(keys) == 0 {
		keys = policy.Default
	}
	sorted, serve := inOrder(policy.Sorted), (*allocating).turn
	if options.Share == Fair || options.Share == Equal {
		sorted, serve = policy.Groups, (*allocating).inGroup
	}
	a := &allocating{b: b, options: options}
	a.turning = newTurning(b, true, a.rule, a.due)
	turns := a.turning.ahead(keys, sorted)
	a.outlooks, a.free, a.had = b.Outlooks(nil), make([]int64, len(b.Cells)), make([]bool, len(b.Orders))
	a.out = &Allocation{
		Keys: keys, Goal: cmp.Or(options.Goal, InOrder), served: make([]served, 0, len(b.Lines)), rank: make([]int32, len(b.Lines)),
	}
	a.taken = make([]book.Taken, 0, len(b.Lines))
	for i := range b.Cells {
		a.free[i] = b.Cells[i].Free()
	}
	for _, r := range options.Reserves {
		if a.reserves == nil {
			a.reserves = map[int32][]*reserve{}
		}
		a.reserves[r.Cell] = append(a.reserves[r.Cell], &reserve{Reserve: r})
	}
	if options.Goal == MostOrders || options.Goal == MostValue {
		a.aim(policy.Sort(b, eligible(b), keys))
	}
	a.near = inBatches(turns, a.fetch, func(t *turn) { serve(a, t) })
	a.finish()
	return a.out
}

type allocating struct {
	b        *book.Book
	options  AllocateOptions
	outlooks []outlook.Outlook
	turning  *turning
	free     []int64
	out      *Allocation
	had      []bool // whole orders that had their turn
	taken    []book.Taken
	reserves map[int32][]*reserve // of each cell
	near     int64                // what was fetched ahead adds up to; nobody needs it

	together []turn // room for the lines of a whole order
	sharing  sharing
}

// fetch reads what serving some turns needs.
func (a *allocating) fetch(turns []turn) (near int64) {
	for i := range turns {
		t := &turns[i]
		near += a.outlooks[t.cell].Touch(false) + a.free[t.cell] + int64(a.out.rank[t.line])
		if t.rule == book.Whole {
			first, _ := a.b.LinesOf(t.order)
			near += a.b.Lines[first].Open
		}
	}
	for i := range turns {
		near += a.outlooks[turns[i].cell].Touch(true)
	}
	return near
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
	if a.options.IgnoreRules {
		return book.Any
	}
	return l.Rule
}

func (a *allocating) due(l *book.Line) bool {
	return a.options.Window < 0 || int64(l.ShipBy)-int64(a.b.Today) <= int64(a.options.Window)
}

// turn serves a line, or the order that goes only whole to which it belongs.
func (a *allocating) turn(t *turn) {
	if t.rule == book.Whole {
		if !a.had[t.order] {
			a.had[t.order] = true
			a.whole(t.order)
		}
		return
	}
	if !t.due {
		a.out.rank[t.line] = notDue
		return
	}
	a.lift(t)
	mark := len(a.taken)
	if !a.take(t) && t.rule == book.Lines {
		a.undo(mark)
		a.place(t.line).cut = true
	}
	a.settle(t)
}

// whole serves all lines of an order if any of them is due: everything or nothing.
func (a *allocating) whole(order int32) {
	lines := a.together[:0]
	due := false
	first, after := a.b.LinesOf(order)
	for l := first; l < after; l++ {
		if a.b.Lines[l].Open > 0 {
			lines = append(lines, turn{})
			a.turning.turn(&lines[len(lines)-1], l)
			due = due || lines[len(lines)-1].due
		}
	}
	a.together = lines
	if !due {
		for i := range lines {
			a.out.rank[lines[i].line] = notDue
		}
		return
	}
	slices.SortStableFunc(lines, func(x, y turn) int { return policy.Compare(a.b, a.out.Keys, x.line, y.line) })
	for i := range lines {
		a.lift(&lines[i])
	}
	mark, all := len(a.taken), true
	for i := range lines {
		all = a.take(&lines[i]) && all
	}
	if !all {
		a.undo(mark)
	}
	for i := range lines {
		a.place(lines[i].line).cut = !all
		a.settle(&lines[i])
	}
}

// there is how many units of a cell may be taken now.
func (a *allocating) there(cell int32) int64 {
	n := max(0, a.free[cell])
	if !a.options.Unprotected {
		n = min(n, a.outlooks[cell].ATP(a.b.Today))
	}
	return n
}

// place returns what becomes of a line, which gets the next rank if it has none yet.
func (a *allocating) place(l int32) *served {
	if a.out.rank[l] <= 0 {
		a.out.served = append(a.out.served, served{})
		a.out.rank[l] = int32(len(a.out.served))
	}
	return &a.out.served[a.out.rank[l]-1]
}

// take takes for a line whose promises are lifted what it can have, and says whether that is all.
func (a *allocating) take(t *turn) bool {
	s := a.place(t.line)
	a.takeFrom(t, s, t.cell)
	for _, c := range t.furtherCells(a.b) {
		if s.taken == t.open {
			break
		}
		a.takeFrom(t, s, c)
	}
	return s.taken == t.open
}

func (a *allocating) takeFrom(t *turn, s *served, c int32) {
	left := t.open - s.taken
	if left == 0 {
		return
	}
	all := a.there(c)
	there := max(0, all-a.kept(c, t.line))
	q := min(left, there)
	if q > 0 && q < left {
		q = take(left, there, t.multiple)
	}
	a.give(t.line, c, q)
	if left -= q; left == 0 {
		return
	}
	packs := min(left, there-q)
	reserved := min(left-packs, all-there)
	s.packs += packs
	s.reserved += reserved
	s.protected += min(left-packs-reserved, max(0, a.free[c])-(all-q))
}

func (a *allocating) give(l, c int32, q int64) {
	if q > 0 {
		a.taken = append(a.taken, a.handOver(l, c, q))
	}
}

// handOver gives a line so many units of a cell.
func (a *allocating) handOver(l, c int32, q int64) book.Taken {
	a.place(l).taken += q
	a.free[c] -= q
	a.use(c, l, q)
	a.outlooks[c].Take(a.b.Today, q)
	return book.Taken{Line: l, Cell: c, Qty: q}
}

// undo gives back what was taken since the mark.
func (a *allocating) undo(mark int) {
	for _, t := range a.taken[mark:] {
		a.place(t.Line).taken -= t.Qty
		a.free[t.Cell] += t.Qty
		a.use(t.Cell, t.Line, -t.Qty)
		a.outlooks[t.Cell].Lift(a.b.Today, t.Qty)
	}
	a.taken = a.taken[:mark]
}

// standing returns those of a line's promises that so many units which it took have not used up, the earliest first, and how
// many units of the first of them are used up.
func standing(ps []book.Promise, units int64) (rest []book.Promise, used int64) {
	for len(ps) > 0 && ps[0].Qty <= units {
		units -= ps[0].Qty
		ps = ps[1:]
	}
	return ps, units
}

func (a *allocating) lift(t *turn) { a.commit(t, -1) }

// settle puts the promises of a line back as far as what it took has not used them up.
func (a *allocating) settle(t *turn) { a.commit(t, 1) }

// commit takes the standing promises of a line as commitments, so many times.
func (a *allocating) commit(t *turn, times int64) {
	if t.promised == 0 {
		return
	}
	ps, used := standing(t.promisesOf(a.b), a.out.units(t.line))
	for _, p := range ps {
		a.outlooks[p.Cell].Take(p.Day, times*(p.Qty-used))
		used = 0
	}
}

// finish puts what was taken in the order of lines and finds the promises that are broken.
func (a *allocating) finish() {
	out := a.out
	out.of = make([]int32, len(a.b.Lines)+1)
	for _, t := range a.taken {
		out.of[t.Line+1]++
	}
	for i := range a.b.Lines {
		out.of[i+1] += out.of[i]
	}
	out.Taken = make([]book.Taken, len(a.taken))
	for _, t := range a.taken { // of[l] is moved to where the units of l end, which is where those of the next line begin
		out.Taken[out.of[t.Line]] = t
		out.of[t.Line]++
	}
	copy(out.of[1:], out.of)
	out.of[0] = 0
	out.unkept, out.Broken = a.unkept()
}

// unkept returns the promises that cannot be kept after the run, and those of them that could be kept before it. Only cells
// on which more is promised than there will be need a look: where everything fits, every promise can be kept.
func (a *allocating) unkept() (unkept, broken []Broken) {
	over := make([]bool, len(a.b.Cells))
	any := false
	for c := range a.outlooks {
		if _, over[c] = a.outlooks[c].Over(); over[c] {
			any = true
		}
	}
	if !any {
		return nil, nil
	}
	lost := a.unkeepable(over, true, a.free)
	could := make(map[int32]bool, len(lost))
	for i := range over {
		over[i] = false
	}
	for _, p := range lost {
		over[p.Cell], could[p.at] = true, true
	}
	before := make([]int64, len(a.b.Cells))
	for i := range a.b.Cells {
		before[i] = a.b.Cells[i].Free()
	}
	for _, p := range a.unkeepable(over, false, before) {
		delete(could, p.at)
	}
	for _, p := range lost {
		x := Broken{p.line, p.Promise}
		unkept = append(unkept, x)
		if could[p.at] {
			broken = append(broken, x)
		}
	}
	return unkept, broken
}

// pledge is a promise by its place in the book.
type pledge struct {
	at, line int32
	took     int8 // 1 if its line took something in the run
	book.Promise
}

// unkeepable says which promises on some cells, those that stand after the run or all, cannot be kept from what is free and
// expected, in the order of the book. Those of lines that took nothing are kept before those that did, who have to stand back for
// what they did; of each the earliest first, ties by order and line number, then as they are listed. One that cannot be kept
// whole is not.
func (a *allocating) unkeepable(on []bool, after bool, free []int64) []pledge {
	pledges, ends := a.pledges(on, after)
	out := make([][]pledge, beside.Hands(len(pledges)))
	beside.Split(len(ends), len(out), func(part, first, end int) {
		var o outlook.Outlook
		var room []outlook.Bucket
		from := int32(0)
		if first > 0 {
			from = ends[first-1].room
		}
		for c := int32(first); c < int32(end); c++ {
			of := pledges[from:ends[c].to]
			from = ends[c].room
			if len(of) == 0 {
				continue
			}
			slices.SortFunc(of, func(x, y pledge) int {
				return cmp.Or(cmp.Compare(x.took, y.took), cmp.Compare(x.Day, y.Day), cmp.Compare(x.at, y.at))
			})
			room = o.Reset(a.b.CalendarOf(c), a.b.Today, a.b.Items[a.b.Cells[c].Item].Lead, free[c], a.b.ReceiptsOf(c), room)
			for _, p := range of {
				if o.ATP(p.Day) >= p.Qty {
					o.Take(p.Day, p.Qty)
				} else {
					out[part] = append(out[part], p)
				}
			}
		}
	})
	all := slices.Concat(out...)
	slices.SortFunc(all, func(x, y pledge) int { return cmp.Compare(x.at, y.at) })
	return all
}

// ends is where the pledges of a cell end, and where the room for them does.
type ends struct{ to, room int32 }

// pledges returns the promises on some cells by cell.
func (a *allocating) pledges(on []bool, after bool) ([]pledge, []ends) {
	of := make([]ends, len(on))
	for _, p := range a.b.Promises {
		if on[p.Cell] {
			of[p.Cell].room++
		}
	}
	sum := int32(0)
	for c := range of {
		of[c].to = sum
		sum += of[c].room
		of[c].room = sum
	}
	out := make([]pledge, sum)
	at := int32(0)
	for i := range a.b.Lines {
		l := int32(i)
		all := a.b.PromisesOf(l)
		if len(all) == 0 {
			continue
		}
		taken, used := a.out.Units(l), int64(0)
		ps := all
		if after {
			ps, used = standing(all, taken)
		}
		for k, p := range ps {
			if on[p.Cell] {
				p.Qty -= used
				out[of[p.Cell].to] = pledge{at + int32(len(all)-len(ps)+k), l, int8(min(taken, 1)), p}
				of[p.Cell].to++
			}
			used = 0
		}
		at += int32(len(all))
	}
	return out, of
}

// units is how many units a line took so far.
func (a *Allocation) units(l int32) int64 {
	if r := a.rank[l]; r > 0 {
		return a.served[r-1].taken
	}
	return 0
}

// Units is how many units a line takes.
func (a *Allocation) Units(line int32) (n int64) {
	for _, t := range a.TakenBy(line) {
		n += t.Qty
	}
	return n
}

// TakenBy returns what a line takes.
func (a *Allocation) TakenBy(line int32) []book.Taken {
	if a.of == nil {
		return nil
	}
	return a.Taken[a.of[line]:a.of[line+1]]
}
