package floor

import (
	"context"
	"strings"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/words"
)

// PutAway says into which bin units were put that had been taken back.
type PutAway struct {
	Task int64  `json:"task" doc:"Key of what is to be put back"`
	Qty  int64  `json:"qty" minimum:"1" maximum:"1000000000" doc:"Units that were put there"`
	Bin  string `json:"bin" minLength:"1" maxLength:"20" doc:"The bin in which they lie now"`
	Item string `json:"item,omitempty" maxLength:"60" doc:"What a scanner read of the item, if it was scanned"`
	Seen int64  `json:"seen" doc:"Units that were still to be put back when it was seen"`
}

// PutBack records that recalled units lie in a bin again. Those that ended as open or dropped become free; those that stayed allocated may
// go to the floor again.
//
// It locks the line with the stock of its item. It refuses what is not as it was seen, more than is to be put back, items that are others,
// and bins that there are not.
func (d *Desk) PutBack(ctx context.Context, call command.Call, ask PutAway) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPutBack, ask, func(w *command.UnitOfWork) error {
		t, found, err := w.Tx.PutBackByID(ask.Task)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is nothing like that to put back. Load the page again.")
		}
		if err := w.Lock([]int64{t.LineID}); err != nil {
			return err
		}
		if t, _, err = w.Tx.PutBackByID(ask.Task); err != nil {
			return err
		}
		left := t.Qty - t.Done
		switch {
		case left == 0:
			return command.Conflict("All %d of %s have been put back already. Nothing was done.", t.Qty, t.SKU)
		case ask.Seen != 0 && ask.Seen != left:
			return command.Conflict("%d of %s are still to be put back, not %d. Nothing was done; look at it as it is now.", left, t.SKU, ask.Seen)
		case ask.Qty < 1 || ask.Qty > left:
			return command.Invalid("%d of %s are to be put back; %d cannot be.", left, t.SKU, ask.Qty)
		case ask.Item != "" && !strings.EqualFold(ask.Item, t.SKU) && (t.Barcode == "" || !strings.EqualFold(ask.Item, t.Barcode)):
			return command.Conflict("This is to be %s; %s was scanned. Take the right one.", t.SKU, ask.Item)
		}
		code := strings.ToUpper(strings.TrimSpace(ask.Bin))
		bin, found, err := w.Tx.BinByCode(t.WarehouseID, code)
		if err != nil {
			return err
		}
		if !found {
			return command.Invalid("There is no bin “%s” at %s. Scan the bin into which you put it.", ask.Bin, t.Warehouse)
		}
		q := journey.Qty(ask.Qty)
		moves := []struct {
			kind journey.Kind
			bin  int64
		}{{journey.BinOut, t.BinID}, {journey.BinIn, bin}}
		if t.Ends != journey.Allocated.String() {
			moves = append(moves, moves[0])
			moves[2].kind = journey.Unset
		}
		for _, m := range moves {
			if err := w.MoveStock(t.ItemID, t.WarehouseID, journey.Make(m.kind, q), command.Refs{Bin: m.bin}); err != nil {
				return err
			}
		}
		if err := w.Tx.MarkPutAway(t.ID, ask.Qty, w.ID); err != nil {
			return err
		}
		w.SKUs[t.SKU], w.Orders[t.Order] = true, true
		w.Outcome.Units = ask.Qty
		w.AddDocument("item", t.SKU)
		w.Say("Put back: %s of %s in %s.", words.Count(ask.Qty, "unit"), t.SKU, code)
		if left > ask.Qty {
			w.Also(words.Say("Left: %s.", words.Count(left-ask.Qty, "unit")))
		}
		return nil
	})
}
