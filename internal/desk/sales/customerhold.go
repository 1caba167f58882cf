package sales

import (
	"context"
	"slices"
	"strings"

	"journeyman/core/order"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// CustomerHoldAsk places a hold on a customer.
type CustomerHoldAsk struct {
	Customer string `json:"customer" maxLength:"40" doc:"Code of the customer"`
	Kind     string `json:"kind" enum:"credit,coordinator"`
	Note     string `json:"note" maxLength:"500" doc:"Why"`
}

// HoldCustomer stops all orders of a customer from being released and from leaving: those that there are, and those that come while the
// hold stands.
//
// It locks the lines of the orders of which something has not left, then the customer. It refuses a second hold, and no reason.
func (d *Desk) HoldCustomer(ctx context.Context, call command.Call, ask CustomerHoldAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbHold, ask, func(w *command.UnitOfWork) error {
		note := strings.TrimSpace(ask.Note)
		if note == "" {
			return command.Invalid("Say why the customer is on hold, so that others know what to wait for.")
		}
		c, err := customerOf(w, ask.Customer)
		if err != nil {
			return err
		}
		orders, err := lockUnsent(w, c)
		if err != nil {
			return err
		}
		_, held, err := w.Tx.HoldOnCustomer(c.ID)
		if err != nil {
			return err
		}
		if held {
			return command.Conflict("%s is on hold already. Lift that hold first if another is to be placed.", c.Name)
		}
		h := store.CustomerHold{CustomerID: c.ID, Kind: ask.Kind, Note: note, PlacedBy: w.ID}
		if err := w.Tx.PlaceCustomerHold(&h, orders); err != nil {
			return err
		}
		for _, number := range orders {
			w.Orders[number] = true
		}
		w.Say("%s is on %s hold.", c.Name, ask.Kind)
		switch len(orders) {
		case 0:
			w.Also(words.Say("Nothing of it is open now; what is entered from now on is on hold."))
		default:
			w.Also(words.Say("%s will not be released, nor leave; neither will what is entered from now on.",
				words.Count(int64(len(orders)), "order")))
		}
		return nil
	})
}

// CustomerAsk names a customer.
type CustomerAsk struct {
	Customer string `json:"customer" maxLength:"40" doc:"Code of the customer"`
}

// LiftCustomer takes the hold on a customer away, and with it that on all its orders. Holds of the orders' own stay. A hold for credit is
// for a manager.
//
// It locks the lines of the orders that are on hold with it, then the customer. It refuses a hold that there is not.
func (d *Desk) LiftCustomer(ctx context.Context, call command.Call, ask CustomerAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbLift, ask, func(w *command.UnitOfWork) error {
		c, err := customerOf(w, ask.Customer)
		if err != nil {
			return err
		}
		if _, err := lockUnsent(w, c); err != nil {
			return err
		}
		h, held, err := w.Tx.HoldOnCustomer(c.ID)
		if err != nil {
			return err
		}
		if !held {
			return command.Conflict("%s is not on hold any more.", c.Name)
		}
		if err := mayLift(call, h.Kind); err != nil {
			return err
		}
		orders, err := w.Tx.OrdersHeldWith(h.ID)
		if err != nil {
			return err
		}
		if err := w.Tx.LiftCustomerHold(h.ID, w.ID); err != nil {
			return err
		}
		for _, number := range orders {
			w.Orders[number] = true
		}
		w.Say("The %s hold on %s is lifted, and with it that on %s.", h.Kind, c.Name, words.Count(int64(len(orders)), "order"))
		return nil
	})
}

// mayLift refuses to lift a hold that only a manager lifts.
func mayLift(call command.Call, kind string) error {
	if order.ManagerLifts(kind) && !call.Actor.Role.May(command.VerbLiftAll) {
		return command.Forbidden("You are signed in as %s; a hold for %s is lifted by a manager. Ask one of them.", call.Actor.Role, kind)
	}
	return nil
}

func customerOf(w *command.UnitOfWork, code string) (store.Customer, error) {
	c, found, err := w.Tx.CustomerWithShipTos(code)
	if err == nil && !found {
		err = command.NotFound("There is no customer %s.", code)
	}
	return c, err
}

// lockUnsent holds the lines of a customer's orders still of which something has not left, so that no release of them is under way, then
// the customer, so that no other order comes in; and returns the numbers of the orders.
func lockUnsent(w *command.UnitOfWork, c store.Customer) (store.Texts, error) {
	orders, err := w.Tx.UnsentOrders(c.ID)
	if err != nil {
		return nil, err
	}
	seen := make([]command.OrderSeen, len(orders))
	for i, number := range orders {
		seen[i] = command.OrderSeen{Number: number}
	}
	if _, err := w.ChooseOrders(seen); err != nil {
		return nil, err
	}
	if err := w.Tx.LockCustomer(c.ID); err != nil {
		return nil, err
	}
	now, err := w.Tx.UnsentOrders(c.ID)
	if err == nil && slices.ContainsFunc(now, func(number string) bool { return !slices.Contains(orders, number) }) {
		err = command.Conflict("An order of %s has come in just now. Nothing was done; try again.", c.Name)
	}
	return now, err
}
