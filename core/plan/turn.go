package plan

import (
	"iter"
	"slices"

	"journeyman/core/beside"
	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/policy"
)

// turn is a line and what has to be known of it, side by side in the order in which lines
// are served: reading it is cheap, looking it up all over the book is not. It has 64 bytes, one fetch from memory.
type turn struct {
	open, multiple    int64
	earliest          [1]book.Promise // the first of its promises, if it has any
	line, order, cell int32
	from              days.Day // on which it can be promised at the earliest
	others, promises  int32    // where its further cells and its promises begin
	further, promised uint16   // how many of them there are, or manyOf
	rule              book.Rule
	due               bool // within the window of the run
	alone, last       bool // no other line is equal to it in all keys; it is the last one of those that are
}

// manyOf stands for more than there is room for: they are looked up.
const manyOf = 1<<16 - 1

// turning makes turns of lines.
type turning struct {
	b        *book.Book
	multiple []int64 // of the item of each cell
	promises bool    // whether those of the lines matter
	rule     func(l *book.Line) book.Rule
	due      func(l *book.Line) bool
	near     int64
}

func newTurning(b *book.Book, promises bool, rule func(l *book.Line) book.Rule, due func(l *book.Line) bool) *turning {
	m := &turning{b: b, multiple: make([]int64, len(b.Cells)), promises: promises, rule: rule, due: due}
	for c := range b.Cells {
		m.multiple[c] = b.Items[b.Cells[c].Item].Multiple
	}
	return m
}

// turn makes t the turn of a line.
func (m *turning) turn(t *turn, l int32) {
	line := &m.b.Lines[l]
	t.open, t.multiple = line.Open, m.multiple[line.Cell]
	t.line, t.order, t.cell = l, line.Order, line.Cell
	t.from, t.rule, t.due = m.b.From(l), m.rule(line), m.due(line)
	var n int32
	t.others, n = m.b.SpanOfOthers(l)
	t.further, t.promised = uint16(min(n, manyOf)), 0
	if !m.promises {
		return
	}
	t.promises, n = m.b.SpanOfPromises(l)
	t.promised = uint16(min(n, manyOf))
	if n > 0 {
		t.earliest[0] = m.b.Promises[t.promises]
	}
}

// fetch reads what making turns of lines needs.
func (m *turning) fetch(lines []int32) (near int64) {
	all := m.b.Lines
	for _, l := range lines {
		near += all[l].Open
	}
	if m.promises {
		for _, l := range lines {
			if from, n := m.b.SpanOfPromises(l); n > 0 {
				near += m.b.Promises[from].Qty
			}
		}
	}
	return near
}

// furtherCells are the further cells on which the line may draw.
func (t *turn) furtherCells(b *book.Book) []int32 {
	if t.further == manyOf {
		return b.OthersOf(t.line)
	}
	return b.Others[t.others:][:t.further]
}

// promisesOf are the promises of the line.
func (t *turn) promisesOf(b *book.Book) []book.Promise {
	switch t.promised {
	case 0, 1:
		return t.earliest[:t.promised]
	case manyOf:
		return b.PromisesOf(t.line)
	}
	return b.Promises[t.promises:][:t.promised]
}

const (
	batch = 32  // turns are served before what the next ones need is fetched
	load  = 512 // turns are handed on at once to who serves them
)

// ahead makes the turns of all eligible lines in the order of the keys, and returns a function that hands them on, some at a time;
// they are good until it gets the next ones. If there are many, another processor sorts lines and looks them up from now on, ahead
// of the one that serves them. They come in groups of lines that are equal in all keys if sorted is [policy.Groups].
func (m *turning) ahead(keys []policy.Key, sorted inOrder) (each func(serve func([]turn))) {
	return beside.Ahead(len(m.b.Lines), load, func(room []turn, handOn func([]turn) []turn) {
		n := 0
		for lines := range sorted(m.b, eligible(m.b), keys) {
			last := lines[len(lines)-1]
			for some := range slices.Chunk(lines, batch) {
				m.near += m.fetch(some)
				for _, l := range some {
					if n == len(room) {
						room, n = handOn(room), 0
					}
					m.turn(&room[n], l)
					room[n].alone, room[n].last = len(lines) == 1, l == last
					n++
				}
			}
		}
		handOn(room[:n])
	})
}

// inOrder sorts lines by keys.
type inOrder = func(b *book.Book, lines []int32, keys []policy.Key) iter.Seq[[]int32]

// eligible returns the lines that a run serves, by rising index.
func eligible(b *book.Book) []int32 {
	out := make([]int32, 0, len(b.Lines))
	for i := range b.Lines {
		if b.Eligible(int32(i)) {
			out = append(out, int32(i))
		}
	}
	return out
}

// inBatches serves turns. What some of them need is read for all of these at once and nothing else, so that the processor waits for all
// of it together: each line looks into another corner of the book.
func inBatches(each func(serve func([]turn)), fetch func([]turn) int64, serve func(*turn)) (near int64) {
	each(func(turns []turn) {
		for some := range slices.Chunk(turns, batch) {
			near += fetch(some)
			for i := range some {
				serve(&some[i])
			}
		}
	})
	return near // nobody needs it, but without it nothing would be read
}
