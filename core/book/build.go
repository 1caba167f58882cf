package book

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"journeyman/core/days"
	"journeyman/core/outlook"
)

// Builder gathers a book row by row, in any order but that a row is added after those
// it names. Its methods return the key by which later rows name a row, and refuse what
// cannot be; the error says what is wrong with the value. The zero Builder is not ready:
// use NewBuilder.
type Builder struct {
	b        Book
	houses   map[string]int32
	items    map[string]int32
	cells    map[[2]int32]int32
	orders   map[string]int32
	stocked  map[int32]bool
	receipts []receipt
	units    int64
	value    int64
}

type receipt struct {
	cell int32
	outlook.Event
}

// The greatest quantity, price and value of a line that a book takes. Sums of a million quantities, and of two thousand
// values, stay whole numbers of 64 bits; a book whose sums do not is refused.
const (
	MostUnits = 1_000_000_000
	MostPrice = 1_000_000_000_000
	MostValue = 1_000_000_000_000_000
)

// mostSum bounds all quantities, and all values, of a book together.
const mostSum = math.MaxInt64 / 4

// MostLeadDays is the longest lead time that a book takes.
const MostLeadDays = 3650

// NewBuilder begins a book seen from today.
func NewBuilder(today days.Day, cal days.Calendar) *Builder {
	return &Builder{
		b: Book{Today: today, Calendar: cal}, houses: map[string]int32{}, items: map[string]int32{}, cells: map[[2]int32]int32{},
		orders: map[string]int32{}, stocked: map[int32]bool{},
	}
}

// Grow makes room for that many orders, lines and promises.
func (d *Builder) Grow(orders, lines, promises int) {
	d.b.Orders = slices.Grow(d.b.Orders, orders)
	d.b.Lines = slices.Grow(d.b.Lines, lines)
	d.b.Promises = slices.Grow(d.b.Promises, promises)
}

// Warehouse returns the key of the warehouse of that code, which is new or known.
func (d *Builder) Warehouse(code string) int32 {
	k, ok := d.houses[code]
	if !ok {
		k = int32(len(d.b.Warehouses))
		d.houses[code] = k
		d.b.Warehouses = append(d.b.Warehouses, code)
		if d.b.calendars != nil {
			d.b.calendars = append(d.b.calendars, d.b.Calendar)
		}
	}
	return k
}

// Works says on which days a warehouse works; one of which nothing is said works on those of
// the book. It comes before the receipts of the warehouse.
func (d *Builder) Works(house int32, cal days.Calendar) {
	for len(d.b.calendars) < len(d.b.Warehouses) {
		d.b.calendars = append(d.b.calendars, d.b.Calendar)
	}
	d.b.calendars[house] = cal
}

// Item adds an item. Its lead time is counted in working days of the book.
func (d *Builder) Item(sku string, multiple int64, leadDays int, buyable bool) (int32, error) {
	if _, known := d.items[sku]; known {
		return 0, fmt.Errorf("item %q stands there twice", sku)
	}
	if multiple < 1 {
		multiple = 1
	}
	k := int32(len(d.b.Items))
	d.items[sku] = k
	d.b.Items = append(d.b.Items, Item{
		SKU: strings.Clone(sku), Multiple: multiple, LeadDays: int32(leadDays), Buyable: buyable,
		Lead: outlook.Lead(d.b.Calendar, d.b.Today, leadDays, buyable),
	})
	return k, nil
}

// ItemOf returns the key of an item that was added.
func (d *Builder) ItemOf(sku string) (int32, error) {
	if k, ok := d.items[sku]; ok {
		return k, nil
	}
	return 0, fmt.Errorf("there is no item %q", sku)
}

// Cell returns the key of the cell of an item at a warehouse, which is new or known.
func (d *Builder) Cell(item, warehouse int32) int32 {
	at := [2]int32{item, warehouse}
	k, ok := d.cells[at]
	if !ok {
		k = int32(len(d.b.Cells))
		d.cells[at] = k
		d.b.Cells = append(d.b.Cells, Cell{Item: item, Warehouse: warehouse})
	}
	return k
}

// Place makes sure that a known item has a cell at a warehouse that was named.
func (d *Builder) Place(x Place) {
	item, known := d.items[x.SKU]
	if house, named := d.houses[x.Warehouse]; known && named {
		d.Cell(item, house)
	}
}

// Stock says what is on hand and held in a cell, once.
func (d *Builder) Stock(cell int32, onHand, held int64) error {
	if d.stocked[cell] {
		c := d.b.Cells[cell]
		return fmt.Errorf("the stock of %q at %q stands there twice", d.b.Items[c.Item].SKU, d.b.Warehouses[c.Warehouse])
	}
	d.stocked[cell] = true
	d.b.Cells[cell].OnHand, d.b.Cells[cell].Held = onHand, held
	return d.sum(onHand)
}

// Receipt adds what is expected in a cell.
func (d *Builder) Receipt(cell int32, due days.Day, qty int64) error {
	if qty == 0 {
		return nil
	}
	if on, ok := outlook.Counts(*d.b.CalendarOf(cell), d.b.Today, due); ok {
		d.receipts = append(d.receipts, receipt{cell, outlook.Event{Day: on, Qty: qty}})
	} else {
		d.b.overdue = append(d.b.overdue, Overdue{cell, outlook.Event{Day: due, Qty: qty}})
	}
	return d.sum(qty)
}

// Order adds an order, whose lines are added after it. Its tier and urgency lie
// between 1 and 5.
func (d *Builder) Order(o Order) (int32, error) {
	if _, known := d.orders[o.Number]; known {
		return 0, fmt.Errorf("order %q stands there twice", o.Number)
	}
	k := int32(len(d.b.Orders))
	d.orders[o.Number] = k
	d.b.Orders = append(d.b.Orders, o)
	return k, nil
}

// NewLine is a line to be added.
type NewLine struct {
	Order         int32
	No            int32
	Cell          int32
	Others        []int32 // further cells of the same item
	Ordered, Open int64
	Price         int64
	ShipBy        days.Day
	Weight        int32 // 0 stands for 6 − tier
	Promises      []Promise
}

// Line adds a line with its promises.
func (d *Builder) Line(n NewLine) error {
	if n.Price > 0 && n.Ordered > MostValue/n.Price {
		return fmt.Errorf("%d × %d is more than a line may be worth: at most %d", n.Ordered, n.Price, int64(MostValue))
	}
	value := max(n.Ordered, n.Ordered*n.Price)
	if d.value > mostSum-value {
		return fmt.Errorf("the book is worth more than can be counted")
	}
	d.value += value
	if err := d.sum(n.Ordered); err != nil {
		return err
	}
	if n.Weight == 0 {
		n.Weight = 6 - int32(d.b.Orders[n.Order].Tier)
	}
	l := Line{
		Ordered: n.Ordered, Open: n.Open, Price: n.Price, Order: n.Order, No: n.No, Cell: n.Cell, ShipBy: n.ShipBy, Weight: n.Weight,
		others: span{int32(len(d.b.Others)), int32(len(d.b.Others) + len(n.Others))},
	}
	d.b.Others = append(d.b.Others, n.Others...)
	l.promises.from = int32(len(d.b.Promises))
	d.b.Promises = append(d.b.Promises, n.Promises...)
	mine := d.b.Promises[l.promises.from:]
	slices.SortStableFunc(mine, func(a, b Promise) int { return int(a.Day) - int(b.Day) })
	left := n.Open
	kept := 0
	for i := range mine {
		if mine[i].Qty = min(mine[i].Qty, left); mine[i].Qty > 0 {
			mine[kept] = mine[i]
			left -= mine[i].Qty
			kept++
		}
	}
	d.b.Promises = d.b.Promises[:int(l.promises.from)+kept]
	l.promises.to = int32(len(d.b.Promises))
	d.b.Lines = append(d.b.Lines, l)
	return nil
}

// Use says that so many units of a line stand in a cell, somewhere from allocated to packed.
func (d *Builder) Use(cell int32, units int64) { d.b.Cells[cell].Used += units }

func (d *Builder) sum(units int64) error {
	if d.units > mostSum-units {
		return fmt.Errorf("the book has more units than can be counted")
	}
	d.units += units
	return nil
}

// ImpossibleStock is the error of a cell in which more stands than is on hand.
type ImpossibleStock struct {
	SKU, Warehouse     string
	OnHand, Held, Used int64
}

func (e *ImpossibleStock) Error() string {
	return fmt.Sprintf(
		"%s at %s has %d on hand, of which %d are held; the lines have %d there", e.SKU, e.Warehouse, e.OnHand, e.Held, e.Used,
	)
}

// TwiceLine is the error of an order with two lines of one number.
type TwiceLine struct {
	Order string
	Line  int32
}

func (e *TwiceLine) Error() string {
	return fmt.Sprintf("order %q has line %d twice", e.Order, e.Line)
}

// Book puts all rows in their order and returns the book. The builder must not be used
// afterwards. The error is an *ImpossibleStock or a *TwiceLine.
func (d *Builder) Book() (*Book, error) {
	b := &d.b
	houseRank := sortBy(b.Warehouses, strings.Compare)
	if b.calendars != nil {
		unsorted := slices.Clone(b.calendars)
		for from, to := range houseRank {
			b.calendars[to] = unsorted[from]
		}
	}
	itemRank := sortBy(b.Items, func(x, y Item) int { return strings.Compare(x.SKU, y.SKU) })
	for i := range b.Cells {
		c := &b.Cells[i]
		c.Item, c.Warehouse = itemRank[c.Item], houseRank[c.Warehouse]
	}
	cellRank := sortBy(b.Cells, func(x, y Cell) int { return cmp.Or(cmp.Compare(x.Item, y.Item), cmp.Compare(x.Warehouse, y.Warehouse)) })
	for i := range d.receipts {
		d.receipts[i].cell = cellRank[d.receipts[i].cell]
	}
	slices.SortStableFunc(d.receipts, func(x, y receipt) int {
		return cmp.Or(cmp.Compare(x.cell, y.cell), cmp.Compare(x.Day, y.Day))
	})
	b.Receipts = make([]outlook.Event, len(d.receipts))
	for i, r := range d.receipts {
		b.Receipts[i] = r.Event
		s := &b.Cells[r.cell].receipts
		if s.from == s.to {
			s.from = int32(i)
		}
		s.to = int32(i + 1)
	}
	for i := range b.overdue {
		b.overdue[i].Cell = cellRank[b.overdue[i].Cell]
	}
	for i := range b.Promises {
		b.Promises[i].Cell = cellRank[b.Promises[i].Cell]
	}
	for i := range b.Others {
		b.Others[i] = cellRank[b.Others[i]]
	}
	orderRank := sortBy(b.Orders, func(x, y Order) int { return strings.Compare(x.Number, y.Number) })
	for i := range b.Lines {
		l := &b.Lines[i]
		l.Order, l.Cell = orderRank[l.Order], cellRank[l.Cell]
	}
	byOrder := func(x, y Line) int { return cmp.Or(cmp.Compare(x.Order, y.Order), cmp.Compare(x.No, y.No)) }
	if !slices.IsSortedFunc(b.Lines, byOrder) {
		slices.SortFunc(b.Lines, byOrder)
	}
	for i := range b.Lines {
		l := &b.Lines[i]
		o := &b.Orders[l.Order]
		l.Rule, l.served = o.Rule, l.Open > 0 && o.Holds == 0
		s := &o.lines
		if s.from == s.to {
			s.from = int32(i)
		} else if b.Lines[i-1].No == l.No {
			return nil, &TwiceLine{o.Number, l.No}
		}
		s.to = int32(i + 1)
	}
	for i := range b.Cells {
		if c := &b.Cells[i]; c.Free() < 0 || c.Held > c.OnHand {
			return nil, &ImpossibleStock{b.Items[c.Item].SKU, b.Warehouses[c.Warehouse], c.OnHand, c.Held, c.Used}
		}
	}
	return b, nil
}

// sortBy sorts the rows and returns where each of them went.
func sortBy[T any](rows []T, compare func(a, b T) int) []int32 {
	rank := make([]int32, len(rows))
	if slices.IsSortedFunc(rows, compare) {
		for i := range rank {
			rank[i] = int32(i)
		}
		return rank
	}
	order := make([]int32, len(rows))
	for i := range order {
		order[i] = int32(i)
	}
	slices.SortStableFunc(order, func(a, b int32) int { return compare(rows[a], rows[b]) })
	sorted := make([]T, len(rows))
	for to, from := range order {
		sorted[to] = rows[from]
		rank[from] = int32(to)
	}
	copy(rows, sorted)
	return rank
}
