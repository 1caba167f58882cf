// Package book is everything a plan is computed from: stock, what is expected, the
// orders with their lines and promises, the calendar and today. A [Book] is made by a
// [Builder] or read from its JSON form by [Read]; both refuse what cannot be, and a Book
// is not changed once made.
//
// Its rows stand in the order in which ties end: items by sku, cells by item and
// warehouse, orders by number, lines by order and line number. A row's index is
// therefore its rank, and rows refer to each other by index. At a million lines a Book
// takes well under 400 bytes a line.
package book

import (
	"slices"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/outlook"
)

// Book is a whole book, seen from Today.
type Book struct {
	Today    days.Day
	Calendar days.Calendar

	Warehouses []string // by code
	Items      []Item
	Cells      []Cell
	Receipts   []outlook.Event // of each cell by the day on which they count; overdue ones are left out
	Orders     []Order
	Lines      []Line
	Promises   []Promise // of each line by day
	Others     []int32   // the further cells of each line

	overdue   []Overdue
	calendars []days.Calendar // of each warehouse, if they differ
}

// CalendarOf returns the days on which the warehouse of a cell works: its own, or the book's.
func (b *Book) CalendarOf(cell int32) *days.Calendar {
	if b.calendars == nil {
		return &b.Calendar
	}
	return &b.calendars[b.Cells[cell].Warehouse]
}

// Overdue is a receipt whose day has passed: it does not count.
type Overdue struct {
	Cell int32
	outlook.Event
}

// Item is what is sold.
type Item struct {
	SKU      string
	Multiple int64 // at least 1
	LeadDays int32
	Buyable  bool
	Lead     days.Day // from here on there is no limit; outlook.Never if it cannot be bought
}

// Cell is the stock of one item at one warehouse.
type Cell struct {
	Item, Warehouse int32
	OnHand, Held    int64
	Used            int64 // allocated, released, picked and packed, over all lines
	receipts        span
}

// Free is what is on hand, not held and not spoken for.
func (c *Cell) Free() int64 { return c.OnHand - c.Held - c.Used }

type span struct{ from, to int32 }

// Order is an order with its lines.
type Order struct {
	Number, Customer string
	Entered          int64 // microseconds since 1970-01-01 UTC
	Holds            int32 // how many stand on it
	Tier, Urgency    uint8 // 1 is first, 5 is last
	Rule             Rule
	lines            span
}

// Rule is a ship rule in one byte.
type Rule uint8

// The ship rules, as journey.ShipRule has them.
const (
	Any   Rule = iota // send what there is
	Lines             // a line goes only whole
	Whole             // all in one go
)

// RuleOf returns the rule in one byte.
func RuleOf(r journey.ShipRule) Rule {
	switch r {
	case journey.ShipLines:
		return Lines
	case journey.ShipWhole:
		return Whole
	}
	return Any
}

// Line is an order line with units that are still open, or none.
type Line struct {
	Ordered, Open, Price int64
	Order, No            int32
	Cell                 int32 // of its item at its own warehouse
	ShipBy               days.Day
	Weight               int32 // the harm of putting back one of its promises
	others, promises     span
	Rule                 Rule // of its order
	served               bool // whether a run serves it; a line is kept to 64 bytes, one fetch from memory
}

// Promise is so many open units of a line promised for a day from a cell.
type Promise struct {
	Qty  int64
	Cell int32
	Day  days.Day
}

// HasOthers says whether the line may draw on further cells.
func (l *Line) HasOthers() bool { return l.others.from < l.others.to }

// HasPromises says whether anything is promised on the line.
func (l *Line) HasPromises() bool { return l.promises.from < l.promises.to }

// LinesOf returns the indexes of the order's first line and of the line after its last.
func (b *Book) LinesOf(order int32) (from, to int32) {
	s := b.Orders[order].lines
	return s.from, s.to
}

// PromisesOf returns the promises of a line, the earliest first. They never exceed
// what is open: what did was cut, the latest first.
func (b *Book) PromisesOf(line int32) []Promise {
	s := b.Lines[line].promises
	return b.Promises[s.from:s.to]
}

// OthersOf returns the further cells on which a line may draw, in order.
func (b *Book) OthersOf(line int32) []int32 {
	s := b.Lines[line].others
	return b.Others[s.from:s.to]
}

// SpanOfOthers returns where in Others the further cells of a line begin, and how many they are.
func (b *Book) SpanOfOthers(line int32) (from, n int32) {
	s := b.Lines[line].others
	return s.from, s.to - s.from
}

// SpanOfPromises returns where in Promises those of a line begin, and how many they are.
func (b *Book) SpanOfPromises(line int32) (from, n int32) {
	s := b.Lines[line].promises
	return s.from, s.to - s.from
}

// ReceiptsOf returns the receipts of a cell that count, by day.
func (b *Book) ReceiptsOf(cell int32) []outlook.Event {
	s := b.Cells[cell].receipts
	return b.Receipts[s.from:s.to]
}

// OverdueOf returns the receipts of a cell whose day has passed.
func (b *Book) OverdueOf(cell int32) []Overdue {
	var out []Overdue
	for _, o := range b.overdue {
		if o.Cell == cell {
			out = append(out, o)
		}
	}
	return out
}

// Eligible says whether a run serves the line: it has open units and its order no hold.
func (b *Book) Eligible(line int32) bool { return b.Lines[line].served }

// From is the first day on which a line can be promised at all: the next working day of its
// warehouse on or after its ship-by day and today.
func (b *Book) From(line int32) days.Day {
	l := &b.Lines[line]
	return b.CalendarOf(l.Cell).Next(max(l.ShipBy, b.Today))
}

// CellOf returns the cell of an item at a warehouse, and whether the book has it.
func (b *Book) CellOf(sku, warehouse string) (int32, bool) {
	for i := range b.Cells {
		c := &b.Cells[i]
		if b.Items[c.Item].SKU == sku && b.Warehouses[c.Warehouse] == warehouse {
			return int32(i), true
		}
	}
	return 0, false
}

// Outlooks returns the outlook of every cell with all promises of the book taken as
// commitments, but for those of lines for which lifted says so. lifted may be nil. Cost:
// linear in cells, receipts and promises.
func (b *Book) Outlooks(lifted func(line int32) bool) []outlook.Outlook {
	out := make([]outlook.Outlook, len(b.Cells))
	room := make([]outlook.Bucket, len(b.Cells)+len(b.Receipts))
	for i := range b.Cells {
		c := &b.Cells[i]
		used := out[i].Reset(b.CalendarOf(int32(i)), b.Today, b.Items[c.Item].Lead, c.Free(), b.ReceiptsOf(int32(i)), room)
		room = room[len(used):]
	}
	if lifted == nil {
		takeAll(out, b.Promises)
		return out
	}
	for i := range b.Lines {
		if s := b.Lines[i].promises; s.from < s.to && !lifted(int32(i)) {
			takeAll(out, b.Promises[s.from:s.to])
		}
	}
	return out
}

// takeAll takes promises as commitments. What is needed is read at once for some of them, so that the processor waits for all of
// it together.
func takeAll(outlooks []outlook.Outlook, promises []Promise) (near int64) {
	for some := range slices.Chunk(promises, 32) {
		for _, p := range some {
			near += outlooks[p.Cell].Touch(false)
		}
		for _, p := range some {
			near += outlooks[p.Cell].Touch(true)
		}
		for _, p := range some {
			outlooks[p.Cell].Take(p.Day, p.Qty)
		}
	}
	return near
}

// CommitmentsOf returns the promises on a cell as commitments, by line.
func (b *Book) CommitmentsOf(cell int32) []outlook.Event {
	var out []outlook.Event
	for _, p := range b.Promises {
		if p.Cell == cell {
			out = append(out, outlook.Event{Day: p.Day, Qty: p.Qty})
		}
	}
	return out
}

// Taken is so many open units of a line allocated from a cell.
type Taken struct {
	Line, Cell int32
	Qty        int64
}

// WithTaken returns the book as it is once those units are allocated: fewer open, less free,
// and the promises of each line used up by what it took, the earliest first. What is taken
// must be there and open. The book itself stays as it is. Cost: linear in lines, cells and
// promises.
func (b *Book) WithTaken(taken []Taken) *Book {
	out := *b
	out.Lines, out.Cells = slices.Clone(b.Lines), slices.Clone(b.Cells)
	out.Promises = make([]Promise, 0, len(b.Promises))
	of := make([]int64, len(b.Lines))
	for _, t := range taken {
		of[t.Line] += t.Qty
		out.Cells[t.Cell].Used += t.Qty
	}
	for i := range out.Lines {
		l := &out.Lines[i]
		units := of[i]
		l.Open -= units
		l.served = l.served && l.Open > 0
		from := int32(len(out.Promises))
		for _, p := range b.Promises[l.promises.from:l.promises.to] {
			q := min(p.Qty, units)
			units -= q
			if p.Qty -= q; p.Qty > 0 {
				out.Promises = append(out.Promises, p)
			}
		}
		l.promises = span{from, int32(len(out.Promises))}
	}
	return &out
}

// Without returns the book without those promises, by line; as many units of each as are named. The
// book itself stays as it is.
func (b *Book) Without(promises map[int32][]Promise) *Book {
	if len(promises) == 0 {
		return b
	}
	out := *b
	out.Lines = slices.Clone(b.Lines)
	out.Promises = make([]Promise, 0, len(b.Promises))
	for i := range out.Lines {
		l := &out.Lines[i]
		gone := promises[int32(i)]
		from := int32(len(out.Promises))
		for _, p := range b.Promises[l.promises.from:l.promises.to] {
			if k := slices.Index(gone, p); k >= 0 {
				gone = slices.Delete(slices.Clone(gone), k, k+1)
				continue
			}
			out.Promises = append(out.Promises, p)
		}
		l.promises = span{from, int32(len(out.Promises))}
	}
	return &out
}
