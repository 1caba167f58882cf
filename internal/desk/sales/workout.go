package sales

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/order"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/core/price"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// workOut computes everything from the supply of the items.
func (w *drafting) workOut(s *supply.Supply) error {
	w.s = s
	if w.wanted == 0 {
		house := s.WarehouseID[w.head.warehouse]
		if house == 0 && len(w.houses) > 0 {
			house = w.houses[0].ID
		}
		dock := s.Docks[house]
		w.wanted = w.takes.Arrives(dock.Calendar.Next(max(w.d.supply.ReadyOn(dock), w.leaves)))
	}
	if w.old != nil {
		if err := w.compareHeads(); err != nil {
			return err
		}
	}
	any := false
	for _, l := range w.lines {
		w.line(l)
		any = any || l.ask.Qty > 0
	}
	if !any {
		w.fault(-1, "lines", "An order needs a line with a quantity.")
	}
	if err := w.promise(); err != nil {
		return err
	}
	w.answer()
	w.addUp()
	return w.substitutes()
}

// compareHeads notes what is changed of the order, and refuses what no longer reaches units that are on the floor.
func (w *drafting) compareHeads() error {
	wanted, err := days.Parse(w.old.Wanted)
	if err != nil {
		return err
	}
	// Of the address it counts whether it is another one, even if both read the same.
	var left days.Day
	if w.old.NotBefore != "" {
		if left, err = days.Parse(w.old.NotBefore); err != nil {
			return err
		}
	}
	was := order.Head[bool]{Wanted: wanted, NotBefore: left, Service: w.old.Service, Terms: w.old.Terms}
	now := order.Head[bool]{Wanted: w.wanted, NotBefore: w.leaves, Address: !w.keepsAddress(), Service: w.head.service, Terms: w.head.terms}
	w.moved = was.Wanted != now.Wanted || was.Service != now.Service || now.Address || w.old.ShipRule != string(w.head.shipRule)
	change := order.Unreachable(was, now)
	if change == order.None || len(w.floor) == 0 {
		return nil
	}
	can, err := w.canRelabel(change)
	if w.relabels = can && w.ask.Relabel; err != nil || w.relabels {
		return err
	}
	fields := map[order.Change]string{
		order.PutOff: "wanted", order.KeptBack: "not_before", order.Readdress: "ship_to", order.OtherWay: "service", order.OtherTerms: "terms",
	}
	for _, l := range w.floor {
		row := slices.IndexFunc(w.lines, func(x *draftLine) bool { return x.old != nil && x.old.ID == l.ID })
		w.fault(
			row, fields[change], "%s cannot be %s: of line %d %s. Recall what is on the floor first.", w.old.Number, change, l.LineNo,
			beyondWords(l.StationCounts),
		)
		f := &w.faults[len(w.faults)-1]
		f.Recall, f.Relabel = true, can
	}
	return nil
}

// line works out what a line is, apart from its promises.
func (w *drafting) line(l *draftLine) {
	it, known := w.items[l.ask.SKU]
	switch {
	case !known && strings.TrimSpace(l.ask.SKU) == "":
		w.fault(l.row, "sku", "Line %d has no item.", l.row+1)
		return
	case !known:
		w.fault(l.row, "sku", "There is no item %s. Find it by part of its number or name.", l.ask.SKU)
		return
	}
	l.item = it
	if it.Currency != w.currency {
		w.fault(l.row, "sku", "%s is sold in %s, the order is in %s.", it.SKU, it.Currency, w.currency)
	}
	w.sell(l)
	if w.chooseWarehouse(l); l.house == 0 {
		w.fault(l.row, "warehouse", "Line %d: say from which warehouse %s goes.", l.row+1, it.SKU)
		return
	}
	dock := w.s.Docks[l.house]
	l.shipBy = w.takes.ShipBy(dock, w.wanted)
	if l.old != nil && !w.moved && l.old.WarehouseID == l.house {
		if day, err := days.Parse(l.old.ShipBy); err == nil {
			l.shipBy = day
		}
	}
	if ready := w.d.supply.ReadyOn(dock); w.leaves > max(l.shipBy, ready) {
		w.fault(
			l.row, "not_before", "To be there by %s, line %d has to leave on %s: that is before it may, on %s. Change one of the two days.",
			words.Day(w.wanted), l.row+1, words.Day(l.shipBy), words.Day(w.leaves),
		)
	}
	l.from = dock.Calendar.Next(max(l.shipBy, w.d.supply.ReadyOn(dock), w.leaves))
	if l.old != nil {
		w.resize(l)
		return
	}
	if l.ask.Qty == 0 && l.quoted == nil {
		w.fault(l.row, "qty", "Line %d: how many of %s?", l.row+1, it.SKU)
	}
	l.resized.Open = journey.Qty(l.ask.Qty)
}

// sell works out for how much the line is sold: as it was quoted, as is asked, as the order has it, or as is usual.
func (w *drafting) sell(l *draftLine) {
	list, rate, cost := l.item.PriceMinor, int(w.cust.DiscountBP), l.item.CostMinor
	if l.old != nil {
		list, rate, cost = l.old.ListMinor, l.old.DiscountBP, l.old.CostMinor
	}
	if l.ask.ListMinor != nil {
		list = *l.ask.ListMinor
	}
	if l.ask.DiscountBP != nil {
		rate = *l.ask.DiscountBP
	}
	if q := l.quoted; q != nil {
		list, rate, cost = q.ListMinor, q.DiscountBP, q.CostMinor
	}
	var ok bool
	if l.sale, ok = price.Sell(l.ask.Qty, list, rate, cost); !ok {
		w.fault(
			l.row, "qty", "%d × %s is more than an order may be worth.", l.ask.Qty, words.Money(max(l.sale.Price, cost), w.currency),
		)
	}
}

// chooseWarehouse chooses from where a line goes: as is asked, as the order has it, or from the customer's own warehouse. What that
// one never has goes from where it lies, unless somebody said otherwise.
func (w *drafting) chooseWarehouse(l *draftLine) {
	l.warehouse = cmp.Or(l.ask.Warehouse, oldHouse(l.old), w.head.warehouse)
	l.house = w.s.WarehouseID[l.warehouse]
	_, has := w.s.Cells[command.CellKey{Item: l.item.ID, Warehouse: l.house}]
	asked := l.ask.Warehouse != "" || l.old != nil || w.ask.Warehouse != ""
	if l.warehouse != "" && (has || asked) {
		return
	}
	if best := w.s.Fullest(l.item.ID); best != 0 {
		l.house, l.warehouse = best, w.s.WarehouseCode[best]
	}
}

func oldHouse(old *store.LineRow) string {
	if old == nil {
		return ""
	}
	return old.Warehouse
}

// resize works out what becomes of a line that the order has already.
func (w *drafting) resize(l *draftLine) {
	o, q := l.old, l.ask.Qty
	was := o.StationCounts.Line()
	l.resized = order.Resize(was, journey.Qty(q))
	switch {
	case q < int64(l.resized.Least):
		if why := beyondWords(o.StationCounts); order.OnTheFloor(was.At) > 0 {
			w.fault(l.row, "qty", "%s line %d cannot become %d: %s. Recall what is on the floor first.", w.ask.Order, o.LineNo, q, why)
			w.faults[len(w.faults)-1].Recall = true
		} else {
			w.fault(l.row, "qty", "%s line %d cannot become %d: %s.", w.ask.Order, o.LineNo, q, why)
		}
	case l.house != o.WarehouseID && !order.MayMove(was):
		w.fault(
			l.row, "warehouse", "%s line %d stays at %s: %s there. Give back or recall it first.", w.ask.Order, o.LineNo, o.Warehouse,
			beyondWords(o.StationCounts),
		)
	}
	l.changed = q != o.Ordered || l.house != o.WarehouseID || l.shipBy.String() != o.ShipBy || l.sale.Price != o.PriceMinor ||
		l.sale.List != o.ListMinor || l.sale.Discount != o.DiscountBP
}

// beyondWords says how far units of a line have come.
func beyondWords(c supply.Counts) words.Word {
	var said []words.Message
	for _, x := range []struct {
		n    int64
		said words.Message
	}{
		{c.Allocated, words.Say("%d are allocated", c.Allocated)},
		{c.Released, words.Say("%d are on a pick list", c.Released)},
		{c.Picked, words.Say("%d are picked", c.Picked)},
		{c.Packed, words.Say("%d are packed", c.Packed)},
		{c.Shipped, words.Say("%d are shipped", c.Shipped)},
		{c.Delivered, words.Say("%d are delivered", c.Delivered)},
		{c.Dropped, words.Say("%d are dropped", c.Dropped)},
	} {
		if x.n > 0 {
			said = append(said, x.said)
		}
	}
	return words.List(said, ", ")
}

// promise gives the lines their promises by the core's run, one after another.
func (w *drafting) promise() error {
	w.choosePromised()
	b, keys, err := w.promiseBook()
	if err != nil || b == nil {
		return err
	}
	p := plan.Promise(b, plan.PromiseOptions{Keys: []policy.Key{policy.Entered}})
	for i := range b.Lines {
		at, ok := keys[supply.LineName{Order: b.Orders[b.Lines[i].Order].Number, No: b.Lines[i].No}]
		if !ok {
			continue
		}
		l := w.lines[-at-1]
		l.short = p.Lines[i].Short
		for _, x := range p.PromisesOf(int32(i)) {
			l.given = append(l.given, supply.StandingOf(b, w.s, x))
		}
		w.commit(l, 1)
	}
	return nil
}

// commit takes what a line is given as commitments, so many times.
func (w *drafting) commit(l *draftLine, times int64) {
	for _, g := range l.given {
		w.s.Outlook(l.item.ID, g.Warehouse).Take(g.Day, times*g.Qty)
	}
}

// choosePromised says how each line is promised, and which lines are promised again; what they had is lifted.
func (w *drafting) choosePromised() {
	s := w.s
	some := false
	refused := slices.ContainsFunc(w.lines, func(l *draftLine) bool { return order.How(l.ask.How) == order.Unasked })
	for _, l := range w.lines {
		if l.house == 0 {
			continue
		}
		held := l.old != nil && l.old.Open > 0 && len(s.Standing[l.old.ID]) == 0
		l.how = order.HowOf(w.head.shipRule, order.How(l.ask.How), held, refused)
		if l.old != nil {
			l.was = s.Standing[l.old.ID]
			l.given = l.was
			s.Free(command.CellKey{Item: l.item.ID, Warehouse: l.house}, int64(l.resized.Freed))
		}
		again := l.old == nil || l.open() != l.old.Open || l.house != l.old.WarehouseID || l.shipBy.String() != l.old.ShipBy ||
			l.ask.How != ""
		l.run = again && (l.open() > 0 || len(l.was) > 0)
		some = some || l.run
	}
	for _, l := range w.lines {
		if w.head.shipRule == journey.ShipWhole && some && l.house != 0 {
			l.run = l.open() > 0 || len(l.was) > 0
		}
		if !l.run {
			continue
		}
		for _, g := range l.was {
			s.Lift(l.item.ID, g)
		}
		l.given = nil
		if l.old != nil {
			delete(s.Standing, l.old.ID)
			s.Promised = slices.DeleteFunc(s.Promised, func(p store.PromiseHead) bool { return p.LineID == l.old.ID })
		}
	}
}

// promiseBook is the book of the lines that are promised again, each an order of its own, or all of them one that goes whole; nil if
// there is none.
func (w *drafting) promiseBook() (*book.Book, map[supply.LineName]int64, error) {
	var wants []supply.Want
	for i, l := range w.lines {
		if !l.run || l.how == order.Unasked || l.open() == 0 {
			continue
		}
		x := supply.Want{
			Line: int64(-i - 1), Order: int64(-i - 1), Number: fmt.Sprintf("%06d", i), No: int32(i + 1), Item: l.item.ID,
			Warehouse: l.house, ShipBy: l.from, Ordered: l.open(), Open: l.open(), Rule: journey.ShipAny, Rank: i,
		}
		if l.how == order.Whole {
			x.Rule = journey.ShipLines
		}
		if w.head.shipRule == journey.ShipWhole {
			x.Order, x.Number, x.Rule, x.Rank = 0, "whole", journey.ShipWhole, 0
		}
		wants = append(wants, x)
	}
	if len(wants) == 0 {
		return nil, nil, nil
	}
	return w.s.Book(wants)
}

// answer works out beside each line what there is of its item, and when it is there.
func (w *drafting) answer() {
	left := w.leftToPromise()
	for _, l := range w.lines {
		if l.house == 0 {
			continue
		}
		k := command.CellKey{Item: l.item.ID, Warehouse: l.house}
		c := w.s.Cells[k]
		l.stock = draftStock{onHand: c.OnHand, free: c.Free, promised: max(0, c.Free-left[k])}
		for _, other := range w.houses {
			if other.ID != l.house {
				l.stock.elsewhere += w.s.Cells[command.CellKey{Item: l.item.ID, Warehouse: other.ID}].Free
			}
		}
		for _, x := range w.s.Coming {
			if due, err := days.Parse(x.Due); err == nil && x.ItemID == l.item.ID && x.WarehouseID == l.house {
				if next := l.stock.next; next == nil || next.Overdue {
					l.stock.next = &supply.Arrival{Ref: x.Ref, Due: x.Due, Qty: x.Qty, Overdue: due < w.s.Today}
				}
			}
		}
		w.arrive(l)
	}
}

// leftToPromise is how many of each item could be promised for today from what is free, if
// nothing of this draft were.
func (w *drafting) leftToPromise() map[command.CellKey]int64 {
	s := w.s
	for _, l := range w.lines {
		if l.run {
			w.commit(l, -1)
		}
	}
	out := map[command.CellKey]int64{}
	for _, k := range slices.Clone(s.CellOrder) {
		if it := s.Items[k.Item]; it.ID != 0 {
			// Buying more has no limit from the lead day on; what is in the house has.
			out[k] = min(s.Outlook(k.Item, k.Warehouse).ATP(s.Today), max(0, s.Cells[k].Free))
		}
	}
	for _, l := range w.lines {
		if l.run {
			w.commit(l, 1)
		}
	}
	return out
}

// arrive works out when what a line is promised is there, when all of it could be, and whether another warehouse is sooner.
func (w *drafting) arrive(l *draftLine) {
	parts := make([]outlook.Part, len(l.given))
	for i, g := range l.given {
		parts[i] = outlook.Part{Day: g.Day, Qty: g.Qty}
	}
	l.arrival = plan.ArrivalOf(parts, w.takes, w.wanted)
	w.commit(l, -1)
	defer w.commit(l, 1)
	l.earliest, l.can = w.earliest(l, l.house)
	switch {
	case l.arrival.Late > 0:
		l.late = true
	case plan.StandingUnits(l.given) >= l.open():
	case !l.run || l.how == order.Unasked: // nothing is promised of the rest: it is late if it could not be there
		l.late = !l.can || l.earliest > w.wanted
	default:
		l.late = true
	}
	if !l.late {
		return
	}
	for _, h := range w.houses {
		if _, has := w.s.Cells[command.CellKey{Item: l.item.ID, Warehouse: h.ID}]; !has || h.ID == l.house {
			continue
		}
		if day, can := w.earliest(l, h.ID); can && (!l.can || day < l.earliest) && (l.better == 0 || day < l.betterDay) {
			l.better, l.betterDay = h.ID, day
		}
	}
}

// earliest is the day on which all open units of a line could be there from a warehouse, and whether there is one.
func (w *drafting) earliest(l *draftLine, house int64) (days.Day, bool) {
	from := l.from
	if house != l.house {
		dock := w.s.Docks[house]
		from = max(w.takes.ShipBy(dock, w.wanted), w.d.supply.ReadyOn(dock), w.leaves)
	}
	day, ok := w.s.Outlook(l.item.ID, house).Earliest(max(l.open(), 1), from)
	return w.takes.Arrives(day), ok
}

// addUp adds up what the lines come to.
func (w *drafting) addUp() {
	t := &w.total
	for _, l := range w.lines {
		if l.house == 0 {
			continue
		}
		for _, there := range l.arrival.Days {
			t.last = max(t.last, there)
		}
		t.value += l.sale.Value
		t.costs += l.sale.Costs
		t.doubtful = t.doubtful || l.sale.Fault() != price.Sound && l.ask.Qty > 0
		switch {
		case l.late && l.open() > 0:
			t.late++
		case l.ask.Qty > 0:
			t.inTime++
		}
	}
	if max(t.value, t.costs) > price.MostOrder {
		w.fault(-1, "lines", "An order may be worth at most %s.", words.Money(price.MostOrder, w.currency))
	}
	slices.SortStableFunc(w.faults, func(a, b DraftFault) int { return cmp.Compare(a.Row, b.Row) })
}

// substitutes finds what is free in place of what is late.
func (w *drafting) substitutes() error {
	var late store.IDs
	for _, l := range w.lines {
		if l.late && l.open() > 0 {
			late = append(late, l.item.ID)
		}
	}
	if len(late) == 0 {
		return nil
	}
	rows, err := w.r.Substitutes(late)
	for _, l := range w.lines {
		if l.house != 0 && l.late {
			l.instead = supply.SubstitutesOf(rows, l.item.ID, l.warehouse, 3)
		}
	}
	return err
}
