package desk

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"journeyman/internal/desk/command"

	"journeyman/internal/desk/words"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/internal/store"
)

// supply is everything that a promise on some items can rest on, with their outlooks,
// all promises that stand taken as commitments.
type supply struct {
	today    days.Day
	cal      days.Calendar       // of the firm: lead times and carriers go by it
	docks    map[int64]days.Dock // of each warehouse
	items    map[int64]store.Item
	cells    map[command.CellKey]store.FreeCell
	order    []command.CellKey // of the cells, by item and warehouse
	receipts map[command.CellKey][]outlook.Event
	coming   []store.Supply
	promised []store.PromiseHead
	given    map[int64][]plan.Given // by line
	outlooks map[command.CellKey]*outlook.Outlook
	house    map[int64]string
	houseID  map[string]int64
}

// supply reads it. In a command the items are locked before. Its promises do not say whose
// they are.
func (d *Desk) supply(r *store.Reader, items store.IDs) (*supply, error) {
	return d.supplyOf(r, items, r.PromisesStanding, 0, "")
}

// supplyTold is the supply whose promises say whose they are.
func (d *Desk) supplyTold(r *store.Reader, items store.IDs) (*supply, error) {
	return d.supplyOf(r, items, r.PromisesOfItems, 0, "")
}

// supplyIf is that supply as it would be if the inbound `moved` were due on that day.
func (d *Desk) supplyIf(r *store.Reader, items store.IDs, moved int64, day string) (*supply, error) {
	return d.supplyOf(r, items, r.PromisesOfItems, moved, day)
}

func (d *Desk) supplyOf(r *store.Reader, items store.IDs, promises func(store.IDs) ([]store.PromiseHead, error), moved int64, day string) (*supply, error) {
	s := &supply{
		today: d.Today(), cal: d.calendar(), items: map[int64]store.Item{}, cells: map[command.CellKey]store.FreeCell{}, receipts: map[command.CellKey][]outlook.Event{},
		given: map[int64][]plan.Given{}, outlooks: map[command.CellKey]*outlook.Outlook{}, house: map[int64]string{}, houseID: map[string]int64{},
	}
	rows, err := r.ItemsByID(items)
	if err != nil {
		return nil, err
	}
	for _, it := range rows {
		s.items[it.ID] = it
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	for _, h := range houses {
		s.house[h.ID], s.houseID[h.Code] = h.Code, h.ID
	}
	if s.docks, err = d.docks(r, houses); err != nil {
		return nil, err
	}
	cells, err := r.StockOf(items)
	if err != nil {
		return nil, err
	}
	for _, c := range cells {
		s.add(c)
	}
	if s.coming, err = r.SupplyOf(items); err != nil {
		return nil, err
	}
	for i := range s.coming {
		if s.coming[i].ID == moved {
			s.coming[i].Due = day
		}
	}
	slices.SortStableFunc(s.coming, func(a, b store.Supply) int { return strings.Compare(a.Due, b.Due) })
	for _, x := range s.coming {
		due, err := days.Parse(x.Due)
		if err != nil {
			return nil, err
		}
		k := command.CellKey{Item: x.ItemID, Warehouse: x.WarehouseID}
		s.add(store.FreeCell{ItemID: k.Item, WarehouseID: k.Warehouse, Warehouse: x.Warehouse})
		if on, ok := outlook.Counts(s.docks[k.Warehouse].Calendar, s.today, due); ok {
			s.receipts[k] = append(s.receipts[k], outlook.Event{Day: on, Qty: x.Qty})
		}
	}
	if s.promised, err = promises(items); err != nil {
		return nil, err
	}
	for _, p := range s.promised {
		day, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		g := plan.Given{Warehouse: p.WarehouseID, Day: day, Qty: p.Qty}
		s.given[p.LineID] = append(s.given[p.LineID], g)
		s.outlook(p.ItemID, p.WarehouseID).Take(day, p.Qty)
	}
	return s, nil
}

func (s *supply) add(c store.FreeCell) {
	k := command.CellKey{Item: c.ItemID, Warehouse: c.WarehouseID}
	if _, known := s.cells[k]; !known {
		s.cells[k] = c
		s.order = append(s.order, k)
	}
}

// outlook returns the outlook of an item at a warehouse, which has nothing if it never had.
func (s *supply) outlook(item, house int64) *outlook.Outlook {
	k := command.CellKey{Item: item, Warehouse: house}
	o := s.outlooks[k]
	if o == nil {
		s.add(store.FreeCell{ItemID: item, WarehouseID: house, Warehouse: s.house[house]})
		cal := s.docks[house].Calendar
		o = outlook.New(&cal, s.today, s.lead(item), s.cells[k].Free, s.receipts[k])
		s.outlooks[k] = o
	}
	return o
}

func (s *supply) lead(item int64) days.Day {
	it := s.items[item]
	return outlook.Lead(s.cal, s.today, it.LeadDays, it.Buyable)
}

func (s *supply) lift(item int64, g plan.Given) { s.outlook(item, g.Warehouse).Lift(g.Day, g.Qty) }

// repromise puts other promises in the place of those that stand on a line.
func (s *supply) repromise(line, item int64, now []plan.Given) {
	for _, g := range s.given[line] {
		s.lift(item, g)
	}
	s.promised = slices.DeleteFunc(s.promised, func(p store.PromiseHead) bool { return p.LineID == line })
	s.given[line] = now
	for _, g := range now {
		s.outlook(item, g.Warehouse).Take(g.Day, g.Qty)
		s.promised = append(s.promised, store.PromiseHead{PromiseRow: store.PromiseRow{LineID: line, ItemID: item, WarehouseID: g.Warehouse, Day: g.Day.String(), Qty: g.Qty}})
	}
}

// wanting is a line that is to be promised.
type wanting struct {
	line, order, item, house int64
	number                   string
	no                       int32
	shipBy                   days.Day
	ordered, open            int64
	rule                     journey.ShipRule
	rank                     int
}

// lineName names a line of a book.
type lineName struct {
	order string
	no    int32
}

// book is the supply with the lines that are to be promised as a book of the core. All
// other promises stand in it as those of orders on hold, which a run does not serve.
func (s *supply) book(wants []wanting) (*book.Book, map[lineName]int64, error) {
	b := book.NewBuilder(s.today, s.cal)
	keys := map[lineName]int64{}
	item := map[int64]int32{}
	cell := func(it, house int64) int32 { return b.Cell(item[it], b.Warehouse(s.house[house])) }
	for _, house := range slices.Sorted(maps.Keys(s.house)) {
		b.Works(b.Warehouse(s.house[house]), s.docks[house].Calendar)
	}
	for _, id := range slices.Sorted(maps.Keys(s.items)) {
		it := s.items[id]
		k, err := b.Item(it.SKU, within(it.Multiple), min(it.LeadDays, book.MostLeadDays), it.Buyable)
		if err != nil {
			return nil, keys, err
		}
		item[id] = k
	}
	for _, k := range s.order {
		c := cell(k.Item, k.Warehouse)
		if err := b.Stock(c, within(s.cells[k].Free), 0); err != nil {
			return nil, keys, err
		}
		for _, r := range s.receipts[k] {
			if err := b.Receipt(c, r.Day, within(r.Qty)); err != nil {
				return nil, keys, err
			}
		}
	}
	mine := map[int64]bool{}
	orders := map[int64]int32{}
	for _, x := range wants {
		mine[x.line] = true
		o, known := orders[x.order]
		if !known {
			var err error
			if o, err = b.Order(book.Order{Number: x.number, Tier: 1, Urgency: 1, Entered: int64(x.rank), Rule: book.RuleOf(x.rule)}); err != nil {
				return nil, keys, err
			}
			orders[x.order] = o
		}
		l := book.NewLine{Order: o, No: x.no, Cell: cell(x.item, x.house), Ordered: within(x.ordered), Open: within(x.open), ShipBy: x.shipBy}
		for _, g := range s.given[x.line] {
			l.Promises = append(l.Promises, book.Promise{Qty: g.Qty, Cell: cell(x.item, g.Warehouse), Day: g.Day})
		}
		if err := b.Line(l); err != nil {
			return nil, keys, err
		}
		keys[lineName{x.number, x.no}] = x.line
	}
	others, err := b.Order(book.Order{Number: "", Tier: 1, Urgency: 1, Holds: 1})
	if err != nil {
		return nil, keys, err
	}
	n := int32(0)
	for _, p := range s.promised {
		if mine[p.LineID] {
			continue
		}
		day, err := days.Parse(p.Day)
		if err != nil {
			return nil, keys, err
		}
		n++
		c := cell(p.ItemID, p.WarehouseID)
		if err := b.Line(book.NewLine{
			Order: others, No: n, Cell: c, Ordered: within(p.Qty), Open: within(p.Qty),
			Promises: []book.Promise{{Qty: within(p.Qty), Cell: c, Day: day}},
		}); err != nil {
			return nil, keys, err
		}
	}
	bk, err := b.Book()
	return bk, keys, err
}

func (s *supply) partsOf(gs []plan.Given) []PromisePart {
	out := []PromisePart{}
	for _, g := range gs {
		out = append(out, PromisePart{s.house[g.Warehouse], g.Day.String(), g.Qty})
	}
	return out
}

func (s *supply) told(gs []plan.Given) []Promised {
	out := []Promised{}
	for _, g := range gs {
		out = append(out, Promised{Day: g.Day.String(), Qty: g.Qty, Warehouse: s.house[g.Warehouse]})
	}
	return out
}

// restsOn says in words what a promise rests on, and whether it cannot be kept as things stand.
func (s *supply) restsOn(p store.PromiseRow) (text string, shaky bool) {
	day, err := days.Parse(p.Day)
	if err != nil {
		return "", false
	}
	committed, until := int64(0), max(p.Day, s.today.String()) // a past day is today
	for _, x := range s.promised {
		if x.ItemID == p.ItemID && x.WarehouseID == p.WarehouseID && x.Day <= until {
			committed += x.Qty
		}
	}
	var refs []string
	var events []outlook.Event
	overdue := ""
	for _, x := range s.coming {
		due, err := days.Parse(x.Due)
		if err != nil || x.ItemID != p.ItemID || x.WarehouseID != p.WarehouseID {
			continue
		}
		if on, counts := outlook.Counts(s.docks[p.WarehouseID].Calendar, s.today, due); counts {
			refs = append(refs, fmt.Sprintf("%s due %s", x.Ref, words.Day(due)))
			events = append(events, outlook.Event{Day: on, Qty: x.Qty})
		} else if overdue == "" {
			overdue = x.Ref
		}
	}
	on, last, missing := outlook.Rest(max(day, s.today), s.lead(p.ItemID), s.cells[command.CellKey{Item: p.ItemID, Warehouse: p.WarehouseID}].Free, committed, events)
	switch {
	case on == outlook.Stock:
		return "free stock", false
	case on == outlook.Buying:
		return "buying more", false
	case on == outlook.Receipt:
		return refs[last], false
	case overdue != "":
		return overdue + ", overdue", true
	}
	return fmt.Sprintf("nothing: %d short by then", missing), true
}

func givenOf(b *book.Book, s *supply, x book.Promise) plan.Given {
	return plan.Given{Warehouse: s.houseID[b.Warehouses[b.Cells[x.Cell].Warehouse]], Day: x.Day, Qty: x.Qty}
}
