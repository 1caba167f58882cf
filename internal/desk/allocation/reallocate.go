package allocation

import (
	"journeyman/core/plan"
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
