package promising

import (
	"cmp"
	"context"
	"slices"

	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/plan"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// PromiseQuestion is what a customer on the telephone asks.
type PromiseQuestion struct {
	SKU       string
	Qty       int64
	Wished    string // the day on which it should be there
	Customer  string // code; brings warehouse and service
	Service   string
	Warehouse string
	Line      int64 // an order line whose own promises stand aside, for it is to be promised again
}

// PromiseAnswer is how many, by when, with the proof.
type PromiseAnswer struct {
	SKU         string               `json:"sku"`
	Item        string               `json:"item"`
	Unit        string               `json:"unit"`
	Multiple    int64                `json:"multiple"`
	Qty         int64                `json:"qty"`
	Customer    string               `json:"customer,omitempty" doc:"Code of the customer who asks"`
	Name        string               `json:"name,omitempty" doc:"Name of the customer"`
	Service     string               `json:"service"`
	TransitDays int                  `json:"transit_days" doc:"Working days from the dock to the customer"`
	Zone        string               `json:"zone,omitempty" doc:"Where the customer lies, if a zone has its own transit days"`
	Services    []supply.ServiceView `json:"services"`
	Wished      string               `json:"wished" format:"date" doc:"The day on which it should be there"`
	ShipBy      string               `json:"ship_by" format:"date" doc:"The day on which it has to leave for that, or the first one possible"`
	TooSoon     bool                 `json:"too_soon" doc:"Nothing that leaves from now on is there by the wished day"`
	Warehouse   string               `json:"warehouse" doc:"Where it would leave from"`
	Ways        []PromiseWay         `json:"ways" doc:"How it can be promised, the nearest to the wish first"`
	Houses      []HouseOutlook       `json:"houses" doc:"The outlook of each warehouse, the one asked first"`
	Overdue     []OverdueView        `json:"overdue" doc:"Receipts whose day has passed: nothing can rest on them"`
	Lines       []supply.LineView    `json:"lines" doc:"Open lines of the item on which it can be promised, those of the customer first"`
	Instead     []supply.Instead     `json:"instead" doc:"What is free in its place"`

	country, postcode string
}

// PromiseWay is one way to promise the quantity.
type PromiseWay struct {
	Kind    string               `json:"kind" enum:"by,whole,houses" doc:"In time and the rest later; all together; other warehouses help"`
	Parts   []supply.PromisePart `json:"parts"`
	Arrives []string             `json:"arrives" doc:"The day on which each part is there"`
	From    []WayFrom            `json:"from" doc:"How many leave from each warehouse"`
	ByWish  int64                `json:"by_wish" doc:"Units that are there by the wished day"`
	Later   int64                `json:"later" doc:"Units that are there after it"`
	Short   int64                `json:"short" doc:"Units for which there is no day"`
	Late    int                  `json:"late_days" doc:"Working days by which the last part is late"`
}

// WayFrom is how many units of a way leave from a warehouse.
type WayFrom struct {
	Warehouse string `json:"warehouse"`
	Qty       int64  `json:"qty"`
}

// HouseOutlook is what can be promised from one warehouse, day by day.
type HouseOutlook struct {
	Warehouse string       `json:"warehouse"`
	Name      string       `json:"name"`
	OnHand    int64        `json:"on_hand"`
	Held      int64        `json:"held"`
	Free      int64        `json:"free"`
	Promised  int64        `json:"promised" doc:"Units promised and not yet allocated"`
	By        supply.Limit `json:"by" doc:"How many can be promised to leave on the day it has to"`
	Earliest  string       `json:"earliest,omitempty" format:"date" doc:"The first day on which all of it can leave; absent if there is none"`
	LeadDay   string       `json:"lead_day,omitempty" format:"date" doc:"From here on more can be bought; absent if it cannot"`
	Over      string       `json:"over,omitempty" format:"date" doc:"From here on more is promised than there will be"`
	Days      []OutlookDay `json:"days"`
}

// OutlookDay is one day of the picture.
type OutlookDay struct {
	Day         string           `json:"day" format:"date"`
	Arrives     int64            `json:"arrives" doc:"Units of its receipts"`
	Due         int64            `json:"due" doc:"Units of its commitments"`
	Left        int64            `json:"left" doc:"What is left on this day after all promises; negative where too much is promised"`
	ATP         supply.Limit     `json:"atp" doc:"What can still be promised for this day"`
	Receipts    []supply.Arrival `json:"receipts"`
	Commitments []Commitment     `json:"commitments"`
}

// Commitment is a promise that has to be kept on a day.
type Commitment struct {
	Order    string `json:"order"`
	Line     int    `json:"line"`
	Customer string `json:"customer"`
	Tier     int    `json:"tier"`
	Qty      int64  `json:"qty"`
}

// OverdueView is a receipt whose day has passed.
type OverdueView struct {
	Ref       string `json:"ref"`
	Warehouse string `json:"warehouse"`
	Due       string `json:"due" format:"date"`
	Qty       int64  `json:"qty"`
}

// CanPromise answers the question from what is there, expected and promised now.
func (d *Desk) CanPromise(ctx context.Context, ask PromiseQuestion) (PromiseAnswer, error) {
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(ask.SKU)
	if err != nil {
		return PromiseAnswer{}, err
	}
	if !found {
		return PromiseAnswer{}, command.NotFound("There is no item %s. Find it by part of its number or name.", ask.SKU)
	}
	s, err := d.supply.ReadNamedSupply(r, store.IDs{it.ID})
	if err != nil {
		return PromiseAnswer{}, err
	}
	out := PromiseAnswer{
		SKU: it.SKU, Item: it.Name, Unit: it.Unit, Multiple: it.Multiple, Qty: max(1, ask.Qty), Services: []supply.ServiceView{},
		Ways: []PromiseWay{}, Houses: []HouseOutlook{}, Overdue: []OverdueView{}, Instead: []supply.Instead{},
	}
	for _, g := range s.Standing[ask.Line] {
		s.Lift(it.ID, g)
	}
	s.Promised = slices.DeleteFunc(s.Promised, func(p store.PromiseHead) bool { return p.LineID == ask.Line })
	main, err := d.askedBy(r, s, ask, it.ID, &out)
	if err != nil {
		return out, err
	}
	service, err := d.service(r, ask, &out)
	if err != nil {
		return out, err
	}
	dock := s.Docks[main]
	first := d.supply.ReadyOn(dock)
	wished := service.Arrives(first)
	if ask.Wished != "" {
		if wished, err = days.Parse(ask.Wished); err != nil {
			return out, command.Invalid("%s.", err)
		}
	}
	from := service.ShipBy(dock, wished)
	out.TooSoon = from < first
	from = max(from, first)
	out.Wished, out.ShipBy, out.Warehouse = wished.String(), from.String(), s.WarehouseCode[main]
	q := question{s: s, item: it, qty: out.Qty, from: from, wished: wished, service: service}
	out.Ways = q.ways(main)
	houses := q.houses(main)
	until := from
	for _, house := range houses {
		until = max(until, q.until(house))
	}
	for _, house := range houses {
		out.Houses = append(out.Houses, q.house(house, until))
	}
	for _, x := range s.Coming {
		if due, err := days.Parse(x.Due); err == nil && due < s.Today {
			out.Overdue = append(out.Overdue, OverdueView{x.Ref, x.Warehouse, x.Due, x.Qty})
		}
	}
	lines, err := r.OpenLinesOfItem(it.ID, out.Customer, 16)
	if err != nil {
		return out, err
	}
	if out.Lines, err = d.supply.LineViews(r, lines); err != nil {
		return out, err
	}
	instead, err := r.Substitutes(store.IDs{it.ID})
	out.Instead = supply.SubstitutesOf(instead, it.ID, s.WarehouseCode[main], 4)
	return out, err
}

// askedBy notes who asks and returns the warehouse it would leave from: the one that was
// named, the customer's, or the one with most of the item.
func (d *Desk) askedBy(r *store.Reader, s *supply.Supply, ask PromiseQuestion, item int64, out *PromiseAnswer) (int64, error) {
	name := ask.Warehouse
	if ask.Customer != "" {
		c, found, err := r.CustomerWithShipTos(ask.Customer)
		if err != nil {
			return 0, err
		}
		if !found {
			return 0, command.NotFound("There is no customer %s.", ask.Customer)
		}
		out.Customer, out.Name, out.Service = c.Code, c.Name, c.Service
		if len(c.ShipTos) > 0 {
			out.country, out.postcode = c.ShipTos[0].Country, c.ShipTos[0].Postcode
		}
		name = cmp.Or(name, c.Home())
	}
	best := s.Fullest(item)
	if name != "" {
		house, known := s.WarehouseID[name]
		if !known {
			return 0, command.NotFound("There is no warehouse %s.", name)
		}
		_, has := s.Cells[command.CellKey{Item: item, Warehouse: house}]
		if ask.Warehouse != "" || has || best == 0 {
			return house, nil
		}
	}
	if best == 0 {
		return 0, command.Conflict("No warehouse has or expects %s. Import its stock, or expect it in one.", out.SKU)
	}
	return best, nil
}

// service notes how it would be sent.
func (d *Desk) service(r *store.Reader, ask PromiseQuestion, out *PromiseAnswer) (days.Service, error) {
	network, err := d.supply.NetworkTo(r, out.country, out.postcode)
	if err != nil {
		return days.Service{}, err
	}
	out.Service = cmp.Or(ask.Service, out.Service, shipping.UsualService)
	out.Services = supply.ServiceViews(network.To(out.country, out.postcode))
	out.Zone = network.Zone(out.country, out.postcode)
	service, known := network.Takes(out.Service, out.country, out.postcode)
	if !known {
		return service, command.NotFound("There is no service %s.", out.Service)
	}
	out.TransitDays = service.Transit
	return service, nil
}

// question is asked of the supply of one item.
type question struct {
	s       *supply.Supply
	item    store.Item
	qty     int64
	from    days.Day // the day on which it has to leave
	wished  days.Day
	service days.Service
}

// houses lists the warehouses of the item, `main` first.
func (q *question) houses(main int64) []int64 {
	out := []int64{main}
	for _, k := range q.s.CellOrder {
		if k.Warehouse != main {
			out = append(out, k.Warehouse)
		}
	}
	return out
}

// ways are the ways to promise it, from `main` first.
func (q *question) ways(main int64) []PromiseWay {
	houses := q.houses(main)
	asked := plan.Question{Qty: q.qty, Multiple: q.item.Multiple, From: q.from}
	for _, h := range houses {
		asked.Sources = append(asked.Sources, plan.Source{Outlook: q.s.Outlook(q.item.ID, h), Calendar: q.s.Docks[h].Calendar})
	}
	var out []PromiseWay
	for _, w := range asked.Ways() {
		out = append(out, q.way(w, houses))
	}
	return out
}

func (q *question) way(w plan.Way, houses []int64) PromiseWay {
	arrival := w.Arrives(q.service, q.wished)
	out := PromiseWay{
		Kind: string(w.Kind), Parts: []supply.PromisePart{}, Arrives: []string{}, From: []WayFrom{},
		ByWish: arrival.InTime, Later: arrival.Late, Late: arrival.LateDays, Short: w.Short,
	}
	for i, p := range w.Parts {
		house := q.s.WarehouseCode[houses[p.Source]]
		out.Parts = append(out.Parts, supply.PromisePart{Warehouse: house, Day: p.Day.String(), Qty: p.Qty})
		out.Arrives = append(out.Arrives, arrival.Days[i].String())
		if at := slices.IndexFunc(out.From, func(f WayFrom) bool { return f.Warehouse == house }); at >= 0 {
			out.From[at].Qty += p.Qty
		} else {
			out.From = append(out.From, WayFrom{house, p.Qty})
		}
	}
	return out
}

// leastDays and mostDays bound how far the picture goes.
const (
	leastDays = 12
	mostDays  = 44
)

// until is the day by which all of it can leave from the warehouse, if it ever can, and everything that is known has happened there.
func (q *question) until(house int64) days.Day {
	s, until := q.s, q.from
	if day, ok := s.Outlook(q.item.ID, house).Earliest(q.qty, q.from); ok {
		until = max(until, day)
	}
	for _, x := range s.Coming {
		due, err := days.Parse(x.Due)
		if on, counts := outlook.Counts(s.Docks[house].Calendar, s.Today, due); err == nil && counts && x.WarehouseID == house {
			until = max(until, on)
		}
	}
	for _, p := range s.Promised {
		if day, err := days.Parse(p.Day); err == nil && p.WarehouseID == house {
			until = max(until, day)
		}
	}
	return until
}

// house is the outlook of one warehouse: every working day from today until that day, as far as a picture can show.
func (q *question) house(house int64, until days.Day) HouseOutlook {
	s, k := q.s, command.CellKey{Item: q.item.ID, Warehouse: house}
	c, o, lead := s.Cells[k], s.Outlook(q.item.ID, house), s.Lead(q.item.ID)
	v := HouseOutlook{
		Warehouse: s.WarehouseCode[house], Name: c.Name, OnHand: c.OnHand, Held: c.Held, Free: c.Free, By: supply.LimitOf(o.ATP(q.from)),
		Days: []OutlookDay{},
	}
	if lead != outlook.Never {
		v.LeadDay = lead.String()
	}
	if day, ok := o.Over(); ok {
		v.Over = day.String()
	}
	if day, ok := o.Earliest(q.qty, q.from); ok {
		v.Earliest = day.String()
	}
	receipts, commitments := map[days.Day][]supply.Arrival{}, map[days.Day][]Commitment{}
	var events []outlook.Event
	for _, x := range s.Coming {
		due, err := days.Parse(x.Due)
		if on, counts := outlook.Counts(s.Docks[house].Calendar, s.Today, due); err == nil && counts && x.WarehouseID == house {
			receipts[on] = append(receipts[on], supply.Arrival{Ref: x.Ref, Due: x.Due, Qty: x.Qty})
		}
	}
	for _, p := range s.Promised {
		day, err := days.Parse(p.Day)
		if err != nil || p.WarehouseID != house {
			continue
		}
		v.Promised += p.Qty
		events = append(events, outlook.Event{Day: day, Qty: p.Qty})
		day = max(day, s.Today)
		commitments[day] = append(commitments[day], Commitment{p.OrderNumber, p.LineNo, p.CustomerName, p.Tier, p.Qty})
	}
	rows := outlook.Picture(s.Today, lead, c.Free, s.Receipts[k], events)
	left := c.Free
	for day := s.Today; len(v.Days) < mostDays && (day <= until+1 || len(v.Days) < leastDays); day++ {
		for len(rows) > 0 && rows[0].Day <= day {
			left, rows = rows[0].Cumulative, rows[1:]
		}
		if !s.Docks[house].Calendar.Works(day) && receipts[day] == nil && commitments[day] == nil {
			continue
		}
		came, due := int64(0), int64(0)
		for _, x := range receipts[day] {
			came += x.Qty
		}
		for _, x := range commitments[day] {
			due += x.Qty
		}
		v.Days = append(v.Days, OutlookDay{
			Day: day.String(), Arrives: came, Due: due, Left: left, ATP: supply.LimitOf(o.ATP(day)),
			Receipts: append([]supply.Arrival{}, receipts[day]...), Commitments: append([]Commitment{}, commitments[day]...),
		})
	}
	return v
}
