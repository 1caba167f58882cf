package query

import (
	"context"
	"slices"

	"journeyman/core/capped"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// ReleaseLine is an allocated line as the list of what could go to the floor shows it.
type ReleaseLine struct {
	supply.LineView
	Ready      int    `json:"ready" doc:"Open lines of its order that could go in full now"`
	OpenLines  int    `json:"open_lines"`
	OrderOpen  int64  `json:"order_open" doc:"Units of its order that are open, with its own"`
	WeightG    int64  `json:"weight_g" doc:"Weight of what is allocated"`
	ValueMinor int64  `json:"value_minor" doc:"What is allocated is worth"`
	Currency   string `json:"currency"`
}

// ReleasePage is a page of allocated lines.
type ReleasePage struct {
	Lines []ReleaseLine `json:"lines"`
	Next
}

// Release returns a page of allocated lines: those that could go to the floor, or that could not for a reason.
func (d *Desk) Release(ctx context.Context, ask Ask) (ReleasePage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Release, ask)
	if err != nil {
		return ReleasePage{}, err
	}
	rows, err := r.LinesInOrder(ids)
	if err != nil {
		return ReleasePage{}, err
	}
	views, err := d.supply.LineViews(r, rows)
	if err != nil {
		return ReleasePage{}, err
	}
	orders := make(store.IDs, len(rows))
	for i, l := range rows {
		orders[i] = l.OrderID
	}
	slices.Sort(orders)
	wants, err := r.WantsOfOrders(slices.Compact(orders))
	byOrder := map[int64][]store.LineRow{}
	for _, l := range wants {
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	out := ReleasePage{Lines: make([]ReleaseLine, len(rows)), Next: next}
	for i, l := range rows {
		of := byOrder[l.OrderID]
		line := ReleaseLine{
			LineView: views[i], WeightG: capped.Times(l.Allocated, l.WeightG), ValueMinor: capped.Times(l.Allocated, l.PriceMinor),
			Currency: l.Currency,
		}
		line.Ready, line.OpenLines = supply.ReadyShare(of)
		for _, w := range of {
			line.OrderOpen = capped.Plus(line.OrderOpen, w.Open)
		}
		out.Lines[i] = line
	}
	return out, err
}
