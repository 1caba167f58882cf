package command

import (
	"encoding/json"
	"slices"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/store"
)

// Causes of a change of promises, as the database knows them.
const (
	CausePromised  = "promised"
	CauseAllocated = "kept by allocating"
	CauseFewer     = "fewer are open"
	CauseUndone    = "taken back"
	CauseRoom      = "made room"
)

// SetPromises notes what becomes of a line's promises.
func (w *UnitOfWork) SetPromises(l *Line, was, now []plan.StandingPromise, cause string) {
	w.PromiseChanges[l.ID] = store.PromiseEntry{
		Line: l.ID, Order: l.OrderID, Item: l.ItemID, Was: StoreParts(was), Now: StoreParts(now), Cause: cause,
	}
	if cause == CausePromised || cause == CauseUndone || cause == CauseRoom {
		if cause != CauseUndone {
			w.Outcome.Units += plan.StandingUnits(now)
		}
		w.SKUs[l.SKU], w.Orders[l.OrderNumber] = true, true
		l.Moved = true
	}
}

// changedPromises is what becomes of the promises of the lines that moved: allocating keeps the
// earliest, and what is no longer open is cut, the latest first.
func (w *UnitOfWork) changedPromises() ([]store.PromiseEntry, error) {
	var ask store.IDs
	for _, id := range w.LineOrder {
		if l := w.Lines[id]; l.Moved && l.Promised > 0 {
			if _, done := w.PromiseChanges[id]; !done {
				ask = append(ask, id)
			}
		}
	}
	if len(ask) > 0 {
		byLine := w.standing
		if byLine == nil {
			rows, err := w.Tx.PromisesOfLines(ask)
			if err != nil {
				return nil, err
			}
			if byLine, err = promisesByLine(rows); err != nil {
				return nil, err
			}
		}
		for _, id := range ask {
			l, was := w.Lines[id], byLine[id]
			cause := CauseFewer
			now := was
			if l.taken > 0 {
				now, cause = plan.UseUp(was, int64(l.taken)), CauseAllocated
			}
			now = plan.CutTo(now, int64(l.Now.At[journey.Open]))
			if !slices.Equal(now, was) {
				w.SetPromises(l, was, now, cause)
			}
		}
	}
	out := make([]store.PromiseEntry, 0, len(w.PromiseChanges))
	for _, id := range w.LineOrder {
		if e, ok := w.PromiseChanges[id]; ok {
			out = append(out, e)
		}
	}
	return out, nil
}

// StoreParts are promises as they are stored.
func StoreParts(gs []plan.StandingPromise) []store.PromisePart {
	var out []store.PromisePart
	for _, g := range gs {
		out = append(out, store.PromisePart{Warehouse: g.Warehouse, Day: g.Day.String(), Qty: g.Qty})
	}
	return out
}

// ParseParts reads promises as they are stored, a JSON text.
func ParseParts(text string) ([]plan.StandingPromise, error) {
	var parts []store.PromisePart
	if err := json.Unmarshal([]byte(text), &parts); err != nil {
		return nil, err
	}
	var out []plan.StandingPromise
	for _, p := range parts {
		d, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		out = append(out, plan.StandingPromise{Warehouse: p.Warehouse, Day: d, Qty: p.Qty})
	}
	return out, nil
}

func promisesByLine(rows []store.PromiseRow) (map[int64][]plan.StandingPromise, error) {
	out := map[int64][]plan.StandingPromise{}
	for _, p := range rows {
		d, err := days.Parse(p.Day)
		if err != nil {
			return nil, err
		}
		out[p.LineID] = append(out[p.LineID], plan.StandingPromise{Warehouse: p.WarehouseID, Day: d, Qty: p.Qty})
	}
	return out, nil
}
