package floor

import (
	"context"
	"strings"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// PutAway says into which bin units were put that had been taken back.
type PutAway struct {
	Task int64  `json:"task" doc:"Key of what is to be put back"`
	Qty  int64  `json:"qty" minimum:"1" maximum:"1000000000" doc:"Units that were put there"`
	Bin  string `json:"bin" minLength:"1" maxLength:"20" doc:"The bin in which they lie now"`
	Item string `json:"item,omitempty" maxLength:"60" doc:"What a scanner read of the item, if it was scanned"`
	Seen int64  `json:"seen" doc:"Units that were still to be put back when it was seen"`

	Lots []command.LotQty `json:"lots,omitempty" maxItems:"50" doc:"Of which lots they are; needed if it could be several things"`
}

// PutBack records that recalled units lie in a bin again. Those that ended as open or dropped become free; those that stayed allocated may
// go to the floor again.
//
// It locks the line with the stock of its item. It refuses what is not as it was seen, more than is to be put back, items and lots that are
// others, and bins that there are not. What is of a lot that must not be sent is set aside.
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
		aside, err := putAway(w, t, ask, bin)
		if err != nil {
			return err
		}
		if err := w.Tx.MarkPutAway(t.ID, ask.Qty, w.ID); err != nil {
			return err
		}
		w.SKUs[t.SKU], w.Orders[t.Order] = true, true
		w.Outcome.Units = ask.Qty
		w.AddDocument("item", t.SKU)
		w.Say("Put back: %s of %s in %s.", words.Count(ask.Qty, "unit"), t.SKU, code)
		if aside > 0 {
			w.Also(words.Say("Set aside, since the lot must not be sent: %s.", words.Count(int64(aside), "unit")))
		}
		if left > ask.Qty {
			w.Also(words.Say("Left: %s.", words.Count(left-ask.Qty, "unit")))
		}
		return nil
	})
}

// putAway brings units from where they lie into a bin, and lets go of those that were held until they are put back. Those of lots that
// must not be sent are set aside, and returned.
func putAway(w *command.UnitOfWork, t store.PutBackRow, ask PutAway, bin int64) (aside journey.Qty, err error) {
	q := journey.Qty(ask.Qty)
	from := store.LotPlace{Item: t.ItemID, Warehouse: t.WarehouseID, Line: t.LineID}
	if t.PackageID != nil {
		from.Package = *t.PackageID
	}
	said := ask.Lots
	if t.Lot != "" && len(said) == 0 {
		said = []command.LotQty{{Lot: t.Lot, Qty: ask.Qty}}
	}
	for _, s := range said {
		if t.Lot != "" && !strings.EqualFold(strings.TrimSpace(s.Lot), t.Lot) {
			return 0, command.Conflict("Lot %s of %s is to be put back; %s was scanned. Take the right one.", t.Lot, t.SKU, s.Lot)
		}
	}
	w.Carry(command.Carry{From: from, To: store.LotPlace{Item: t.ItemID, Warehouse: t.WarehouseID, Bin: bin}, Qty: q, Said: said})
	stopped, err := w.Follow()
	if err != nil {
		return 0, err
	}
	aside = stopped[0]
	free := q
	if t.Ends == journey.Allocated.String() {
		free = 0 // they are the line's again, but for those that must not be sent
		if l := w.Lines[t.LineID]; aside > 0 && l.At[t.WarehouseID] != nil {
			if n := min(aside, l.At[t.WarehouseID][journey.Allocated]); n > 0 {
				if err := w.Move(l, t.WarehouseID, journey.Make(journey.GiveBack, n), command.Refs{}); err != nil {
					return 0, err
				}
			}
		}
	}
	for _, m := range []struct {
		kind journey.Kind
		bin  int64
		qty  journey.Qty
	}{{journey.BinOut, t.BinID, q}, {journey.BinIn, bin, q}, {journey.Unset, t.BinID, free}, {journey.Set, bin, aside}} {
		if m.qty == 0 {
			continue
		}
		if err := w.MoveStock(t.ItemID, t.WarehouseID, journey.Make(m.kind, m.qty), command.Refs{Bin: m.bin}); err != nil {
			return 0, err
		}
	}
	return aside, nil
}
