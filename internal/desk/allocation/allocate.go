package allocation

import (
	"context"

	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/words"
)

// Allocate sets free stock aside: for lines the quantity asked, for orders all
// that is free, line by line in the order in which the orders are listed.
//
// It locks the lines with the stock of their items. It refuses more than is open or free, what is no whole pack, and lines and orders
// that are not as they were seen.
func (d *Desk) Allocate(ctx context.Context, call command.Call, ask command.Selection) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbAllocate, ask, func(w *command.UnitOfWork) error {
		lines, err := w.Choose(ask)
		if err != nil {
			return err
		}
		for _, c := range lines {
			if c.Asked > 0 {
				if err := allocateExactly(w, c); err != nil {
					return err
				}
				continue
			}
			free := w.Free(c.Line, c.Warehouse)
			if q := plan.Take(c.Line.Now.At[journey.Open], free, journey.Qty(c.Line.Multiple)); q > 0 {
				if err := w.Move(c.Line, c.Warehouse, journey.Make(journey.Allocate, q), command.Refs{}); err != nil {
					return err
				}
			}
		}
		if w.Outcome.Units == 0 {
			return command.Conflict(
				"Nothing could be allocated: no line of what was chosen has open units with free stock at its warehouse.",
			)
		}
		w.Describe("Allocated")
		return nil
	})
}

func allocateExactly(w *command.UnitOfWork, c command.Chosen) error {
	q, m := c.Asked, journey.Qty(c.Line.Multiple)
	open, free := c.Line.Now.At[journey.Open], w.Free(c.Line, c.Warehouse)
	switch {
	case q > open:
		return command.Conflict("%s line %d has %d open; %d cannot be allocated.", c.Line.OrderNumber, c.Line.LineNo, open, q)
	case q > free:
		return command.Conflict(
			"Only %d of %s are free at %s; %d cannot be allocated.", free, c.Line.SKU, w.WarehouseCode(c.Line, c.Warehouse), q,
		)
	case m > 1 && q < open && q%m != 0:
		return command.Invalid("%s goes in packs of %d: allocate a multiple of %d, or all %d that are open.", c.Line.SKU, m, m, open)
	}
	return w.Move(c.Line, c.Warehouse, journey.Make(journey.Allocate, q), command.Refs{})
}

// GiveBack returns allocated units to free stock: for lines the quantity asked,
// for orders everything that is allocated and not yet released.
//
// It locks the lines with the stock of their items. It refuses more than is allocated, and lines and orders that are not as they were
// seen.
func (d *Desk) GiveBack(ctx context.Context, call command.Call, ask command.Selection) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbGiveBack, ask, func(w *command.UnitOfWork) error {
		lines, err := w.Choose(ask)
		if err != nil {
			return err
		}
		for _, c := range lines {
			if err := w.MoveFromPlaces(c, journey.GiveBack, journey.Allocated); err != nil {
				return err
			}
		}
		if w.Outcome.Units == 0 {
			return command.Conflict("Nothing is allocated on what was chosen. What is on a pick list has to be recalled first.")
		}
		w.Describe("Gave back")
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
//
// It locks all lines of which something is allocated, with their stock. It refuses if that is not what was seen.
func (d *Desk) GiveBackAll(ctx context.Context, call command.Call, ask GiveBackAllAsk) (command.Outcome, error) {
	p := d.NewProgress(ctx, call.Key)
	defer p.End()
	return d.Run(ctx, call, command.VerbGiveBack, ask, func(w *command.UnitOfWork) error {
		house := int64(0)
		if ask.Warehouse != "" {
			var err error
			if house, err = w.WarehouseID(ask.Warehouse); err != nil {
				return err
			}
		}
		ids, err := w.Tx.AllocatedLineIDs(house)
		if err != nil {
			return err
		}
		if len(ids) > command.ManyRows {
			p.Begin("Giving back", len(ids))
		}
		if err := w.LockMany(ids); err != nil {
			return err
		}
		for _, id := range ids {
			l := w.Lines[id]
			for _, wh := range w.Places(l, l.WarehouseID) {
				if q := l.At[wh][journey.Allocated]; q > 0 && (house == 0 || wh == house) {
					if err := w.Move(l, wh, journey.Make(journey.GiveBack, q), command.Refs{}); err != nil {
						return err
					}
				}
			}
		}
		if w.Outcome.Units != ask.Units {
			return command.Conflict(
				"You saw %s allocated; by now it is %d. Nothing was done; look again.", words.Count(ask.Units, "unit"), w.Outcome.Units,
			)
		}
		w.Describe("Gave back")
		return nil
	})
}
