package sales

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Enter enters an order, with the promises that were shown beside its lines. It is refused if
// they are others by now.
//
// It locks the stock and the outlook of its items. It refuses whatever the draft lacks.
func (d *Desk) Enter(ctx context.Context, call command.Call, ask Draft) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbEnter, ask, func(w *command.UnitOfWork) error {
		if ask.Order != "" || ask.Quote != "" {
			return command.Invalid("%s is here already: change the order, or accept the quote.", ask.Order+ask.Quote)
		}
		dr, err := d.lockDraft(w, ask, nil)
		if err != nil {
			return err
		}
		number, approval, err := writeOrder(w, dr, 0)
		if err != nil {
			return err
		}
		w.Say(
			"Entered %s for %s: %s, %s.", number, dr.cust.Name, words.Count(len(dr.lines), "line"), words.Money(dr.total.value, dr.currency),
		)
		w.Also(dr.lateWords())
		w.Also(approval)
		if dr.hold.ID != 0 {
			w.Also(words.Say("It is on hold with its customer."))
		}
		return nil
	})
}

// lockDraft works out a draft with the stock of its items held still, and refuses it if
// something is missing or if it does not come to what was shown.
func (d *Desk) lockDraft(w *command.UnitOfWork, ask Draft, lines []int64) (*drafting, error) {
	skus := make(store.Texts, len(ask.Lines))
	for i, l := range ask.Lines {
		skus[i] = l.SKU
	}
	items, err := w.Tx.ItemsBySKU(skus)
	if err != nil {
		return nil, err
	}
	ids := make(store.IDs, len(items))
	for i, it := range items {
		ids[i] = it.ID
	}
	if err := w.Lock(lines, ids...); err != nil {
		return nil, err
	}
	dr, err := d.readDraft(&w.Tx.Reader, ask)
	if err != nil {
		return nil, err
	}
	s, err := d.supply.LockSupply(w, ids...)
	if err != nil {
		return nil, err
	}
	if err := dr.workOut(s); err != nil {
		return nil, err
	}
	if len(dr.faults) > 0 {
		return nil, command.Refuse(dr.faults[0].Said)
	}
	for _, l := range dr.lines {
		if shown := l.ask.Shown; shown != nil && !slices.Equal(shown, dr.s.Parts(l.given)) {
			return nil, command.Conflict("What can be promised of %s has changed since you saw it: %s now. Nothing was done; look "+
				"at it as it is and decide again.",
				l.item.SKU, dr.promisedWords(l))
		}
	}
	return dr, nil
}

func (w *drafting) promisedWords(l *draftLine) words.Message {
	if len(l.given) == 0 {
		return words.Say("nothing")
	}
	var said []words.Message
	for _, g := range l.given {
		said = append(said, words.Say("%d leaving %s", g.Qty, words.Day(g.Day)))
	}
	return words.Say("%s", words.List(said, ", "))
}

// lateWords says what of a draft is late.
func (w *drafting) lateWords() words.Message {
	t := w.total
	switch {
	case t.late == 0 && len(w.lines) == 1:
		return words.Say("It is there in time.")
	case t.late == 0:
		return words.Say("All of it is there in time.")
	case t.inTime == 0:
		return words.Say("It is later than %s.", words.Day(w.wanted))
	}
	return words.Say(
		"%s in time, %s later than %s.", words.Count(int64(t.inTime), "line"), words.Count(int64(t.late), "line"), words.Day(w.wanted),
	)
}

// shipToKey is the key of the address a draft goes to, made if it is for this order only.
func shipToKey(w *command.UnitOfWork, dr *drafting) (int64, error) {
	if dr.keepsAddress() {
		return dr.old.ShipToID, nil
	}
	if a := dr.ask.Address; a != nil {
		v := dr.head.address
		to := store.ShipTo{
			CustomerID: dr.cust.ID, Name: cmp.Or(v.Name, dr.cust.Name), Street: v.Street, City: v.City, Postcode: v.Postcode,
			Country: v.Country,
		}
		err := w.Tx.AddShipToOnce(&to)
		return to.ID, err
	}
	for _, s := range dr.cust.ShipTos {
		if s.Code == dr.head.shipTo {
			return s.ID, nil
		}
	}
	return 0, command.Conflict("%s has no address %s any more.", dr.cust.Name, dr.head.shipTo)
}

// writeOrder writes a draft as a new order, and says if it has to be approved.
func writeOrder(w *command.UnitOfWork, dr *drafting, quote int64) (number string, approval words.Message, err error) {
	to, err := shipToKey(w, dr)
	if err != nil {
		return "", approval, err
	}
	h := dr.head
	order := store.Order{
		CustomerID: dr.cust.ID, ShipToID: to, Channel: h.channel, CustomerRef: dr.ask.CustomerRef, Tier: int(dr.cust.Tier),
		Urgency: h.urgency, ShipRule: string(h.shipRule), Service: h.service, Terms: h.terms, EnteredAt: w.At,
		Wanted: store.Date(dr.wanted.String()), NotBefore: store.Date(dr.ask.NotBefore), Currency: dr.currency,
		Note: strings.TrimSpace(dr.ask.Note),
	}
	if quote != 0 {
		order.QuoteID = &quote
	}
	for i, l := range dr.lines {
		order.Lines = append(order.Lines, l.stored(0, i+1))
	}
	if err := w.Tx.AddOrder(&order); err != nil {
		return "", approval, err
	}
	if err := enterLines(w, dr, order.Number, to, dr.lines, order.Lines); err != nil {
		return "", approval, err
	}
	w.Orders[order.Number] = true
	w.AddDocument("order", order.Number)
	approval, err = holdForApproval(w, dr, order.ID)
	return order.Number, approval, err
}

// enterLines enters the units of lines of a draft that were added to an order, and gives their promises.
func enterLines(w *command.UnitOfWork, dr *drafting, number string, to int64, lines []*draftLine, added []store.OrderLine) error {
	units := w.Outcome.Units
	for i, l := range lines {
		x := &command.Line{LockedLine: store.LockedLine{
			ID: added[i].ID, OrderID: added[i].OrderID, OrderNumber: number, LineNo: added[i].LineNo, ItemID: l.item.ID, SKU: l.item.SKU,
			ItemName: l.item.Name, Multiple: l.item.Multiple, WarehouseID: l.house, Warehouse: l.warehouse, ShipBy: l.shipBy.String(),
			ShipRule: string(dr.head.shipRule), CustomerID: dr.cust.ID, ShipToID: to, Service: dr.head.service, Terms: dr.head.terms,
		}, At: map[int64]*journey.Place{}}
		w.Lines[x.ID] = x
		w.LineOrder = append(w.LineOrder, x.ID)
		if err := w.Move(x, 0, journey.Make(journey.Enter, journey.Qty(l.ask.Qty)), command.Refs{}); err != nil {
			return err
		}
		units += l.ask.Qty
		if len(l.given) > 0 {
			w.SetPromises(x, nil, l.given, command.CausePromised)
		}
	}
	w.Outcome.Units = units
	return nil
}

// stored is the line as an order has it, under that number.
func (l *draftLine) stored(order int64, no int) store.OrderLine {
	return store.OrderLine{
		OrderID: order, LineNo: no, ItemID: l.item.ID, WarehouseID: l.house, ShipBy: store.Date(l.shipBy.String()),
		PriceMinor: l.sale.Price, ListMinor: l.sale.List, DiscountBP: l.sale.Discount, CostMinor: l.sale.Cost,
	}
}

// DraftOf is an order as a draft that can be changed.
func (d *Desk) DraftOf(ctx context.Context, number string) (Draft, error) {
	r := d.Store.Read(ctx)
	h, found, err := r.OrderByNumber(number)
	if err != nil {
		return Draft{}, err
	}
	if !found {
		return Draft{}, command.NotFound("There is no order %s.", number)
	}
	to, err := r.ShipToByID(h.ShipToID)
	if err != nil {
		return Draft{}, err
	}
	out := Draft{
		Order: h.Number, Seen: h.Version, Customer: h.CustomerCode, Channel: h.Channel, CustomerRef: h.CustomerRef, Service: h.Service,
		Terms:    h.Terms,
		ShipRule: h.ShipRule, Urgency: h.Urgency, Wanted: h.Wanted, NotBefore: h.NotBefore, Note: h.Note, Lines: []DraftLine{},
	}
	if !to.Once {
		out.ShipTo = to.Code
	}
	lines, err := r.LinesOfOrders(store.IDs{h.ID})
	for _, l := range lines {
		list, rate := l.ListMinor, l.DiscountBP
		out.Lines = append(
			out.Lines, DraftLine{Line: l.LineNo, SKU: l.SKU, Qty: l.Ordered, Warehouse: l.Warehouse, ListMinor: &list, DiscountBP: &rate},
		)
	}
	return out, err
}

// Change changes an order that is under way: quantities, days, prices, where it goes and how,
// and lines that are added. What has been released, and all that came after, stays.
//
// It locks the lines of the order with the stock and the outlook of its items. It refuses an order that is not as it was seen,
// whatever the draft lacks, giving back what is allocated unless a coordinator does it, and what would change nothing.
func (d *Desk) Change(ctx context.Context, call command.Call, ask Draft) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbChange, ask, func(w *command.UnitOfWork) error {
		refs, err := w.Tx.OrdersByNumber(store.Texts{ask.Order})
		if err != nil {
			return err
		}
		if len(refs) == 0 {
			return command.NotFound("There is no order %s.", ask.Order)
		}
		of, err := w.Tx.LineIDsOfOrders(store.IDs{refs[0].ID})
		if err != nil {
			return err
		}
		ids := make([]int64, len(of))
		for i, l := range of {
			ids[i] = l.ID
		}
		dr, err := d.lockDraft(w, ask, ids)
		if err != nil {
			return err
		}
		if newest := dr.old.Version; ask.Seen != 0 && ask.Seen != newest {
			since, err := w.Tx.ChangesOfOrder(refs[0].ID, ask.Seen)
			if err != nil {
				return err
			}
			return command.Conflict(
				"%s has changed since you saw it: %s. Nothing was done; look at it as it is now and decide again.", ask.Order,
				d.DescribeChanges(since),
			)
		}
		return changeOrder(w, dr, refs[0].ID)
	})
}

// changing is an order while what is different of it is written.
type changing struct {
	w     *command.UnitOfWork
	dr    *drafting
	order int64
	to    int64 // the address it goes to
	notes []store.OrderChange
	units int64 // by which its lines become more or fewer
}

func (c *changing) note(line int64, field, was, now string) {
	if was != now {
		c.notes = append(c.notes, store.OrderChange{Line: line, Field: field, Was: was, Now: now})
	}
}

// changeOrder writes what is different.
func changeOrder(w *command.UnitOfWork, dr *drafting, order int64) error {
	c := &changing{w: w, dr: dr, order: order}
	for _, write := range []func() error{c.head, c.lines, c.added, c.sendOtherwise} {
		if err := write(); err != nil {
			return err
		}
	}
	if _, err := w.Tx.CommandID(); err != nil {
		return err
	}
	if err := w.Tx.ChangeOrder(order, w.ID, c.notes); err != nil {
		return err
	}
	h := dr.old
	if len(c.notes) == 0 && len(w.Entries) == 0 && len(w.PromiseChanges) == 0 {
		return command.Conflict("Nothing about %s was changed.", h.Number)
	}
	w.Outcome.Units = c.units
	w.Orders[h.Number] = true
	w.AddDocument("order", h.Number)
	approval := words.Message{}
	if dr.total.value > h.ValueMinor {
		var err error
		if approval, err = holdForApproval(w, dr, order); err != nil {
			return err
		}
	}
	w.Say("Changed %s.", h.Number)
	w.Also(dr.relabelWords())
	w.Also(dr.lateWords())
	w.Also(approval)
	return nil
}

// head notes what is said of the order, and sends it to another address.
func (c *changing) head() (err error) {
	h, now := c.dr.old, c.dr.head
	c.note(0, "wanted", h.Wanted, c.dr.wanted.String())
	c.note(0, "not before", h.NotBefore, c.dr.ask.NotBefore)
	c.note(0, "service", h.Service, now.service)
	c.note(0, "terms", h.Terms, now.terms)
	c.note(0, "ship rule", h.ShipRule, string(now.shipRule))
	c.note(0, "urgency", fmt.Sprint(h.Urgency), fmt.Sprint(now.urgency))
	c.note(0, "the customer's order number", h.CustomerRef, c.dr.ask.CustomerRef)
	c.note(0, "note", h.Note, strings.TrimSpace(c.dr.ask.Note))
	if c.to, err = shipToKey(c.w, c.dr); err != nil || c.to == h.ShipToID {
		return err
	}
	c.note(0, "address", addressWords(supply.AddressOf(c.dr.oldTo)), addressWords(now.address))
	return c.w.Tx.MoveShipTo(c.order, c.to)
}

// lines changes lines that the order has already, and their promises.
func (c *changing) lines() error {
	for _, l := range c.dr.lines {
		if l.old == nil {
			continue
		}
		o, x := l.old, c.w.Lines[l.old.ID]
		c.note(o.ID, "from", o.Warehouse, l.warehouse)
		c.note(o.ID, "ship by", o.ShipBy, l.shipBy.String())
		c.note(o.ID, "price", words.Money(o.PriceMinor, c.dr.old.Currency).String(), words.Money(l.sale.Price, c.dr.old.Currency).String())
		if o.WarehouseID != l.house || o.ShipBy != l.shipBy.String() || o.PriceMinor != l.sale.Price || o.ListMinor != l.sale.List ||
			o.DiscountBP != l.sale.Discount {
			now := l.stored(c.order, o.LineNo)
			now.ID = o.ID
			if err := c.w.Tx.ChangeLine(now); err != nil {
				return err
			}
		}
		if err := resize(c.w, x, l); err != nil {
			return err
		}
		c.units += max(l.ask.Qty-o.Ordered, o.Ordered-l.ask.Qty)
		if l.run && !slices.Equal(l.was, l.given) {
			c.w.SetPromises(x, l.was, l.given, command.CausePromised)
		}
	}
	return nil
}

// added adds the lines that the order has not.
func (c *changing) added() error {
	last := 0
	for _, id := range c.w.LineOrder {
		last = max(last, c.w.Lines[id].LineNo)
	}
	var lines []*draftLine
	var rows []store.OrderLine
	for _, l := range c.dr.lines {
		if l.old == nil {
			last++
			lines, rows = append(lines, l), append(rows, l.stored(c.order, last))
			c.units += l.ask.Qty
		}
	}
	if len(rows) == 0 {
		return nil
	}
	if err := c.w.Tx.AddLines(rows); err != nil {
		return err
	}
	return enterLines(c.w, c.dr, c.dr.old.Number, c.to, lines, rows)
}

// holdForApproval holds an order that is worth more than may be sold without a manager, unless one does it, and says so. What
// was approved as a quote is approved.
func holdForApproval(w *command.UnitOfWork, dr *drafting, order int64) (told words.Message, err error) {
	if dr.total.value <= dr.limit || w.Call.Actor.Role == command.Manager || dr.ask.Quote != "" {
		return told, nil
	}
	holds, err := w.Tx.StandingHolds(store.IDs{order})
	if err != nil || slices.ContainsFunc(holds, func(h store.Hold) bool { return h.Kind == "approval" }) {
		return told, err
	}
	limit := words.Money(dr.limit, dr.currency)
	return words.Say("It is on hold until a manager approves it: it is worth more than %s.", limit), w.Tx.Create(
		&store.Hold{OrderID: order, Kind: "approval", Note: words.Say("It is worth more than %s.", limit).String(), PlacedBy: w.ID},
	)
}

// resize makes a line more, or fewer: open units first, then those that are allocated.
func resize(w *command.UnitOfWork, x *command.Line, l *draftLine) error {
	by := l.ask.Qty - l.old.Ordered
	if by > 0 {
		return w.Move(x, 0, journey.Make(journey.Enter, journey.Qty(by)), command.Refs{})
	}
	if l.resized.Freed > 0 {
		if !w.Call.Actor.Role.May(command.VerbGiveBack) {
			return command.Forbidden("%s line %d has %s allocated, and %d of them would be given back; that is for a coordinator. "+
				"Ask one of them, or leave at least %d.",
				x.OrderNumber, x.LineNo, words.Count(
					int64(x.Now.At[journey.Allocated]), "unit",
				), l.resized.Freed, l.ask.Qty+int64(l.resized.Freed))
		}
		if err := w.MoveFromPlaces(
			command.Chosen{Line: x, Warehouse: x.WarehouseID, Asked: l.resized.Freed}, journey.GiveBack, journey.Allocated,
		); err != nil {
			return err
		}
	}
	if by < 0 {
		return w.Move(x, 0, journey.Make(journey.Reduce, journey.Qty(-by)), command.Refs{})
	}
	return nil
}

func addressWords(a supply.Address) string {
	parts := []string{}
	for _, s := range []string{a.Name, a.Street, a.City, a.Postcode, a.Country} {
		if s != "" {
			parts = append(parts, s)
		}
	}
	return strings.Join(parts, ", ")
}
