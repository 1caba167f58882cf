package sales

import (
	"context"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// HoldAsk places a hold.
type HoldAsk struct {
	Order string `json:"order"`
	Kind  string `json:"kind" enum:"approval,credit,coordinator"`
	Note  string `json:"note,omitempty" maxLength:"500"`
}

// LiftAsk takes a hold away.
type LiftAsk struct {
	Order string `json:"order"`
	Kind  string `json:"kind" enum:"approval,credit,coordinator,customer" doc:"customer: the order goes although its customer is on hold"`
}

// Hold stops an order from being released.
//
// It locks the lines of the order. It refuses a second hold of the same kind, and no reason.
func (d *Desk) Hold(ctx context.Context, call command.Call, ask HoldAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbHold, ask, func(w *command.UnitOfWork) error {
		ref, standing, err := lockForHold(w, ask.Order)
		if err != nil {
			return err
		}
		for _, h := range standing {
			if h.Kind == ask.Kind {
				return command.Conflict("%s is on %s hold already.", ask.Order, ask.Kind)
			}
		}
		if strings.TrimSpace(ask.Note) == "" {
			return command.Invalid("Say why the order is held, so that others know what to wait for.")
		}
		if err := w.Tx.Create(&store.Hold{OrderID: ref.ID, Kind: ask.Kind, Note: strings.TrimSpace(ask.Note), PlacedBy: w.ID}); err != nil {
			return err
		}
		w.Orders[ask.Order] = true
		w.Say("%s is on %s hold and will not be released.", ask.Order, ask.Kind)
		return nil
	})
}

// Lift takes a hold away. Approval and credit holds are for a manager. An order that is on hold with its customer goes once that is lifted
// from it, though its customer stays on hold.
//
// It locks the lines of the order. It refuses a hold that there is not.
func (d *Desk) Lift(ctx context.Context, call command.Call, ask LiftAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbLift, ask, func(w *command.UnitOfWork) error {
		_, standing, err := lockForHold(w, ask.Order)
		if err != nil {
			return err
		}
		for _, h := range standing {
			if h.Kind == ask.Kind {
				if err := mayLift(call, h.Rank); err != nil {
					return err
				}
				if err := w.Tx.LiftHold(h.ID, w.ID); err != nil {
					return err
				}
				w.Orders[ask.Order] = true
				w.Say("The %s hold on %s is lifted.", ask.Kind, ask.Order)
				return nil
			}
		}
		return command.Conflict("%s has no %s hold any more.", ask.Order, ask.Kind)
	})
}

// lockForHold holds the order's lines still, so that no release is under way.
func lockForHold(w *command.UnitOfWork, number string) (store.OrderRef, []store.Hold, error) {
	if _, err := w.ChooseOrders([]command.OrderSeen{{Number: number}}); err != nil {
		return store.OrderRef{}, nil, err
	}
	refs, err := w.Tx.OrdersByNumber(store.Texts{number})
	if err != nil {
		return store.OrderRef{}, nil, err
	}
	holds, err := w.Tx.StandingHolds(store.IDs{refs[0].ID})
	return refs[0], holds, err
}
