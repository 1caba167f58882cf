package book

import (
	"slices"

	"journeyman/core/days"
)

// Change is a book with one thing otherwise: what is tried. Fields that are nil stay as they are.
type Change struct {
	Line   int32     // whose quantity, day or tier it is
	Open   *int64    // units of the line that are open; as many more or fewer are ordered
	ShipBy *days.Day // of the line
	Tier   *uint8    // of the line's order
	Cell   int32     // whose stock it is
	OnHand *int64    // in the cell; never fewer than are held and used
}

// Alter changes the book in place and returns what puts it back. Nobody else may read the book
// meanwhile. Promises beyond what is open are cut, the latest first, as when a book is made; those
// that are cut to nothing stay with no units.
func (b *Book) Alter(c Change) (restore func()) {
	var undo []func()
	if c.Open != nil || c.ShipBy != nil {
		l := &b.Lines[c.Line]
		was := *l
		undo = append(undo, func() { *l = was })
		if c.ShipBy != nil {
			l.ShipBy = *c.ShipBy
		}
		if c.Open != nil {
			l.Ordered += *c.Open - l.Open
			l.Open = *c.Open
			l.served = l.Open > 0 && b.Orders[l.Order].Holds == 0
			ps := b.Promises[l.promises.from:l.promises.to]
			before := slices.Clone(ps)
			undo = append(undo, func() { copy(ps, before) })
			left := l.Open
			for i := range ps {
				ps[i].Qty = min(ps[i].Qty, left)
				left -= ps[i].Qty
			}
		}
	}
	if c.Tier != nil {
		o := &b.Orders[b.Lines[c.Line].Order]
		was := o.Tier
		undo = append(undo, func() { o.Tier = was })
		o.Tier = *c.Tier
	}
	if c.OnHand != nil {
		cell := &b.Cells[c.Cell]
		was := cell.OnHand
		undo = append(undo, func() { cell.OnHand = was })
		cell.OnHand = *c.OnHand
	}
	return func() {
		for _, f := range undo {
			f()
		}
	}
}

// Clone returns a book of its own, to be altered.
func (b *Book) Clone() *Book {
	out := *b
	out.Lines, out.Cells, out.Orders, out.Promises = slices.Clone(b.Lines), slices.Clone(b.Cells), slices.Clone(b.Orders),
		slices.Clone(b.Promises)
	return &out
}
