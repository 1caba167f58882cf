package query

import (
	"context"
	"slices"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// PromisedRow is a promise in the list of those that stand.
type PromisedRow struct {
	ID        int64         `json:"id"`
	Day       string        `json:"day" format:"date"`
	Order     string        `json:"order"`
	Line      int           `json:"line"`
	LineID    int64         `json:"line_id"`
	Customer  string        `json:"customer"`
	Tier      int           `json:"tier"`
	SKU       string        `json:"sku"`
	Item      string        `json:"item"`
	Qty       int64         `json:"qty"`
	Warehouse string        `json:"warehouse"`
	ShipBy    string        `json:"ship_by" format:"date"`
	Late      bool          `json:"late" doc:"Promised for a later day than the line is to be shipped"`
	LateDays  int           `json:"late_days" doc:"By how many days"`
	Past      bool          `json:"past" doc:"Its day has passed and it is not allocated"`
	Free      int64         `json:"free" doc:"Free of the item at the warehouse now"`
	Rests     words.Message `json:"rests" doc:"What it rests on, in words"`
	Shaky     bool          `json:"shaky" doc:"More is promised than there will be by then, so it cannot be kept as things stand"`
}

// PromisedPage is a page of the promises that stand.
type PromisedPage struct {
	Promises []PromisedRow `json:"promises"`
	Next
}

// Promised returns a page of the promises that stand.
func (d *Desk) Promised(ctx context.Context, ask Ask) (PromisedPage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Promises, ask)
	if err != nil {
		return PromisedPage{}, err
	}
	rows, err := r.PromisesByKey(ids)
	if err != nil {
		return PromisedPage{}, err
	}
	var items store.IDs
	for _, p := range rows {
		if !slices.Contains(items, p.ItemID) {
			items = append(items, p.ItemID)
		}
	}
	s, err := d.supply.ReadSupply(r, items)
	if err != nil {
		return PromisedPage{}, err
	}
	out := PromisedPage{Promises: make([]PromisedRow, len(rows)), Next: next}
	today := d.Today().String()
	for i, p := range rows {
		row := PromisedRow{
			ID: p.ID, Day: p.Day, Order: p.OrderNumber, Line: p.LineNo, LineID: p.LineID, Customer: p.CustomerName, Tier: p.Tier, SKU: p.SKU,
			Item: p.ItemName,
			Qty:  p.Qty, Warehouse: p.Warehouse, ShipBy: p.ShipBy, Late: p.LateDays > 0, LateDays: p.LateDays, Past: p.Day < today,
			Free: s.Cells[command.CellKey{Item: p.ItemID, Warehouse: p.WarehouseID}].Free,
		}
		rest := s.RestsOn(p.PromiseRow)
		row.Rests, row.Shaky = rest.Text, rest.Shaky
		out.Promises[i] = row
	}
	return out, nil
}

// Unpromised is how many lines have open units of which none is promised.
func (d *Desk) Unpromised(ctx context.Context) (int64, error) {
	return d.Store.Read(ctx).LinesWithoutPromise()
}
