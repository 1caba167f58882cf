package sales

import (
	"context"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/supply"
	"journeyman/internal/words"
)

// MakeRoom puts the chosen promises back, and enters an order for whom room was made, if the asking says so, in the same command.
// What it locks and refuses is said at promising's PutBack.
func (d *Desk) MakeRoom(ctx context.Context, call command.Call, ask promising.RoomApply) (command.Outcome, error) {
	if ask.Order == nil {
		return d.promising.PutBack(ctx, call, ask, nil)
	}
	if ask.Line != 0 || ask.Customer == "" {
		return command.Outcome{}, command.Invalid("An order is entered for a customer who asks: say who it is.")
	}
	if err := command.VerbMakeRoom.Allowed(call.Actor); err != nil {
		return command.Outcome{}, err
	}
	return d.promising.PutBack(ctx, call, ask, func(w *command.UnitOfWork, s *supply.Supply, room promising.Room) (words.Message, error) {
		return d.enterInRoom(w, s, room, ask.Customer, *ask.Order)
	})
}

// enterInRoom enters what was asked for, and refuses if it would leave later than room was made for.
func (d *Desk) enterInRoom(
	w *command.UnitOfWork, s *supply.Supply, room promising.Room, customer string, order promising.RoomOrder,
) (said words.Message, err error) {
	dr, err := d.readDraft(&w.Tx.Reader, Draft{
		Customer: customer, Service: order.Service, Wanted: order.Wanted,
		Lines: []DraftLine{{SKU: room.SKU, Qty: room.Qty, Warehouse: room.Warehouse}},
	})
	if err != nil {
		return said, err
	}
	if err := dr.workOut(s); err != nil {
		return said, err
	}
	if len(dr.faults) > 0 {
		return said, command.Refuse(dr.faults[0].Said)
	}
	l, early := dr.lines[0], int64(0)
	for _, g := range l.given {
		if g.Warehouse == room.WarehouseID && g.Day <= room.By {
			early += g.Qty
		}
	}
	if early < room.Qty {
		return said, command.Conflict("Of the %d only %d could leave %s by %s as an order of %s (%s). Nothing was done; make room "+
			"alone, and enter the order by hand.",
			room.Qty, early, room.Warehouse, words.Day(room.By), dr.cust.Name, dr.promisedWords(l))
	}
	number, approval, err := writeOrder(w, dr, 0)
	return words.Say("Entered %s for %s: %d of %s promised for %s.", number, dr.cust.Name, room.Qty, room.SKU,
		words.Day(l.given[len(l.given)-1].Day)).And(dr.lateWords()).And(approval), err
}
