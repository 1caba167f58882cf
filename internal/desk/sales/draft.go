package sales

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/core/price"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/desk/words"
	"journeyman/internal/store"
)

// How the units of a line are promised.
const (
	howSplit = "split" // what there is by the day, the rest as soon as it can be
	howWhole = "whole" // in one piece
	howNone  = "none"  // not at all
)

// Draft is an order while it is being entered, or changed if it has a number. What is left
// out is the customer's default.
type Draft struct {
	Order       string          `json:"order,omitempty" maxLength:"40" doc:"Number of the order that is being changed"`
	Seen        int64           `json:"seen,omitempty" doc:"Version of that order that was seen"`
	Quote       string          `json:"quote,omitempty" maxLength:"40" doc:"Number of the quote that is being accepted; its version is what was seen"`
	Customer    string          `json:"customer,omitempty" maxLength:"40"`
	ShipTo      string          `json:"ship_to,omitempty" maxLength:"40" doc:"Code of one of the customer's addresses"`
	Address     *supply.Address `json:"address,omitempty" doc:"An address for this order only"`
	Channel     string          `json:"channel,omitempty" maxLength:"40"`
	CustomerRef string          `json:"customer_ref,omitempty" maxLength:"60" doc:"The customer's own order number"`
	Service     string          `json:"service,omitempty" maxLength:"60"`
	Terms       string          `json:"terms,omitempty" maxLength:"60"`
	Warehouse   string          `json:"warehouse,omitempty" maxLength:"12" doc:"From which the lines go that name none"`
	ShipRule    string          `json:"ship_rule,omitempty" enum:"any,lines,whole"`
	Urgency     int             `json:"urgency,omitempty" minimum:"0" maximum:"5" doc:"1 is first; 3 if it is 0"`
	Wanted      string          `json:"wanted,omitempty" maxLength:"10" doc:"The day on which it should be there; as soon as can be if empty"`
	Note        string          `json:"note,omitempty" maxLength:"1000"`
	Lines       []DraftLine     `json:"lines,omitempty" maxItems:"500"`
}

// DraftLine is a line of it.
type DraftLine struct {
	Line       int                  `json:"line,omitempty" doc:"Number of the line, if the order has it already"`
	QuoteLine  int                  `json:"quote_line,omitempty" doc:"Number of the line of the quote that is being accepted"`
	SKU        string               `json:"sku" maxLength:"60"`
	Qty        int64                `json:"qty" minimum:"0" maximum:"1000000000"`
	Warehouse  string               `json:"warehouse,omitempty" maxLength:"12"`
	ListMinor  *int64               `json:"list_minor,omitempty" minimum:"0" maximum:"100000000000" doc:"Price of a unit before the discount; the item's if absent"`
	DiscountBP *int                 `json:"discount_bp,omitempty" minimum:"0" maximum:"10000" doc:"Hundredths of a per cent; the customer's if absent"`
	How        string               `json:"how,omitempty" enum:"split,whole,none" doc:"How it is promised: as it comes, in one piece, not at all"`
	Shown      []supply.PromisePart `json:"shown,omitempty" maxItems:"60" doc:"The promises that were seen: entering is refused if they are others by now"`
}

// DraftView is what a draft comes to.
type DraftView struct {
	Customer   *DraftCustomer       `json:"customer,omitempty"`
	ShipTo     string               `json:"ship_to" doc:"Code of the address it goes to; empty for one of its own"`
	Address    supply.Address       `json:"address" doc:"Where it goes"`
	Channel    string               `json:"channel"`
	Service    string               `json:"service"`
	Services   []supply.ServiceView `json:"services"`
	Zone       string               `json:"zone,omitempty"`
	Terms      string               `json:"terms"`
	Warehouse  string               `json:"warehouse"`
	Warehouses []string             `json:"warehouses"`
	ShipRule   string               `json:"ship_rule"`
	Urgency    int                  `json:"urgency"`
	Wanted     string               `json:"wanted" format:"date"`
	Lines      []DraftLineView      `json:"lines"`
	Currency   string               `json:"currency"`
	ValueMinor int64                `json:"value_minor"`
	MarginBP   *int64               `json:"margin_bp,omitempty" not:"floor" doc:"Margin in hundredths of a per cent; absent without a value"`
	DataFault  string               `json:"data_fault,omitempty" doc:"Why the margin is not to be trusted"`
	InTime     int                  `json:"in_time" doc:"Lines of which all is there by the wanted day"`
	Late       int                  `json:"late" doc:"Lines of which something is there later, or of which there is no knowing when"`
	Last       string               `json:"last,omitempty" format:"date" doc:"The day on which the last of what can be promised is there"`
	Expires    string               `json:"expires" format:"date" doc:"The day until which a quote of it stands if nothing else is said"`
	Limit      int64                `json:"limit_minor" doc:"A quote worth more needs a manager's approval"`
	Missing    []DraftFault         `json:"missing" doc:"What has to be put right before it can be entered"`
}

// DraftCustomer is whose order it is.
type DraftCustomer struct {
	Code       string              `json:"code"`
	Name       string              `json:"name"`
	Tier       int                 `json:"tier"`
	DiscountBP int                 `json:"discount_bp"`
	ShipTos    []supply.ShipToView `json:"ship_tos"`
}

// DraftFault is what is wrong with a line, or with the head if Row is -1.
type DraftFault struct {
	Row      int    `json:"row"`
	Field    string `json:"field" enum:"customer,ship_to,address,service,terms,wanted,warehouse,sku,qty,lines,order"`
	Sentence string `json:"sentence"`
}

// DraftLineView is a line with the answer beside it.
type DraftLineView struct {
	SKU        string               `json:"sku"`
	Item       string               `json:"item" doc:"Its name; empty if there is no such item"`
	Unit       string               `json:"unit"`
	Multiple   int64                `json:"multiple"`
	Hint       string               `json:"hint,omitempty" doc:"What should be known of the quantity"`
	Qty        int64                `json:"qty"`
	Warehouse  string               `json:"warehouse"`
	ShipBy     string               `json:"ship_by,omitempty" format:"date" doc:"The day on which it has to leave to be there in time"`
	OnHand     int64                `json:"on_hand" doc:"At its warehouse"`
	Free       int64                `json:"free" doc:"At its warehouse"`
	Spoken     int64                `json:"spoken" doc:"Of what is free, units that are promised to others"`
	Unspoken   int64                `json:"unspoken" doc:"Of what is free, units that are promised to nobody"`
	Elsewhere  int64                `json:"elsewhere" doc:"Free in other warehouses"`
	Next       *supply.Arrival      `json:"next,omitempty" doc:"The next arrival at its warehouse"`
	Earliest   string               `json:"earliest,omitempty" format:"date" doc:"The first day on which all of it can be there"`
	How        string               `json:"how" enum:"split,whole,none"`
	Parts      []supply.PromisePart `json:"parts" doc:"What will be promised"`
	Arrives    []string             `json:"arrives" doc:"The day on which each part is there"`
	InTime     int64                `json:"in_time" doc:"Units that will be promised to be there by the wanted day"`
	Short      int64                `json:"short" doc:"Units for which there is no day"`
	Late       bool                 `json:"late" doc:"Not all of it can be there by the wanted day"`
	Better     *Better              `json:"better,omitempty" doc:"Another warehouse from which all of it is there sooner"`
	Instead    []supply.Instead     `json:"instead" doc:"Substitutes that are free, if it is late"`
	ListMinor  int64                `json:"list_minor"`
	DiscountBP int                  `json:"discount_bp"`
	PriceMinor int64                `json:"price_minor"`
	ValueMinor int64                `json:"value_minor"`
	MarginBP   *int64               `json:"margin_bp,omitempty" not:"floor"`
	DataFault  string               `json:"data_fault,omitempty"`
	At         *supply.Counts       `json:"at,omitempty" doc:"Where its units stand, if the order has it already"`
	Least      int64                `json:"least" doc:"It cannot be made fewer than this"`
	Most       int64                `json:"most,omitempty" doc:"It cannot be made more than this; 0 for no limit"`
	Told       string               `json:"told,omitempty" format:"date" doc:"The day on which it would be there, as the customer was told by the quote"`
	Changed    bool                 `json:"changed" doc:"Whether it differs from what the order has"`
}

// Better is a warehouse from which all of a line is there sooner.
type Better struct {
	Warehouse string `json:"warehouse"`
	Arrives   string `json:"arrives" format:"date"`
}

// drafting is a draft while it is worked out.
type drafting struct {
	d       *Desk
	r       *store.Reader
	ask     Draft
	view    DraftView
	s       *supply.Supply
	cust    store.CustomerRecord
	houses  []store.Warehouse
	service days.Service
	wanted  days.Day
	lines   []*draftLine
	old     *store.OrderHead // the order that is changed
	oldTo   store.ShipToRecord
	once    bool            // that address was typed for the order only
	floor   []store.LineRow // lines of the order of which something is on the floor
	items   map[string]store.Item
	moved   bool // it is to be there on another day than the order says, or sent elsewhere or in another way
}

type draftLine struct {
	row    int
	ask    DraftLine
	view   *DraftLineView
	item   store.Item
	house  int64
	shipBy days.Day
	from   days.Day // the first day on which it can leave
	old    *store.LineRow
	quoted *store.QuoteLineRow // the line of a quote that is being accepted
	open   int64               // units that are open once this is done
	freed  int64               // allocated units that a smaller quantity gives back
	run    bool                // whether it is promised again
	was    []plan.StandingPromise
	given  []plan.StandingPromise
	price  int64
	list   int64
	rate   int
	cost   int64
	costs  int64 // all units of it
}

// Draft says what a draft comes to: defaults, prices, and for each line what is free, and by
// when it can be there, each line seeing those before it. It changes nothing.
func (d *Desk) Draft(ctx context.Context, ask Draft) (DraftView, error) {
	r := d.Store.Read(ctx)
	w, err := d.drafting(r, ask)
	if err != nil {
		return DraftView{}, err
	}
	s, err := d.supply.ReadSupply(r, w.itemIDs())
	if err != nil {
		return DraftView{}, err
	}
	return w.view, w.workOut(s)
}

// drafting reads whose order it is and what is on it.
func (d *Desk) drafting(r *store.Reader, ask Draft) (*drafting, error) {
	w := &drafting{d: d, r: r, ask: ask, items: map[string]store.Item{}, view: DraftView{
		Services: []supply.ServiceView{}, Warehouses: []string{}, Lines: make([]DraftLineView, len(ask.Lines)),
		Missing: []DraftFault{}, Currency: store.FirmCurrency,
	}}
	w.view.Expires = (d.Today() + quoteDays).String()
	var err error
	if w.houses, err = r.Warehouses(); err != nil {
		return nil, err
	}
	for _, h := range w.houses {
		w.view.Warehouses = append(w.view.Warehouses, h.Code)
	}
	if w.view.Limit, err = r.QuoteLimit(); err != nil {
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
	return w, w.head()
}

func (w *drafting) itemIDs() store.IDs {
	out := store.IDs{}
	for _, sku := range slices.Sorted(maps.Keys(w.items)) {
		out = append(out, w.items[sku].ID)
	}
	slices.Sort(out)
	return out
}

func (w *drafting) fault(row int, field, format string, args ...any) {
	w.view.Missing = append(w.view.Missing, DraftFault{row, field, fmt.Sprintf(format, args...)})
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
		w.ask.Customer, w.view.Currency = q.CustomerCode, q.Currency
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
		w.view.Currency = h.Currency
		if w.oldTo, w.once, err = w.r.ShipToByID(h.ShipToID); err != nil {
			return err
		}
		if lines, err = w.r.LinesOfOrders(store.IDs{h.ID}); err != nil {
			return err
		}
		for _, l := range lines {
			if l.Released+l.Picked+l.Packed > 0 {
				w.floor = append(w.floor, l)
			}
		}
	}
	for i, a := range w.ask.Lines {
		l := &draftLine{row: i, ask: a, view: &w.view.Lines[i]}
		*l.view = DraftLineView{
			SKU: a.SKU, Qty: a.Qty, Parts: []supply.PromisePart{}, Arrives: []string{}, Instead: []supply.Instead{}, Multiple: 1,
		}
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
			l.view.Most, l.view.Told = l.quoted.Qty-l.quoted.Accepted, l.quoted.Told
			if a.Qty > l.view.Most {
				w.fault(i, "qty", "Of line %d of %s, %d are left to accept.", a.QuoteLine, w.ask.Quote, l.view.Most)
			}
		}
		w.lines = append(w.lines, l)
	}
	return nil
}

// head fills in what the customer brings.
func (w *drafting) head() error {
	v, a := &w.view, w.ask
	v.ShipRule, v.Urgency, v.Channel = cmp.Or(a.ShipRule, string(journey.ShipAny)), cmp.Or(a.Urgency, 3), cmp.Or(a.Channel, "telephone")
	if w.old != nil {
		v.Channel = w.old.Channel
	}
	if a.Customer == "" {
		w.fault(-1, "customer", "Choose the customer.")
	} else {
		cs, err := w.r.CustomersByCode(store.Texts{a.Customer})
		if err != nil {
			return err
		}
		if len(cs) == 0 {
			w.fault(-1, "customer", "There is no customer %s.", a.Customer)
		} else {
			w.cust = cs[0]
			c := &DraftCustomer{
				Code: w.cust.Code, Name: w.cust.Name, Tier: int(w.cust.Tier), DiscountBP: int(w.cust.Discount),
				ShipTos: []supply.ShipToView{},
			}
			v.Customer = c
			v.ShipRule = cmp.Or(a.ShipRule, w.cust.ShipRule)
			ships, err := w.r.ShipTosOf(store.Texts{w.cust.Code})
			if err != nil {
				return err
			}
			for _, s := range ships {
				c.ShipTos = append(
					c.ShipTos,
					supply.ShipToView{
						Code:    s.Code,
						Address: supply.Address{Name: s.Name, Street: s.Street, City: s.City, Postcode: s.Postcode, Country: s.Country},
					},
				)
			}
		}
	}
	w.goesTo()
	v.Service, v.Terms, v.Warehouse = cmp.Or(a.Service, w.cust.Service, shipping.UsualService), cmp.Or(a.Terms, w.cust.Terms),
		cmp.Or(a.Warehouse, w.cust.Warehouse)
	network, err := w.d.supply.NetworkTo(w.r, v.Address.Country, v.Address.Postcode)
	if err != nil {
		return err
	}
	v.Services = supply.ServiceViews(network.To(v.Address.Country, v.Address.Postcode))
	v.Zone = network.Zone(v.Address.Country, v.Address.Postcode)
	var known bool
	if w.service, known = network.Takes(v.Service, v.Address.Country, v.Address.Postcode); !known {
		w.fault(-1, "service", "There is no service %s. Choose another.", v.Service)
	}
	if v.Warehouse != "" && !slices.Contains(v.Warehouses, v.Warehouse) {
		w.fault(-1, "warehouse", "There is no warehouse %s.", v.Warehouse)
		v.Warehouse = ""
	}
	if a.Wanted != "" {
		if w.wanted, err = days.Parse(a.Wanted); err != nil {
			w.fault(-1, "wanted", "%s.", err)
		}
	}
	return nil
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
		return w.once && x == addressOf(w.oldTo)
	}
	return a.ShipTo == "" || !w.once && a.ShipTo == w.oldTo.Code
}

func addressOf(s store.ShipToRecord) supply.Address {
	return supply.Address{Name: s.Name, Street: s.Street, City: s.City, Postcode: s.Postcode, Country: s.Country}
}

// goesTo fills in the address: the one that the order has, one for this order only, the one that was chosen, or the
// customer's first.
func (w *drafting) goesTo() {
	v, a := &w.view, w.ask
	if w.keepsAddress() {
		if v.Address = addressOf(w.oldTo); !w.once {
			v.ShipTo = w.oldTo.Code
		}
		return
	}
	if a.Address != nil {
		v.Address = *a.Address
		v.Address.Country = strings.ToUpper(strings.TrimSpace(cmp.Or(v.Address.Country, "GB")))
		for _, x := range []struct{ value, what string }{
			{v.Address.Street, "the street"}, {v.Address.City, "the city"}, {v.Address.Postcode, "the postcode"},
		} {
			if strings.TrimSpace(x.value) == "" {
				w.fault(-1, "address", "The address for this order lacks %s.", x.what)
				return
			}
		}
		if len(v.Address.Country) != 2 {
			w.fault(-1, "address", "The country is two letters, such as GB.")
		}
		return
	}
	if v.Customer == nil {
		return
	}
	for _, s := range v.Customer.ShipTos {
		if a.ShipTo == "" || a.ShipTo == s.Code {
			v.ShipTo, v.Address = s.Code, s.Address
			return
		}
	}
	w.fault(-1, "ship_to", "%s has no address %s.", v.Customer.Name, a.ShipTo)
}

// workOut computes everything from the supply of the items.
func (w *drafting) workOut(s *supply.Supply) error {
	w.s = s
	v := &w.view
	if w.wanted == 0 {
		house := s.WarehouseID[v.Warehouse]
		if house == 0 && len(w.houses) > 0 {
			house = w.houses[0].ID
		}
		w.wanted = w.service.Arrives(w.d.supply.ReadyOn(s.Docks[house]))
	}
	v.Wanted = w.wanted.String()
	if w.old != nil {
		h := w.old
		w.moved = h.Wanted != v.Wanted || h.Service != v.Service || !w.keepsAddress() || h.ShipRule != v.ShipRule
		w.onTheFloor()
	}
	any := false
	for _, l := range w.lines {
		if err := w.line(l); err != nil {
			return err
		}
		any = any || l.ask.Qty > 0
	}
	if !any {
		w.fault(-1, "lines", "An order needs a line with a quantity.")
	}
	if err := w.promise(); err != nil {
		return err
	}
	return w.tell()
}

// onTheFloor refuses what no longer reaches units that are on the floor, or packed: their papers say something else.
func (w *drafting) onTheFloor() {
	for _, l := range w.floor {
		h, v := w.old, w.view
		row := slices.IndexFunc(w.lines, func(x *draftLine) bool { return x.old != nil && x.old.ID == l.ID })
		no := func(field, what string) {
			w.fault(row, field, "%s cannot be %s: of line %d %s.%s", h.Number, what, l.LineNo, beyondWords(l.StationCounts), recallFirst(1))
		}
		switch {
		case v.Wanted > h.Wanted:
			no("wanted", "put off")
		case !w.keepsAddress():
			no("ship_to", "sent elsewhere")
		case h.Service != v.Service:
			no("service", "sent in another way")
		case h.Terms != v.Terms:
			no("terms", "sent on other terms")
		}
	}
}

// line works out what a line is, apart from its promises.
func (w *drafting) line(l *draftLine) error {
	v, a := l.view, l.ask
	it, known := w.items[a.SKU]
	if !known {
		if strings.TrimSpace(a.SKU) == "" {
			w.fault(l.row, "sku", "Line %d has no item.", l.row+1)
		} else {
			w.fault(l.row, "sku", "There is no item %s. Find it by part of its number or name.", a.SKU)
		}
		return nil
	}
	l.item = it
	v.Item, v.Unit, v.Multiple = it.Name, it.Unit, it.Multiple
	if it.Currency != w.view.Currency {
		w.fault(l.row, "sku", "%s is sold in %s, the order is in %s.", it.SKU, it.Currency, w.view.Currency)
	}
	w.priced(l)
	v.Warehouse = cmp.Or(a.Warehouse, oldHouse(l.old), w.view.Warehouse)
	l.house = w.s.WarehouseID[v.Warehouse]
	// What the customer's own warehouse never has goes from where it lies, unless somebody said otherwise.
	if _, has := w.s.Cells[command.CellKey{Item: it.ID, Warehouse: l.house}]; v.Warehouse == "" || !has && a.Warehouse == "" &&
		l.old == nil && w.ask.Warehouse == "" {
		if best := w.fullest(it.ID); best != 0 {
			l.house = best
			v.Warehouse = w.s.WarehouseCode[best]
		}
	}
	if l.house == 0 {
		w.fault(l.row, "warehouse", "Line %d: say from which warehouse %s goes.", l.row+1, it.SKU)
		return nil
	}
	dock := w.s.Docks[l.house]
	l.shipBy = w.service.ShipBy(dock, w.wanted)
	if l.old != nil && !w.moved && l.old.WarehouseID == l.house {
		if day, err := days.Parse(l.old.ShipBy); err == nil {
			l.shipBy = day
		}
	}
	l.from = dock.Calendar.Next(max(l.shipBy, w.d.supply.ReadyOn(dock)))
	v.ShipBy = l.shipBy.String()
	c := w.s.Cells[command.CellKey{Item: it.ID, Warehouse: l.house}]
	v.OnHand = c.OnHand
	if m := it.Multiple; m > 1 && a.Qty%m != 0 {
		v.Hint = fmt.Sprintf("goes in packs of %d: %d or %d", m, a.Qty/m*m, (a.Qty/m+1)*m)
	}
	if l.old == nil {
		if a.Qty == 0 && l.quoted == nil {
			w.fault(l.row, "qty", "Line %d: how many of %s?", l.row+1, it.SKU)
		}
		l.open = a.Qty
	} else {
		w.changedLine(l)
	}
	return nil
}

func oldHouse(old *store.LineRow) string {
	if old == nil {
		return ""
	}
	return old.Warehouse
}

// priced works out the price of a line.
func (w *drafting) priced(l *draftLine) {
	v := l.view
	l.list, l.rate = l.item.PriceMinor, int(w.cust.Discount)
	cost := l.item.CostMinor
	if l.old != nil {
		l.list, l.rate, cost = l.old.ListMinor, l.old.DiscountBP, l.old.CostMinor
	}
	if l.ask.ListMinor != nil {
		l.list = *l.ask.ListMinor
	}
	if l.ask.DiscountBP != nil {
		l.rate = *l.ask.DiscountBP
	}
	if q := l.quoted; q != nil {
		l.list, l.rate, cost = q.ListMinor, q.DiscountBP, q.CostMinor
	}
	l.list, l.rate = max(0, l.list), min(max(0, l.rate), price.Whole)
	l.price = price.Net(l.list, l.rate)
	v.ListMinor, v.DiscountBP, v.PriceMinor = l.list, l.rate, l.price
	l.cost = cost
	var fits, bearable bool
	v.ValueMinor, fits = price.Value(l.ask.Qty, l.price)
	if l.costs, bearable = price.Value(l.ask.Qty, cost); !fits || !bearable {
		w.fault(l.row, "qty", "%d × %s is more than an order may be worth.", l.ask.Qty, words.Money(max(l.price, cost), w.view.Currency))
	}
	if margin, ok := price.Margin(l.price, cost); ok {
		v.MarginBP = &margin
	}
	switch {
	case l.price == 0:
		v.DataFault = "No price"
	case cost == 0:
		v.DataFault = "No cost"
	}
}

// fullest is the warehouse that has most of an item, or expects some.
func (w *drafting) fullest(item int64) (best int64) {
	most := int64(-1)
	for _, k := range w.s.CellOrder {
		if c := w.s.Cells[k]; k.Item == item && c.OnHand > most {
			best, most = k.Warehouse, c.OnHand
		}
	}
	return best
}

// changedLine works out what becomes of a line that the order has already: units on the floor
// or beyond stay; what is allocated is given back if fewer are wanted than that.
func (w *drafting) changedLine(l *draftLine) {
	o, v, q := l.old, l.view, l.ask.Qty
	at := o.StationCounts
	v.At = &at
	v.Least = o.Ordered - o.Open - o.Allocated
	floor := o.Released + o.Picked + o.Packed
	switch {
	case q < v.Least:
		w.fault(l.row, "qty", "%s line %d cannot become %d: %s.%s", w.ask.Order, o.LineNo, q, beyondWords(at), recallFirst(floor))
	case l.house != o.WarehouseID && o.Ordered > o.Open+o.Dropped:
		w.fault(
			l.row, "warehouse", "%s line %d stays at %s: %s there. Give back or recall it first.", w.ask.Order, o.LineNo, o.Warehouse,
			beyondWords(at),
		)
	}
	l.open = o.Open + q - o.Ordered
	if l.open < 0 {
		l.freed, l.open = min(-l.open, o.Allocated), 0
	}
	v.Changed = q != o.Ordered || l.house != o.WarehouseID || l.shipBy.String() != o.ShipBy || l.price != o.PriceMinor ||
		l.list != o.ListMinor || l.rate != o.DiscountBP
}

// beyondWords says how far units of a line have come.
func beyondWords(c supply.Counts) string {
	var said []string
	for _, x := range []struct {
		n    int64
		what string
	}{
		{c.Allocated, "allocated"},
		{c.Released, "on a pick list"},
		{c.Picked, "picked"},
		{c.Packed, "packed"},
		{c.Shipped, "shipped"},
		{c.Delivered, "delivered"},
		{c.Dropped, "dropped"},
	} {
		if x.n > 0 {
			said = append(said, fmt.Sprintf("%d are %s", x.n, x.what))
		}
	}
	return strings.Join(said, ", ")
}

func recallFirst(floor int64) string {
	if floor > 0 {
		return " Recall what is on the floor first."
	}
	return ""
}

// promise gives the lines their promises by the core's run, one after another.
func (w *drafting) promise() error {
	s := w.s
	some := false // lines are promised again
	for _, l := range w.lines {
		if l.house == 0 {
			continue
		}
		l.view.How = w.how(l)
		if l.old != nil {
			l.was = s.Standing[l.old.ID]
			l.given = l.was
			if l.freed > 0 { // what is given back is free for whoever comes next
				k := command.CellKey{Item: l.item.ID, Warehouse: l.house}
				c := s.Cells[k]
				c.Free += l.freed
				s.Cells[k] = c
				s.Outlook(k.Item, k.Warehouse).Lift(s.Today, l.freed)
			}
		}
		promises := l.old == nil || l.open != l.old.Open || l.house != l.old.WarehouseID || l.shipBy.String() != l.old.ShipBy ||
			l.ask.How != ""
		l.run = promises && (l.open > 0 || len(l.was) > 0)
		some = some || l.run
	}
	whole := w.view.ShipRule == string(journey.ShipWhole)
	for _, l := range w.lines {
		if whole && some && l.house != 0 {
			l.run = l.open > 0 || len(l.was) > 0
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
	var wants []supply.Want
	for i, l := range w.lines {
		if !l.run || l.view.How == howNone || l.open == 0 {
			continue
		}
		x := supply.Want{
			Line: int64(-i - 1), Order: int64(-i - 1), Number: fmt.Sprintf("%06d", i), No: int32(i + 1), Item: l.item.ID,
			Warehouse: l.house, ShipBy: l.from,
			Ordered: l.open, Open: l.open, Rule: journey.ShipAny, Rank: i,
		}
		if l.view.How == howWhole {
			x.Rule = journey.ShipLines
		}
		if whole {
			x.Order, x.Number, x.Rule, x.Rank = 0, "whole", journey.ShipWhole, 0
		}
		wants = append(wants, x)
	}
	if len(wants) == 0 {
		return nil
	}
	b, keys, err := s.Book(wants)
	if err != nil {
		return err
	}
	p := plan.Promise(b, plan.PromiseOptions{Keys: []policy.Key{policy.Entered}})
	for i := range b.Lines {
		at, ok := keys[supply.LineName{Order: b.Orders[b.Lines[i].Order].Number, No: b.Lines[i].No}]
		if !ok {
			continue
		}
		l := w.lines[-at-1]
		l.view.Short = p.Lines[i].Short
		for _, x := range p.PromisesOf(int32(i)) {
			l.given = append(l.given, supply.StandingOf(b, s, x))
		}
		for _, g := range l.given {
			s.Outlook(l.item.ID, g.Warehouse).Take(g.Day, g.Qty)
		}
	}
	return nil
}

// how is how a line is promised: as was asked, or as it is and as the ship rule has it.
func (w *drafting) how(l *draftLine) string {
	rule := w.view.ShipRule
	if rule == string(journey.ShipWhole) {
		for _, x := range w.lines { // such an order is promised whole or not at all
			if x.ask.How == howNone {
				return howNone
			}
		}
		return howWhole
	}
	if l.ask.How == "" && l.old != nil && l.old.Open > 0 && len(w.s.Standing[l.old.ID]) == 0 {
		return howNone // nothing was promised of it, and nobody says that it should be
	}
	switch how := cmp.Or(l.ask.How, howSplit); {
	case rule == string(journey.ShipLines) && how == howSplit:
		return howWhole
	default:
		return how
	}
}

// tell says beside each line what it comes to, and adds up.
func (w *drafting) tell() error {
	v := &w.view
	left, late := w.leftToPromise(), store.IDs{}
	cost := int64(0)
	last := days.Day(0)
	for _, l := range w.lines {
		if l.house == 0 {
			continue
		}
		x := l.view
		k := command.CellKey{Item: l.item.ID, Warehouse: l.house}
		x.Free = w.s.Cells[k].Free
		x.Spoken = max(0, x.Free-left[k])
		x.Unspoken = x.Free - x.Spoken
		for _, other := range w.houses {
			if other.ID != l.house {
				x.Elsewhere += w.s.Cells[command.CellKey{Item: l.item.ID, Warehouse: other.ID}].Free
			}
		}
		for _, c := range w.s.Coming {
			if due, err := days.Parse(c.Due); err == nil && c.ItemID == l.item.ID && c.WarehouseID == l.house {
				if overdue := due < w.s.Today; x.Next == nil || x.Next.Overdue {
					x.Next = &supply.Arrival{Ref: c.Ref, Due: c.Due, Qty: c.Qty, Overdue: overdue}
				}
			}
		}
		w.tellPromises(l)
		for _, a := range x.Arrives {
			if d, err := days.Parse(a); err == nil {
				last = max(last, d)
			}
		}
		v.ValueMinor += x.ValueMinor
		cost += l.costs
		if x.DataFault != "" && x.Qty > 0 {
			v.DataFault = "A line has no price or no cost, so the margin is not to be trusted."
		}
		switch {
		case x.Late && l.open > 0:
			v.Late++
			late = append(late, l.item.ID)
		case x.Qty > 0:
			v.InTime++
		}
	}
	if last != 0 {
		v.Last = last.String()
	}
	if max(v.ValueMinor, cost) > price.MostOrder {
		w.fault(-1, "lines", "An order may be worth at most %s.", words.Money(price.MostOrder, v.Currency))
	}
	if margin, ok := price.Margin(v.ValueMinor, cost); ok {
		v.MarginBP = &margin
	}
	slices.SortStableFunc(v.Missing, func(a, b DraftFault) int { return cmp.Compare(a.Row, b.Row) })
	if len(late) == 0 {
		return nil
	}
	rows, err := w.r.Substitutes(late)
	for _, l := range w.lines {
		if l.house != 0 && l.view.Late {
			l.view.Instead = supply.SubstitutesOf(rows, l.item.ID, l.view.Warehouse, 3)
		}
	}
	return err
}

// leftToPromise is how many of each item could be promised for today from what is free, if
// nothing of this draft were.
func (w *drafting) leftToPromise() map[command.CellKey]int64 {
	s := w.s
	for _, l := range w.lines {
		if l.run {
			for _, g := range l.given {
				s.Lift(l.item.ID, g)
			}
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
			for _, g := range l.given {
				s.Outlook(l.item.ID, g.Warehouse).Take(g.Day, g.Qty)
			}
		}
	}
	return out
}

// tellPromises says what a line is promised and whether that is in time.
func (w *drafting) tellPromises(l *draftLine) {
	x, s := l.view, w.s
	x.Parts, x.Arrives = s.Parts(l.given), make([]string, len(l.given))
	for i, g := range l.given {
		there := w.service.Arrives(g.Day)
		x.Arrives[i] = there.String()
		if there <= w.wanted {
			x.InTime += g.Qty
		} else {
			x.Late = true
		}
		s.Lift(l.item.ID, g)
	}
	earliest := func(house int64) (days.Day, bool) {
		dock := s.Docks[house]
		from := max(w.service.ShipBy(dock, w.wanted), w.d.supply.ReadyOn(dock))
		if house == l.house {
			from = l.from
		}
		day, ok := s.Outlook(l.item.ID, house).Earliest(max(l.open, 1), from)
		return w.service.Arrives(day), ok
	}
	there, ok := earliest(l.house)
	if ok {
		x.Earliest = there.String()
	}
	promised := plan.StandingUnits(l.given)
	switch {
	case promised >= l.open:
	case !l.run || x.How == howNone:
		x.Late = x.Late || !ok || there > w.wanted
	default:
		x.Late = true
	}
	for _, h := range w.houses {
		_, has := s.Cells[command.CellKey{Item: l.item.ID, Warehouse: h.ID}]
		if h.ID == l.house || !x.Late || !has {
			continue
		}
		if day, can := earliest(h.ID); can && (!ok || day < there) && (x.Better == nil || day.String() < x.Better.Arrives) {
			x.Better = &Better{h.Code, day.String()}
		}
	}
	for _, g := range l.given {
		s.Outlook(l.item.ID, g.Warehouse).Take(g.Day, g.Qty)
	}
}
