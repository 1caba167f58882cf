package desk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/price"
	"journeyman/core/release"
	"journeyman/internal/store"
)

// Counts are units at each station.
type Counts = store.StationCounts

// Can says how much of a verb is possible now, and if none, why.
type Can struct {
	Verb string `json:"verb"`
	Qty  int64  `json:"qty" doc:"Units for which it is possible now; 0 if it is not"`
	Why  string `json:"why,omitempty" doc:"Why it is not possible, or what limits it"`
}

// OrderRow is an order in a list.
type OrderRow struct {
	Number       string   `json:"number"`
	Customer     string   `json:"customer"`
	CustomerCode string   `json:"customer_code"`
	Channel      string   `json:"channel"`
	CustomerRef  string   `json:"customer_ref"`
	Tier         int      `json:"tier"`
	Urgency      int      `json:"urgency"`
	ShipRule     string   `json:"ship_rule"`
	Entered      string   `json:"entered" format:"date-time"`
	Wanted       string   `json:"wanted" format:"date"`
	Late         bool     `json:"late" doc:"Wanted before today and not finished"`
	ValueMinor   int64    `json:"value_minor"`
	MarginBP     *int64   `json:"margin_bp,omitempty" not:"floor" doc:"Margin in hundredths of a per cent; absent without a price"`
	DataFault    string   `json:"data_fault,omitempty" doc:"What is wrong with its data, if anything"`
	Currency     string   `json:"currency"`
	At           Counts   `json:"at"`
	Ready        int      `json:"ready" doc:"Open lines that could go in full now, all together"`
	OpenLines    int      `json:"open_lines"`
	LineCount    int      `json:"line_count"`
	Holds        []string `json:"holds"`
	Finished     bool     `json:"finished"`
	Version      int64    `json:"version"`
}

// OrdersAsk chooses orders.
type OrdersAsk struct {
	Query    string
	Station  string
	State    string
	Channel  string
	Customer string
	Sort     string
	Down     bool
	Page     int
}

// OrdersPage is a page of orders.
type OrdersPage struct {
	Orders     []OrderRow `json:"orders"`
	Total      int64      `json:"total"`
	ValueMinor int64      `json:"value_minor" doc:"Value of all orders that were found in that currency"`
	Currency   string     `json:"currency"`
	Others     int64      `json:"others" doc:"How many of them are in other currencies, which the value leaves out"`
	Page       int        `json:"page"`
	Pages      int        `json:"pages"`
	Channels   []string   `json:"channels"`
}

// PageSize is how many rows a page of a list has.
const PageSize = 50

// Orders returns a page of the orders that were asked for.
func (d *Desk) Orders(ctx context.Context, ask OrdersAsk) (OrdersPage, error) {
	r := d.store.Read(ctx)
	page := max(1, ask.Page)
	q := store.OrderQuery{
		Words: strings.Fields(ask.Query), Station: ask.Station, State: ask.State, Channel: ask.Channel, Customer: ask.Customer,
		Today: d.Today().String(), Sort: ask.Sort, Down: ask.Down, Limit: PageSize, Offset: (page - 1) * PageSize,
	}
	heads, sum, err := r.Orders(q)
	if err != nil {
		return OrdersPage{}, err
	}
	ids := make(store.IDs, len(heads))
	for i, h := range heads {
		ids[i] = h.ID
	}
	lines, err := r.LinesOfOrders(ids)
	if err != nil {
		return OrdersPage{}, err
	}
	byOrder := map[int64][]store.LineRow{}
	for _, l := range lines {
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	channels, err := r.Channels()
	if err != nil {
		return OrdersPage{}, err
	}
	out := OrdersPage{
		Orders: make([]OrderRow, len(heads)), Total: sum.N, ValueMinor: sum.Value, Currency: firmCurrency,
		Others: sum.Others, Page: page, Pages: pages(sum.N), Channels: channels,
	}
	for i, h := range heads {
		out.Orders[i] = d.orderRow(h, byOrder[h.ID])
	}
	return out, nil
}

func pages(total int64) int { return max(1, int((total+PageSize-1)/PageSize)) }

func (d *Desk) orderRow(h store.OrderHead, lines []store.LineRow) OrderRow {
	row := OrderRow{
		Number: h.Number, Customer: h.CustomerName, CustomerCode: h.CustomerCode, Channel: h.Channel, CustomerRef: h.CustomerRef, Tier: h.Tier,
		Urgency: h.Urgency, ShipRule: h.ShipRule, Entered: h.EnteredAt.UTC().Format(time.RFC3339), Wanted: h.Wanted, ValueMinor: h.ValueMinor, Currency: h.Currency,
		At: h.StationCounts, LineCount: h.Lines, Holds: strings.Fields(h.Holds), Finished: h.Line().Finished(), Version: h.Version,
	}
	row.Late = !row.Finished && h.Wanted < d.Today().String()
	if margin, ok := price.Margin(h.ValueMinor, h.CostMinor); ok {
		row.MarginBP = &margin
	}
	if h.Zero {
		row.DataFault = "A line has no price or no cost, so the margin is not to be trusted."
	}
	row.Ready, row.OpenLines = readyShare(lines)
	return row
}

func readyShare(lines []store.LineRow) (ready, open int) {
	type key struct{ item, house int64 }
	free := map[key]journey.Qty{}
	wants := make([]plan.Want[key], 0, len(lines))
	for _, l := range lines {
		k := key{l.ItemID, l.WarehouseID}
		free[k] = journey.Qty(l.Free)
		wants = append(wants, plan.Want[key]{Cell: k, Open: journey.Qty(l.Open), Held: l.Allocated > 0})
	}
	return plan.ReadyShare(wants, free)
}

// LineView is an order line with everything needed to decide on it.
type LineView struct {
	ID         int64       `json:"id"`
	Order      string      `json:"order"`
	Customer   string      `json:"customer"`
	Tier       int         `json:"tier"`
	Line       int         `json:"line"`
	SKU        string      `json:"sku"`
	Item       string      `json:"item"`
	Unit       string      `json:"unit"`
	Multiple   int64       `json:"multiple"`
	Warehouse  string      `json:"warehouse"`
	ShipBy     string      `json:"ship_by" format:"date"`
	Late       bool        `json:"late" doc:"To be shipped before today, and not all of it is"`
	PriceMinor int64       `json:"price_minor"`
	CostMinor  int64       `json:"cost_minor,omitempty" not:"floor"`
	DataFault  string      `json:"data_fault,omitempty"`
	At         Counts      `json:"at"`
	Version    int64       `json:"version"`
	Places     []PlaceView `json:"places" doc:"Where its units stand, if not only in its own warehouse"`
	Free       int64       `json:"free" doc:"Free at its warehouse"`
	OnHand     int64       `json:"on_hand" doc:"On hand at its warehouse"`
	Elsewhere  int64       `json:"elsewhere" doc:"Free in other warehouses"`
	Next       *Arrival    `json:"next,omitempty" doc:"The next arrival at its warehouse"`
	Promises   []Promised  `json:"promises" doc:"What is promised of its open units, the earliest first"`
	Holds      []string    `json:"holds"`
	Can        []Can       `json:"can"`
}

// Promised is a promise that stands.
type Promised struct {
	Day       string `json:"day" format:"date" doc:"The day on which it leaves"`
	Qty       int64  `json:"qty"`
	Warehouse string `json:"warehouse"`
	Late      bool   `json:"late" doc:"Later than the line is to be shipped"`
}

// PlaceView is how many units stand in a warehouse.
type PlaceView struct {
	Warehouse string `json:"warehouse"`
	Allocated int64  `json:"allocated"`
	Released  int64  `json:"released"`
	Picked    int64  `json:"picked"`
	Packed    int64  `json:"packed"`
}

// Arrival is an inbound that is still to come.
type Arrival struct {
	Ref     string `json:"ref"`
	Due     string `json:"due" format:"date"`
	Qty     int64  `json:"qty"`
	Overdue bool   `json:"overdue" doc:"Its day has passed; nothing can be counted on until it has a new one"`
}

// HoldView is a standing hold.
type HoldView struct {
	Kind string `json:"kind"`
	Note string `json:"note"`
	Who  string `json:"who"`
	At   string `json:"at" format:"date-time"`
}

// OrderView is the page of one order.
type OrderView struct {
	OrderRow
	ShipTo    Address        `json:"ship_to"`
	Service   string         `json:"service"`
	Terms     string         `json:"terms"`
	Note      string         `json:"note"`
	HoldNotes []HoldView     `json:"hold_notes"`
	Lines     []LineView     `json:"lines"`
	Documents []DocumentView `json:"documents"`
	Messages  []MessageView  `json:"messages" doc:"Ready to be sent to the customer, the newest first"`
	Can       []Can          `json:"can"`
}

// Address is where an order goes.
type Address struct {
	Name     string `json:"name"`
	Street   string `json:"street"`
	City     string `json:"city"`
	Postcode string `json:"postcode"`
	Country  string `json:"country"`
}

// DocumentView is a document that an order led to.
type DocumentView struct {
	Kind   string `json:"kind"`
	Number string `json:"number"`
	State  string `json:"state"`
}

// MessageView is a message that is ready to be sent.
type MessageView struct {
	To      string `json:"to" doc:"Address; empty if the customer has none"`
	Subject string `json:"subject"`
	Body    string `json:"body"`
	Who     string `json:"who" doc:"Whose command it came of"`
	At      string `json:"at" format:"date-time"`
}

// Order returns the page of an order.
func (d *Desk) Order(ctx context.Context, number string) (OrderView, error) {
	r := d.store.Read(ctx)
	h, found, err := r.OrderByNumber(number)
	if err != nil {
		return OrderView{}, err
	}
	if !found {
		return OrderView{}, NotFound("There is no order %s.", number)
	}
	lines, err := r.LinesOfOrders(store.IDs{h.ID})
	if err != nil {
		return OrderView{}, err
	}
	views, err := d.lineViews(r, lines)
	if err != nil {
		return OrderView{}, err
	}
	holds, err := r.HoldsOfOrder(h.ID)
	if err != nil {
		return OrderView{}, err
	}
	docs, err := r.DocumentsOfOrder(h.ID)
	if err != nil {
		return OrderView{}, err
	}
	out := OrderView{
		OrderRow: d.orderRow(h, lines), ShipTo: Address{h.ShipToName, h.Street, h.City, h.Postcode, h.Country},
		Service: h.Service, Terms: h.Terms, Note: h.Note, HoldNotes: []HoldView{}, Lines: views, Documents: []DocumentView{}, Messages: []MessageView{},
	}
	for _, x := range holds {
		out.HoldNotes = append(out.HoldNotes, HoldView{x.Kind, x.Note, x.Who, x.At.UTC().Format(time.RFC3339)})
	}
	for _, x := range docs {
		out.Documents = append(out.Documents, DocumentView{x.Kind, x.Number, x.State})
	}
	messages, err := r.MessagesOf(h.ID)
	if err != nil {
		return out, err
	}
	for _, m := range messages {
		out.Messages = append(out.Messages, MessageView{m.Address, m.Subject, m.Body, m.Who, m.At.UTC().Format(time.RFC3339)})
	}
	out.Can = canOrder(lines)
	return out, nil
}

// lineViews are the rows with what is possible on each.
func (d *Desk) lineViews(r *store.Reader, rows []store.LineRow) ([]LineView, error) {
	ids := make(store.IDs, len(rows))
	for i, l := range rows {
		ids[i] = l.ID
	}
	places, err := r.Places(ids)
	if err != nil {
		return nil, err
	}
	at := map[int64][]PlaceView{}
	for _, p := range places {
		at[p.LineID] = append(at[p.LineID], PlaceView{p.Warehouse, p.Allocated, p.Released, p.Picked, p.Packed})
	}
	promised, err := r.PromisesOfLines(ids)
	if err != nil {
		return nil, err
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	code := map[int64]string{}
	for _, h := range houses {
		code[h.ID] = h.Code
	}
	given := map[int64][]Promised{}
	for _, p := range promised {
		given[p.LineID] = append(given[p.LineID], Promised{Day: p.Day, Qty: p.Qty, Warehouse: code[p.WarehouseID]})
	}
	today := d.Today().String()
	out := make([]LineView, len(rows))
	for i, l := range rows {
		v := LineView{
			ID: l.ID, Order: l.OrderNumber, Customer: l.CustomerName, Tier: l.Tier, Line: l.LineNo, SKU: l.SKU, Item: l.ItemName, Unit: l.Unit,
			Multiple: l.Multiple, Warehouse: l.Warehouse, ShipBy: l.ShipBy, PriceMinor: l.PriceMinor, CostMinor: l.CostMinor, At: l.StationCounts,
			Version: l.Version, Places: []PlaceView{}, Free: l.Free, OnHand: l.OnHand, Elsewhere: l.Elsewhere, Holds: strings.Fields(l.Holds), Can: canLine(l),
		}
		if ps := at[l.ID]; len(ps) > 1 || len(ps) == 1 && ps[0].Warehouse != l.Warehouse {
			v.Places = ps
		}
		v.Promises = append([]Promised{}, given[l.ID]...)
		for i := range v.Promises {
			v.Promises[i].Late = v.Promises[i].Day > l.ShipBy
		}
		v.Late = l.ShipBy < today && l.Open+l.Allocated+l.Released+l.Picked+l.Packed > 0
		if l.NextRef != "" {
			v.Next = &Arrival{l.NextRef, l.NextDue, l.NextLeft, l.NextDue < today}
		}
		switch {
		case l.PriceMinor == 0:
			v.DataFault = "No price"
		case l.CostMinor == 0:
			v.DataFault = "No cost"
		}
		out[i] = v
	}
	return out, nil
}

// reasonWords says each reason for not being released in few words.
var reasonWords = map[release.Reason]string{
	release.Nothing:   "nothing is allocated",
	release.OnHold:    "the order is on hold",
	release.NotDue:    "not due yet",
	release.RuleLine:  "the line goes only whole, and part of it is open",
	release.RuleOrder: "the order goes only whole, and part of it is open",
	release.NoBin:     "no bin is set for the item",
}

func candidate(l store.LineRow) release.Candidate {
	day, err := days.Parse(l.ShipBy)
	if err != nil {
		day = 0
	}
	return release.Candidate{
		Allocated: journey.Qty(l.Allocated), Open: journey.Qty(l.Open), OrderOpen: journey.Qty(l.OrderOpen), Holds: len(strings.Fields(l.Holds)),
		ShipBy: day, Rule: journey.ShipRule(l.ShipRule), HasBin: l.HasBin,
	}
}

// never is a day after every other, for questions in which the date plays no part.
const never = days.Day(1<<31 - 1)

func canLine(l store.LineRow) []Can {
	take := int64(plan.Take(journey.Qty(l.Open), journey.Qty(l.Free), journey.Qty(l.Multiple)))
	allocate := Can{Verb: string(VerbAllocate), Qty: take}
	if take == 0 {
		switch {
		case l.Open == 0:
			allocate.Why = "nothing is open"
		case l.Free > 0:
			allocate.Why = fmt.Sprintf("only %d are free and it goes in packs of %d", l.Free, l.Multiple)
		default:
			allocate.Why = "none is free at " + l.Warehouse
		}
	}
	back := Can{Verb: string(VerbGiveBack), Qty: l.Allocated}
	if back.Qty == 0 {
		back.Why = "nothing is allocated"
		if l.Released > 0 {
			back.Why = "what is on a pick list has to be recalled first"
		}
	}
	rel := Can{Verb: string(VerbRelease)}
	if why := release.Check(candidate(l), never); why == release.Offered {
		rel.Qty = l.Allocated
	} else {
		rel.Why = reasonWords[why]
	}
	drop := Can{Verb: string(VerbDrop), Qty: l.Open}
	if drop.Qty == 0 {
		drop.Why = "nothing is open"
	}
	reopen := Can{Verb: string(VerbReopen), Qty: l.Dropped}
	if reopen.Qty == 0 {
		reopen.Why = "nothing was dropped"
	}
	promise := Can{Verb: string(VerbPromise), Qty: l.Open}
	if promise.Qty == 0 {
		promise.Why = "nothing is open"
	}
	return []Can{allocate, back, rel, drop, reopen, promise}
}

// canOrder adds up what is possible on the lines, all of them together.
func canOrder(lines []store.LineRow) []Can {
	type key struct{ item, house int64 }
	left := map[key]int64{}
	for _, l := range lines {
		left[key{l.ItemID, l.WarehouseID}] = l.Free
	}
	sum := map[Verb]*Can{}
	verbs := []Verb{VerbAllocate, VerbGiveBack, VerbRelease, VerbDrop, VerbReopen, VerbPromise}
	for _, v := range verbs {
		sum[v] = &Can{Verb: string(v)}
	}
	var stays release.Reason
	for _, l := range lines {
		k := key{l.ItemID, l.WarehouseID}
		q := int64(plan.Take(journey.Qty(l.Open), journey.Qty(left[k]), journey.Qty(l.Multiple)))
		left[k] -= q
		sum[VerbAllocate].Qty += q
		sum[VerbGiveBack].Qty += l.Allocated
		sum[VerbDrop].Qty += l.Open
		sum[VerbPromise].Qty += l.Open - l.Promised
		sum[VerbReopen].Qty += l.Dropped
		if l.Allocated == 0 {
			continue
		}
		if r := release.Check(candidate(l), never); r == release.Offered {
			sum[VerbRelease].Qty += l.Allocated
		} else {
			stays = r
		}
	}
	nothing := map[Verb]string{
		VerbAllocate: "no line has open units with free stock at its warehouse", VerbGiveBack: "nothing is allocated",
		VerbRelease: "nothing is allocated", VerbDrop: "nothing is open", VerbReopen: "nothing was dropped",
		VerbPromise: "every open unit has its promise",
	}
	out := make([]Can, len(verbs))
	for i, v := range verbs {
		if out[i] = *sum[v]; out[i].Qty == 0 {
			out[i].Why = nothing[v]
		}
		if v == VerbRelease && stays != release.Offered {
			out[i].Why = reasonWords[stays]
		}
	}
	return out
}

// TrailEntry is one thing that happened to an order.
type TrailEntry struct {
	At       string `json:"at" format:"date-time"`
	Who      string `json:"who"`
	Text     string `json:"text"`
	Kind     string `json:"kind" doc:"The move, or hold and lift"`
	Document string `json:"document,omitempty"`
	Command  int64  `json:"command"`
	Undone   bool   `json:"undone"`
}

// Trail returns everything that happened to an order, oldest first.
func (d *Desk) Trail(ctx context.Context, number string) ([]TrailEntry, error) {
	r := d.store.Read(ctx)
	h, found, err := r.OrderByNumber(number)
	if err != nil {
		return nil, err
	}
	if !found {
		return nil, NotFound("There is no order %s.", number)
	}
	happened, err := r.TrailOfOrder(h.ID)
	if err != nil {
		return nil, err
	}
	promised, err := r.PromiseTrail(h.ID)
	if err != nil {
		return nil, err
	}
	out := make([]TrailEntry, 0, len(happened)+len(promised))
	for _, x := range happened {
		out = append(out, TrailEntry{
			At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: happeningText(x), Kind: x.Kind, Document: x.Document, Command: x.Command, Undone: x.Undone,
		})
	}
	for _, x := range promised {
		text, err := promiseText(x)
		if err != nil {
			return nil, err
		}
		out = append(out, TrailEntry{At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: text, Kind: "promise", Command: x.Command, Undone: x.Undone})
	}
	changed, err := r.ChangeTrail(h.ID)
	if err != nil {
		return nil, err
	}
	for _, x := range changed {
		out = append(out, TrailEntry{At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: changeText(x), Kind: "change", Command: x.Command})
	}
	slices.SortStableFunc(out, func(a, b TrailEntry) int { return strings.Compare(a.At, b.At) })
	return out, nil
}

// changeText says what a change of a value did.
func changeText(x store.ChangeHappening) string {
	was, now := x.Was, x.Now
	if x.Field == "wanted" || x.Field == "ship by" {
		was, now = dayText(was), dayText(now)
	}
	text := fmt.Sprintf("changed %s from %s to %s", x.Field, cmp.Or(was, "nothing"), cmp.Or(now, "nothing"))
	if x.LineNo != 0 {
		text += fmt.Sprintf(" on %s, line %d", x.SKU, x.LineNo)
	}
	if x.Reason != "" {
		text += ": " + x.Reason
	}
	return text
}

// promiseText says what a change of promises did.
func promiseText(x store.PromiseHappening) (string, error) {
	was, err := parsedParts(x.Was)
	if err != nil {
		return "", err
	}
	now, err := parsedParts(x.Now)
	if err != nil {
		return "", err
	}
	words := func(gs []plan.Given) string {
		var said []string
		for _, g := range gs {
			said = append(said, fmt.Sprintf("%d for %s", g.Qty, dayWords(g.Day)))
		}
		return strings.Join(said, ", ")
	}
	of := fmt.Sprintf("of %s, line %d", x.SKU, x.LineNo)
	text := ""
	switch {
	case x.Cause == causeAllocated:
		text = fmt.Sprintf("kept %s %s by allocating", some(plan.GivenUnits(was)-plan.GivenUnits(now), "promised unit"), of)
	case x.Cause == causeFewer && len(now) == 0:
		text = fmt.Sprintf("ended the promise of %s %s: nothing of it is open", words(was), of)
	case x.Cause == causeFewer:
		text = fmt.Sprintf("cut the promise %s to %s: no more is open", of, words(now))
	case x.Cause == causeRoom && len(was) > 0:
		text = fmt.Sprintf("put the promise %s back to %s; it was %s", of, words(now), words(was))
	case len(now) == 0:
		text = fmt.Sprintf("took back the promise of %s %s", words(was), of)
	case len(was) == 0:
		text = fmt.Sprintf("promised %s %s", words(now), of)
	default:
		text = fmt.Sprintf("promised %s %s; it was %s", words(now), of, words(was))
	}
	if x.Reason != "" {
		text += ": " + x.Reason
	}
	return text, nil
}

func happeningText(x store.Happening) string {
	var s string
	switch x.Kind {
	case "hold":
		return fmt.Sprintf("put the order on %s hold: %s", x.Cause, x.Reason)
	case "lift":
		s = fmt.Sprintf("lifted the %s hold", x.Cause)
	case string(journey.Short):
		s = fmt.Sprintf("found %d %s of %s, line %d", x.Qty, x.Cause, x.SKU, x.LineNo)
	case string(journey.Deliver):
		s = fmt.Sprintf("delivered %d of %s, line %d", x.Qty, x.SKU, x.LineNo)
	default:
		s = fmt.Sprintf("%s %d of %s, line %d", past(x.Kind), x.Qty, x.SKU, x.LineNo)
	}
	if x.Verb == string(VerbUndo) {
		s = "took back: " + s
	}
	if x.Reason != "" && !slices.Contains([]string{string(VerbImport)}, x.Verb) {
		s += " (" + x.Reason + ")"
	}
	return s
}
