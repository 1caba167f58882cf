package demo

import (
	"fmt"
	"math/rand/v2"

	"journeyman/core/book"
	"journeyman/core/days"
)

// BigBook is a book of that many open lines around today, for measurements: three lines
// an order, a thirtieth as many items as lines in three warehouses, some eight receipts an
// item, a promise on every other line, and orders of all three ship rules. The same size
// and today give the same book.
func BigBook(lines int, today days.Day) *book.Book {
	r := rand.New(rand.NewPCG(Seed, uint64(lines)))
	cal, err := days.NewCalendar(days.Weekdays, []days.Day{today + 25})
	if err != nil {
		panic(err)
	}
	b := book.NewBuilder(today, cal)
	b.Grow(lines/3+1, lines, lines/2)
	no := func(err error) {
		if err != nil {
			panic(err)
		}
	}
	houses := []int32{b.Warehouse("HL"), b.Warehouse("DQ"), b.Warehouse("EG")}
	items := max(1, lines/30)
	cells := make([][3]int32, items)
	for i := range items {
		it, err := b.Item(fmt.Sprintf("X-%07d", i), []int64{1, 1, 1, 6}[i%4], 5+r.IntN(60), r.IntN(10) > 0)
		no(err)
		for h, w := range houses {
			cells[i][h] = b.Cell(it, w)
			no(b.Stock(cells[i][h], int64(r.IntN(200)), 0))
			for range r.IntN(6) {
				no(b.Receipt(cells[i][h], today+days.Day(r.IntN(90)), int64(20+r.IntN(300))))
			}
		}
	}
	rules := []book.Rule{book.Any, book.Any, book.Any, book.Lines, book.Whole}
	for n := 0; n < lines; {
		o, err := b.Order(book.Order{
			Number: fmt.Sprintf("SO-%08d", n), Tier: uint8(1 + r.IntN(5)), Urgency: uint8(1 + r.IntN(5)),
			Entered: int64(today)*86_400_000_000 - r.Int64N(60*86_400_000_000), Rule: rules[r.IntN(len(rules))],
		})
		no(err)
		by := today + days.Day(r.IntN(40)-5)
		for l := range min(3, lines-n) {
			item := r.IntN(items)
			at := r.IntN(3)
			line := book.NewLine{
				Order: o, No: int32(l + 1), Cell: cells[item][at], Ordered: int64(1 + r.IntN(40)), Price: int64(100 + r.IntN(5000)),
				ShipBy: by,
			}
			line.Open = line.Ordered
			if r.IntN(4) == 0 {
				line.Others = []int32{cells[item][(at+1)%3]}
			}
			if r.IntN(2) == 0 {
				line.Promises = []book.Promise{{Qty: line.Open, Cell: line.Cell, Day: by + days.Day(r.IntN(10))}}
			}
			no(b.Line(line))
			n++
		}
	}
	out, err := b.Book()
	no(err)
	return out
}
