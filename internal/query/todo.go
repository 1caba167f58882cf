package query

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/order"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/core/release"
	"journeyman/core/shipping"
	"journeyman/core/todo"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Todo is something that waits for a person, with its one next step.
type Todo struct {
	Kind       string            `json:"kind" enum:"delivery,dispatch,pack,pick,short,release,hold,allocate,keep,promise,arrival,buy,quote"`
	Document   string            `json:"document" enum:"order,shipment,pick list,quote,request to buy,inbound" doc:"What it is about"`
	Number     string            `json:"number" doc:"Of the document"`
	Warehouse  string            `json:"warehouse,omitempty"`
	Customer   string            `json:"customer,omitempty" doc:"One of those for whom it is"`
	Customers  int64             `json:"customers" doc:"How many they are"`
	Tier       int               `json:"tier" doc:"Of the first of them"`
	ValueMinor int64             `json:"value_minor" doc:"What is at stake"`
	Currency   string            `json:"currency,omitempty" doc:"Absent if there are several"`
	Units      int64             `json:"units"`
	Lines      int64             `json:"lines,omitempty"`
	SKU        string            `json:"sku,omitempty" doc:"If it is about one item"`
	Day        string            `json:"day" format:"date" doc:"By which it was or is to be done"`
	By         string            `json:"by" format:"date-time" doc:"Until when it has to be done, or something more is lost"`
	On         string            `json:"on" format:"date" doc:"The day of that"`
	CutOff     bool              `json:"cut_off" doc:"That is a cut-off, and not just the end of the day"`
	Zone       string            `json:"zone" doc:"Time zone of the warehouse, by its IANA name"`
	Next       string            `json:"next" format:"date" doc:"The day that it becomes if that is missed"`
	Missed     int               `json:"missed" doc:"Working days that are lost already"`
	Note       words.Message     `json:"note,omitzero" doc:"What is in its way: holds, what a promise lacks, what the carrier said"`
	Verb       string            `json:"verb" doc:"The command that it takes"`
	Chosen     []command.LineQty `json:"chosen" doc:"What can be allocated or released of it at once, as it was seen"`
	Promise    *TodoPromise      `json:"promise,omitempty" doc:"What is to be promised"`
	Receipt    *InboundView      `json:"receipt,omitempty"`
}

// TodoPromise is a line that is to be promised.
type TodoPromise struct {
	Line      int64  `json:"line" doc:"Key of the line"`
	SKU       string `json:"sku"`
	Qty       int64  `json:"qty" doc:"Its open units"`
	Warehouse string `json:"warehouse"`
	Customer  string `json:"customer" doc:"Code of the customer"`
}

// TodoPage is what waits for a person, the most urgent first.
type TodoPage struct {
	Today string      `json:"today" format:"date"`
	Until string      `json:"until" format:"date" doc:"What is to be shipped by this day counts"`
	Todos []Todo      `json:"todos"`
	More  []TodoSum   `json:"more" doc:"What is not listed, by kind"`
	Begun store.Begun `json:"begun"`
}

// TodoSum is how many matters of a kind are not listed.
type TodoSum struct {
	Kind string `json:"kind"`
	N    int    `json:"n"`
}

const (
	mostTodos     = 60  // are listed
	mostPerSource = 150 // are looked at of each kind
)

// verbOf says which command a matter takes.
var verbOf = map[todo.Kind]command.Verb{
	todo.Delivery: command.VerbDeliver, todo.Dispatch: command.VerbDispatch, todo.Pack: command.VerbPack, todo.Pick: command.VerbPick,
	todo.Short:   command.VerbAllocate,
	todo.Release: command.VerbRelease, todo.Hold: command.VerbLift, todo.Allocate: command.VerbAllocate, todo.Keep: command.VerbPromise,
	todo.Promise: command.VerbPromise, todo.Arrival: command.VerbMoveDue, todo.Buy: command.VerbSettle, todo.Quote: command.VerbEnter,
}

// TodoShow chooses whose work is listed.
type TodoShow string

// What can be chosen.
const (
	TodoAll    TodoShow = ""
	TodoOffice TodoShow = "office"
	TodoFloor  TodoShow = "floor"
)

func (s TodoShow) has(k todo.Kind) bool { return s == TodoAll || k.OnFloor() == (s == TodoFloor) }

// Todo returns what waits for that person, the most urgent first (core/todo): what is to be shipped within the look-ahead of the
// warehouses, of each kind the first 150, and only what their role may do.
func (d *Desk) Todo(ctx context.Context, who command.Actor, show TodoShow) (TodoPage, error) {
	r := d.Store.Read(ctx)
	g := &gathering{d: d, r: r, today: d.Today(), docks: map[string]days.Dock{}}
	houses, err := r.Warehouses()
	if err != nil {
		return TodoPage{}, err
	}
	docks, err := d.supply.Docks(r, houses)
	if err != nil {
		return TodoPage{}, err
	}
	for _, h := range houses {
		g.docks[h.Code] = docks[h.ID]
	}
	if g.until, err = d.supply.LookAhead(r, houses); err != nil {
		return TodoPage{}, err
	}
	parts := []struct {
		kind todo.Kind // of what it gathers, or one that is shown to the same people
		read func() ([]matter, error)
	}{
		{todo.Dispatch, g.shipments},
		{todo.Delivery, g.underWay},
		{todo.Pack, g.packing},
		{todo.Pick, g.picking},
		{todo.Short, g.shorts},
		{todo.Release, g.releasing},
		{todo.Hold, g.held},
		{todo.Promise, g.wanting},
		{todo.Arrival, g.receipts},
		{todo.Buy, g.buying},
		{todo.Quote, g.quotes},
	}
	found := make([][]matter, len(parts))
	var all errgroup.Group
	all.SetLimit(4)
	for i, part := range parts {
		if !show.has(part.kind) || !who.Role.May(verbOf[part.kind]) {
			continue
		}
		all.Go(func() (err error) {
			found[i], err = part.read()
			return err
		})
	}
	if err := all.Wait(); err != nil {
		return TodoPage{}, err
	}
	out := TodoPage{Today: g.today.String(), Until: g.until.String(), Todos: []Todo{}, More: []TodoSum{}}
	out.Begun, err = r.Begun()
	asked := map[[2]string]bool{} // lines of which something was short, by order and item: that question stands for the others about them
	for _, m := range slices.Concat(found...) {
		if m.Kind == todo.Short {
			asked[[2]string{m.row.Number, m.row.SKU}] = true
		}
	}
	out.rank(slices.DeleteFunc(slices.Concat(found...), func(m matter) bool {
		again := (m.Kind == todo.Allocate || m.Kind == todo.Promise) && asked[[2]string{m.row.Number, m.row.SKU}]
		return again || !who.Role.May(m.verb())
	}), d.Now())
	return out, err
}

// matter is a matter of the core with the row that it becomes.
type matter struct {
	todo.Matter
	row Todo
}

// verb is the command that it takes.
func (m matter) verb() command.Verb { return cmp.Or(command.Verb(m.row.Verb), verbOf[m.Kind]) }

func (p *TodoPage) rank(found []matter, now time.Time) {
	matters := make([]todo.Matter, len(found))
	for i := range found {
		matters[i] = found[i].Matter
	}
	more := map[todo.Kind]int{}
	for i, m := range todo.Rank(matters, now) {
		if i >= mostTodos {
			more[m.Kind]++
			continue
		}
		x := found[m.At].row
		x.Kind, x.Verb = string(m.Kind), string(found[m.At].verb())
		x.Tier, x.ValueMinor, x.Day = m.Tier, m.Value, m.Matter.Day.String()
		x.By, x.Missed, x.On, x.CutOff = m.By.UTC().Format(time.RFC3339), m.Missed, m.Urgency.Day.String(), m.Dock.CutOff > 0
		x.Zone = m.Dock.Zone.String()
		x.Next = m.Dock.Calendar.Next(m.Urgency.Day + 1).String()
		if x.Chosen == nil {
			x.Chosen = []command.LineQty{}
		}
		p.Todos = append(p.Todos, x)
	}
	for _, k := range todo.Kinds {
		if more[k] > 0 {
			p.More = append(p.More, TodoSum{string(k), more[k]})
		}
	}
}

// gathering reads what waits, kind by kind.
type gathering struct {
	d     *Desk
	r     *store.Reader
	today days.Day
	until days.Day
	docks map[string]days.Dock
}

// add adds what is due. Of a matter are set its kind, tier and value, and its reference if the number of the document is not enough.
func (g *gathering) add(to *[]matter, m todo.Matter, day, house string, row Todo) error {
	due, err := days.Parse(day)
	if err != nil {
		return err
	}
	if due > g.until {
		return nil
	}
	m.Day, m.Dock = due, days.Dock{Zone: g.d.Zone}
	if k, known := g.docks[house]; known {
		m.Dock = k
	}
	m.Ref = cmp.Or(m.Ref, row.Number)
	row.Warehouse = house
	*to = append(*to, matter{m, row})
	return nil
}

func (g *gathering) shipments() (out []matter, err error) {
	rows, _, err := g.d.shipments(g.r, Ask{})
	if err != nil {
		return nil, err
	}
	for _, h := range rows {
		if shipping.StateOf(h.AskedAt != nil, false, false) != shipping.Packed || h.Holds != "" || !g.d.waits(h).IsZero() {
			continue
		}
		if err := g.add(&out, todo.Matter{Kind: todo.Dispatch, Tier: h.Tier, Value: h.ValueMinor}, h.ShipBy, h.Warehouse, Todo{
			Document: "shipment", Number: h.Number, Customer: h.CustomerName, Customers: 1, Currency: h.Currency, Units: h.Units,
			Note: words.Plain(h.Refused),
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (g *gathering) underWay() (out []matter, err error) {
	rows, _, err := g.d.shipments(g.r, InState("under way"))
	if err != nil {
		return nil, err
	}
	for _, h := range rows {
		if h.Expected >= g.today.String() && h.Exception == "" {
			continue
		}
		if err := g.add(&out, todo.Matter{Kind: todo.Delivery, Tier: h.Tier, Value: h.ValueMinor}, h.Expected, h.Warehouse, Todo{
			Document: "shipment", Number: h.Number, Customer: h.CustomerName, Customers: 1, Currency: h.Currency, Units: h.Units,
			Note: words.Plain(h.Exception),
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (g *gathering) packing() (out []matter, err error) {
	waiting, err := g.d.packing(g.r, Ask{})
	if err != nil {
		return nil, err
	}
	for _, j := range waiting.Jobs {
		if len(j.Holds) > 0 {
			continue
		}
		m := todo.Matter{Kind: todo.Pack, Ref: j.Order + " " + j.Warehouse, Tier: j.Tier, Value: j.ValueMinor}
		if err := g.add(&out, m, j.ShipBy, j.Warehouse, Todo{
			Document: "order", Number: j.Order, Customer: j.Customer, Customers: 1, Currency: j.Currency, Units: j.Units,
			Lines: int64(len(j.Lines)),
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (g *gathering) picking() (out []matter, err error) {
	lists, _, err := g.d.pickLists(g.r, Ask{Sort: "first_ship"})
	if err != nil {
		return nil, err
	}
	for _, h := range lists {
		if err := g.add(&out, todo.Matter{Kind: todo.Pick, Tier: h.Tier, Value: h.ValueMinor}, h.FirstShip, h.Warehouse, Todo{
			Document: "pick list", Number: h.Number, Customer: h.Customer, Customers: h.Customers, Currency: h.Currency, Units: h.Due,
			Lines: h.TasksDue,
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// shorts is the lines of which fewer were found than a pick list said: what is free at the warehouse can be allocated at once, else it is
// decided on the page of the shortage.
func (g *gathering) shorts() (out []matter, err error) {
	rows, err := g.r.ShortLines(g.until.String(), mostPerSource)
	if err != nil {
		return nil, err
	}
	for _, x := range rows {
		row := Todo{
			Document: "order", Number: x.Number, Customer: x.Customer, Customers: 1, Currency: x.Currency, Units: x.Units, Lines: 1,
			SKU: x.SKU, Note: shortNote(x),
		}
		if take := plan.Take(journey.Qty(x.Units), journey.Qty(x.Free), journey.Qty(x.Multiple)); take > 0 {
			row.Chosen = []command.LineQty{{Line: x.Line, Qty: int64(take), Warehouse: x.Warehouse, Seen: x.Version}}
		}
		m := todo.Matter{Kind: todo.Short, Ref: fmt.Sprint(x.Line), Tier: x.Tier, Value: x.ValueMinor}
		if err := g.add(&out, m, x.ShipBy, x.Warehouse, row); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// shortNote says who found fewer, where, and why.
func shortNote(x store.ShortLine) words.Message {
	switch {
	case x.Bin == "":
		return words.Say("%s found fewer", x.Who)
	case x.Cause == string(journey.Damaged):
		return words.Say("%s found damaged units in %s", x.Who, x.Bin)
	}
	return words.Say("%s found fewer in %s", x.Who, x.Bin)
}

// releasing is the orders with lines that could go to the floor. A line whose units stand in several warehouses, or in another than its
// own, is chosen on the page for it.
func (g *gathering) releasing() (out []matter, err error) {
	rows, err := g.r.ReleaseCandidates(store.ReleaseQuery{Until: g.until.String()}, 4*mostPerSource)
	if err != nil {
		return nil, err
	}
	var ids store.IDs
	for _, x := range rows {
		if release.Check(supply.ReleasingCandidate(x, g.until), g.until) == release.Offered {
			ids = append(ids, x.Line)
		}
	}
	lines, err := g.r.LinesInOrder(ids)
	if err != nil {
		return nil, err
	}
	return g.byOrder(todo.Release, lines, func(l store.LineRow) int64 { return l.Allocated })
}

// byOrder makes one matter of the lines of an order, of each of which so many units are concerned. It is due when the first of them is.
func (g *gathering) byOrder(kind todo.Kind, lines []store.LineRow, units func(store.LineRow) int64) (out []matter, err error) {
	byOrder := map[int64][]store.LineRow{}
	var orders []int64
	for _, l := range lines {
		if units(l) <= 0 {
			continue
		}
		if byOrder[l.OrderID] == nil {
			orders = append(orders, l.OrderID)
		}
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	for _, id := range orders {
		some := byOrder[id]
		l := slices.MinFunc(some, func(x, y store.LineRow) int { return cmp.Compare(x.ShipBy, y.ShipBy) })
		m := todo.Matter{Kind: kind, Tier: l.Tier}
		row := Todo{
			Document: "order", Number: l.OrderNumber, Customer: l.CustomerName, Customers: 1, Currency: l.Currency,
			Lines: int64(len(some)), Promise: &TodoPromise{l.ID, l.SKU, l.Open, l.Warehouse, l.CustomerCode},
		}
		for _, x := range some {
			n := units(x)
			m.Value, row.Units = capped.Plus(m.Value, capped.Times(n, x.PriceMinor)), capped.Plus(row.Units, n)
			row.Chosen = append(row.Chosen, command.LineQty{Line: x.ID, Qty: n, Seen: x.Version})
		}
		if len(some) == 1 {
			row.SKU = l.SKU
		}
		if err := g.add(&out, m, l.ShipBy, l.Warehouse, row); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (g *gathering) held() (out []matter, err error) {
	rows, err := g.r.HeldOrders(g.until.String(), mostPerSource)
	if err != nil {
		return nil, err
	}
	for _, h := range rows {
		row := Todo{
			Document: "order", Number: h.Number, Customer: h.Customer, Customers: 1, Currency: h.Currency, Units: h.Units, Lines: h.Lines,
			Note: words.Plain(strings.ReplaceAll(h.Kinds, " ", ", ")),
		}
		if err := g.add(&out, todo.Matter{Kind: todo.Hold, Tier: h.Tier, Value: h.ValueMinor}, h.ShipBy, h.Warehouse, row); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// wanting is the orders with open units that are due: those that could have stock without breaking a promise, those whose promises cannot
// be kept, and those with neither stock nor a promise.
func (g *gathering) wanting() ([]matter, error) {
	ids, err := g.r.OrdersWanting(g.until.String(), mostPerSource)
	if err != nil {
		return nil, err
	}
	lines, err := g.r.LinesOfOrders(ids)
	if err != nil {
		return nil, err
	}
	promises, err := g.r.PromisesUntil(g.until.String(), 2*mostPerSource)
	if err != nil {
		return nil, err
	}
	lines = slices.DeleteFunc(lines, func(l store.LineRow) bool { return l.Open == 0 })
	var items store.IDs
	for _, l := range lines {
		items = append(items, l.ItemID)
	}
	for _, p := range promises {
		items = append(items, p.ItemID)
	}
	slices.Sort(items)
	s, err := g.d.supply.ReadSupply(g.r, slices.Compact(items))
	if err != nil {
		return nil, err
	}
	gets, err := g.couldHave(s, ids, lines)
	if err != nil {
		return nil, err
	}
	out, err := g.byOrder(todo.Allocate, lines, func(l store.LineRow) int64 { return gets[l.ID] })
	if err != nil {
		return nil, err
	}
	served := map[string]bool{}
	for _, m := range out {
		served[m.row.Number] = true
	}
	none, err := g.byOrder(todo.Promise, lines, func(l store.LineRow) int64 {
		if served[l.OrderNumber] || l.ShipBy > g.until.String() {
			return 0
		}
		return l.Open - l.Promised
	})
	if err != nil {
		return nil, err
	}
	broken, err := g.broken(s, promises, gets)
	return slices.Concat(out, none, broken), err
}

// couldHave says how many units each line could have from free stock at its warehouse, the most urgent order first, with every promise to
// others kept (core/plan).
func (g *gathering) couldHave(s *supply.Supply, ids store.IDs, lines []store.LineRow) (map[int64]int64, error) {
	wants := make([]supply.Want, len(lines))
	for i, l := range lines {
		day, err := days.Parse(l.ShipBy)
		if err != nil {
			return nil, err
		}
		wants[i] = supply.Want{
			Line: l.ID, Order: l.OrderID, Item: l.ItemID, Warehouse: l.WarehouseID, Number: l.OrderNumber, No: int32(l.LineNo), ShipBy: day,
			Ordered: l.Ordered, Open: l.Open, Rule: journey.ShipRule(l.ShipRule), Rank: slices.Index(ids, l.OrderID),
		}
	}
	b, keys, err := s.Book(wants)
	if err != nil {
		return nil, err
	}
	a := plan.Allocate(b, plan.AllocateOptions{Keys: []policy.Key{policy.Entered}, Window: int(g.until - g.today)})
	gets := map[int64]int64{}
	for i := range b.Lines {
		if n := a.Units(int32(i)); n > 0 {
			l := &b.Lines[i]
			gets[keys[supply.LineName{Order: b.Orders[l.Order].Number, No: l.No}]] = n
		}
	}
	return gets, nil
}

// broken is the promises that cannot be kept as things stand, line by line.
func (g *gathering) broken(s *supply.Supply, promises []store.PromiseLine, gets map[int64]int64) (out []matter, err error) {
	at := map[int64]int{}
	for _, p := range promises {
		rest := s.RestsOn(p.PromiseRow)
		if !rest.Shaky || gets[p.LineID] > 0 {
			continue
		}
		i, known := at[p.LineID]
		if !known {
			i = len(out)
			ref := fmt.Sprintf("%s/%d", p.OrderNumber, p.LineNo)
			if err := g.add(&out, todo.Matter{Kind: todo.Keep, Ref: ref, Tier: p.Tier}, p.Day, p.Warehouse, Todo{
				Document: "order", Number: p.OrderNumber, Customer: p.CustomerName, Customers: 1, Currency: p.Currency, Lines: 1,
				SKU: p.SKU, Promise: &TodoPromise{p.LineID, p.SKU, p.Open, p.Warehouse, p.CustomerCode}, Note: rest.Lack,
			}); err != nil {
				return nil, err
			}
			at[p.LineID] = i
		}
		out[i].row.Units = capped.Plus(out[i].row.Units, p.Qty)
		out[i].Value = capped.Plus(out[i].Value, capped.Times(p.Qty, p.PriceMinor))
	}
	return out, nil
}

func (g *gathering) receipts() (out []matter, err error) {
	rows, err := g.r.LateReceipts(g.today.String(), g.until.String(), mostPerSource)
	if err != nil {
		return nil, err
	}
	ids := make(store.IDs, len(rows))
	for i, x := range rows {
		ids[i] = x.ID
	}
	shown, err := g.r.ReceiptRows(ids)
	if err != nil {
		return nil, err
	}
	views := g.d.inboundViews(shown)
	for i, x := range rows {
		n := views[i]
		m := todo.Matter{Kind: todo.Arrival, Ref: n.Ref + " " + n.SKU + " " + n.Warehouse, Tier: x.Tier, Value: x.ValueMinor}
		if err := g.add(&out, m, x.ShipBy, n.Warehouse, Todo{
			Document: "inbound", Number: n.Ref, Currency: x.Currency, Units: x.Units, Lines: x.Lines, SKU: n.SKU, Receipt: &n,
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// buying is the requests to buy that have to be settled for the goods to come in time.
func (g *gathering) buying() (out []matter, err error) {
	rows, err := g.r.BuyRequests(nil, 0, mostPerSource)
	if err != nil {
		return nil, err
	}
	for _, b := range rows {
		if b.Settled {
			continue
		}
		wanted, err := days.Parse(b.Wanted)
		if err != nil {
			return nil, err
		}
		last := outlook.OrderBy(g.d.supply.Calendar(), wanted, b.LeadDays)
		m := todo.Matter{Kind: todo.Buy, Tier: 5, Value: capped.Times(b.Qty, b.CostMinor)}
		if err := g.add(&out, m, last.String(), b.Warehouse, Todo{
			Document: "request to buy", Number: b.Number, Currency: b.Currency, Units: b.Qty, SKU: b.SKU,
		}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// quotes is those that wait for an approval and those that run out.
func (g *gathering) quotes() (out []matter, err error) {
	rows, _, err := g.d.quotes(g.r, Ask{})
	if err != nil {
		return nil, err
	}
	limit, err := g.r.QuoteLimit()
	if err != nil {
		return nil, err
	}
	for _, q := range rows {
		row := Todo{
			Document: "quote", Number: q.Number, Customer: q.CustomerName, Customers: 1, Currency: q.Currency, Units: q.Qty,
			Lines: int64(q.Lines),
		}
		state := supply.QuoteOf(q, limit).State(g.today)
		switch state {
		case order.QuoteToApprove:
			row.Verb = string(command.VerbApprove)
		case order.QuoteStands:
		case order.QuoteExpired, order.QuoteAccepted, order.QuoteWithdrawn:
			continue
		}
		m := todo.Matter{Kind: todo.Quote, Tier: q.Tier, Value: max(0, q.ValueMinor-q.AcceptedMinor)}
		if err := g.add(&out, m, q.Expires, "", row); err != nil {
			return nil, err
		}
	}
	return out, nil
}
