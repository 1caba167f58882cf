package supply

import (
	"maps"
	"slices"
	"strings"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Supply is everything that a promise on some items can rest on, with their outlooks,
// all promises that stand taken as commitments.
type Supply struct {
	Today         days.Day
	Calendar      days.Calendar       // of the firm: lead times and carriers go by it
	Docks         map[int64]days.Dock // of each warehouse
	Items         map[int64]store.Item
	Cells         map[command.CellKey]store.FreeCell
	CellOrder     []command.CellKey // of the cells, by item and warehouse
	Receipts      map[command.CellKey][]outlook.Event
	Coming        []store.Supply
	Promised      []store.PromiseHead
	Standing      map[int64][]plan.StandingPromise // by line
	outlooks      map[command.CellKey]*outlook.Outlook
	WarehouseCode map[int64]string
	WarehouseID   map[string]int64
}

// ReadSupply reads it. In a command the items are locked before. Its promises do not say whose
// they are.
func (d *Desk) ReadSupply(r *store.Reader, items store.IDs) (*Supply, error) {
	return d.readSupply(r, items, r.PromisesStanding, 0, "")
}

// ReadNamedSupply is the supply whose promises say whose they are.
func (d *Desk) ReadNamedSupply(r *store.Reader, items store.IDs) (*Supply, error) {
	return d.readSupply(r, items, r.PromisesOfItems, 0, "")
}

// ReadSupplyIf is that supply as it would be if the inbound `moved` were due on that day.
func (d *Desk) ReadSupplyIf(r *store.Reader, items store.IDs, moved int64, day string) (*Supply, error) {
	return d.readSupply(r, items, r.PromisesOfItems, moved, day)
}

func (d *Desk) readSupply(
	r *store.Reader, items store.IDs, promises func(store.IDs) ([]store.PromiseHead, error), moved int64, day string,
) (*Supply, error) {
	s := &Supply{
		Today: d.Today(), Calendar: d.Calendar(), Items: map[int64]store.Item{}, Cells: map[command.CellKey]store.FreeCell{},
		Receipts: map[command.CellKey][]outlook.Event{},
		Standing: map[int64][]plan.StandingPromise{}, outlooks: map[command.CellKey]*outlook.Outlook{}, WarehouseCode: map[int64]string{},
		WarehouseID: map[string]int64{},
	}
	rows, err := r.ItemsByID(items)
	if err != nil {
		return nil, err
	}
	for _, it := range rows {
		s.Items[it.ID] = it
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	for _, h := range houses {
		s.WarehouseCode[h.ID], s.WarehouseID[h.Code] = h.Code, h.ID
	}
	if s.Docks, err = d.Docks(r, houses); err != nil {
		return nil, err
	}
	cells, err := r.StockOf(items)
	if err != nil {
		return nil, err
	}
	for _, c := range cells {
		s.add(c)
	}
	if s.Coming, err = r.SupplyOf(items); err != nil {
		return nil, err
	}
	for i := range s.Coming {
		if s.Coming[i].ID == moved {
			s.Coming[i].Due = day
		}
	}
	slices.SortStableFunc(s.Coming, func(a, b store.Supply) int { return strings.Compare(a.Due, b.Due) })
	for _, x := range s.Coming {
		due, err := days.Parse(x.Due)
		if err != nil {
			return nil, err
		}
		k := command.CellKey{Item: x.ItemID, Warehouse: x.WarehouseID}
		s.add(store.FreeCell{ItemID: k.Item, WarehouseID: k.Warehouse, Warehouse: x.Warehouse})
		if on, ok := outlook.Counts(s.Docks[k.Warehouse].Calendar, s.Today, due); ok {
			s.Receipts[k] = append(s.Receipts[k], outlook.Event{Day: on, Qty: x.Qty})
		}
	}
	if s.Promised, err = promises(items); err != nil {
		return nil, err
	}
	for _, p := range s.Promised {
		day, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		g := plan.StandingPromise{Warehouse: p.WarehouseID, Day: day, Qty: p.Qty}
		s.Standing[p.LineID] = append(s.Standing[p.LineID], g)
		s.Outlook(p.ItemID, p.WarehouseID).Take(day, p.Qty)
	}
	return s, nil
}

func (s *Supply) add(c store.FreeCell) {
	k := command.CellKey{Item: c.ItemID, Warehouse: c.WarehouseID}
	if _, known := s.Cells[k]; !known {
		s.Cells[k] = c
		s.CellOrder = append(s.CellOrder, k)
	}
}

// Outlook returns the outlook of an item at a warehouse, which has nothing if it never had.
func (s *Supply) Outlook(item, house int64) *outlook.Outlook {
	k := command.CellKey{Item: item, Warehouse: house}
	o := s.outlooks[k]
	if o == nil {
		s.add(store.FreeCell{ItemID: item, WarehouseID: house, Warehouse: s.WarehouseCode[house]})
		cal := s.Docks[house].Calendar
		o = outlook.New(&cal, s.Today, s.Lead(item), s.Cells[k].Free, s.Receipts[k])
		s.outlooks[k] = o
	}
	return o
}

// Lead is the day from which on more of the item can be bought, or outlook.Never.
func (s *Supply) Lead(item int64) days.Day {
	it := s.Items[item]
	return outlook.Lead(s.Calendar, s.Today, it.LeadDays, it.Buyable)
}

// Lift takes a promise out of the outlook on which it rests.
func (s *Supply) Lift(item int64, g plan.StandingPromise) {
	s.Outlook(item, g.Warehouse).Lift(g.Day, g.Qty)
}

// Fullest is the warehouse that has most of an item, or expects some; 0 if none does.
func (s *Supply) Fullest(item int64) (best int64) {
	most := int64(-1)
	for _, k := range s.CellOrder {
		if c := s.Cells[k]; k.Item == item && c.OnHand > most {
			best, most = k.Warehouse, c.OnHand
		}
	}
	return best
}

// Free puts so many units of a cell back into free stock, for whoever comes next.
func (s *Supply) Free(k command.CellKey, units int64) {
	if units == 0 {
		return
	}
	c := s.Cells[k]
	c.Free += units
	s.Cells[k] = c
	s.Outlook(k.Item, k.Warehouse).Lift(s.Today, units)
}

// Repromise puts other promises in the place of those that stand on a line.
func (s *Supply) Repromise(line, item int64, now []plan.StandingPromise) {
	for _, g := range s.Standing[line] {
		s.Lift(item, g)
	}
	s.Promised = slices.DeleteFunc(s.Promised, func(p store.PromiseHead) bool { return p.LineID == line })
	s.Standing[line] = now
	for _, g := range now {
		s.Outlook(item, g.Warehouse).Take(g.Day, g.Qty)
		s.Promised = append(
			s.Promised,
			store.PromiseHead{
				PromiseRow: store.PromiseRow{LineID: line, ItemID: item, WarehouseID: g.Warehouse, Day: g.Day.String(), Qty: g.Qty},
			},
		)
	}
}

// Want is a line that is to be promised.
type Want struct {
	Line, Order, Item, Warehouse int64
	Number                       string
	No                           int32
	ShipBy                       days.Day
	Ordered, Open                int64
	Rule                         journey.ShipRule
	Rank                         int
}

// LineName names a line of a book.
type LineName struct {
	Order string
	No    int32
}

// Book is the supply with the lines that are to be promised as a book of the core. All
// other promises stand in it as those of orders on hold, which a run does not serve.
func (s *Supply) Book(wants []Want) (*book.Book, map[LineName]int64, error) {
	b := book.NewBuilder(s.Today, s.Calendar)
	keys := map[LineName]int64{}
	item := map[int64]int32{}
	cell := func(it, house int64) int32 { return b.Cell(item[it], b.Warehouse(s.WarehouseCode[house])) }
	for _, house := range slices.Sorted(maps.Keys(s.WarehouseCode)) {
		b.Works(b.Warehouse(s.WarehouseCode[house]), s.Docks[house].Calendar)
	}
	for _, id := range slices.Sorted(maps.Keys(s.Items)) {
		it := s.Items[id]
		k, err := b.Item(it.SKU, within(it.Multiple), min(it.LeadDays, book.MostLeadDays), it.Buyable)
		if err != nil {
			return nil, keys, err
		}
		item[id] = k
	}
	for _, k := range s.CellOrder {
		c := cell(k.Item, k.Warehouse)
		if err := b.Stock(c, within(s.Cells[k].Free), 0); err != nil {
			return nil, keys, err
		}
		for _, r := range s.Receipts[k] {
			if err := b.Receipt(c, r.Day, within(r.Qty)); err != nil {
				return nil, keys, err
			}
		}
	}
	mine := map[int64]bool{}
	orders := map[int64]int32{}
	for _, x := range wants {
		mine[x.Line] = true
		o, known := orders[x.Order]
		if !known {
			var err error
			if o, err = b.Order(
				book.Order{Number: x.Number, Tier: 1, Urgency: 1, Entered: int64(x.Rank), Rule: book.RuleOf(x.Rule)},
			); err != nil {
				return nil, keys, err
			}
			orders[x.Order] = o
		}
		l := book.NewLine{
			Order: o, No: x.No, Cell: cell(x.Item, x.Warehouse), Ordered: within(x.Ordered), Open: within(x.Open), ShipBy: x.ShipBy,
		}
		for _, g := range s.Standing[x.Line] {
			l.Promises = append(l.Promises, book.Promise{Qty: g.Qty, Cell: cell(x.Item, g.Warehouse), Day: g.Day})
		}
		if err := b.Line(l); err != nil {
			return nil, keys, err
		}
		keys[LineName{x.Number, x.No}] = x.Line
	}
	others, err := b.Order(book.Order{Number: "", Tier: 1, Urgency: 1, Holds: 1})
	if err != nil {
		return nil, keys, err
	}
	n := int32(0)
	for _, p := range s.Promised {
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

// Parts are promises as they are asked for and shown.
func (s *Supply) Parts(gs []plan.StandingPromise) []PromisePart {
	out := []PromisePart{}
	for _, g := range gs {
		out = append(out, PromisePart{s.WarehouseCode[g.Warehouse], g.Day.String(), g.Qty})
	}
	return out
}

// PromisedOf are promises as they are shown beside a line.
func (s *Supply) PromisedOf(gs []plan.StandingPromise) []Promised {
	out := []Promised{}
	for _, g := range gs {
		out = append(out, Promised{Day: g.Day.String(), Qty: g.Qty, Warehouse: s.WarehouseCode[g.Warehouse]})
	}
	return out
}

// Rest is what a promise rests on.
type Rest struct {
	Text  words.Message
	Shaky bool          // it cannot be kept as things stand
	Lack  words.Message // why not
}

// RestsOn says what a promise rests on.
func (s *Supply) RestsOn(p store.PromiseRow) Rest {
	day, err := days.Parse(p.Day)
	if err != nil {
		return Rest{}
	}
	committed, until := int64(0), max(p.Day, s.Today.String()) // a past day is today
	for _, x := range s.Promised {
		if x.ItemID == p.ItemID && x.WarehouseID == p.WarehouseID && x.Day <= until {
			committed += x.Qty
		}
	}
	var refs []words.Message
	var events []outlook.Event
	overdue := ""
	for _, x := range s.Coming {
		due, err := days.Parse(x.Due)
		if err != nil || x.ItemID != p.ItemID || x.WarehouseID != p.WarehouseID {
			continue
		}
		if on, counts := outlook.Counts(s.Docks[p.WarehouseID].Calendar, s.Today, due); counts {
			refs = append(refs, words.Say("%s due %s", x.Ref, words.Day(due)))
			events = append(events, outlook.Event{Day: on, Qty: x.Qty})
		} else if overdue == "" {
			overdue = x.Ref
		}
	}
	on, last, missing := outlook.Rest(
		max(day, s.Today), s.Lead(p.ItemID), s.Cells[command.CellKey{Item: p.ItemID, Warehouse: p.WarehouseID}].Free, committed, events,
	)
	switch {
	case on == outlook.Stock:
		return Rest{Text: words.Say("free stock")}
	case on == outlook.Buying:
		return Rest{Text: words.Say("buying more")}
	case on == outlook.Receipt:
		return Rest{Text: refs[last]}
	case overdue != "":
		return Rest{words.Say("%s, overdue", overdue), true, words.Say("rests on %s, overdue", overdue)}
	}
	return Rest{words.Say("nothing: %d short by then", missing), true, words.Say("%d short by then", missing)}
}

// StandingOf is a promise of a computed plan as it stands on a line.
func StandingOf(b *book.Book, s *Supply, x book.Promise) plan.StandingPromise {
	return plan.StandingPromise{Warehouse: s.WarehouseID[b.Warehouses[b.Cells[x.Cell].Warehouse]], Day: x.Day, Qty: x.Qty}
}

// LockSupply is what promises on the items that are held still, and on the further ones, can rest
// on. An item that never had stock is held itself, so that nobody else promises what comes of
// it meanwhile.
func (d *Desk) LockSupply(w *command.UnitOfWork, further ...int64) (*Supply, error) {
	items := append(w.ItemIDs(), further...)
	slices.Sort(items)
	items = slices.Compact(items)
	unstocked := slices.DeleteFunc(slices.Clone(items), w.Stocked)
	if len(unstocked) > 0 {
		if err := w.Tx.HoldItems(unstocked); err != nil {
			return nil, err
		}
	}
	return d.ReadSupply(&w.Tx.Reader, items)
}
