package floor

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"journeyman/core/journey"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Receipt is what arrived of an inbound.
type Receipt struct {
	Inbound int64  `json:"inbound" doc:"Key of the inbound"`
	Qty     int64  `json:"qty" minimum:"1" maximum:"1000000000" doc:"Units that arrived now"`
	Bin     string `json:"bin,omitempty" doc:"Where they were put; the item's usual bin if empty"`
	Zone    string `json:"zone,omitempty" doc:"Zone of the bin, if the bin is new"`
	Item    string `json:"item,omitempty" maxLength:"60" doc:"What a scanner read of the item, if it was scanned"`
	Last    bool   `json:"last,omitempty" doc:"Nothing more comes of it"`
	Why     string `json:"why,omitempty" maxLength:"500" doc:"Why more came than was expected, or fewer and nothing more does"`
	Seen    int64  `json:"seen" doc:"Units that had been received when it was seen, plus one"`

	Lots []command.LotQty `json:"lots,omitempty" maxItems:"50" doc:"Of which lots they are; needed if the item is kept by lots"`
}

// Receive takes in an inbound, in full or in part. With a reason more is taken in than is still to come, or nothing more is expected then.
//
// It locks the stock of the item, then the inbound. It refuses an inbound that is not as it was seen, another item, and more than is still
// to come, or the last of it if that is fewer, without a reason, and units that are not said to be of a lot though their item is kept by
// lots.
func (d *Desk) Receive(ctx context.Context, call command.Call, ask Receipt) (command.Outcome, error) {
	why := strings.TrimSpace(cmp.Or(ask.Why, call.Reason))
	call.Reason = why
	return d.Run(ctx, call, command.VerbReceive, ask, func(w *command.UnitOfWork) error {
		in, found, err := w.Tx.InboundByID(ask.Inbound)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no such inbound any more. Load the page again.")
		}
		if err := w.Lock(nil, in.ItemID); err != nil {
			return err
		}
		if in, _, err = w.Tx.LockInbound(ask.Inbound); err != nil {
			return err
		}
		left := in.Qty - in.Received
		switch {
		case ask.Seen != 0 && ask.Seen != in.Received+1:
			return command.Conflict(
				"%s has changed since you saw it: %d of %d %s have been received. Nothing was done; look at it as it is now.", in.Ref,
				in.Received, in.Qty, in.SKU,
			)
		case ask.Qty <= 0:
			return command.Invalid("The quantity must be at least 1.")
		case ask.Item != "" && !strings.EqualFold(ask.Item, in.SKU) && (in.Barcode == "" || !strings.EqualFold(ask.Item, in.Barcode)):
			return command.Conflict("%s brings %s; %s was scanned. Lay it aside.", in.Ref, in.SKU, ask.Item)
		case ask.Qty > left && why == "":
			return command.Invalid("%s has %d of %s still to come, and %d came. Say why it is more.", in.Ref, left, in.SKU, ask.Qty)
		case ask.Last && ask.Qty < left && why == "":
			return command.Invalid("%d of %d of %s came. Say why the rest does not.", ask.Qty, left, in.SKU)
		}
		if all := in.Received + ask.Qty; all > in.Qty || ask.Last && all < in.Qty {
			id, err := w.Tx.CommandID()
			if err != nil {
				return err
			}
			if err := w.Tx.ExpectAnother(in, all, id); err != nil {
				return err
			}
		}
		bin, err := binFor(w, in.ItemID, in.WarehouseID, ask.Bin, ask.Zone)
		if err != nil {
			return err
		}
		if err := w.MoveStock(
			in.ItemID, in.WarehouseID, journey.Make(journey.Receive, journey.Qty(ask.Qty)),
			command.Refs{Bin: bin, Inbound: in.ID, Lots: ask.Lots},
		); err != nil {
			return err
		}
		w.SKUs[in.SKU] = true
		w.Outcome.Units = ask.Qty
		w.AddDocument("inbound", in.Ref)
		w.Say("Received %d of %s at %s from %s.", ask.Qty, in.SKU, in.Warehouse, in.Ref)
		switch {
		case ask.Qty > left:
			w.Also(words.Say("Expected were %d: %s", left, words.WithFullStop(why)))
		case ask.Last && ask.Qty < left:
			w.Also(words.Say("The other %d are not expected any more: %s", left-ask.Qty, words.WithFullStop(why)))
		case ask.Qty < left:
			w.Also(words.Say("Still to come: %s.", words.Count(left-ask.Qty, "unit")))
		}
		return nil
	})
}

// binFor is the named bin, or the one that holds most of the item, or "no bin set".
func binFor(w *command.UnitOfWork, item, warehouse int64, code, zone string) (int64, error) {
	if code != "" {
		if zone == "" {
			zone = release.ZoneOf(code)
		}
		return binNamed(w, warehouse, code, zone)
	}
	rooms, err := w.Tx.BinsOf([]int64{item})
	if err != nil {
		return 0, err
	}
	rooms = slices.DeleteFunc(rooms, func(x store.BinRoom) bool { return x.WarehouseID != warehouse })
	var bins []release.Bin
	for _, x := range rooms {
		bins = append(bins, binOf(x))
	}
	if at := release.PutInto(bins); at >= 0 {
		return rooms[at].BinID, nil
	}
	return w.Tx.EnsureBin(warehouse, "", "")
}
