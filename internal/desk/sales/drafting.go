package sales

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/order"
	"journeyman/core/plan"
	"journeyman/core/price"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// drafting is a draft while it is worked out: what was asked for, what was read, and what the core makes of it.
type drafting struct {
	d   *Desk
	r   *store.Reader
	ask Draft

	known  bool // whether there is such a customer
	cust   store.Customer
	hold   store.StandingCustomerHold // on the customer, if its key is not 0
	houses []store.Warehouse
	items  map[string]store.Item
	old    *store.OrderHead // the order that is changed
	oldTo  store.ShipTo
	floor  []store.LineRow        // lines of the order of which something is on the floor
	packed []store.PackedShipment // shipments of the order that are to go otherwise, if relabels is set
	limit  int64                  // a quote that is worth more needs a manager's approval

	currency string
	head     draftHead
	network  *shipping.Network
	takes    days.Service
	wanted   days.Day
	leaves   days.Day // the day on which it may leave first; 0 for any
	relabels bool     // what is packed goes as the order does from now on
	moved    bool     // it is to be there on another day than the order says, or sent elsewhere or in another way

	s      *supply.Supply
	lines  []*draftLine
	total  draftTotal
	faults []DraftFault
}

// draftHead is what was said of the order, or is usual for its customer.
type draftHead struct {
	shipTo   string // code of the address; empty for one of its own
	address  supply.Address
	services []shipping.Service
	channel  string
	service  string
	zone     string
	terms    string

	warehouse string
	shipRule  journey.ShipRule
	urgency   int
}

// draftTotal is what the lines come to together.
type draftTotal struct {
	value, costs int64
	doubtful     bool // a line has no price or no cost
	inTime, late int  // lines
	last         days.Day
}

// draftLine is a line with the answer beside it.
type draftLine struct {
	row    int
	ask    DraftLine
	old    *store.LineRow      // as the order has it
	quoted *store.QuoteLineRow // the line of a quote that is being accepted
	item   store.Item
	house  int64
	sale   price.Sale

	warehouse string
	shipBy    days.Day
	from      days.Day // the first day on which it can leave
	resized   order.Resized
	changed   bool // whether it differs from what the order has

	how        order.How
	run        bool // whether it is promised again
	was, given []plan.StandingPromise
	short      int64 // units for which there is no day

	stock     draftStock
	arrival   plan.Arrival
	earliest  days.Day // on which all of it can be there, if it can
	can, late bool
	better    int64 // another warehouse from which all of it is there sooner, and when
	betterDay days.Day
	instead   []supply.Instead
}

// draftStock is what there is of a line's item.
type draftStock struct {
	onHand, free, promised int64 // at its warehouse; promised is what others have of what is free
	elsewhere              int64 // free in other warehouses
	next                   *supply.Arrival
}

// open is how many units of the line are open once this is done.
func (l *draftLine) open() int64 { return int64(l.resized.Open) }

// readDraft reads whose order it is and what is on it.
func (d *Desk) readDraft(r *store.Reader, ask Draft) (*drafting, error) {
	w := &drafting{d: d, r: r, ask: ask, items: map[string]store.Item{}, currency: store.FirmCurrency}
	var err error
	if w.houses, err = r.Warehouses(); err != nil {
		return nil, err
	}
	if w.limit, err = r.QuoteLimit(); err != nil {
		return nil, err
	}
	skus := make(store.Texts, len(ask.Lines))
	for i, l := range ask.Lines {
		skus[i] = l.SKU
	}
	items, err := r.ItemsBySKU(skus)
	if err != nil {
		return nil, err
	}
	for _, it := range items {
		w.items[it.SKU] = it
	}
	if err := w.readOrder(); err != nil {
		return nil, err
	}
	return w, w.readHead()
}

func (w *drafting) itemIDs() store.IDs {
	out := store.IDs{}
	for _, sku := range slices.Sorted(maps.Keys(w.items)) {
		out = append(out, w.items[sku].ID)
	}
	slices.Sort(out)
	return out
}

func (w *drafting) fault(row int, field, pattern string, args ...any) {
	w.faults = append(w.faults, DraftFault{Row: row, Field: field, Said: words.Say(pattern, args...)})
}

// readOrder reads the order that is changed, or the quote that is accepted, with its lines.
func (w *drafting) readOrder() error {
	var lines []store.LineRow
	var quoted []store.QuoteLineRow
	if w.ask.Quote != "" {
		q, found, err := w.r.QuoteByNumber(w.ask.Quote)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no quote %s.", w.ask.Quote)
		}
		w.ask.Customer, w.currency = q.CustomerCode, q.Currency
		if quoted, err = w.r.QuoteLines(q.ID); err != nil {
			return err
		}
	}
	if w.ask.Order != "" {
		h, found, err := w.r.OrderByNumber(w.ask.Order)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no order %s.", w.ask.Order)
		}
		w.old = &h
		w.ask.Customer = h.CustomerCode
		w.currency = h.Currency
		if w.oldTo, err = w.r.ShipToByID(h.ShipToID); err != nil {
			return err
		}
		if lines, err = w.r.LinesOfOrders(store.IDs{h.ID}); err != nil {
			return err
		}
		for _, l := range lines {
			if order.OnTheFloor(l.StationCounts.Line().At) > 0 {
				w.floor = append(w.floor, l)
			}
		}
	}
	for i, a := range w.ask.Lines {
		l := &draftLine{row: i, ask: a}
		if a.Line != 0 {
			at := slices.IndexFunc(lines, func(x store.LineRow) bool { return x.LineNo == a.Line })
			if at < 0 {
				return command.NotFound("%s has no line %d.", cmp.Or(w.ask.Order, "A new order"), a.Line)
			}
			if lines[at].SKU != a.SKU {
				return command.Invalid(
					"%s line %d is of %s; it cannot become another item. Make it 0 and add a line.", w.ask.Order, a.Line, lines[at].SKU,
				)
			}
			l.old = &lines[at]
		}
		if w.ask.Quote != "" {
			at := slices.IndexFunc(quoted, func(x store.QuoteLineRow) bool { return x.LineNo == a.QuoteLine && x.SKU == a.SKU })
			if at < 0 {
				return command.NotFound("%s has no line %d of %s: only what was quoted can be accepted.", w.ask.Quote, a.QuoteLine, a.SKU)
			}
			l.quoted = &quoted[at]
			if left := l.quoted.Qty - l.quoted.Accepted; a.Qty > left {
				w.fault(i, "qty", "Of line %d of %s, %d are left to accept.", a.QuoteLine, w.ask.Quote, left)
			}
		}
		w.lines = append(w.lines, l)
	}
	return nil
}

// readHead fills in what the customer brings.
func (w *drafting) readHead() error {
	h, a := &w.head, w.ask
	h.shipRule, h.urgency = journey.ShipRule(cmp.Or(a.ShipRule, string(journey.ShipAny))), cmp.Or(a.Urgency, 3)
	h.channel = cmp.Or(a.Channel, "telephone")
	if w.old != nil {
		h.channel = w.old.Channel
	}
	if err := w.readCustomer(); err != nil {
		return err
	}
	w.goesTo()
	h.service, h.terms = cmp.Or(a.Service, w.cust.Service, shipping.UsualService), cmp.Or(a.Terms, w.cust.Terms)
	var err error
	if w.network, err = w.d.supply.NetworkTo(w.r, h.address.Country, h.address.Postcode); err != nil {
		return err
	}
	h.services = w.network.To(h.address.Country, h.address.Postcode)
	h.zone = w.network.Zone(h.address.Country, h.address.Postcode)
	var known bool
	if w.takes, known = w.network.Takes(h.service, h.address.Country, h.address.Postcode); !known {
		w.fault(-1, "service", "There is no service %s. Choose another.", h.service)
	}
	h.warehouse = cmp.Or(a.Warehouse, w.cust.Home())
	if h.warehouse != "" && !slices.ContainsFunc(w.houses, func(x store.Warehouse) bool { return x.Code == h.warehouse }) {
		w.fault(-1, "warehouse", "There is no warehouse %s.", h.warehouse)
		h.warehouse = ""
	}
	if a.Wanted != "" {
		if w.wanted, err = days.Parse(a.Wanted); err != nil {
			w.fault(-1, "wanted", "%s.", err)
		}
	}
	if a.NotBefore != "" {
		if w.leaves, err = days.Parse(a.NotBefore); err != nil {
			w.fault(-1, "not_before", "%s.", err)
		}
	}
	return nil
}

func (w *drafting) readCustomer() error {
	code := w.ask.Customer
	if code == "" {
		w.fault(-1, "customer", "Choose the customer.")
		return nil
	}
	var err error
	if w.cust, w.known, err = w.r.CustomerWithShipTos(code); err != nil {
		return err
	}
	if !w.known {
		w.fault(-1, "customer", "There is no customer %s.", code)
		return nil
	}
	w.head.shipRule = journey.ShipRule(cmp.Or(w.ask.ShipRule, w.cust.ShipRule))
	w.hold, _, err = w.r.HoldOnCustomer(w.cust.ID)
	return err
}

// keepsAddress says whether the order that is changed still goes where it did: nothing else is said, or the same.
func (w *drafting) keepsAddress() bool {
	a := w.ask
	switch {
	case w.old == nil:
		return false
	case a.Address != nil:
		x := *a.Address
		x.Country = strings.ToUpper(strings.TrimSpace(cmp.Or(x.Country, "GB")))
		return w.oldTo.Once && x == supply.AddressOf(w.oldTo)
	}
	return a.ShipTo == "" || !w.oldTo.Once && a.ShipTo == w.oldTo.Code
}

// goesTo fills in the address: the one that the order has, one for this order only, the one that was chosen, or the
// customer's first.
func (w *drafting) goesTo() {
	h, a := &w.head, w.ask
	if w.keepsAddress() {
		if h.address = supply.AddressOf(w.oldTo); !w.oldTo.Once {
			h.shipTo = w.oldTo.Code
		}
		return
	}
	if a.Address != nil {
		h.address = *a.Address
		h.address.Country = strings.ToUpper(strings.TrimSpace(cmp.Or(h.address.Country, "GB")))
		for _, x := range []struct{ value, what string }{
			{h.address.Street, "the street"}, {h.address.City, "the city"}, {h.address.Postcode, "the postcode"},
		} {
			if strings.TrimSpace(x.value) == "" {
				w.fault(-1, "address", "The address for this order lacks %s.", x.what)
				return
			}
		}
		if len(h.address.Country) != 2 {
			w.fault(-1, "address", "The country is two letters, such as GB.")
		}
		return
	}
	if !w.known {
		return
	}
	for _, s := range w.cust.ShipTos {
		if a.ShipTo == "" || a.ShipTo == s.Code {
			h.shipTo, h.address = s.Code, supply.AddressOf(s)
			return
		}
	}
	w.fault(-1, "ship_to", "%s has no address %s.", w.cust.Name, a.ShipTo)
}
