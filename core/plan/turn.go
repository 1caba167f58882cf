package plan

import (
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
)

// turn is a line and what has to be known of it, side by side in the order in which lines
// are served: reading it is cheap, looking it up all over the book is not.
type turn struct {
	open              int64
	line, order, cell int32
	from              days.Day // on which it can be promised at the earliest
	others, promises  int32    // where its further cells and its promises begin
	further, promised uint16   // how many of them there are, or manyOf
	rule              book.Rule
	due               bool // within the window of the run
}

// manyOf stands for more than there is room for: they are looked up.
const manyOf = 1<<16 - 1

// turnOf returns the turn of a line.
func turnOf(b *book.Book, l int32, rule book.Rule) turn {
	line := &b.Lines[l]
	t := turn{open: line.Open, line: l, order: line.Order, cell: line.Cell, from: b.From(l), rule: rule}
	var others, promises int32
	t.others, others = b.SpanOfOthers(l)
	t.promises, promises = b.SpanOfPromises(l)
	t.further, t.promised = uint16(min(others, manyOf)), uint16(min(promises, manyOf))
	return t
}

// multiple is the multiple of the turn's item.
func (t *turn) multiple(b *book.Book) int64 { return b.Items[b.Cells[t.cell].Item].Multiple }

// furtherCells are the further cells on which the line may draw.
func (t *turn) furtherCells(b *book.Book) []int32 {
	if t.further == manyOf {
		return b.OthersOf(t.line)
	}
	return b.Others[t.others:][:t.further]
}

// promisesOf are the promises of the line.
func (t *turn) promisesOf(b *book.Book) []book.Promise {
	if t.promised == manyOf {
		return b.PromisesOf(t.line)
	}
	return b.Promises[t.promises:][:t.promised]
}

// batch is how many turns are served before what the next ones need is fetched.
const batch = 32

// turns calls serve with the turns of lines, some at a time. What they need is read for all of these at once and nothing else,
// so that the processor waits for all of it together: each line looks into another corner of the book.
func turns(b *book.Book, lines []int32, turnOf func(l int32) turn, fetch func([]turn) int64, serve func(*turn)) (near int64) {
	var room [batch]turn
	for some := range slices.Chunk(lines, batch) {
		for _, l := range some {
			near += b.Lines[l].Open
		}
		turns := room[:len(some)]
		for i, l := range some {
			turns[i] = turnOf(l)
		}
		near += fetch(turns)
		for i := range turns {
			serve(&turns[i])
		}
	}
	return near // nobody needs it, but without it nothing would be read
}
