package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"journeyman/core/book"
	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/store"
)

// PromisePart is so many units for a day from a warehouse.
type PromisePart struct {
	Warehouse string `json:"warehouse" maxLength:"12"`
	Day       string `json:"day" format:"date" doc:"The day on which they leave"`
	Qty       int64  `json:"qty" minimum:"1" maximum:"1000000000"`
}

// LinePromise is what is to be promised on a line, in place of what was; nothing takes its promises back.
type LinePromise struct {
	Line  int64         `json:"line" doc:"Key of the order line"`
	Seen  int64         `json:"seen" doc:"Version of the line that was seen"`
	Parts []PromisePart `json:"parts" maxItems:"60"`
}

// PromiseAsk names lines with their promises, or orders to be promised as early as can be.
type PromiseAsk struct {
	Lines  []LinePromise `json:"lines,omitempty" maxItems:"500"`
	Orders []OrderSeen   `json:"orders,omitempty" maxItems:"500"`
}

// Causes of a change of promises, as the database knows them.
const (
	causePromised  = "promised"
	causeAllocated = "kept by allocating"
	causeFewer     = "fewer are open"
	causeUndone    = "taken back"
	causeRoom      = "made room"
)

// Promise gives lines the promises that were asked for, if the stock and what is expected
// bear them; or orders, in the order listed, the earliest that their ship rules allow, no
// promise of theirs made worse.
func (d *Desk) Promise(ctx context.Context, call Call, ask PromiseAsk) (Outcome, error) {
	return d.run(ctx, call, VerbPromise, ask, func(w *work) error {
		if (len(ask.Lines) == 0) == (len(ask.Orders) == 0) {
			return Invalid("Choose lines or orders.")
		}
		if len(ask.Orders) > 0 {
			return w.promiseOrders(ask.Orders)
		}
		return w.promiseLines(ask.Lines)
	})
}

func (w *work) promiseLines(asked []LinePromise) error {
	ids := make([]int64, len(asked))
	for i, a := range asked {
		if slices.Contains(ids[:i], a.Line) {
			return Invalid("A line was chosen twice. Choose it once, with all its promises.")
		}
		ids[i] = a.Line
	}
	if err := w.lock(ids); err != nil {
		return err
	}
	s, err := w.supply()
	if err != nil {
		return err
	}
	for _, a := range asked {
		l := w.lines[a.Line]
		if a.Seen != 0 {
			if err := w.fresh(l, a.Seen); err != nil {
				return err
			}
		}
		given, err := w.parts(s, l, a.Parts)
		if err != nil {
			return err
		}
		was := s.given[l.ID]
		for _, g := range was {
			s.lift(l.ItemID, g)
		}
		for _, g := range given {
			o := s.outlook(l.ItemID, g.Warehouse)
			if there := o.ATP(g.Day); there < g.Qty {
				return Conflict("Only %d of %s can be promised from %s for %s; %d cannot. Ask again: somebody may have promised some since.",
					there, l.SKU, s.house[g.Warehouse], dayWords(g.Day), g.Qty)
			}
			o.Take(g.Day, g.Qty)
		}
		w.settle(l, was, given, causePromised)
	}
	w.sentence("%s", w.promisedWords())
	return nil
}

// parts checks what is to be promised on a line by itself.
func (w *work) parts(s *supply, l *line, parts []PromisePart) ([]plan.Given, error) {
	var given []plan.Given
	name := fmt.Sprintf("%s line %d", l.OrderNumber, l.LineNo)
	open := int64(l.now.At[journey.Open])
	units := int64(0) // never more than is open, so the sum cannot wrap
	for _, p := range parts {
		day, err := days.Parse(p.Day)
		if err != nil {
			return nil, Invalid("%s: %s.", name, err)
		}
		house, ok := s.houseID[p.Warehouse]
		switch {
		case !ok:
			return nil, NotFound("There is no warehouse %s.", p.Warehouse)
		case p.Qty <= 0:
			return nil, Invalid("The quantity must be at least 1.")
		case p.Qty > open-units:
			return nil, Conflict("%s has %d open; %d cannot be promised.", name, open, capped.Plus(units, p.Qty))
		case day < w.desk.Today():
			return nil, Invalid("%s cannot be promised for %s: that day has passed.", name, dayWords(day))
		case !s.docks[house].Calendar.Works(day):
			return nil, Invalid("%s cannot be promised for %s: nothing leaves %s on that day. The next one is %s.", name, dayWords(day), p.Warehouse, dayWords(s.docks[house].Calendar.Next(day)))
		}
		units += p.Qty
		given = append(given, plan.Given{Warehouse: house, Day: day, Qty: p.Qty})
	}
	slices.SortStableFunc(given, func(a, b plan.Given) int { return int(a.Day) - int(b.Day) })
	if len(given) > 0 && journey.ShipRule(l.ShipRule) != journey.ShipAny && (len(given) > 1 || units < open) {
		return nil, Conflict("%s goes only in one piece: promise all %d for one day from one warehouse.", name, open)
	}
	return given, nil
}

// supply is what promises on the items that are held still, and on the further ones, can rest
// on. An item that never had stock is held itself, so that nobody else promises what comes of
// it meanwhile.
func (w *work) supply(further ...int64) (*supply, error) {
	items := append(w.itemIDs(), further...)
	slices.Sort(items)
	items = slices.Compact(items)
	unstocked := slices.DeleteFunc(slices.Clone(items), w.stocked)
	if len(unstocked) > 0 {
		if err := w.tx.HoldItems(unstocked); err != nil {
			return nil, err
		}
	}
	return w.desk.supply(&w.tx.Reader, items)
}

// stocked says whether a stock row of the item is held still.
func (w *work) stocked(item int64) bool {
	for k := range w.cells {
		if k.item == item {
			return true
		}
	}
	return false
}

// promiseOrders serves the orders one after another by the core's promise run.
func (w *work) promiseOrders(asked []OrderSeen) error {
	chosen, err := w.chooseOrders(asked)
	if err != nil {
		return err
	}
	s, err := w.supply()
	if err != nil {
		return err
	}
	rank := map[int64]int{}
	var wants []wanting
	for _, c := range chosen {
		l := c.line
		if _, known := rank[l.OrderID]; !known {
			rank[l.OrderID] = len(rank)
		}
		day, err := days.Parse(l.ShipBy)
		if err != nil {
			return err
		}
		wants = append(wants, wanting{
			line: l.ID, order: l.OrderID, number: l.OrderNumber, no: int32(l.LineNo), item: l.ItemID, house: l.WarehouseID, shipBy: day,
			ordered: int64(l.now.Ordered), open: int64(l.now.At[journey.Open]), rule: journey.ShipRule(l.ShipRule), rank: rank[l.OrderID],
		})
	}
	b, keys, err := s.book(wants)
	if err != nil {
		return err
	}
	p := plan.Promise(b, plan.PromiseHow{Keys: []policy.Key{policy.Entered}, Keep: true})
	short := int64(0)
	for i := range b.Lines {
		id, ok := keys[lineName{b.Orders[b.Lines[i].Order].Number, b.Lines[i].No}]
		if !ok || b.Lines[i].Open == 0 {
			continue
		}
		l := w.lines[id]
		var given []plan.Given
		for _, x := range p.PromisesOf(int32(i)) {
			given = append(given, plan.Given{Warehouse: s.houseID[b.Warehouses[b.Cells[x.Cell].Warehouse]], Day: x.Day, Qty: x.Qty})
		}
		short += p.Lines[i].Short
		if was := s.given[id]; !slices.Equal(was, given) {
			w.settle(l, was, given, causePromised)
		}
	}
	switch {
	case len(w.settled) == 0 && short > 0:
		return Conflict("Nothing can be promised: there is too little, nothing that is enough is expected, and it cannot be bought.")
	case len(w.settled) == 0:
		return Conflict("Nothing can be promised better than it is: every open unit has the earliest day there is.")
	}
	text := w.promisedWords()
	if short > 0 {
		text += fmt.Sprintf(" For %s there is no day in sight.", some(short, "unit"))
	}
	w.sentence("%s", text)
	return nil
}

// settle notes what becomes of a line's promises.
func (w *work) settle(l *line, was, now []plan.Given, cause string) {
	w.settled[l.ID] = store.PromiseEntry{
		Line: l.ID, Order: l.OrderID, Item: l.ItemID, Was: storedParts(was), Now: storedParts(now), Cause: cause,
	}
	if cause == causePromised || cause == causeUndone || cause == causeRoom {
		if cause != causeUndone {
			w.out.Units += plan.GivenUnits(now)
		}
		w.skus[l.SKU], w.orders[l.OrderNumber] = true, true
		l.moved = true
	}
}

// promisedWords says what was promised.
func (w *work) promisedWords() string {
	if len(w.settled) == 1 {
		for id, e := range w.settled {
			l := w.lines[id]
			if len(e.Now) == 0 {
				return fmt.Sprintf("Took back the promises of %s line %d.", l.OrderNumber, l.LineNo)
			}
			var said []string
			for _, p := range e.Now {
				d, _ := days.Parse(p.Day)
				said = append(said, fmt.Sprintf("%d for %s", p.Qty, dayWords(d)))
			}
			return fmt.Sprintf("Promised on %s line %d: %s.", l.OrderNumber, l.LineNo, strings.Join(said, ", "))
		}
	}
	return fmt.Sprintf("Promised %s of %s.", some(w.out.Units, "unit"), some(int64(len(w.orders)), "order"))
}

// promises is what becomes of the promises of the lines that moved: allocating keeps the
// earliest, and what is no longer open is cut, the latest first.
func (w *work) promises() ([]store.PromiseEntry, error) {
	var ask store.IDs
	for _, id := range w.order {
		if l := w.lines[id]; l.moved && l.Promised > 0 {
			if _, done := w.settled[id]; !done {
				ask = append(ask, id)
			}
		}
	}
	if len(ask) > 0 {
		byLine := w.given
		if byLine == nil {
			rows, err := w.tx.PromisesOfLines(ask)
			if err != nil {
				return nil, err
			}
			if byLine, err = givenByLine(rows); err != nil {
				return nil, err
			}
		}
		for _, id := range ask {
			l, was := w.lines[id], byLine[id]
			cause := causeFewer
			now := was
			if l.taken > 0 {
				now, cause = plan.UseUp(was, int64(l.taken)), causeAllocated
			}
			now = plan.CutTo(now, int64(l.now.At[journey.Open]))
			if !slices.Equal(now, was) {
				w.settle(l, was, now, cause)
			}
		}
	}
	out := make([]store.PromiseEntry, 0, len(w.settled))
	for _, id := range w.order {
		if e, ok := w.settled[id]; ok {
			out = append(out, e)
		}
	}
	return out, nil
}

// restorePromises takes back what a command did to promises, as far as nothing was done to them since.
func (w *work) restorePromises(verb Verb, changes []store.PromiseChange) (units int64, err error) {
	var s *supply
	if (verb == VerbPromise || verb == VerbMakeRoom) && len(changes) > 0 {
		if s, err = w.supply(); err != nil {
			return 0, err
		}
		for _, c := range changes { // what was promised makes way before anything is put where it was
			if l := w.lines[c.LineID]; l != nil && c.Newest {
				is, err := parsedParts(c.Now)
				if err != nil {
					return 0, err
				}
				for _, g := range is {
					s.lift(l.ItemID, g)
				}
			}
		}
	}
	for _, c := range changes {
		l := w.lines[c.LineID]
		if l == nil || !c.Newest {
			continue
		}
		was, err := parsedParts(c.Now)
		if err != nil {
			return 0, err
		}
		now, err := parsedParts(c.Was)
		if err != nil {
			return 0, err
		}
		now = plan.CutTo(now, int64(l.now.At[journey.Open]))
		if s != nil { // what was free for it may be promised to others by now
			for _, g := range now {
				if s.outlook(l.ItemID, g.Warehouse).ATP(g.Day) < g.Qty {
					return 0, Conflict("This cannot be taken back: what was promised on %s line %d for %s has been promised to others since.", l.OrderNumber, l.LineNo, dayWords(g.Day))
				}
				s.outlook(l.ItemID, g.Warehouse).Take(g.Day, g.Qty)
			}
		}
		w.settle(l, was, now, causeUndone)
		units += max(plan.GivenUnits(was), plan.GivenUnits(now)) // what is taken back may be that they were promised
	}
	return units, nil
}

func storedParts(gs []plan.Given) []store.PromisePart {
	var out []store.PromisePart
	for _, g := range gs {
		out = append(out, store.PromisePart{Warehouse: g.Warehouse, Day: g.Day.String(), Qty: g.Qty})
	}
	return out
}

func parsedParts(text string) ([]plan.Given, error) {
	var parts []store.PromisePart
	if err := json.Unmarshal([]byte(text), &parts); err != nil {
		return nil, err
	}
	var out []plan.Given
	for _, p := range parts {
		d, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		out = append(out, plan.Given{Warehouse: p.Warehouse, Day: d, Qty: p.Qty})
	}
	return out, nil
}

func givenByLine(rows []store.PromiseRow) (map[int64][]plan.Given, error) {
	out := map[int64][]plan.Given{}
	for _, p := range rows {
		d, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		out[p.LineID] = append(out[p.LineID], plan.Given{Warehouse: p.WarehouseID, Day: d, Qty: p.Qty})
	}
	return out, nil
}

// dayWords is a day as a person says it.
func dayWords(d days.Day) string { return d.Time().Format("Mon 2 Jan") }

// supply is everything that a promise on some items can rest on, with their outlooks,
// all promises that stand taken as commitments.
type supply struct {
	today    days.Day
	cal      days.Calendar       // of the firm: lead times and carriers go by it
	docks    map[int64]days.Dock // of each warehouse
	items    map[int64]store.Item
	cells    map[cellKey]store.FreeCell
	order    []cellKey // of the cells, by item and warehouse
	receipts map[cellKey][]outlook.Event
	coming   []store.Supply
	promised []store.PromiseHead
	given    map[int64][]plan.Given // by line
	outlooks map[cellKey]*outlook.Outlook
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
		today: d.Today(), cal: d.calendar(), items: map[int64]store.Item{}, cells: map[cellKey]store.FreeCell{}, receipts: map[cellKey][]outlook.Event{},
		given: map[int64][]plan.Given{}, outlooks: map[cellKey]*outlook.Outlook{}, house: map[int64]string{}, houseID: map[string]int64{},
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
		k := cellKey{x.ItemID, x.WarehouseID}
		s.add(store.FreeCell{ItemID: k.item, WarehouseID: k.warehouse, Warehouse: x.Warehouse})
		if on, ok := outlook.Counts(s.docks[k.warehouse].Calendar, s.today, due); ok {
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
	k := cellKey{c.ItemID, c.WarehouseID}
	if _, known := s.cells[k]; !known {
		s.cells[k] = c
		s.order = append(s.order, k)
	}
}

// outlook returns the outlook of an item at a warehouse, which has nothing if it never had.
func (s *supply) outlook(item, house int64) *outlook.Outlook {
	k := cellKey{item, house}
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

// calendar is the days on which the firm and its carriers work.
func (d *Desk) calendar() days.Calendar {
	c, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		panic(err) // weekdays are not none
	}
	return c
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
	for _, house := range sortedKeys(s.house) {
		b.Works(b.Warehouse(s.house[house]), s.docks[house].Calendar)
	}
	for _, id := range sortedKeys(s.items) {
		it := s.items[id]
		k, err := b.Item(it.SKU, within(it.Multiple), min(it.LeadDays, book.MostLeadDays), it.Buyable)
		if err != nil {
			return nil, keys, err
		}
		item[id] = k
	}
	for _, k := range s.order {
		c := cell(k.item, k.warehouse)
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
