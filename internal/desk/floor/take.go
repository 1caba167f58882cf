package floor

import (
	"context"
	"slices"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// HandAsk says who picks a list.
type HandAsk struct {
	List string `json:"list" minLength:"1" maxLength:"60"`
	To   string `json:"to,omitempty" maxLength:"41" doc:"The login of whoever picks it from now on; oneself if absent"`
	Back bool   `json:"back,omitempty" doc:"Nobody picks it any more"`
	Seen string `json:"seen,omitempty" maxLength:"41" doc:"The login of whoever had it when that was seen"`
}

// Hand says who picks a list: oneself, another person, or nobody.
//
// It locks the list. It refuses a list that somebody else has since it was seen, and people who do not pick.
func (d *Desk) Hand(ctx context.Context, call command.Call, ask HandAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbHand, ask, func(w *command.UnitOfWork) error {
		list, found, err := w.Tx.PickListByNumber(ask.List)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no pick list %s.", ask.List)
		}
		people, err := w.Tx.Users()
		if err != nil {
			return err
		}
		has := ""
		if list.PickerID != nil {
			at := slices.IndexFunc(people, func(u store.User) bool { return u.ID == *list.PickerID })
			if at >= 0 && people[at].Login != ask.Seen && people[at].ID != call.Actor.ID {
				return command.Conflict("%s has picked %s since %s. Nothing was done; hand it over if that is what you want.",
					people[at].Name, ask.List, w.Clock(*list.TakenAt))
			}
			if at >= 0 {
				has = people[at].Name
			}
		}
		w.AddDocument("pick list", ask.List)
		if ask.Back {
			w.Say("Nobody picks %s any more.", ask.List)
			return w.Tx.SetPicker(list.ID, nil, w.At)
		}
		to := call.Actor.ID
		name := call.Actor.Name
		if ask.To != "" {
			at := slices.IndexFunc(people, func(u store.User) bool { return u.Login == ask.To && u.Active })
			if at < 0 || !command.Role(people[at].Role).May(command.VerbPick) {
				return command.Invalid("%s is nobody who picks.", ask.To)
			}
			to, name = people[at].ID, people[at].Name
		}
		switch {
		case has != "" && has != name:
			w.Say("%s picks %s from now on, in place of %s.", name, ask.List, has)
		default:
			w.Say("%s picks %s.", name, ask.List)
		}
		return w.Tx.SetPicker(list.ID, &to, w.At)
	})
}

// BreakAsk says that one goes on a break, or is back from it.
type BreakAsk struct {
	Back bool `json:"back,omitempty" doc:"The break is over"`
}

// Break notes that whoever says so is on a break, or is back; a pick says that they are back, too. Their lists stay theirs until somebody
// hands them over. It locks and refuses nothing.
func (d *Desk) Break(ctx context.Context, call command.Call, ask BreakAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbHand, ask, func(w *command.UnitOfWork) error {
		if ask.Back {
			w.Say("Welcome back.")
			return w.Tx.EndBreak(call.Actor.ID)
		}
		w.Say("You are on a break; your lists stay yours until somebody takes them over.")
		return w.Tx.TakeBreak(call.Actor.ID, w.At)
	})
}

// CountAsk says what was counted in a bin.
type CountAsk struct {
	Count   int64 `json:"count" doc:"Key of what was to be counted"`
	Counted int64 `json:"counted" minimum:"0" maximum:"1000000000" doc:"Units of the item that lie in the bin, with those that are held"`

	Lots []command.LotQty `json:"lots,omitempty" maxItems:"50" doc:"Of which lots they are; of the rest none is noted"`
}

// Count records what was counted in a bin that was to be counted, and corrects what it should hold.
//
// It locks the stock of the item. It refuses a count that is done, one below what is held there, and one that lacks more than is free: that
// has to be given back by the orders first.
func (d *Desk) Count(ctx context.Context, call command.Call, ask CountAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbCount, ask, func(w *command.UnitOfWork) error {
		c, found, err := w.Tx.CountByID(ask.Count)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("Nobody asked for that count.")
		}
		if err := w.Lock(nil, c.ItemID); err != nil {
			return err
		}
		if c, _, err = w.Tx.CountByID(ask.Count); err != nil {
			return err
		}
		if c.DoneBy != nil {
			return command.Conflict("%s in bin %s has been counted: %d.", c.SKU, c.Bin, *c.Counted)
		}
		more := journey.Qty(ask.Counted - c.Qty)
		cell := w.Cells[command.CellKey{Item: c.ItemID, Warehouse: c.WarehouseID}]
		switch {
		case ask.Counted < c.Held:
			return command.Conflict("%d of %s are held in bin %s; %d cannot be all that lies there.", c.Held, c.SKU, c.Bin, ask.Counted)
		case cell != nil && -more > cell.Now.Free():
			return command.Conflict(
				"That is %d fewer than bin %s should hold, and only %d of %s are free at %s: the others are set aside for orders. "+
					"Have them given back first, then count again.", -more, c.Bin, cell.Now.Free(), c.SKU, c.Warehouse,
			)
		}
		e := command.Refs{Bin: c.BinID}
		switch {
		case more > 0:
			err = w.MoveStock(c.ItemID, c.WarehouseID, journey.Make(journey.Gain, more), e)
		case more < 0:
			err = w.MoveStock(c.ItemID, c.WarehouseID, journey.Make(journey.Loss, -more), e)
		}
		if err != nil {
			return err
		}
		at := store.LotPlace{Item: c.ItemID, Warehouse: c.WarehouseID, Bin: c.BinID}
		if err := w.CountLots(at, journey.Qty(ask.Counted), ask.Lots); err != nil {
			return err
		}
		if _, err := w.Tx.MarkCounted(c.ID, w.ID, c.Qty, ask.Counted); err != nil {
			return err
		}
		w.SKUs[c.SKU] = true
		w.AddDocument("item", c.SKU)
		switch {
		case more > 0:
			w.Say("Bin %s holds %d of %s, %d more than it should.", c.Bin, ask.Counted, c.SKU, more)
		case more < 0:
			w.Say("Bin %s holds %d of %s, %d fewer than it should.", c.Bin, ask.Counted, c.SKU, -more)
		default:
			w.Say("Bin %s holds %d of %s, as it should.", c.Bin, ask.Counted, c.SKU)
		}
		return nil
	})
}
