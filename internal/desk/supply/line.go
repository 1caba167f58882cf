package supply

import (
	"strings"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Counts are units at each station.
type Counts = store.StationCounts

// Can says how much of a verb is possible now, and if none, why.
type Can struct {
	Verb string        `json:"verb"`
	Qty  int64         `json:"qty" doc:"Units for which it is possible now; 0 if it is not"`
	Why  words.Message `json:"why,omitzero" doc:"Why it is not possible, or what limits it"`
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

// LineViews are the rows with what is possible on each.
func (d *Desk) LineViews(r *store.Reader, rows []store.LineRow) ([]LineView, error) {
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
	until, err := d.LookAhead(r, houses)
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
			ID: l.ID, Order: l.OrderNumber, Customer: l.CustomerName, Tier: l.Tier, Line: l.LineNo, SKU: l.SKU, Item: l.ItemName,
			Unit:     l.Unit,
			Multiple: l.Multiple, Warehouse: l.Warehouse, ShipBy: l.ShipBy, PriceMinor: l.PriceMinor, CostMinor: l.CostMinor,
			At:      l.StationCounts,
			Version: l.Version, Places: []PlaceView{}, Free: l.Free, OnHand: l.OnHand, Elsewhere: l.Elsewhere,
			Holds: strings.Fields(l.Holds), Can: canLine(l, until),
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

// ReleaseReasons says each reason for not being released in few words.
var ReleaseReasons = map[release.Reason]words.Message{
	release.Nothing:   words.Say("nothing is allocated"),
	release.OnHold:    words.Say("the order is on hold"),
	release.NotDue:    words.Say("not due yet"),
	release.Early:     words.Say("its order must not leave before a later day"),
	release.RuleLine:  words.Say("the line goes only whole, and part of it is open"),
	release.RuleOrder: words.Say("the order goes only whole, and part of it is open"),
	release.Waiting:   words.Say("some of it is still to be put back"),
	release.NoBin:     words.Say("no bin is set for the item"),
}

// releaseCandidate is the line as core/release asks about it, with the look-ahead day.
func releaseCandidate(l store.LineRow, until days.Day) release.Candidate {
	day, err := days.Parse(l.ShipBy)
	if err != nil {
		day = 0
	}
	return release.Candidate{
		Allocated: journey.Qty(l.Allocated), Open: journey.Qty(l.Open), OrderOpen: journey.Qty(l.OrderOpen),
		Holds:  len(strings.Fields(l.Holds)),
		ShipBy: day, Early: l.NotBefore > until.String(), Rule: journey.ShipRule(l.ShipRule), Waiting: l.Waiting, HasBin: l.HasBin,
	}
}

// ReleasingCandidate is an allocated line that is due by the day as core/release asks about it.
func ReleasingCandidate(x store.Releasing, until days.Day) release.Candidate {
	c := release.Candidate{
		Allocated: journey.Qty(x.Allocated), Open: journey.Qty(x.Open), OrderOpen: journey.Qty(x.OrderOpen),
		ShipBy: until, Early: x.NotBefore > until.String(), Rule: journey.ShipRule(x.ShipRule), Waiting: x.Waiting, HasBin: x.HasBin,
	}
	if x.Held {
		c.Holds = 1
	}
	return c
}

// GroupCandidate is a line of a group as core/release asks about it, where the group says whether it is due by the day.
func GroupCandidate(g store.ReleaseGroup, until days.Day) release.Candidate {
	c := release.Candidate{
		Allocated: 1, Open: journey.Qty(g.Open), OrderOpen: journey.Qty(g.OrderOpen), Rule: journey.ShipRule(g.ShipRule), ShipBy: until,
		Early: g.Early, Waiting: g.Waiting, HasBin: g.HasBin,
	}
	if g.Held {
		c.Holds = 1
	}
	if g.Day != "" {
		c.ShipBy++
	}
	return c
}

// never is a day after every other, for questions in which the date plays no part.
const never = days.Day(1<<31 - 1)

func canLine(l store.LineRow, until days.Day) []Can {
	take := int64(plan.Take(journey.Qty(l.Open), journey.Qty(l.Free), journey.Qty(l.Multiple)))
	allocate := Can{Verb: string(command.VerbAllocate), Qty: take}
	if take == 0 {
		switch {
		case l.Open == 0:
			allocate.Why = words.Say("nothing is open")
		case l.Free > 0:
			allocate.Why = words.Say("only %d are free and it goes in packs of %d", l.Free, l.Multiple)
		default:
			allocate.Why = words.Say("none is free at %s", l.Warehouse)
		}
	}
	back := Can{Verb: string(command.VerbGiveBack), Qty: l.Allocated}
	if back.Qty == 0 {
		back.Why = words.Say("nothing is allocated")
		if l.Released > 0 {
			back.Why = words.Say("what is on a pick list has to be recalled first")
		}
	}
	rel := Can{Verb: string(command.VerbRelease)}
	if why := release.Check(releaseCandidate(l, until), never); why == release.Offered {
		rel.Qty = l.Allocated
	} else {
		rel.Why = ReleaseReasons[why]
	}
	drop := Can{Verb: string(command.VerbDrop), Qty: l.Open}
	if drop.Qty == 0 {
		drop.Why = words.Say("nothing is open")
	}
	reopen := Can{Verb: string(command.VerbReopen), Qty: l.Dropped}
	if reopen.Qty == 0 {
		reopen.Why = words.Say("nothing was dropped")
	}
	promise := Can{Verb: string(command.VerbPromise), Qty: l.Open}
	if promise.Qty == 0 {
		promise.Why = words.Say("nothing is open")
	}
	return []Can{allocate, back, rel, drop, reopen, promise}
}

// CanOrder adds up what is possible on the lines, all of them together, with the look-ahead day.
func CanOrder(lines []store.LineRow, until days.Day) []Can {
	type key struct{ item, house int64 }
	left := map[key]int64{}
	for _, l := range lines {
		left[key{l.ItemID, l.WarehouseID}] = l.Free
	}
	sum := map[command.Verb]*Can{}
	verbs := []command.Verb{
		command.VerbAllocate, command.VerbGiveBack, command.VerbRelease, command.VerbDrop, command.VerbReopen, command.VerbPromise,
	}
	for _, v := range verbs {
		sum[v] = &Can{Verb: string(v)}
	}
	var stays release.Reason
	for _, l := range lines {
		k := key{l.ItemID, l.WarehouseID}
		q := int64(plan.Take(journey.Qty(l.Open), journey.Qty(left[k]), journey.Qty(l.Multiple)))
		left[k] -= q
		sum[command.VerbAllocate].Qty += q
		sum[command.VerbGiveBack].Qty += l.Allocated
		sum[command.VerbDrop].Qty += l.Open
		sum[command.VerbPromise].Qty += l.Open - l.Promised
		sum[command.VerbReopen].Qty += l.Dropped
		if l.Allocated == 0 {
			continue
		}
		if r := release.Check(releaseCandidate(l, until), never); r == release.Offered {
			sum[command.VerbRelease].Qty += l.Allocated
		} else {
			stays = r
		}
	}
	nothing := map[command.Verb]words.Message{
		command.VerbAllocate: words.Say("no line has open units with free stock at its warehouse"),
		command.VerbGiveBack: words.Say("nothing is allocated"),
		command.VerbRelease:  words.Say("nothing is allocated"),
		command.VerbDrop:     words.Say("nothing is open"),
		command.VerbReopen:   words.Say("nothing was dropped"),
		command.VerbPromise:  words.Say("every open unit has its promise"),
	}
	out := make([]Can, len(verbs))
	for i, v := range verbs {
		if out[i] = *sum[v]; out[i].Qty == 0 {
			out[i].Why = nothing[v]
		}
		if v == command.VerbRelease && stays != release.Offered {
			out[i].Why = ReleaseReasons[stays]
		}
	}
	return out
}

// PromisePart is so many units for a day from a warehouse.
type PromisePart struct {
	Warehouse string `json:"warehouse" maxLength:"12"`
	Day       string `json:"day" format:"date" doc:"The day on which they leave"`
	Qty       int64  `json:"qty" minimum:"1" maximum:"1000000000"`
}

// AddCounts adds up the units of two counts, station by station.
func AddCounts(a, b Counts) Counts {
	a.Ordered += b.Ordered
	a.Open += b.Open
	a.Allocated += b.Allocated
	a.Released += b.Released
	a.Picked += b.Picked
	a.Packed += b.Packed
	a.Shipped += b.Shipped
	a.Delivered += b.Delivered
	a.Dropped += b.Dropped
	a.Promised += b.Promised
	return a
}
