package sales

import (
	"context"

	"journeyman/core/price"
	"journeyman/internal/desk/supply"
	"journeyman/internal/words"
)

// Draft is an order while it is being entered, or changed if it has a number. What is left
// out is the customer's default.
type Draft struct {
	Order       string          `json:"order,omitempty" maxLength:"40" doc:"Number of the order that is being changed"`
	Seen        int64           `json:"seen,omitempty" doc:"Version of that order that was seen"`
	Quote       string          `json:"quote,omitempty" maxLength:"40" doc:"The quote that is being accepted; its version is what was seen"`
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
	NotBefore   string          `json:"not_before,omitempty" maxLength:"10" doc:"The day on which it may leave first; any if empty"`
	Relabel     bool            `json:"relabel,omitempty" doc:"What is packed goes as the order does, with new labels"`
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
	ListMinor  *int64               `json:"list_minor,omitempty" minimum:"0" maximum:"100000000000" doc:"Undiscounted; the item's if absent"`
	DiscountBP *int                 `json:"discount_bp,omitempty" minimum:"0" maximum:"10000" doc:"Basis points; the customer's if absent"`
	How        string               `json:"how,omitempty" enum:"split,whole,none" doc:"How it is promised: as it comes, whole, not at all"`
	Shown      []supply.PromisePart `json:"shown,omitempty" maxItems:"60" doc:"The promises that were seen: others by now are refused"`
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
	Relabels   words.Message        `json:"relabels,omitzero" doc:"Which labels have to be printed again"`
	Missing    []DraftFault         `json:"missing" doc:"What has to be put right before it can be entered"`
}

// DraftCustomer is whose order it is.
type DraftCustomer struct {
	Code       string              `json:"code"`
	Name       string              `json:"name"`
	Tier       int                 `json:"tier"`
	DiscountBP int                 `json:"discount_bp"`
	Hold       words.Message       `json:"hold,omitzero" doc:"Why its orders are on hold"`
	ShipTos    []supply.ShipToView `json:"ship_tos"`
}

// DraftFault is what is wrong with a line, or with the head if Row is -1.
type DraftFault struct {
	Row   int           `json:"row"`
	Field string        `json:"field" enum:"customer,ship_to,address,service,terms,wanted,not_before,warehouse,sku,qty,lines,order"`
	Said  words.Message `json:"said"`
	// Recall says that units are on the floor which a recall takes off it; then it can be done.
	Recall bool `json:"recall,omitempty" doc:"A recall of what is on the floor makes it possible"`
	// Relabel says that it can be done, too, by having what is packed go as the order does.
	Relabel bool `json:"relabel,omitempty" doc:"New labels on what is packed make it possible"`
}

// DraftLineView is a line with the answer beside it.
type DraftLineView struct {
	SKU        string               `json:"sku"`
	Item       string               `json:"item" doc:"Its name; empty if there is no such item"`
	Unit       string               `json:"unit"`
	Multiple   int64                `json:"multiple"`
	Hint       words.Message        `json:"hint,omitzero" doc:"What should be known of the quantity"`
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
	Told       string               `json:"told,omitempty" format:"date" doc:"The day of arrival that the quote told the customer"`
	Changed    bool                 `json:"changed" doc:"Whether it differs from what the order has"`
}

// Better is a warehouse from which all of a line is there sooner.
type Better struct {
	Warehouse string `json:"warehouse"`
	Arrives   string `json:"arrives" format:"date"`
}

// Draft says what a draft comes to: defaults, prices, and for each line what is free, and by
// when it can be there, each line seeing those before it. It changes nothing.
func (d *Desk) Draft(ctx context.Context, ask Draft) (DraftView, error) {
	r := d.Store.Read(ctx)
	w, err := d.readDraft(r, ask)
	if err != nil {
		return DraftView{}, err
	}
	s, err := d.supply.ReadSupply(r, w.itemIDs())
	if err != nil {
		return DraftView{}, err
	}
	if err := w.workOut(s); err != nil {
		return DraftView{}, err
	}
	return w.view(), nil
}

// view is what a draft came to, as a page shows it.
func (w *drafting) view() DraftView {
	h, t := w.head, w.total
	v := DraftView{
		ShipTo: h.shipTo, Address: h.address, Channel: h.channel, Service: h.service, Zone: h.zone, Terms: h.terms,
		Services: supply.ServiceViews(h.services), Warehouse: h.warehouse, Warehouses: []string{}, ShipRule: string(h.shipRule),
		Urgency: h.urgency, Wanted: w.wanted.String(), Lines: []DraftLineView{}, Currency: w.currency, ValueMinor: t.value,
		MarginBP: marginOf(t.value, t.costs), InTime: t.inTime, Late: t.late, Expires: (w.d.Today() + quoteDays).String(), Limit: w.limit,
		Missing: append([]DraftFault{}, w.faults...), Relabels: w.relabelWords(),
	}
	if w.known {
		v.Customer = &DraftCustomer{
			Code: w.cust.Code, Name: w.cust.Name, Tier: int(w.cust.Tier), DiscountBP: int(w.cust.DiscountBP),
			ShipTos: supply.ShipToViews(w.cust.ShipTos), Hold: w.heldWords(),
		}
	}
	for _, house := range w.houses {
		v.Warehouses = append(v.Warehouses, house.Code)
	}
	if t.last != 0 {
		v.Last = t.last.String()
	}
	if t.doubtful {
		v.DataFault = "A line has no price or no cost, so the margin is not to be trusted."
	}
	for _, l := range w.lines {
		v.Lines = append(v.Lines, w.lineView(l))
	}
	return v
}

// heldWords says why the customer is on hold, if it is.
func (w *drafting) heldWords() (said words.Message) {
	if h := w.hold; h.ID != 0 {
		said = words.Say("%s is on %s hold: %s", w.cust.Name, h.Kind, words.WithFullStop(h.Note))
	}
	return said
}

func marginOf(value, costs int64) *int64 {
	if margin, ok := price.Margin(value, costs); ok {
		return &margin
	}
	return nil
}

func (w *drafting) lineView(l *draftLine) DraftLineView {
	v := DraftLineView{
		SKU: l.ask.SKU, Qty: l.ask.Qty, Parts: []supply.PromisePart{}, Arrives: []string{}, Instead: []supply.Instead{}, Multiple: 1,
	}
	if l.quoted != nil {
		v.Most, v.Told = l.quoted.Qty-l.quoted.Accepted, l.quoted.Told
	}
	if l.item.ID == 0 {
		return v
	}
	v.Item, v.Unit, v.Multiple, v.Warehouse = l.item.Name, l.item.Unit, l.item.Multiple, l.warehouse
	v.ListMinor, v.DiscountBP, v.PriceMinor, v.ValueMinor = l.sale.List, l.sale.Discount, l.sale.Price, l.sale.Value
	v.MarginBP, v.DataFault = marginOf(l.sale.Price, l.sale.Cost), string(l.sale.Fault())
	if l.house == 0 {
		return v
	}
	if m := l.item.Multiple; m > 1 && l.ask.Qty%m != 0 {
		v.Hint = words.Say("goes in packs of %d: %d or %d", m, l.ask.Qty/m*m, (l.ask.Qty/m+1)*m)
	}
	if l.old != nil {
		at := l.old.StationCounts
		v.At, v.Least, v.Changed = &at, int64(l.resized.Least), l.changed
	}
	v.ShipBy, v.How, v.Parts = l.shipBy.String(), string(l.how), w.s.Parts(l.given)
	v.OnHand, v.Free, v.Spoken, v.Unspoken = l.stock.onHand, l.stock.free, l.stock.promised, l.stock.free-l.stock.promised
	v.Elsewhere, v.Next = l.stock.elsewhere, l.stock.next
	for _, there := range l.arrival.Days {
		v.Arrives = append(v.Arrives, there.String())
	}
	v.InTime, v.Short, v.Late = l.arrival.InTime, l.short, l.late
	if l.can {
		v.Earliest = l.earliest.String()
	}
	if l.better != 0 {
		v.Better = &Better{w.s.WarehouseCode[l.better], l.betterDay.String()}
	}
	v.Instead = append(v.Instead, l.instead...)
	return v
}
