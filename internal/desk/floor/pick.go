package floor

import (
	"context"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// Found is what the picker found for one row of a pick list. What is missing
// from the row goes back to open, with the cause, which corrects the count.
type Found struct {
	Task  int64  `json:"task"`
	Qty   int64  `json:"qty" minimum:"0" maximum:"1000000000" doc:"Units found and taken"`
	Cause string `json:"cause,omitempty" enum:"missing,damaged,elsewhere" doc:"Why fewer were found; needed only then"`
	Seen  int64  `json:"seen" doc:"Units that were still to be picked when it was seen"`
}

// Pick confirms rows of a pick list.
//
// It locks the lines of the rows with their stock. It refuses rows that are not as they were seen, more than a row asks for, and fewer
// without a cause.
func (d *Desk) Pick(ctx context.Context, call command.Call, found []Found) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPick, found, func(w *command.UnitOfWork) error {
		if len(found) == 0 {
			return command.Invalid("Choose what was picked.")
		}
		ids := make(store.IDs, len(found))
		byTask := map[int64]Found{}
		for i, f := range found {
			if _, twice := byTask[f.Task]; twice {
				return command.Invalid("A row was confirmed twice in one go.")
			}
			ids[i] = f.Task
			byTask[f.Task] = f
		}
		rows, err := lockTasks(w, ids)
		if err != nil {
			return err
		}
		var picked, short int64
		for _, t := range rows {
			f := byTask[t.ID]
			if t.Due == 0 || (f.Seen != 0 && t.Due != f.Seen) {
				return taskChanged(w, t)
			}
			if err := pickTask(w, t, f); err != nil {
				return err
			}
			picked += f.Qty
			short += t.Due - f.Qty
			w.AddDocumentOnce("pick list", t.List)
		}
		w.Say("Picked %d.", picked)
		if short > 0 {
			w.Say("Picked %d; %d were not found and are open again.", picked, short)
		}
		return nil
	})
}

func pickTask(w *command.UnitOfWork, t store.TaskRow, f Found) error {
	l, missing := w.Lines[t.LineID], t.Due-f.Qty
	switch {
	case f.Qty < 0 || missing < 0:
		return command.Invalid("Line %d of %s asks for %d; %d cannot be picked.", t.Seq, t.List, t.Due, f.Qty)
	case missing > 0 && f.Cause == "":
		return command.Invalid(
			"Line %d of %s asks for %d and %d were found: say whether the rest is missing, damaged or elsewhere.", t.Seq, t.List, t.Due,
			f.Qty,
		)
	}
	e := command.Refs{Task: t.ID, Bin: t.BinID}
	if f.Qty > 0 {
		if err := w.Move(l, t.WarehouseID, journey.Make(journey.Pick, journey.Qty(f.Qty)), e); err != nil {
			return err
		}
	}
	if missing == 0 {
		return nil
	}
	q, cause := journey.Qty(missing), journey.Cause(f.Cause)
	switch cause {
	case journey.Missing, journey.Damaged, journey.Elsewhere:
	default:
		return command.Invalid("%q is not a cause: missing, damaged or elsewhere.", f.Cause)
	}
	if err := w.Move(l, t.WarehouseID, journey.MakeShort(cause, q), e); err != nil {
		return err
	}
	if cause != journey.Elsewhere || t.Bin == "" {
		return nil
	}
	// The units are in the house, but not in this bin: from now on their bin is not known.
	unset, err := w.Tx.EnsureBin(t.WarehouseID, "", "")
	if err != nil {
		return err
	}
	if err := w.MoveStock(l.ItemID, t.WarehouseID, journey.Make(journey.BinOut, q), command.Refs{Bin: t.BinID}); err != nil {
		return err
	}
	return w.MoveStock(l.ItemID, t.WarehouseID, journey.Make(journey.BinIn, q), command.Refs{Bin: unset})
}
