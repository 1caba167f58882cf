package supply

import (
	"slices"
	"strconv"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// WholeBook is the book as the core reads it, and how its rows are called here.
type WholeBook struct {
	*book.Book
	Rows        []store.BookLine // of each line
	itemOf      map[string]int64 // by sku
	WarehouseID map[string]int64 // by code
	LineOf      map[int64]int32  // by key
	Journal     int64
}

// CellKey is the item and the warehouse of a cell.
func (b *WholeBook) CellKey(c int32) command.CellKey {
	cell := &b.Cells[c]
	return command.CellKey{Item: b.itemOf[b.Items[cell.Item].SKU], Warehouse: b.WarehouseID[b.Warehouses[cell.Warehouse]]}
}

// BookOptions says how the book is seen.
type BookOptions struct {
	FirmCurrencyOnly bool            // prices are to be added up: what is sold in another currency than the firm's counts for nothing
	Elsewhere        bool            // lines may draw on other warehouses than their own
	Rank             map[string]int  // of orders by number: only these are served; nil: all
	Listed           bool            // they are served in that order, as if they had been entered so
	Allocated        map[int64]int64 // units that are allocated to lines from their own warehouse, in place of those that are
}

// MakeBook makes the book that was read, which stays as it is.
func (d *Desk) MakeBook(r *store.Reader, rows store.Book, options BookOptions) (*WholeBook, error) {
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	docks, err := d.Docks(r, houses)
	if err != nil {
		return nil, err
	}
	m := &bookMaker{
		b: book.NewBuilder(d.Today(), d.Calendar()), options: options, rows: rows, house: map[int64]int32{},
		item: make(map[int64]int32, len(rows.Items)), others: map[int64][]int64{}, orders: map[int64]int32{},
		out: &WholeBook{
			itemOf: map[string]int64{}, WarehouseID: map[string]int64{}, LineOf: make(map[int64]int32, len(rows.Lines)),
			Journal: rows.Journal,
		},
	}
	m.b.Grow(len(rows.Lines)/2, len(rows.Lines), len(rows.Promises))
	for _, h := range houses {
		m.house[h.ID] = m.b.Warehouse(h.Code)
		m.out.WarehouseID[h.Code] = h.ID
		m.b.Works(m.house[h.ID], docks[h.ID].Calendar)
	}
	if err := m.stock(m.tried()); err != nil {
		return nil, err
	}
	if err := m.lines(); err != nil {
		return nil, err
	}
	if m.out.Book, err = m.b.Book(); err != nil {
		return nil, err
	}
	// Lines came by order and number, as the book has them.
	m.out.Rows = m.rows.Lines
	for i := range m.rows.Lines {
		m.out.LineOf[m.rows.Lines[i].ID] = int32(i)
	}
	return m.out, nil
}

// bookMaker makes a book of rows.
type bookMaker struct {
	b       *book.Builder
	options BookOptions
	rows    store.Book
	out     *WholeBook

	house  map[int64]int32   // the book's index of each warehouse
	item   map[int64]int32   // and of each item
	others map[int64][]int64 // the warehouses that have an item
	orders map[int64]int32   // the book's index of each order
}

// tried sets aside what is tried in place of what is, and returns how much more is free for it.
func (m *bookMaker) tried() map[command.CellKey]int64 {
	if len(m.options.Allocated) == 0 {
		return nil
	}
	m.rows.Lines = slices.Clone(m.rows.Lines)
	freed := map[command.CellKey]int64{}
	for i := range m.rows.Lines {
		l := &m.rows.Lines[i]
		if units, changed := m.options.Allocated[l.ID]; changed {
			freed[command.CellKey{Item: l.Item, Warehouse: l.Warehouse}] += l.Allocated - units
			l.Open += l.Allocated - units
			l.Allocated = units
		}
	}
	return freed
}

// cell is the book's index of an item at a warehouse.
func (m *bookMaker) cell(item, warehouse int64) int32 {
	return m.b.Cell(m.item[item], m.house[warehouse])
}

// stock adds items, what is free of them, and what is to come.
func (m *bookMaker) stock(freed map[command.CellKey]int64) (err error) {
	for _, it := range m.rows.Items {
		m.item[it.ID], err = m.b.Item(it.SKU, within(it.Multiple), min(it.LeadDays, book.MostLeadDays), it.Buyable)
		if err != nil {
			return err
		}
		m.out.itemOf[it.SKU] = it.ID
	}
	for _, c := range m.rows.Cells {
		free := c.Free + freed[command.CellKey{Item: c.Item, Warehouse: c.Warehouse}]
		if err := m.b.Stock(m.cell(c.Item, c.Warehouse), within(free), 0); err != nil {
			return err
		}
		m.others[c.Item] = append(m.others[c.Item], c.Warehouse)
	}
	for _, x := range m.rows.Receipts {
		if err := m.b.Receipt(m.cell(x.Item, x.Warehouse), days.Day(x.Due), within(x.Qty)); err != nil {
			return err
		}
	}
	return nil
}

// lines adds orders, lines and promises.
func (m *bookMaker) lines() error {
	promises := m.promises()
	for i := range m.rows.Lines {
		l := &m.rows.Lines[i]
		o, err := m.order(l)
		if err != nil {
			return err
		}
		n := book.NewLine{
			Order: o, No: l.No, Cell: m.cell(l.Item, l.Warehouse), Ordered: within(l.Ordered), Open: within(l.Open),
			ShipBy: days.Day(l.ShipBy),
		}
		if !m.options.FirmCurrencyOnly || l.Currency == store.FirmCurrency {
			n.Price = min(l.Price, book.MostPrice, book.MostValue/max(1, n.Ordered))
		}
		if m.options.Elsewhere && !l.OneWarehouse {
			for _, w := range m.others[l.Item] {
				if w != l.Warehouse {
					n.Others = append(n.Others, m.cell(l.Item, w))
				}
			}
		}
		for _, p := range promises[l.ID] {
			n.Promises = append(n.Promises, book.Promise{Qty: within(p.Qty), Cell: m.cell(p.Item, p.Warehouse), Day: days.Day(p.Day)})
		}
		if err := m.b.Line(n); err != nil {
			return err
		}
	}
	return nil
}

// promises are those of each line.
func (m *bookMaker) promises() map[int64][]store.BookPromise {
	all := m.rows.Promises
	out := make(map[int64][]store.BookPromise, len(all))
	for len(all) > 0 {
		n := 1
		for n < len(all) && all[n].Line == all[0].Line {
			n++
		}
		out[all[0].Line], all = all[:n], all[n:]
	}
	return out
}

// order is the book's index of the order of a line, which is added with its first line. One that is not to be served is on hold.
func (m *bookMaker) order(l *store.BookLine) (int32, error) {
	if o, known := m.orders[l.Order]; known {
		return o, nil
	}
	x := book.Order{
		Number: l.Number, Customer: strconv.FormatInt(l.Customer, 10), Tier: l.Tier, Urgency: l.Urgency,
		Entered: l.Entered, Rule: book.RuleOf(journey.ShipRule(l.Rule)),
	}
	rank, asked := m.options.Rank[l.Number]
	if m.options.Listed {
		x.Entered = int64(rank)
	}
	if l.Held || m.options.Rank != nil && !asked {
		x.Holds = 1
	}
	o, err := m.b.Order(x)
	m.orders[l.Order] = o
	return o, err
}

// within is a quantity as a book takes it. What was stored before there were bounds may lie beyond them; it counts as the most there can
// be.
func within(qty int64) int64 { return min(qty, book.MostUnits) }
