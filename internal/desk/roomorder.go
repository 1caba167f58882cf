package desk

import (
	"fmt"

	"journeyman/internal/desk/supply"

	"journeyman/internal/desk/command"

	"journeyman/internal/desk/words"
)

// RoomOrder is the order for which room is made; all else is the customer's.
type RoomOrder struct {
	Wanted  string `json:"wanted" format:"date" doc:"The day on which it should be there"`
	Service string `json:"service,omitempty" maxLength:"60"`
}

// enterInRoom enters what was asked for, and refuses if it would leave later than room was made for.
func (d *Desk) enterInRoom(w *command.UnitOfWork, s *supply.Supply, x *rooming, ask RoomApply) (told string, err error) {
	dr, err := d.drafting(&w.Tx.Reader, Draft{
		Customer: ask.Customer, Service: ask.Order.Service, Wanted: ask.Order.Wanted, Lines: []DraftLine{{SKU: ask.SKU, Qty: ask.Qty, Warehouse: ask.Warehouse}},
	})
	if err != nil {
		return "", err
	}
	if err := dr.workOut(s); err != nil {
		return "", err
	}
	if len(dr.view.Missing) > 0 {
		return "", command.Invalid("%s", dr.view.Missing[0].Sentence)
	}
	l, early := dr.lines[0], int64(0)
	for _, g := range l.given {
		if g.Warehouse == x.house && g.Day <= x.ask.By {
			early += g.Qty
		}
	}
	if early < ask.Qty {
		return "", command.Conflict("Of the %d only %d could leave %s by %s as an order of %s (%s). Nothing was done; make room alone, and enter the order by hand.",
			ask.Qty, early, ask.Warehouse, words.Day(x.ask.By), dr.cust.Name, dr.promisedWords(l))
	}
	number, approval, err := writeOrder(w, dr, 0)
	return fmt.Sprintf("Entered %s for %s: %d of %s promised for %s.%s%s", number, dr.cust.Name, ask.Qty, ask.SKU,
		words.Day(l.given[len(l.given)-1].Day), dr.lateWords(), approval), err
}
