package promising

import (
	"context"
	"slices"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/words"
)

// LinePromise is what is to be promised on a line, in place of what was; nothing takes its promises back.
type LinePromise struct {
	Line  int64                `json:"line" doc:"Key of the order line"`
	Seen  int64                `json:"seen" doc:"Version of the line that was seen"`
	Parts []supply.PromisePart `json:"parts" maxItems:"60"`
}

// PromiseAsk names lines with their promises, or orders to be promised as early as can be.
type PromiseAsk struct {
	Lines  []LinePromise       `json:"lines,omitempty" maxItems:"500"`
	Orders []command.OrderSeen `json:"orders,omitempty" maxItems:"500"`
}

// Promise gives lines the promises that were asked for, if the stock and what is expected
// bear them; or orders, in the order listed, the earliest that their ship rules allow, no
// promise of theirs made worse.
//
// It locks the lines with the stock and the outlook of their items. It refuses lines and orders that are not as they were seen, more
// than is open or can be promised, days that have passed or are not worked, and what is already as good as can be.
func (d *Desk) Promise(ctx context.Context, call command.Call, ask PromiseAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPromise, ask, func(w *command.UnitOfWork) error {
		if (len(ask.Lines) == 0) == (len(ask.Orders) == 0) {
			return command.Invalid("Choose lines or orders.")
		}
		if len(ask.Orders) > 0 {
			return d.promiseOrders(w, ask.Orders)
		}
		return d.promiseLines(w, ask.Lines)
	})
}

func (d *Desk) promiseLines(w *command.UnitOfWork, asked []LinePromise) error {
	ids := make([]int64, len(asked))
	for i, a := range asked {
		if slices.Contains(ids[:i], a.Line) {
			return command.Invalid("A line was chosen twice. Choose it once, with all its promises.")
		}
		ids[i] = a.Line
	}
	if err := w.Lock(ids); err != nil {
		return err
	}
	s, err := d.supply.LockSupply(w)
	if err != nil {
		return err
	}
	for _, a := range asked {
		l := w.Lines[a.Line]
		if a.Seen != 0 {
			if err := w.CheckVersion(l, a.Seen); err != nil {
				return err
			}
		}
		given, err := checkedParts(w, s, l, a.Parts)
		if err != nil {
			return err
		}
		was := s.Standing[l.ID]
		for _, g := range was {
			s.Lift(l.ItemID, g)
		}
		for _, g := range given {
			o := s.Outlook(l.ItemID, g.Warehouse)
			if there := o.ATP(g.Day); there < g.Qty {
				return command.Conflict("Only %d of %s can be promised from %s for %s; %d cannot. Ask again: somebody may have promised some since.",
					there, l.SKU, s.WarehouseCode[g.Warehouse], words.Day(g.Day), g.Qty)
			}
			o.Take(g.Day, g.Qty)
		}
		w.SetPromises(l, was, given, command.CausePromised)
	}
	w.Outcome.Said = promised(w)
	return nil
}

// checkedParts checks what is to be promised on a line by itself.
func checkedParts(w *command.UnitOfWork, s *supply.Supply, l *command.Line, parts []supply.PromisePart) ([]plan.StandingPromise, error) {
	var given []plan.StandingPromise
	name := words.Say("%s line %d", l.OrderNumber, l.LineNo)
	open := int64(l.Now.At[journey.Open])
	units := int64(0) // never more than is open, so the sum cannot wrap
	for _, p := range parts {
		day, err := days.Parse(p.Day)
		if err != nil {
			return nil, command.Invalid("%s: %s.", name, err)
		}
		house, ok := s.WarehouseID[p.Warehouse]
		switch {
		case !ok:
			return nil, command.NotFound("There is no warehouse %s.", p.Warehouse)
		case p.Qty <= 0:
			return nil, command.Invalid("The quantity must be at least 1.")
		case p.Qty > open-units:
			return nil, command.Conflict("%s has %d open; %d cannot be promised.", name, open, capped.Plus(units, p.Qty))
		case day < w.Today():
			return nil, command.Invalid("%s cannot be promised for %s: that day has passed.", name, words.Day(day))
		case !s.Docks[house].Calendar.Works(day):
			return nil, command.Invalid(
				"%s cannot be promised for %s: nothing leaves %s on that day. The next one is %s.", name, words.Day(day), p.Warehouse,
				words.Day(s.Docks[house].Calendar.Next(day)),
			)
		}
		units += p.Qty
		given = append(given, plan.StandingPromise{Warehouse: house, Day: day, Qty: p.Qty})
	}
	slices.SortStableFunc(given, func(a, b plan.StandingPromise) int { return int(a.Day) - int(b.Day) })
	if len(given) > 0 && journey.ShipRule(l.ShipRule) != journey.ShipAny && (len(given) > 1 || units < open) {
		return nil, command.Conflict("%s goes only in one piece: promise all %d for one day from one warehouse.", name, open)
	}
	return given, nil
}

// promiseOrders serves the orders one after another by the core's promise run.
func (d *Desk) promiseOrders(w *command.UnitOfWork, asked []command.OrderSeen) error {
	chosen, err := w.ChooseOrders(asked)
	if err != nil {
		return err
	}
	s, err := d.supply.LockSupply(w)
	if err != nil {
		return err
	}
	rank := map[int64]int{}
	var wants []supply.Want
	for _, c := range chosen {
		l := c.Line
		if _, known := rank[l.OrderID]; !known {
			rank[l.OrderID] = len(rank)
		}
		day, err := days.Parse(l.ShipBy)
		if err != nil {
			return err
		}
		wants = append(wants, supply.Want{
			Line: l.ID, Order: l.OrderID, Number: l.OrderNumber, No: int32(l.LineNo), Item: l.ItemID, Warehouse: l.WarehouseID, ShipBy: day,
			Ordered: int64(l.Now.Ordered), Open: int64(l.Now.At[journey.Open]), Rule: journey.ShipRule(l.ShipRule), Rank: rank[l.OrderID],
		})
	}
	b, keys, err := s.Book(wants)
	if err != nil {
		return err
	}
	p := plan.Promise(b, plan.PromiseOptions{Keys: []policy.Key{policy.Entered}, Keep: true})
	short := int64(0)
	for i := range b.Lines {
		id, ok := keys[supply.LineName{Order: b.Orders[b.Lines[i].Order].Number, No: b.Lines[i].No}]
		if !ok || b.Lines[i].Open == 0 {
			continue
		}
		l := w.Lines[id]
		var given []plan.StandingPromise
		for _, x := range p.PromisesOf(int32(i)) {
			given = append(
				given, plan.StandingPromise{Warehouse: s.WarehouseID[b.Warehouses[b.Cells[x.Cell].Warehouse]], Day: x.Day, Qty: x.Qty},
			)
		}
		short += p.Lines[i].Short
		if was := s.Standing[id]; !slices.Equal(was, given) {
			w.SetPromises(l, was, given, command.CausePromised)
		}
	}
	switch {
	case len(w.PromiseChanges) == 0 && short > 0:
		return command.Conflict(
			"Nothing can be promised: there is too little, nothing that is enough is expected, and it cannot be bought.",
		)
	case len(w.PromiseChanges) == 0:
		return command.Conflict("Nothing can be promised better than it is: every open unit has the earliest day there is.")
	}
	w.Outcome.Said = promised(w)
	if short > 0 {
		w.Also(words.Say("For %s there is no supply due.", words.Count(short, "unit")))
	}
	return nil
}

// promised says what was promised.
func promised(w *command.UnitOfWork) words.Message {
	if len(w.PromiseChanges) == 1 {
		for id, e := range w.PromiseChanges {
			l := w.Lines[id]
			if len(e.Now) == 0 {
				return words.Say("Took back the promises of %s line %d.", l.OrderNumber, l.LineNo)
			}
			var said []words.Message
			for _, p := range e.Now {
				said = append(said, words.Say("%d for %s", p.Qty, words.DayOf(p.Day)))
			}
			return words.Say("Promised on %s line %d: %s.", l.OrderNumber, l.LineNo, words.List(said, ", "))
		}
	}
	return words.Say("Promised %s of %s.", words.Count(w.Outcome.Units, "unit"), words.Count(int64(len(w.Orders)), "order"))
}
