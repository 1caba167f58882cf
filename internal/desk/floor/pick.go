package floor

import (
	"context"
	"strings"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Found is what the picker found for one row of a pick list. What is missing
// from the row goes back to open, with the cause, which corrects the count.
type Found struct {
	Task  int64  `json:"task"`
	Qty   int64  `json:"qty" minimum:"0" maximum:"1000000000" doc:"Units found and taken"`
	Cause string `json:"cause,omitempty" enum:"missing,damaged,elsewhere" doc:"Why fewer were found; needed only then"`
	Seen  int64  `json:"seen" doc:"Units that were still to be picked when it was seen"`
	Later bool   `json:"later,omitempty" doc:"What was not found stays on the list, to be picked from another bin"`
	Short int64  `json:"short,omitempty" minimum:"0" maximum:"1000000000" doc:"With later: so many have the cause all the same"`
	From  string `json:"from,omitempty" maxLength:"20" doc:"The bin from which they were taken, if it is another than the row says"`
	Item  string `json:"item,omitempty" maxLength:"60" doc:"What a scanner read of the item, if it was scanned"`
	Sheet string `json:"sheet,omitempty" maxLength:"60" doc:"The code of the sheet by which it was picked, if that was scanned"`

	Lots []command.LotQty `json:"lots,omitempty" maxItems:"50" doc:"Of which lots they are; needed unless all that the bin holds are of one"`
}

// Pick confirms rows of a pick list.
//
// It locks the lines of the rows with their stock. It refuses rows that are not as they were seen, more than a row asks for, fewer without
// a cause, items that are others than the rows say, bins that hold fewer than were taken, lots that cannot be in them or must not be sent,
// and sheets that are void. Who picks from a list
// that nobody has picks it from then on. Where units are missing, their bin is to be counted.
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
		if err := w.Tx.EndBreak(call.Actor.ID); err != nil {
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
			if short += f.Short; !f.Later {
				short += t.Due - f.Qty
			}
			w.AddDocumentOnce("pick list", t.List)
		}
		if err := w.Tx.TakeFreeLists(ids, w.Call.Actor.ID, w.At); err != nil {
			return err
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
	case f.Short < 0 || f.Short > 0 && !f.Later || (f.Short > 0) != (f.Cause != "") && f.Later:
		return command.Invalid("Line %d of %s: say of how many units that are not to be picked later, and why.", t.Seq, t.List)
	case f.Later && (f.Qty+f.Short == 0 || f.Short >= missing):
		return command.Invalid("Line %d of %s: for the rest to be picked later, there has to be a rest, and not all of it.", t.Seq, t.List)
	case missing > 0 && f.Cause == "" && !f.Later:
		return command.Invalid(
			"Line %d of %s asks for %d and %d were found: say whether the rest is missing, damaged or elsewhere.", t.Seq, t.List, t.Due,
			f.Qty,
		)
	}
	if err := scannedRight(w, t, f); err != nil {
		return err
	}
	e := command.Refs{Task: t.ID, Bin: t.BinID}
	if f.From != "" && !strings.EqualFold(f.From, t.Bin) {
		bin, err := otherBin(w, t, f)
		if err != nil {
			return err
		}
		e.Bin = bin
	}
	if f.Qty > 0 {
		e.Lots = f.Lots
		if err := w.Move(l, t.WarehouseID, journey.Make(journey.Pick, journey.Qty(f.Qty)), e); err != nil {
			return err
		}
		e.Lots = nil
	}
	if f.Later {
		missing = f.Short
	}
	if missing == 0 {
		return nil
	}
	e.Bin = t.BinID // what is not found is not found where the row says
	q, cause := journey.Qty(missing), journey.Cause(f.Cause)
	switch cause {
	case journey.Missing, journey.Damaged, journey.Elsewhere:
	default:
		return command.Invalid("%q is not a cause: missing, damaged or elsewhere.", f.Cause)
	}
	if err := w.Move(l, t.WarehouseID, journey.MakeShort(cause, q), e); err != nil {
		return err
	}
	if t.Bin != "" && cause != journey.Damaged {
		if err := w.Tx.AskForCount(l.ItemID, t.WarehouseID, t.BinID, w.ID, f.Cause); err != nil {
			return err
		}
	}
	if cause != journey.Elsewhere || t.Bin == "" {
		return nil
	}
	// The units are in the house, but not in this bin: from now on their bin is not known.
	unset, err := w.Tx.EnsureBin(t.WarehouseID, "", "")
	if err != nil {
		return err
	}
	return moveBin(w, l.ItemID, t.WarehouseID, t.BinID, unset, q)
}

// moveBin brings units from one bin to another.
func moveBin(w *command.UnitOfWork, item, house, from, to int64, q journey.Qty) error {
	if err := w.MoveStock(item, house, journey.Make(journey.BinOut, q), command.Refs{Bin: from}); err != nil {
		return err
	}
	if err := w.MoveStock(item, house, journey.Make(journey.BinIn, q), command.Refs{Bin: to}); err != nil {
		return err
	}
	at := store.LotPlace{Item: item, Warehouse: house, Bin: from}
	w.Carry(command.Carry{From: at, To: store.LotPlace{Item: item, Warehouse: house, Bin: to}, Qty: q})
	return nil
}

// scannedRight refuses what was scanned and is not what the row says.
func scannedRight(w *command.UnitOfWork, t store.TaskRow, f Found) error {
	l := w.Lines[t.LineID]
	if f.Item != "" && !strings.EqualFold(f.Item, l.SKU) && (t.Barcode == "" || !strings.EqualFold(f.Item, t.Barcode)) {
		return command.Conflict("Line %d of %s is %s; %s was scanned. Put it back and take the right one.", t.Seq, t.List, l.SKU, f.Item)
	}
	if f.Sheet == "" {
		return nil
	}
	p, found, err := w.Tx.PaperByCode(f.Sheet)
	switch {
	case err != nil:
		return err
	case !found || p.List != t.List:
		return command.Conflict("The sheet %s is not of %s. Nothing was done.", f.Sheet, t.List)
	case p.VoidAt != nil:
		said := words.Say("The sheet %s is void: %s by %s, %s.", p.Code, p.VoidWhy, p.VoidWho, w.Clock(*p.VoidAt))
		if p.VoidWhy == store.Recalled && p.VoidReason != "" {
			said = said.And(words.Say("Why: %s", words.WithFullStop(p.VoidReason)))
		}
		return &command.Refusal{Kind: command.KindConflict, Message: said.And(
			words.Say("Nothing was done; go by what the screen says, or print the list again."),
		)}
	}
	return nil
}

// otherBin is the bin from which units were taken in place of the one that the row says, if it holds so many that nobody else is on the
// way to fetch.
func otherBin(w *command.UnitOfWork, t store.TaskRow, f Found) (int64, error) {
	l := w.Lines[t.LineID]
	rooms, err := w.Tx.BinsOf(store.IDs{l.ItemID})
	if err != nil {
		return 0, err
	}
	for _, r := range rooms {
		if r.WarehouseID != t.WarehouseID || !strings.EqualFold(r.Bin, f.From) {
			continue
		}
		if room := binOf(r).Room(); room < journey.Qty(f.Qty) {
			return 0, command.Conflict(
				"Bin %s holds %d of %s that nobody else is on the way to fetch; %d cannot be taken from it.", r.Bin, room, l.SKU, f.Qty,
			)
		}
		return r.BinID, nil
	}
	return 0, command.Conflict("Bin %s holds no %s. Choose one that does, or say that fewer were found.", f.From, l.SKU)
}
