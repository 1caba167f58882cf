package desk

import (
	"context"

	"journeyman/core/journey"
	"journeyman/core/plan"
)

// Allocate sets free stock aside: for lines the quantity asked, for orders all
// that is free, line by line in the order in which the orders are listed.
func (d *Desk) Allocate(ctx context.Context, call Call, ask Selection) (Outcome, error) {
	return d.run(ctx, call, VerbAllocate, ask, func(w *work) error {
		lines, err := w.choose(ask)
		if err != nil {
			return err
		}
		for _, c := range lines {
			if c.asked > 0 {
				if err := allocateExactly(w, c); err != nil {
					return err
				}
				continue
			}
			free := w.free(c.line, c.warehouse)
			if q := plan.Take(c.line.now.At[journey.Open], free, journey.Qty(c.line.Multiple)); q > 0 {
				if err := w.move(c.line, c.warehouse, journey.Make(journey.Allocate, q), entry{}); err != nil {
					return err
				}
			}
		}
		if w.out.Units == 0 {
			return Conflict("Nothing could be allocated: no line of what was chosen has open units with free stock at its warehouse.")
		}
		w.describe("Allocated")
		return nil
	})
}

func allocateExactly(w *work, c chosen) error {
	q, m := c.asked, journey.Qty(c.line.Multiple)
	open, free := c.line.now.At[journey.Open], w.free(c.line, c.warehouse)
	switch {
	case q > open:
		return Conflict("%s line %d has %d open; %d cannot be allocated.", c.line.OrderNumber, c.line.LineNo, open, q)
	case q > free:
		return Conflict("Only %d of %s are free at %s; %d cannot be allocated.", free, c.line.SKU, w.code(c.line, c.warehouse), q)
	case m > 1 && q < open && q%m != 0:
		return Invalid("%s goes in packs of %d: allocate a multiple of %d, or all %d that are open.", c.line.SKU, m, m, open)
	}
	return w.move(c.line, c.warehouse, journey.Make(journey.Allocate, q), entry{})
}

// GiveBack returns allocated units to free stock: for lines the quantity asked,
// for orders everything that is allocated and not yet released.
func (d *Desk) GiveBack(ctx context.Context, call Call, ask Selection) (Outcome, error) {
	return d.run(ctx, call, VerbGiveBack, ask, func(w *work) error {
		lines, err := w.choose(ask)
		if err != nil {
			return err
		}
		for _, c := range lines {
			if err := w.fromPlaces(c, journey.GiveBack, journey.Allocated); err != nil {
				return err
			}
		}
		if w.out.Units == 0 {
			return Conflict("Nothing is allocated on what was chosen. What is on a pick list has to be recalled first.")
		}
		w.describe("Gave back")
		return nil
	})
}

// GiveBackAllAsk gives back all that is allocated, everywhere or at one warehouse.
type GiveBackAllAsk struct {
	Warehouse string `json:"warehouse,omitempty" maxLength:"12"`
	Units     int64  `json:"units" minimum:"1" doc:"How many units were seen to be allocated there; refused if it is another number by now"`
}

// GiveBackAll returns all allocated units to free stock, such as before a stock count is loaded.
// What is on a pick list or further on stays.
func (d *Desk) GiveBackAll(ctx context.Context, call Call, ask GiveBackAllAsk) (Outcome, error) {
	p := d.progress(ctx, call.Key)
	defer p.end()
	return d.run(ctx, call, VerbGiveBack, ask, func(w *work) error {
		house := int64(0)
		if ask.Warehouse != "" {
			var err error
			if house, err = w.warehouse(ask.Warehouse); err != nil {
				return err
			}
		}
		ids, err := w.tx.AllocatedLineIDs(house)
		if err != nil {
			return err
		}
		if len(ids) > manyRows {
			p.begin("Giving back", len(ids))
		}
		if err := w.lockMany(ids); err != nil {
			return err
		}
		for _, id := range ids {
			l := w.lines[id]
			for _, wh := range w.places(l, l.WarehouseID) {
				if q := l.at[wh][journey.Allocated]; q > 0 && (house == 0 || wh == house) {
					if err := w.move(l, wh, journey.Make(journey.GiveBack, q), entry{}); err != nil {
						return err
					}
				}
			}
		}
		if w.out.Units != ask.Units {
			return Conflict("You saw %s allocated; by now it is %d. Nothing was done; look again.", some(ask.Units, "unit"), w.out.Units)
		}
		w.describe("Gave back")
		return nil
	})
}
