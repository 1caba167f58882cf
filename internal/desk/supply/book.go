package supply

import (
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

// MakeBook makes the book that was read.
func (d *Desk) MakeBook(r *store.Reader, rows store.Book, how BookOptions) (*WholeBook, error) {
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	docks, err := d.Docks(r, houses)
	if err != nil {
		return nil, err
	}
	today := d.Today()
	b := book.NewBuilder(today, d.Calendar())
	b.Grow(len(rows.Lines)/2, len(rows.Lines), len(rows.Promises))
	out := &WholeBook{
		itemOf: map[string]int64{}, WarehouseID: map[string]int64{}, LineOf: make(map[int64]int32, len(rows.Lines)), Journal: rows.Journal,
	}
	house := map[int64]int32{}
	for _, h := range houses {
		house[h.ID] = b.Warehouse(h.Code)
		out.WarehouseID[h.Code] = h.ID
		b.Works(house[h.ID], docks[h.ID].Calendar)
	}
	item := make(map[int64]int32, len(rows.Items))
	for _, it := range rows.Items {
		if item[it.ID], err = b.Item(it.SKU, within(it.Multiple), min(it.LeadDays, book.MostLeadDays), it.Buyable); err != nil {
			return nil, err
		}
		out.itemOf[it.SKU] = it.ID
	}
	// What is set aside otherwise than it is changes what is free.
	freed := map[command.CellKey]int64{}
	for i := range rows.Lines {
		l := &rows.Lines[i]
		if units, changed := how.Allocated[l.ID]; changed {
			freed[command.CellKey{Item: l.Item, Warehouse: l.Warehouse}] += l.Allocated - units
			l.Open += l.Allocated - units
			l.Allocated = units
		}
	}
	others := map[int64][]int64{}
	for _, c := range rows.Cells {
		k := command.CellKey{Item: c.Item, Warehouse: c.Warehouse}
		if err := b.Stock(b.Cell(item[c.Item], house[c.Warehouse]), within(c.Free+freed[k]), 0); err != nil {
			return nil, err
		}
		others[c.Item] = append(others[c.Item], c.Warehouse)
	}
	for _, x := range rows.Receipts {
		if err := b.Receipt(b.Cell(item[x.Item], house[x.Warehouse]), days.Day(x.Due), within(x.Qty)); err != nil {
			return nil, err
		}
	}
	promises := rows.Promises
	promisesOf := make(map[int64][]store.BookPromise, len(promises))
	for i := 0; i < len(promises); {
		k := i
		for k < len(promises) && promises[k].Line == promises[i].Line {
			k++
		}
		promisesOf[promises[i].Line] = promises[i:k]
		i = k
	}
	orders := map[int64]int32{}
	for i := range rows.Lines {
		l := &rows.Lines[i]
		o, known := orders[l.Order]
		if !known {
			x := book.Order{
				Number: l.Number, Customer: strconv.FormatInt(l.Customer, 10), Tier: l.Tier, Urgency: l.Urgency,
				Entered: l.Entered, Rule: book.RuleOf(journey.ShipRule(l.Rule)),
			}
			rank, asked := how.Rank[l.Number]
			if how.Listed {
				x.Entered = int64(rank)
			}
			if l.Held || how.Rank != nil && !asked {
				x.Holds = 1
			}
			if o, err = b.Order(x); err != nil {
				return nil, err
			}
			orders[l.Order] = o
		}
		n := book.NewLine{
			Order: o, No: l.No, Cell: b.Cell(item[l.Item], house[l.Warehouse]), Ordered: within(l.Ordered),
			Open: within(l.Open), ShipBy: days.Day(l.ShipBy),
		}
		if !how.FirmCurrencyOnly || l.Currency == store.FirmCurrency {
			n.Price = min(l.Price, book.MostPrice, book.MostValue/max(1, n.Ordered))
		}
		if how.Elsewhere && !l.OneWarehouse {
			for _, w := range others[l.Item] {
				if w != l.Warehouse {
					n.Others = append(n.Others, b.Cell(item[l.Item], house[w]))
				}
			}
		}
		for _, p := range promisesOf[l.ID] {
			n.Promises = append(
				n.Promises, book.Promise{Qty: within(p.Qty), Cell: b.Cell(item[p.Item], house[p.Warehouse]), Day: days.Day(p.Day)},
			)
		}
		if err := b.Line(n); err != nil {
			return nil, err
		}
	}
	if out.Book, err = b.Book(); err != nil {
		return nil, err
	}
	// Lines came by order and number, as the book has them.
	out.Rows = rows.Lines
	for i := range rows.Lines {
		out.LineOf[rows.Lines[i].ID] = int32(i)
	}
	return out, nil
}

// within is a quantity as a book takes it. What was stored before there were bounds may lie beyond them; it counts as the most there can
// be.
func within(qty int64) int64 { return min(qty, book.MostUnits) }
