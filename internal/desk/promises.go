package desk

import (
	"encoding/json"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/store"
	"slices"
)

// Causes of a change of promises, as the database knows them.
const (
	causePromised  = "promised"
	causeAllocated = "kept by allocating"
	causeFewer     = "fewer are open"
	causeUndone    = "taken back"
	causeRoom      = "made room"
)

// settle notes what becomes of a line's promises.
func (w *work) settle(l *line, was, now []plan.Given, cause string) {
	w.settled[l.ID] = store.PromiseEntry{
		Line: l.ID, Order: l.OrderID, Item: l.ItemID, Was: storedParts(was), Now: storedParts(now), Cause: cause,
	}
	if cause == causePromised || cause == causeUndone || cause == causeRoom {
		if cause != causeUndone {
			w.out.Units += plan.GivenUnits(now)
		}
		w.skus[l.SKU], w.orders[l.OrderNumber] = true, true
		l.moved = true
	}
}

// promises is what becomes of the promises of the lines that moved: allocating keeps the
// earliest, and what is no longer open is cut, the latest first.
func (w *work) promises() ([]store.PromiseEntry, error) {
	var ask store.IDs
	for _, id := range w.order {
		if l := w.lines[id]; l.moved && l.Promised > 0 {
			if _, done := w.settled[id]; !done {
				ask = append(ask, id)
			}
		}
	}
	if len(ask) > 0 {
		byLine := w.given
		if byLine == nil {
			rows, err := w.tx.PromisesOfLines(ask)
			if err != nil {
				return nil, err
			}
			if byLine, err = givenByLine(rows); err != nil {
				return nil, err
			}
		}
		for _, id := range ask {
			l, was := w.lines[id], byLine[id]
			cause := causeFewer
			now := was
			if l.taken > 0 {
				now, cause = plan.UseUp(was, int64(l.taken)), causeAllocated
			}
			now = plan.CutTo(now, int64(l.now.At[journey.Open]))
			if !slices.Equal(now, was) {
				w.settle(l, was, now, cause)
			}
		}
	}
	out := make([]store.PromiseEntry, 0, len(w.settled))
	for _, id := range w.order {
		if e, ok := w.settled[id]; ok {
			out = append(out, e)
		}
	}
	return out, nil
}

func storedParts(gs []plan.Given) []store.PromisePart {
	var out []store.PromisePart
	for _, g := range gs {
		out = append(out, store.PromisePart{Warehouse: g.Warehouse, Day: g.Day.String(), Qty: g.Qty})
	}
	return out
}

func parsedParts(text string) ([]plan.Given, error) {
	var parts []store.PromisePart
	if err := json.Unmarshal([]byte(text), &parts); err != nil {
		return nil, err
	}
	var out []plan.Given
	for _, p := range parts {
		d, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		out = append(out, plan.Given{Warehouse: p.Warehouse, Day: d, Qty: p.Qty})
	}
	return out, nil
}

func givenByLine(rows []store.PromiseRow) (map[int64][]plan.Given, error) {
	out := map[int64][]plan.Given{}
	for _, p := range rows {
		d, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		out[p.LineID] = append(out[p.LineID], plan.Given{Warehouse: p.WarehouseID, Day: d, Qty: p.Qty})
	}
	return out, nil
}
