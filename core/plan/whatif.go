package plan

import (
	"container/heap"
	"slices"
	"sort"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

// Kept is an allocation run that is kept, so that a change of the book can be tried without running
// over all of it again.
//
// A run is a row of turns: a line, or an order that goes only whole. What a turn takes depends only on
// the cells on which it may draw, as the turns before it left them. So after a change only those turns
// are taken again that look at a cell that is not as it was then; as soon as what is left of a cell is
// what was left of it in the kept run, nobody after has to look again. Cost: the turns that are taken
// again, times the turns before them on their cells.
type Kept struct {
	*Allocation
	b       *book.Book
	options AllocateOptions
	a       *allocating       // takes turns again; its cells are those of the try
	turns   []int32           // lines by which turns are taken, in order
	at      []int32           // of each line the turn that takes it, or -1
	looks   *lists            // of each cell the turns that may draw on it
	does    [][]effect        // of each cell what turns changed, in order
	base    []outlook.Outlook // of each cell before the first turn
	free    []int64
}

// effect is what a turn left changed in a cell: units that are gone from the shelf, and a promise of
// its own that was used up.
type effect struct {
	turn  int32
	shelf int64
	day   days.Day
	used  int64
}

// Keep runs and keeps the run. It keeps a book of its own. Only runs in turn can be kept, without
// sharing, goal and reserves; ok is false for others.
func Keep(b *book.Book, options AllocateOptions) (k *Kept, ok bool) {
	if options.Share != "" && options.Share != InTurn || options.Goal != "" && options.Goal != InOrder || len(options.Reserves) > 0 {
		return nil, false
	}
	b = b.Clone()
	k = &Kept{
		Allocation: Allocate(b, options), b: b, options: options, base: b.Outlooks(nil), at: make([]int32, len(b.Lines)),
		does: make([][]effect, len(b.Cells)),
	}
	k.a = &allocating{
		b: b, options: options, outlooks: make([]outlook.Outlook, len(b.Cells)), free: make([]int64, len(b.Cells)),
		out: &Allocation{Keys: k.Keys, rank: make([]int32, len(b.Lines))},
		had: make([]bool, len(b.Orders)),
	}
	var eligible []int32
	for i := range b.Lines {
		if k.at[i] = -1; b.Eligible(int32(i)) {
			eligible = append(eligible, int32(i))
		}
	}
	seen := make([]bool, len(b.Orders))
	for _, l := range policy.Sort(b, eligible, k.Keys) {
		line := &b.Lines[l]
		if k.a.rule(line) != book.Whole {
			k.at[l] = int32(len(k.turns))
			k.turns = append(k.turns, l)
			continue
		}
		if seen[line.Order] {
			continue
		}
		seen[line.Order] = true
		first, after := b.LinesOf(line.Order)
		for x := first; x < after; x++ {
			if b.Lines[x].Open > 0 {
				k.at[x] = int32(len(k.turns))
			}
		}
		k.turns = append(k.turns, l)
	}
	for i := range b.Cells {
		k.free = append(k.free, b.Cells[i].Free())
	}
	k.index()
	return k, true
}

// index notes which turns look at each cell, and what each turn changed.
func (k *Kept) index() {
	b := k.b
	k.looks = newLists(len(b.Cells), func(add func(cell, turn int32)) {
		for t := range k.turns {
			k.linesOf(int32(t), func(l int32) {
				add(b.Lines[l].Cell, int32(t))
				for _, c := range b.OthersOf(l) {
					add(c, int32(t))
				}
			})
		}
	})
	for t := range k.turns {
		k.linesOf(int32(t), func(l int32) {
			for _, e := range k.effects(l, k.TakenBy(l)) {
				e.effect.turn = int32(t)
				k.does[e.cell] = append(k.does[e.cell], e.effect)
			}
		})
	}
}

// linesOf calls f for the lines of a turn.
func (k *Kept) linesOf(turn int32, f func(l int32)) {
	l := k.turns[turn]
	if k.a.rule(&k.b.Lines[l]) != book.Whole {
		f(l)
		return
	}
	first, after := k.b.LinesOf(k.b.Lines[l].Order)
	for x := first; x < after; x++ {
		if k.b.Lines[x].Open > 0 {
			f(x)
		}
	}
}

type cellEffect struct {
	cell int32
	effect
}

// effects are what a line that takes so much leaves changed.
func (k *Kept) effects(l int32, taken []book.Taken) []cellEffect {
	var out []cellEffect
	units := int64(0)
	for _, t := range taken {
		out = append(out, cellEffect{t.Cell, effect{shelf: t.Qty}})
		units += t.Qty
	}
	for _, p := range k.b.PromisesOf(l) {
		if q := min(p.Qty, units); q > 0 {
			units -= q
			out = append(out, cellEffect{p.Cell, effect{day: p.Day, used: q}})
		}
	}
	return out
}

// Differs is a line that takes otherwise after a change.
type Differs struct {
	Line          int32
	Before, After []book.Taken
}

// WhatIf returns the lines that would take otherwise after the change, by order and line number. It is
// what a whole run over the changed book would say. The kept run stays as it is. A Kept tries one
// change at a time.
func (k *Kept) WhatIf(c book.Change) []Differs {
	w := &trying{k: k, cells: map[int32]*cellTry{}, gone: map[int32]bool{}, queued: map[place]bool{}, after: map[int32][]book.Taken{}}
	touched := w.touched(c)
	var before [][]book.Promise
	for _, l := range touched {
		before = append(before, slices.Clone(k.b.PromisesOf(l)))
		if t := k.at[l]; t >= 0 {
			w.gone[t] = true
		}
	}
	restore := k.b.Alter(c)
	defer restore()
	// A whole order stands at the place of its first line: it moves as one.
	for t := range w.gone {
		w.push(place{turn: t})
	}
	w.arrive(touched)
	for i, l := range touched {
		for x, p := range k.b.PromisesOf(l) {
			if cut := before[i][x].Qty - p.Qty; cut > 0 { // it commits less from the beginning
				w.cell(p.Cell, -1).now.Lift(p.Day, cut)
				w.dirty(p.Cell, place{turn: -1})
			}
		}
	}
	if c.OnHand != nil {
		if more := k.b.Cells[c.Cell].Free() - k.free[c.Cell]; more != 0 {
			x := w.cell(c.Cell, -1)
			x.now.Add(more)
			x.free += more
			w.dirty(c.Cell, place{turn: -1})
		}
	}
	for len(w.queue) > 0 {
		p := heap.Pop(w).(place)
		w.take(p)
	}
	var out []Differs
	for l, now := range w.after {
		if was := k.TakenBy(l); !slices.Equal(was, now) {
			out = append(out, Differs{l, was, now})
		}
	}
	slices.SortFunc(out, func(x, y Differs) int { return int(x.Line - y.Line) })
	return out
}

// place is where a turn is taken: the kept turn, or one that was moved to before it.
type place struct {
	turn  int32
	moved int32 // 1 and up for those that are taken before the kept turn, in order; 0 for itself
	line  int32 // of one that was moved
}

func (p place) before(q place) bool {
	if p.turn != q.turn {
		return p.turn < q.turn
	}
	if (p.moved == 0) != (q.moved == 0) {
		return p.moved != 0
	}
	return p.moved < q.moved
}

// cellTry is a cell as it was in the kept run and as it is in the try, before some turn.
type cellTry struct {
	was, now      outlook.Outlook
	wasFree, free int64
	next          int // of the cell's effects, those from here on are still to come
}

type trying struct {
	k      *Kept
	cells  map[int32]*cellTry
	gone   map[int32]bool // kept turns that are not taken where they were
	queue  []place
	queued map[place]bool
	after  map[int32][]book.Taken
}

func (w *trying) Len() int           { return len(w.queue) }
func (w *trying) Less(i, j int) bool { return w.queue[i].before(w.queue[j]) }
func (w *trying) Swap(i, j int)      { w.queue[i], w.queue[j] = w.queue[j], w.queue[i] }
func (w *trying) Push(x any)         { w.queue = append(w.queue, x.(place)) }

func (w *trying) Pop() any {
	x := w.queue[len(w.queue)-1]
	w.queue = w.queue[:len(w.queue)-1]
	return x
}

func (w *trying) push(p place) {
	if !w.queued[p] {
		w.queued[p] = true
		heap.Push(w, p)
	}
}

// touched are the lines whose turns a change moves.
func (w *trying) touched(c book.Change) []int32 {
	if c.Open == nil && c.ShipBy == nil && c.Tier == nil {
		return nil
	}
	b := w.k.b
	order := b.Lines[c.Line].Order
	if c.Tier == nil && w.k.a.rule(&b.Lines[c.Line]) != book.Whole {
		return []int32{c.Line}
	}
	var out []int32
	first, after := b.LinesOf(order)
	for l := first; l < after; l++ {
		out = append(out, l)
	}
	return out
}

// arrive finds where the touched lines, as they are now, take their turns.
func (w *trying) arrive(touched []int32) {
	k := w.k
	var turns []int32
	seen := map[int32]bool{}
	var lines []int32
	for _, l := range touched {
		if k.b.Eligible(l) {
			lines = append(lines, l)
		}
	}
	slices.SortStableFunc(lines, func(x, y int32) int { return k.compare(x, y) })
	for _, l := range lines {
		if o := k.b.Lines[l].Order; k.a.rule(&k.b.Lines[l]) == book.Whole {
			if seen[o] {
				continue
			}
			seen[o] = true
		}
		turns = append(turns, l)
	}
	for i, l := range turns {
		at := sort.Search(len(k.turns), func(t int) bool {
			for t < len(k.turns) && w.gone[int32(t)] { // it does not stand there any more
				t++
			}
			return t == len(k.turns) || k.compare(k.turns[t], l) > 0
		})
		for at > 0 && w.gone[int32(at-1)] {
			at--
		}
		w.push(place{turn: int32(at), moved: int32(i + 1), line: l})
	}
}

func (k *Kept) compare(x, y int32) int {
	if c := policy.Compare(k.b, k.Keys, x, y); c != 0 {
		return c
	}
	return int(x - y)
}

// cell is a cell as it is before a kept turn.
func (w *trying) cell(c, turn int32) *cellTry {
	k := w.k
	x := w.cells[c]
	if x == nil {
		x = &cellTry{wasFree: k.free[c], free: k.free[c]}
		x.was.Set(&k.base[c])
		x.now.Set(&k.base[c])
		w.cells[c] = x
	}
	for ; x.next < len(k.does[c]) && k.does[c][x.next].turn < turn; x.next++ {
		e := k.does[c][x.next]
		apply(&x.was, &x.wasFree, k.b.Today, e)
		apply(&x.now, &x.free, k.b.Today, e)
	}
	return x
}

func apply(o *outlook.Outlook, free *int64, today days.Day, e effect) {
	if e.shelf > 0 {
		*free -= e.shelf
		o.Take(today, e.shelf)
	}
	if e.used > 0 {
		o.Lift(e.day, e.used)
	}
}

// dirty looks again, after place p, at a cell that is not as it was.
func (w *trying) dirty(c int32, p place) {
	x := w.cells[c]
	if x.free == x.wasFree && x.now.Same(&x.was) {
		return
	}
	looks := w.k.looks.list(c)
	from := p.turn
	if p.moved == 0 {
		from++
	}
	if i, _ := slices.BinarySearch(looks, from); i < len(looks) {
		w.push(place{turn: looks[i]})
	}
}

// take takes a turn again.
func (w *trying) take(p place) {
	k, a := w.k, w.k.a
	var cells, lines []int32
	add := func(c int32) {
		if !slices.Contains(cells, c) {
			cells = append(cells, c)
			w.cell(c, p.turn)
		}
	}
	of := func(l int32) {
		lines = append(lines, l)
		add(k.b.Lines[l].Cell)
		for _, c := range k.b.OthersOf(l) {
			add(c)
		}
		for _, x := range k.b.PromisesOf(l) {
			add(x.Cell)
		}
	}
	first := p.line
	if p.moved == 0 {
		first = k.turns[p.turn]
	}
	if a.rule(&k.b.Lines[first]) == book.Whole {
		from, to := k.b.LinesOf(k.b.Lines[first].Order)
		for l := from; l < to; l++ {
			of(l)
		}
	} else {
		of(first)
	}
	if p.moved == 0 && w.gone[p.turn] {
		// It is not taken here any more: what it did in the kept run is not done.
		for _, l := range lines {
			if _, again := w.after[l]; !again && k.at[l] == p.turn {
				w.after[l] = nil
			}
		}
	} else {
		for _, c := range cells {
			x := w.cells[c]
			a.outlooks[c].Set(&x.now)
			a.free[c] = x.free
		}
		for _, l := range lines {
			a.out.rank[l] = notServed
		}
		a.taken, a.out.served = a.taken[:0], a.out.served[:0]
		a.had[k.b.Lines[first].Order] = false
		t := a.turnOf(first)
		a.turn(&t)
		for _, c := range cells {
			x := w.cells[c]
			x.now.Set(&a.outlooks[c])
			x.free = a.free[c]
		}
		for _, l := range lines {
			w.after[l] = nil
		}
		for _, t := range a.taken {
			w.after[t.Line] = append(w.after[t.Line], t)
		}
	}
	if p.moved == 0 { // and what it did in the kept run was done there
		for _, c := range cells {
			x := w.cells[c]
			for ; x.next < len(k.does[c]) && k.does[c][x.next].turn == p.turn; x.next++ {
				apply(&x.was, &x.wasFree, k.b.Today, k.does[c][x.next])
			}
		}
	}
	for _, c := range cells {
		w.dirty(c, p)
	}
}
