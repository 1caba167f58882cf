package sales

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/order"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// quoteDays is for how many days a quote stands if nothing else is said.
const quoteDays = 14

// QuoteAsk makes a quote of a draft, or changes one.
type QuoteAsk struct {
	Number  string `json:"number,omitempty" maxLength:"40" doc:"The quote that is changed; a new one if empty"`
	Seen    int64  `json:"seen,omitempty" doc:"Version of it that was seen"`
	Expires string `json:"expires,omitempty" maxLength:"10" doc:"The last day on which it can be accepted; two weeks from now if empty"`
	Draft   Draft  `json:"draft"`
}

// QuoteNamed names a quote as it was seen.
type QuoteNamed struct {
	Number string `json:"number" maxLength:"40"`
	Seen   int64  `json:"seen" doc:"Version of the quote that was seen"`
}

// QuoteLineView is a line of a quote.
type QuoteLineView struct {
	Line       int    `json:"line"`
	SKU        string `json:"sku"`
	Item       string `json:"item"`
	Unit       string `json:"unit"`
	Warehouse  string `json:"warehouse"`
	Qty        int64  `json:"qty"`
	Accepted   int64  `json:"accepted"`
	ListMinor  int64  `json:"list_minor"`
	DiscountBP int    `json:"discount_bp"`
	PriceMinor int64  `json:"price_minor"`
	ValueMinor int64  `json:"value_minor"`
	Told       string `json:"told,omitempty" format:"date" doc:"The day on which all of it would be there, as the customer was told"`
	DataFault  string `json:"data_fault,omitempty"`
}

// QuoteView is the page of a quote.
type QuoteView struct {
	supply.QuoteRow
	ShipTo      supply.Address      `json:"ship_to"`
	Service     string              `json:"service"`
	Terms       string              `json:"terms"`
	ShipRule    string              `json:"ship_rule"`
	CustomerRef string              `json:"customer_ref"`
	Note        string              `json:"note"`
	Items       []QuoteLineView     `json:"items"`
	Orders      []supply.OrderRow   `json:"orders" doc:"What it became"`
	Trail       []supply.TrailEntry `json:"trail"`
	Can         []supply.Can        `json:"can"`
	Limit       int64               `json:"limit_minor"`
	Draft       Draft               `json:"draft" doc:"The quote as a draft that can be changed"`
	Rest        Draft               `json:"rest" doc:"What has not been accepted, as a draft of the order that it would become"`
}

// Quote returns the page of a quote.
func (d *Desk) Quote(ctx context.Context, number string) (QuoteView, error) {
	return d.quote(d.Store.Read(ctx), number)
}

func (d *Desk) quote(r *store.Reader, number string) (QuoteView, error) {
	q, found, err := r.QuoteByNumber(number)
	if err != nil {
		return QuoteView{}, err
	}
	if !found {
		return QuoteView{}, command.NotFound("There is no quote %s.", number)
	}
	out := QuoteView{
		Service: q.Service, Terms: q.Terms, ShipRule: q.ShipRule, CustomerRef: q.CustomerRef, Note: q.Note,
		Items: []QuoteLineView{}, Orders: []supply.OrderRow{}, Trail: []supply.TrailEntry{},
	}
	if out.Limit, err = r.QuoteLimit(); err != nil {
		return out, err
	}
	out.QuoteRow = supply.QuoteRowOf(q, out.Limit, d.Today())
	to, err := r.ShipToByID(q.ShipToID)
	if err != nil {
		return out, err
	}
	out.ShipTo = supply.AddressOf(to)
	out.Draft = Draft{
		Customer: q.CustomerCode, Channel: q.Channel, CustomerRef: q.CustomerRef, Service: q.Service, Terms: q.Terms,
		Warehouse: q.Warehouse, ShipRule: q.ShipRule,
		Urgency: q.Urgency, Wanted: q.Wanted, Note: q.Note, Lines: []DraftLine{},
	}
	if to.Once {
		out.Draft.Address = &out.ShipTo
	} else {
		out.Draft.ShipTo = to.Code
	}
	out.Rest = out.Draft
	out.Rest.Quote, out.Rest.Seen, out.Rest.Lines = q.Number, q.Version, []DraftLine{}
	for _, part := range []func(*store.Reader, int64) error{out.readLines, out.readTrail} {
		if err := part(r, q.ID); err != nil {
			return out, err
		}
	}
	if out.Orders, err = d.ordersOf(r, q.ID); err != nil {
		return out, err
	}
	out.Can = d.canDo(q, out.Limit)
	return out, nil
}

// readLines reads the lines of a quote: as they are shown, as a draft of all of them, and as one of what was not accepted yet.
func (out *QuoteView) readLines(r *store.Reader, quote int64) error {
	lines, err := r.QuoteLines(quote)
	for _, l := range lines {
		v := QuoteLineView{
			Line: l.LineNo, SKU: l.SKU, Item: l.Name, Unit: l.Unit, Warehouse: l.Warehouse, Qty: l.Qty, Accepted: l.Accepted,
			ListMinor: l.ListMinor, DiscountBP: l.DiscountBP, PriceMinor: l.PriceMinor, ValueMinor: capped.Times(l.Qty, l.PriceMinor), Told: l.Told,
		}
		switch {
		case l.PriceMinor == 0:
			v.DataFault = "No price"
		case l.CostMinor == 0:
			v.DataFault = "No cost"
		}
		out.Items = append(out.Items, v)
		x := DraftLine{SKU: l.SKU, Qty: l.Qty, Warehouse: l.Warehouse, ListMinor: &v.ListMinor, DiscountBP: &v.DiscountBP, How: l.How}
		out.Draft.Lines = append(out.Draft.Lines, x)
		if x.Qty, x.QuoteLine = l.Qty-l.Accepted, l.LineNo; x.Qty > 0 {
			out.Rest.Lines = append(out.Rest.Lines, x)
		}
	}
	return err
}

// readTrail reads what happened to a quote.
func (out *QuoteView) readTrail(r *store.Reader, quote int64) error {
	happened, err := r.QuoteTrail(quote)
	for _, x := range happened {
		text := words.Plain(x.What)
		if x.Reason != "" {
			text = words.Say("%s: %s", text, x.Reason)
		}
		out.Trail = append(out.Trail, supply.TrailEntry{At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: text, Kind: "quote"})
	}
	return err
}

// ordersOf are the orders that came of a quote.
func (d *Desk) ordersOf(r *store.Reader, quote int64) ([]supply.OrderRow, error) {
	orders, err := r.OrdersOfQuote(quote)
	if err != nil {
		return nil, err
	}
	ids := make(store.IDs, len(orders))
	for i, h := range orders {
		ids[i] = h.ID
	}
	lines, err := r.LinesOfOrders(ids)
	out := []supply.OrderRow{}
	for _, h := range orders {
		theirs := slices.DeleteFunc(slices.Clone(lines), func(l store.LineRow) bool { return l.OrderID != h.ID })
		out = append(out, d.supply.MakeOrderRow(h, theirs))
	}
	return out, err
}

// whyNotQuote says why a step cannot be taken with a quote.
func (d *Desk) whyNotQuote(q store.QuoteHead, limit int64, why order.QuoteReason) words.Message {
	switch why {
	case order.QuoteEnded:
		return words.Say("it is %s", supply.QuoteOf(q, limit).State(d.Today()))
	case order.QuoteHasExpired:
		return words.Say("it has expired; change it to give it another day")
	case order.QuoteNeedsApproval:
		return words.Say("it is worth more than %s, so a manager has to approve it first", words.Money(limit, q.Currency))
	case order.QuoteNeedsNoApproval:
		return words.Say("it needs no approval")
	case order.QuotePartAccepted:
		return words.Say("part of it is accepted; make a new quote for the rest")
	}
	return words.Message{}
}

// canDo says what is possible with a quote, and if not, why.
func (d *Desk) canDo(q store.QuoteHead, limit int64) (out []supply.Can) {
	for _, step := range []order.QuoteStep{order.AcceptQuote, order.ApproveQuote, order.ChangeQuote, order.WithdrawQuote} {
		c := supply.Can{Verb: string(step)}
		if why := supply.QuoteOf(q, limit).May(step, d.Today()); why != order.QuoteMay {
			c.Why = d.whyNotQuote(q, limit, why)
		} else if c.Qty = 1; step == order.AcceptQuote {
			c.Qty = q.Qty - q.Accepted
		}
		out = append(out, c)
	}
	return out
}

// mayQuote refuses a step that cannot be taken with a quote.
func (d *Desk) mayQuote(r *store.Reader, q store.QuoteHead, step order.QuoteStep) error {
	limit, err := r.QuoteLimit()
	if err != nil {
		return err
	}
	why := supply.QuoteOf(q, limit).May(step, d.Today())
	if why == order.QuoteMay {
		return nil
	}
	done := map[order.QuoteStep]string{
		order.AcceptQuote: "accepted", order.ApproveQuote: "approved", order.ChangeQuote: "changed", order.WithdrawQuote: "withdrawn",
	}
	return command.Conflict("%s cannot be %s: %s.", q.Number, done[step], d.whyNotQuote(q, limit, why))
}

// lockQuote holds a quote still and checks that it is as it was seen.
func lockQuote(w *command.UnitOfWork, number string, seen int64) (q store.QuoteHead, err error) {
	q, found, err := w.Tx.QuoteByNumber(number)
	if err != nil {
		return q, err
	}
	if !found {
		return q, command.NotFound("There is no quote %s.", number)
	}
	if _, err := w.Tx.LockQuote(q.ID); err != nil {
		return q, err
	}
	if q, _, err = w.Tx.QuoteByNumber(number); err != nil { // as it is now that nobody can change it
		return q, err
	}
	if seen == 0 || seen == q.Version {
		return q, nil
	}
	happened, err := w.Tx.QuoteTrail(q.ID)
	if err != nil {
		return q, err
	}
	n := len(happened)
	if n == 0 {
		return q, command.Conflict("%s has changed since you saw it. Nothing was done; look at it as it is now.", number)
	}
	last := words.Say("%s %s", happened[n-1].Who, happened[n-1].What)
	if why := happened[n-1].Reason; why != "" {
		last = words.Say("%s: %s", last, why)
	}
	return q, command.Conflict("%s has changed since you saw it: %s. Nothing was done; look at it as it is now.", number, last)
}

// MakeQuote makes a quote of a draft, or changes one of which nothing was accepted. Nothing
// is promised by it: what can be is computed again when it is accepted.
//
// It locks the stock and the outlook of its items, then the quote that is changed. It refuses whatever the draft lacks, and a quote
// that is not as it was seen.
func (d *Desk) MakeQuote(ctx context.Context, call command.Call, ask QuoteAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbQuote, ask, func(w *command.UnitOfWork) error {
		if ask.Draft.Order != "" || ask.Draft.Quote != "" {
			return command.Invalid("A quote is made of a new draft.")
		}
		if ask.Draft.NotBefore != "" {
			return command.Invalid("A quote has no day before which it must not leave. Say it when the quote is accepted.")
		}
		expires, err := d.expiry(ask.Expires)
		if err != nil {
			return err
		}
		dr, err := d.lockDraft(w, ask.Draft, nil)
		if err != nil {
			return err
		}
		to, err := shipToKey(w, dr)
		if err != nil {
			return err
		}
		id, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		h := dr.head
		q := store.Quote{
			CustomerID: dr.cust.ID, ShipToID: to, WarehouseID: dr.mainHouse(), Channel: h.channel, CustomerRef: dr.ask.CustomerRef,
			Urgency: h.urgency, ShipRule: string(h.shipRule), Service: h.service, Terms: h.terms, Wanted: store.Date(dr.wanted.String()),
			Expires: store.Date(expires.String()), Currency: dr.currency, Note: strings.TrimSpace(dr.ask.Note), MadeBy: id,
		}
		for i, l := range dr.lines {
			q.Lines = append(q.Lines, l.quotedAs(i+1))
		}
		approval := words.Message{}
		if dr.total.value > dr.limit {
			if call.Actor.Role == command.Manager {
				q.ApprovedBy = &id
			} else {
				approval = words.Say("A manager has to approve it.")
			}
		}
		told, err := d.writeQuote(w, ask, &q)
		if err != nil {
			return err
		}
		if err := w.Tx.TellOfQuote(
			q.ID, id,
			fmt.Sprintf(
				"%s%s, %s, to expire %s", told, words.Count(int64(len(q.Lines)), "line"), words.Money(dr.total.value, dr.currency),
				words.Day(expires),
			),
		); err != nil {
			return err
		}
		w.AddDocument("quote", q.Number)
		w.Outcome.Lines = len(q.Lines)
		w.Say(
			"%s for %s is valid until %s: %s.", q.Number, dr.cust.Name, words.Day(expires), words.Money(dr.total.value, dr.currency),
		)
		w.Also(approval)
		return nil
	})
}

// expiry is the day on which a quote expires: the one that was named, or the usual one.
func (d *Desk) expiry(named string) (days.Day, error) {
	today := d.Today()
	if named == "" {
		return today + quoteDays, nil
	}
	day, err := days.Parse(named)
	if err != nil {
		return 0, command.Invalid("%s.", err)
	}
	if day < today {
		return 0, command.Invalid("%s has passed: a quote expires today or later.", words.Day(day))
	}
	return day, nil
}

// writeQuote adds the quote, or changes the one that was named if it may still be changed. It returns how the trail's sentence begins.
func (d *Desk) writeQuote(w *command.UnitOfWork, ask QuoteAsk, q *store.Quote) (told string, err error) {
	if ask.Number == "" {
		return "made the quote, ", w.Tx.AddQuote(q)
	}
	old, err := lockQuote(w, ask.Number, ask.Seen)
	if err != nil {
		return "", err
	}
	if err := d.mayQuote(&w.Tx.Reader, old, order.ChangeQuote); err != nil {
		return "", err
	}
	q.ID, q.Number = old.ID, old.Number
	return "changed the quote to ", w.Tx.ChangeQuote(q)
}

// quotedAs is the line as a quote has it, under that number.
func (l *draftLine) quotedAs(no int) store.QuoteLine {
	return store.QuoteLine{
		LineNo: no, ItemID: l.item.ID, WarehouseID: l.house, Qty: l.ask.Qty, PriceMinor: l.sale.Price, ListMinor: l.sale.List,
		DiscountBP: l.sale.Discount, CostMinor: l.sale.Cost, How: string(l.how), Told: store.Date(l.told()),
	}
}

// told is the day that a customer is told by a quote: the one on which the last of it is there, or, if nothing is promised, the
// earliest on which all of it could be; empty if there is none.
func (l *draftLine) told() string {
	switch n := len(l.arrival.Days); {
	case l.short > 0:
		return ""
	case n > 0:
		return l.arrival.Days[n-1].String()
	case l.can:
		return l.earliest.String()
	}
	return ""
}

// mainHouse is the warehouse of the draft, or of its first line.
func (w *drafting) mainHouse() int64 {
	if id := w.s.WarehouseID[w.head.warehouse]; id != 0 {
		return id
	}
	return w.lines[0].house
}

// ApproveQuote approves a quote that is worth more than the limit.
//
// It locks the quote. It refuses one that is not as it was seen, or does not wait for approval.
func (d *Desk) ApproveQuote(ctx context.Context, call command.Call, ask QuoteNamed) (command.Outcome, error) {
	return d.settleQuote(ctx, call, command.VerbApprove, ask, order.ApproveQuote, func(w *command.UnitOfWork, id, by int64) (string, error) {
		return "approved the quote", w.Tx.ApproveQuote(id, by)
	})
}

// WithdrawQuote ends a quote, with a reason. What was accepted of it stays.
//
// It locks the quote. It refuses one that is not as it was seen or has ended, or no reason.
func (d *Desk) WithdrawQuote(ctx context.Context, call command.Call, ask QuoteNamed) (command.Outcome, error) {
	return d.settleQuote(ctx, call, command.VerbQuote, ask, order.WithdrawQuote, func(w *command.UnitOfWork, id, by int64) (string, error) {
		if strings.TrimSpace(call.Reason) == "" {
			return "", command.Invalid("Say why the quote is withdrawn.")
		}
		return "withdrew the quote", w.Tx.WithdrawQuote(id, by)
	})
}

func (d *Desk) settleQuote(
	ctx context.Context, call command.Call, verb command.Verb, ask QuoteNamed, step order.QuoteStep,
	do func(w *command.UnitOfWork, id, by int64) (string, error),
) (command.Outcome, error) {
	return d.Run(ctx, call, verb, ask, func(w *command.UnitOfWork) error {
		q, err := lockQuote(w, ask.Number, ask.Seen)
		if err != nil {
			return err
		}
		if err := d.mayQuote(&w.Tx.Reader, q, step); err != nil {
			return err
		}
		by, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		told, err := do(w, q.ID, by)
		if err != nil {
			return err
		}
		w.AddDocument("quote", ask.Number)
		w.Say("%s is %s.", ask.Number, map[order.QuoteStep]string{order.ApproveQuote: "approved", order.WithdrawQuote: "withdrawn"}[step])
		return w.Tx.TellOfQuote(q.ID, by, told)
	})
}

// AcceptQuote makes an order of a quote, with the quantities that the draft says, at the
// quoted prices. What can be promised is computed again.
//
// It locks the stock and the outlook of its items, then the quote. It refuses a quote that is not as it was seen or has ended, more
// than is left of it, and whatever the draft lacks.
func (d *Desk) AcceptQuote(ctx context.Context, call command.Call, ask Draft) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbEnter, ask, func(w *command.UnitOfWork) error {
		if ask.Quote == "" || ask.Order != "" {
			return command.Invalid("Say which quote is accepted.")
		}
		ask.Lines = slices.DeleteFunc(slices.Clone(ask.Lines), func(l DraftLine) bool { return l.Qty == 0 })
		dr, err := d.lockDraft(w, ask, nil)
		if err != nil {
			return err
		}
		q, err := lockQuote(w, ask.Quote, ask.Seen)
		if err != nil {
			return err
		}
		if err := d.mayQuote(&w.Tx.Reader, q, order.AcceptQuote); err != nil {
			return err
		}
		lines, err := w.Tx.QuoteLines(q.ID)
		if err != nil {
			return err
		}
		accepted := map[int]int64{}
		units := int64(0)
		for _, l := range dr.lines {
			accepted[l.ask.QuoteLine] += l.ask.Qty
			units += l.ask.Qty
		}
		left := int64(0)
		for _, l := range lines {
			if left += l.Qty - l.Accepted; accepted[l.LineNo] > l.Qty-l.Accepted {
				return command.Conflict(
					"Of line %d of %s, %d are left to accept; %d are too many.", l.LineNo, q.Number, l.Qty-l.Accepted, accepted[l.LineNo],
				)
			}
		}
		number, _, err := writeOrder(w, dr, q.ID)
		if err != nil {
			return err
		}
		if err := w.Tx.AcceptQuoteLines(q.ID, accepted); err != nil {
			return err
		}
		by, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		part, rest := "", words.Message{}
		if units < left {
			part, rest = " in part", words.Say("The rest can still be accepted.")
		}
		if err := w.Tx.TellOfQuote(
			q.ID, by, fmt.Sprintf("accepted%s: %s, %s", part, number, words.Money(dr.total.value, dr.currency)),
		); err != nil {
			return err
		}
		w.AddDocument("quote", q.Number)
		worth := words.Money(dr.total.value, dr.currency)
		if units < left {
			w.Say("Accepted part of %s: it is %s, %s.", q.Number, number, worth)
		} else {
			w.Say("Accepted %s: it is %s, %s.", q.Number, number, worth)
		}
		w.Also(dr.lateWords())
		w.Also(rest)
		return nil
	})
}
