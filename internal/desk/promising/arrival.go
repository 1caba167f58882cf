package promising

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ArrivalMove gives a receipt another day.
type ArrivalMove struct {
	Inbound int64  `json:"inbound" doc:"Key of the inbound"`
	Due     string `json:"due" format:"date"`
	Seen    string `json:"seen" format:"date" doc:"The day that was seen; the command is refused if it has changed since"`
	Anew    bool   `json:"anew" doc:"Whether lines whose promises can no longer be kept are promised anew, as early as can be"`
	Effect  int    `json:"effect" doc:"How many lines were shown to slip; refused if it is another number by now"`
}

// ArrivalEffect is what moving a receipt would do to the promises that stand.
type ArrivalEffect struct {
	Ref       string        `json:"ref"`
	SKU       string        `json:"sku"`
	Item      string        `json:"item"`
	Warehouse string        `json:"warehouse"`
	Left      int64         `json:"left" doc:"Units that are still to come"`
	Was       string        `json:"was" format:"date"`
	Due       string        `json:"due" format:"date"`
	Slips     []SlippedLine `json:"slips" doc:"Lines with a promise that could be kept and then cannot"`
	Saved     []SlippedLine `json:"saved" doc:"Lines with a promise that cannot be kept and then could"`
	Kept      int           `json:"kept" doc:"Promises of the item at the warehouse that stay as good as they are"`
	History   []DueChange   `json:"history" doc:"How its day was changed before, oldest first"`
}

// DueChange is a change of a receipt's day.
type DueChange struct {
	At     string `json:"at" format:"date-time"`
	Who    string `json:"who"`
	Reason string `json:"reason,omitempty"`
	Was    string `json:"was" format:"date"`
	Now    string `json:"now" format:"date"`
}

// SlippedLine is an order line whose promises change in what they are worth.
type SlippedLine struct {
	Line     int64             `json:"line" doc:"Key of the order line"`
	Order    string            `json:"order"`
	No       int               `json:"no"`
	Customer string            `json:"customer"`
	Tier     int               `json:"tier"`
	Was      []supply.Promised `json:"was" doc:"What is promised"`
	Now      []supply.Promised `json:"now" doc:"What could be promised in its place, as early as can be"`
	Short    int64             `json:"short" doc:"Units for which there would be no day"`
}

// ArrivalMoved says what giving a receipt another day would do. It changes nothing.
func (d *Desk) ArrivalMoved(ctx context.Context, inbound int64, due string) (ArrivalEffect, error) {
	r := d.Store.Read(ctx)
	in, found, err := r.InboundByID(inbound)
	if err != nil {
		return ArrivalEffect{}, err
	}
	if !found {
		return ArrivalEffect{}, command.NotFound("There is no such inbound any more. Load the page again.")
	}
	m, err := d.moved(r, in, due)
	if err != nil {
		return ArrivalEffect{}, err
	}
	out := m.effect
	history, err := r.DueChanges(in.ID)
	for _, h := range history {
		out.History = append(out.History, DueChange{h.At.UTC().Format(time.RFC3339), h.Who, h.Reason, h.Was, h.Now})
	}
	return out, err
}

// MoveArrival gives a receipt another day and, if asked, promises again what slips by it.
//
// It locks the lines that slip with the stock of their items, then the inbound. It refuses an inbound that is not as it was seen or
// has come in full, a day that has passed, and other slips than were seen.
func (d *Desk) MoveArrival(ctx context.Context, call command.Call, ask ArrivalMove) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbMoveDue, ask, func(w *command.UnitOfWork) error {
		in, found, err := w.Tx.InboundByID(ask.Inbound)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no such inbound any more. Load the page again.")
		}
		// What would slip says which lines have to be held still, and which stock.
		seen, err := d.moved(&w.Tx.Reader, in, ask.Due)
		if err != nil {
			return err
		}
		var lines []int64
		for _, p := range seen.before.Promised {
			lines = append(lines, p.LineID)
		}
		if err := w.Lock(lines, slices.Sorted(maps.Keys(seen.before.Items))...); err != nil {
			return err
		}
		for _, item := range slices.Sorted(maps.Keys(seen.before.Items)) {
			if !w.Stocked(item) { // nothing else keeps others from promising it meanwhile
				if err := w.Tx.HoldItems(store.IDs{item}); err != nil {
					return err
				}
			}
		}
		if in, _, err = w.Tx.LockInbound(ask.Inbound); err != nil {
			return err
		}
		switch {
		case ask.Seen != in.Due:
			return command.Conflict(
				"%s has changed since you saw it: it is due %s now. Nothing was done; look at it as it is now.", in.Ref,
				words.DayOf(in.Due),
			)
		case in.Received == in.Qty:
			return command.Conflict("%s has come in full; its day is not changed any more.", in.Ref)
		case ask.Due == in.Due:
			return command.Invalid("%s is due %s already.", in.Ref, words.DayOf(in.Due))
		}
		m, err := d.moved(&w.Tx.Reader, in, ask.Due)
		if err != nil {
			return err
		}
		if len(m.effect.Slips) != ask.Effect {
			return command.Conflict(
				"What moving %s would do has changed since you looked: %s would slip now. Look at it again.", in.Ref,
				words.Count(int64(len(m.effect.Slips)), "line"),
			)
		}
		id, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		if err := w.Tx.MoveDue(in.ID, id, in.Due, ask.Due); err != nil {
			return err
		}
		w.SKUs[in.SKU] = true
		w.AddDocument("inbound", in.Ref)
		w.Say("%s is due %s now; it was %s.", in.Ref, words.DayOf(ask.Due), words.DayOf(in.Due))
		if n := len(m.effect.Slips); n > 0 && ask.Anew {
			for _, s := range m.effect.Slips {
				l := w.Lines[s.Line]
				if l == nil { // somebody promised on it while we waited for the item
					return command.Conflict("What moving %s would do has changed since you looked. Look at it again.", in.Ref)
				}
				w.SetPromises(l, m.before.Standing[s.Line], m.repromised[s.Line], command.CausePromised)
			}
			w.Also(words.Say("Promised anew: %s.", words.Count(n, "line")))
		} else if n > 0 {
			w.Also(words.Say("As it stands the promises of %s cannot be kept.", words.Count(n, "line")))
		}
		return nil
	})
}

// movedArrival is a receipt on another day, before and after.
type movedArrival struct {
	before     *supply.Supply
	after      *supply.Supply
	effect     ArrivalEffect
	repromised map[int64][]plan.StandingPromise // by line
}

func (d *Desk) moved(r *store.Reader, in store.InboundRow, due string) (*movedArrival, error) {
	if day, err := days.Parse(due); err != nil {
		return nil, command.Invalid("%s.", err)
	} else if day < d.Today() {
		return nil, command.Invalid("%s has passed: what has not come cannot be expected then.", words.Day(day))
	}
	m, slips, err := d.slipping(r, in, due, store.IDs{in.ItemID})
	if err != nil || len(slips) == 0 {
		return m, err
	}
	// An order that goes only whole slips whole: its other lines, and their items, come in.
	ids := make(store.IDs, len(slips))
	for i, p := range slips {
		ids[i] = p.LineID
	}
	heads, err := r.PromiseLines(ids)
	if err != nil {
		return nil, err
	}
	var whole store.IDs
	for i, h := range heads {
		if journey.ShipRule(h.ShipRule) == journey.ShipWhole && !slices.Contains(whole, h.OrderID) {
			whole = append(whole, heads[i].OrderID)
		}
	}
	if len(whole) > 0 {
		sisters, err := r.LinesOfOrders(whole)
		if err != nil {
			return nil, err
		}
		items := store.IDs{in.ItemID}
		for _, l := range sisters {
			if l.Promised > 0 && !slices.Contains(items, l.ItemID) {
				items = append(items, l.ItemID)
			}
		}
		slices.Sort(items)
		if m, slips, err = d.slipping(r, in, due, items); err != nil {
			return nil, err
		}
		for _, p := range m.before.Promised {
			if slices.Contains(whole, p.OrderID) &&
				!slices.ContainsFunc(slips, func(q store.PromiseHead) bool { return q.LineID == p.LineID }) {
				slips = append(slips, p)
				ids = append(ids, p.LineID)
			}
		}
		if heads, err = r.PromiseLines(ids); err != nil {
			return nil, err
		}
	}
	return m, m.repromise(heads, slips)
}

// slipping finds the lines whose promises could be kept and then cannot, with the supply of
// the items before and after.
func (d *Desk) slipping(r *store.Reader, in store.InboundRow, due string, items store.IDs) (*movedArrival, []store.PromiseHead, error) {
	before, err := d.supply.ReadNamedSupply(r, items)
	if err != nil {
		return nil, nil, err
	}
	after, err := d.supply.ReadSupplyIf(r, items, in.ID, due)
	if err != nil {
		return nil, nil, err
	}
	m := &movedArrival{before: before, after: after, repromised: map[int64][]plan.StandingPromise{}, effect: ArrivalEffect{
		Ref: in.Ref, SKU: in.SKU, Item: before.Items[in.ItemID].Name, Warehouse: in.Warehouse, Left: in.Qty - in.Received, Was: in.Due,
		Due:   due,
		Slips: []SlippedLine{}, Saved: []SlippedLine{}, History: []DueChange{},
	}}
	var slips []store.PromiseHead
	for _, p := range before.Promised {
		if p.WarehouseID != in.WarehouseID || p.ItemID != in.ItemID {
			continue
		}
		was, is := before.RestsOn(p.PromiseRow).Shaky, after.RestsOn(p.PromiseRow).Shaky
		same := func(q SlippedLine) bool { return q.Line == p.LineID }
		switch {
		case is && !was:
			if !slices.ContainsFunc(slips, func(q store.PromiseHead) bool { return q.LineID == p.LineID }) {
				slips = append(slips, p)
			}
		case was && !is:
			if !slices.ContainsFunc(m.effect.Saved, same) {
				m.effect.Saved = append(m.effect.Saved, slipped(before, p))
			}
		default:
			m.effect.Kept++
		}
	}
	return m, slips, nil
}

// repromise computes what the lines that slip could be promised, by tier and day: the
// promises of all others stand. An order that goes only whole leaves on one day again.
func (m *movedArrival) repromise(heads []store.PromiseLineHead, slips []store.PromiseHead) error {
	slices.SortStableFunc(slips, func(a, b store.PromiseHead) int {
		return cmp.Or(
			cmp.Compare(a.Tier, b.Tier), strings.Compare(a.Day, b.Day), strings.Compare(a.OrderNumber, b.OrderNumber),
			cmp.Compare(a.LineNo, b.LineNo),
		)
	})
	byLine := map[int64]store.PromiseLineHead{}
	for _, h := range heads {
		byLine[h.ID] = h
	}
	rank := map[int64]int{}
	var wants []supply.Want
	for i, p := range slips {
		h := byLine[p.LineID]
		by, err := days.Parse(h.ShipBy)
		if err != nil {
			return err
		}
		if _, known := rank[p.OrderID]; !known {
			rank[p.OrderID] = i
		}
		units := plan.StandingUnits(m.after.Standing[p.LineID])
		wants = append(wants, supply.Want{
			Line: p.LineID, Order: p.OrderID, Number: p.OrderNumber, No: int32(p.LineNo), Item: p.ItemID, Warehouse: h.WarehouseID,
			ShipBy:  by,
			Ordered: units, Open: units, Rule: journey.ShipRule(h.ShipRule), Rank: rank[p.OrderID],
		})
	}
	b, keys, err := m.after.Book(wants)
	if err != nil {
		return err
	}
	p := plan.Promise(b, plan.PromiseOptions{Keys: []policy.Key{policy.Entered}})
	short := map[int64]int64{}
	for i := range b.Lines {
		id, ok := keys[supply.LineName{Order: b.Orders[b.Lines[i].Order].Number, No: b.Lines[i].No}]
		if !ok {
			continue
		}
		short[id] = p.Lines[i].Short
		for _, x := range p.PromisesOf(int32(i)) {
			m.repromised[id] = append(m.repromised[id], supply.StandingOf(b, m.after, x))
		}
	}
	for _, s := range slips {
		if slices.Equal(m.repromised[s.LineID], m.before.Standing[s.LineID]) {
			continue // a sister that can leave as it was promised
		}
		line := slipped(m.before, s)
		line.Now, line.Short = m.before.PromisedOf(m.repromised[s.LineID]), short[s.LineID]
		m.effect.Slips = append(m.effect.Slips, line)
	}
	return nil
}

func slipped(s *supply.Supply, p store.PromiseHead) SlippedLine {
	return SlippedLine{
		Line: p.LineID, Order: p.OrderNumber, No: p.LineNo, Customer: p.CustomerName, Tier: p.Tier, Was: s.PromisedOf(s.Standing[p.LineID]),
		Now: []supply.Promised{},
	}
}

// SupplyOfArrivals is what promises on the items rest on before their arrivals change; nil if nothing is promised on them.
func (d *Desk) SupplyOfArrivals(w *command.UnitOfWork, items store.IDs) (*supply.Supply, error) {
	if len(items) == 0 {
		return nil, nil
	}
	slices.Sort(items)
	s, err := d.supply.ReadNamedSupply(&w.Tx.Reader, slices.Compact(items))
	if err != nil || len(s.Promised) == 0 {
		return nil, err
	}
	return s, nil
}

// RepromiseArrivals promises again what could be kept before arrivals were changed and cannot any more, as moving an arrival does.
func (d *Desk) RepromiseArrivals(w *command.UnitOfWork, before *supply.Supply) error {
	if before == nil {
		return nil
	}
	after, err := d.supply.ReadNamedSupply(&w.Tx.Reader, slices.Sorted(maps.Keys(before.Items)))
	if err != nil {
		return err
	}
	m := &movedArrival{
		before: before, after: after, repromised: map[int64][]plan.StandingPromise{}, effect: ArrivalEffect{Slips: []SlippedLine{}},
	}
	var ids store.IDs
	var slips []store.PromiseHead
	for _, p := range before.Promised {
		if after.RestsOn(p.PromiseRow).Shaky && !before.RestsOn(p.PromiseRow).Shaky && !slices.Contains(ids, p.LineID) {
			ids, slips = append(ids, p.LineID), append(slips, p)
		}
	}
	if len(slips) == 0 {
		return nil
	}
	heads, err := w.Tx.PromiseLines(ids)
	if err != nil {
		return err
	}
	whole := map[int64]bool{}
	for _, h := range heads {
		whole[h.OrderID] = whole[h.OrderID] || journey.ShipRule(h.ShipRule) == journey.ShipWhole
	}
	for _, p := range before.Promised { // an order that goes only whole slips whole
		if whole[p.OrderID] && !slices.Contains(ids, p.LineID) {
			ids, slips = append(ids, p.LineID), append(slips, p)
		}
	}
	if heads, err = w.Tx.PromiseLines(ids); err != nil {
		return err
	}
	if err := m.repromise(heads, slips); err != nil {
		return err
	}
	units, lines := w.Outcome.Units, w.Outcome.Lines
	for _, s := range m.effect.Slips {
		if l := w.Lines[s.Line]; l != nil {
			w.SetPromises(l, before.Standing[s.Line], m.repromised[s.Line], command.CausePromised)
		}
	}
	w.Outcome.Units, w.Outcome.Lines = units, lines
	w.Also(words.Say("Promised anew, since arrivals have changed: %s.", words.Count(int64(len(m.effect.Slips)), "line")))
	return nil
}
