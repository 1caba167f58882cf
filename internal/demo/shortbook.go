package demo

import (
	"fmt"
	"math/rand/v2"

	"journeyman/core/book"
	"journeyman/core/days"
)

// ShortBook is a book of that many open lines in orders of one to five, of which a tenth of the items
// are short: there is between half and nine tenths of what is wanted. each is how many lines an item
// has. Orders are of all ship rules and of one tier, since tiers only make it easier; nothing is promised.
func ShortBook(lines, each int, today days.Day) *book.Book {
	r := rand.New(rand.NewPCG(Seed, uint64(lines+each)))
	cal, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		panic(err)
	}
	b := book.NewBuilder(today, cal)
	b.Grow(lines/3, lines, 0)
	no := func(err error) {
		if err != nil {
			panic(err)
		}
	}
	house := b.Warehouse("HL")
	cells := make([]int32, max(1, lines/each))
	prices := make([]int64, len(cells))
	wanted := make([]int64, len(cells))
	for i := range cells {
		it, err := b.Item(fmt.Sprintf("X-%07d", i), []int64{1, 1, 1, 6}[i%4], 30, true)
		no(err)
		cells[i] = b.Cell(it, house)
		prices[i] = int64(100 + r.IntN(5000))
	}
	rules := []book.Rule{book.Any, book.Any, book.Any, book.Lines, book.Whole}
	for n := 0; n < lines; {
		o, err := b.Order(book.Order{
			Number: fmt.Sprintf("SO-%08d", n), Tier: 1, Urgency: 3,
			Entered: int64(today)*86_400_000_000 - r.Int64N(60*86_400_000_000), Rule: rules[r.IntN(len(rules))],
		})
		no(err)
		for l := range min(1+r.IntN(5), lines-n) {
			item := r.IntN(len(cells))
			q := int64(1 + r.IntN(40))
			wanted[item] += q
			no(b.Line(book.NewLine{
				Order: o, No: int32(l + 1), Cell: cells[item], Ordered: q, Open: q, Price: prices[item],
				ShipBy: today + days.Day(r.IntN(20)),
			}))
			n++
		}
	}
	for i, c := range cells {
		share := 100 + r.Int64N(50)
		if r.IntN(10) == 0 {
			share = 50 + r.Int64N(40)
		}
		no(b.Stock(c, wanted[i]*share/100, 0))
	}
	out, err := b.Book()
	no(err)
	return out
}
