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

// With returns the book with a change; the book itself stays as it is. Promises beyond what is open are cut, the latest first, as when
// a book is made; those that are cut to nothing stay with no units. Cost: a copy of what is changed, of all lines, orders or cells.
func (b *Book) With(c Change) *Book {
	out := *b
	if c.Open != nil || c.ShipBy != nil {
		out.Lines = slices.Clone(b.Lines)
		l := &out.Lines[c.Line]
		if c.ShipBy != nil {
			l.ShipBy = *c.ShipBy
		}
		if c.Open != nil {
			l.Ordered += *c.Open - l.Open
			l.Open = *c.Open
			l.served = l.Open > 0 && b.Orders[l.Order].Holds == 0
			out.Promises = slices.Clone(b.Promises)
			left := l.Open
			for i := range out.Promises[l.promises.from:l.promises.to] {
				p := &out.Promises[int(l.promises.from)+i]
				p.Qty = min(p.Qty, left)
				left -= p.Qty
			}
		}
	}
	if c.Tier != nil {
		out.Orders = slices.Clone(b.Orders)
		out.Orders[b.Lines[c.Line].Order].Tier = *c.Tier
	}
	if c.OnHand != nil {
		out.Cells = slices.Clone(b.Cells)
		out.Cells[c.Cell].OnHand = *c.OnHand
	}
	return &out
}
