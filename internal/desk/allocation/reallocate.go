package allocation

import (
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// Reallocate is the plan of the default policy once all that is allocated where the count breaks
// allocations was given back: broken says how much the count leaves there. had is what the lines
// have from there. Lines of other places are not served.
func (d *Desk) Reallocate(
	r *store.Reader, rows store.Book, broken func(item, house int64) (left int64, is bool),
) (x *ComputedPlan, had map[int64]int64, err error) {
	had = map[int64]int64{}
	var items store.IDs
	for i := range rows.Cells {
		k := &rows.Cells[i]
		if left, is := broken(k.Item, k.Warehouse); is {
			k.Free = left
			items = append(items, k.Item)
		}
	}
	places, err := r.AllocatedPlaces(items)
	if err != nil {
		return nil, nil, err
	}
	for _, p := range places {
		if _, is := broken(p.ItemID, p.WarehouseID); is {
			had[p.LineID] += p.Allocated
		}
	}
	rank := map[string]int{}
	for i := range rows.Lines {
		l := &rows.Lines[i]
		l.Open += had[l.ID]
		l.Allocated -= had[l.ID]
		if _, is := broken(l.Item, l.Warehouse); is || had[l.ID] > 0 {
			rank[l.Number] = i
		}
	}
	row, _, err := r.PolicyByName("")
	if err != nil {
		return nil, nil, err
	}
	v, err := policyView(row)
	if err != nil {
		return nil, nil, err
	}
	b, err := d.supply.MakeBook(r, rows, supply.BookOptions{Rank: rank})
	if err != nil {
		return nil, nil, err
	}
	how, err := v.Rules.allocateOptions(b)
	if err != nil {
		return nil, nil, err
	}
	return &ComputedPlan{b, v.Rules, v.Name, plan.Allocate(b.Book, how)}, had, nil
}

// GiveBackBroken gives back all that is allocated to lines that are held still where fewer units are left for them than that, and returns
// the plan by which what is left is allocated again by the default policy, and how many lines it gives other units.
func (d *Desk) GiveBackBroken(w *command.UnitOfWork, left map[command.CellKey]int64) (x *ComputedPlan, changed int, err error) {
	var items store.IDs
	for k := range left {
		items = append(items, k.Item)
	}
	rows, err := w.Tx.ReadBookOf(items)
	if err != nil {
		return nil, 0, err
	}
	x, had, err := d.Reallocate(&w.Tx.Reader, rows, func(item, house int64) (int64, bool) {
		n, is := left[command.CellKey{Item: item, Warehouse: house}]
		return n, is
	})
	if err != nil {
		return nil, 0, err
	}
	for k := range x.Book.Rows {
		if had[x.Book.Rows[k].ID] != x.Allocation.Units(int32(k)) {
			changed++
		}
	}
	for _, id := range w.LineOrder {
		l := w.Lines[id]
		for _, house := range w.Places(l, l.WarehouseID) {
			if _, is := left[command.CellKey{Item: l.ItemID, Warehouse: house}]; !is || l.At[house][journey.Allocated] == 0 {
				continue
			}
			if err := w.Move(l, house, journey.Make(journey.GiveBack, l.At[house][journey.Allocated]), command.Refs{}); err != nil {
				return nil, 0, err
			}
		}
	}
	return x, changed, nil
}

// AllocateAgain makes the moves of the plan that GiveBackBroken returned, and keeps its reasons.
func AllocateAgain(w *command.UnitOfWork, x *ComputedPlan) error {
	if err := AllocatePlan(w, x); err != nil {
		return err
	}
	return KeepReasons(w, x)
}
