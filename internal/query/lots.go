package query

import (
	"context"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// LotView is so many units of a lot in a place, in the house or with whoever got them.
type LotView struct {
	ID        int64  `json:"id"`
	Lot       string `json:"lot"`
	SKU       string `json:"sku"`
	Item      string `json:"item"`
	Unit      string `json:"unit"`
	Warehouse string `json:"warehouse" doc:"In which they are, or from which they left"`
	Where     string `json:"where" enum:"bin,picked,packed,shipped,delivered"`
	Bin       string `json:"bin" doc:"Empty if no bin is set, or they lie in none"`
	Order     string `json:"order"`
	Line      int    `json:"line"`
	Code      string `json:"code" doc:"Of the customer"`
	Customer  string `json:"customer"`
	Email     string `json:"email"`
	Package   string `json:"package"`
	Shipment  string `json:"shipment"`
	Left      string `json:"left,omitempty" format:"date-time"`
	Delivered string `json:"delivered,omitempty" format:"date-time"`
	Qty       int64  `json:"qty"`
	Aside     int64  `json:"aside" doc:"Of them, those that are set aside since the lot must not be sent"`
	ToPutBack int64  `json:"to_put_back" doc:"Of them, those that were taken back for that, and are to be put back"`
	Recalled  bool   `json:"recalled" doc:"The lot must not be sent"`
}

// LotsPage is a page of where units of lots are.
type LotsPage struct {
	Lots []LotView `json:"lots"`
	Next
}

// Lots returns a page of where units of lots are, or went.
func (d *Desk) Lots(ctx context.Context, ask Ask) (LotsPage, error) {
	r := d.Store.Read(ctx)
	rows, next, err := pageOf(d, r, store.LotsNoted, ask, r.LotRows)
	out := LotsPage{make([]LotView, len(rows)), next}
	for i, x := range rows {
		out.Lots[i] = LotView{
			x.ID, x.Lot, x.SKU, x.ItemName, x.Unit, x.Warehouse, x.Where, x.Bin, x.Order, x.LineNo, x.Code, x.Customer, x.Email, x.Package,
			x.Shipment, momentOf(x.LeftAt), momentOf(x.Delivered), x.Qty, x.Aside, x.ToPutBack, x.Recalled,
		}
	}
	return out, err
}

// LotHead is one lot of an item.
type LotHead struct {
	SKU       string     `json:"sku"`
	Item      string     `json:"item"`
	Unit      string     `json:"unit"`
	Lot       string     `json:"lot"`
	InBins    int64      `json:"in_bins"`
	Aside     int64      `json:"aside" doc:"Of those in bins, units that are set aside since it must not be sent"`
	Picked    int64      `json:"picked"`
	Packed    int64      `json:"packed" doc:"In packages that have not left"`
	ToPutBack int64      `json:"to_put_back" doc:"Of those picked or packed, units that were taken back and are to be put back"`
	Gone      int64      `json:"gone" doc:"Units that have left"`
	Customers int64      `json:"customers" doc:"To whom these went"`
	Recalled  *LotRecall `json:"recalled,omitempty" doc:"Absent while it may be sent"`
	Trail     []LotMove  `json:"trail" doc:"What was noted of it, the latest first"`
}

// LotRecall is that a lot must not be sent.
type LotRecall struct {
	Who string `json:"who"`
	At  string `json:"at" format:"date-time"`
	Why string `json:"why"`
}

// LotMove is something that was noted of a lot.
type LotMove struct {
	Command  int64         `json:"command"`
	At       string        `json:"at" format:"date-time"`
	Who      string        `json:"who"`
	Text     words.Message `json:"text"`
	Order    string        `json:"order,omitempty"`
	Shipment string        `json:"shipment,omitempty"`
	Receipt  string        `json:"receipt,omitempty"`
	Why      string        `json:"why,omitempty"`
}

// mostLotMoves is how much of what was noted of a lot is told.
const mostLotMoves = 200

// Lot returns one lot of an item; capitals do not count.
func (d *Desk) Lot(ctx context.Context, sku, code string) (LotHead, error) {
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(sku)
	if err != nil {
		return LotHead{}, err
	}
	if !found {
		return LotHead{}, command.NotFound("There is no item %s.", sku)
	}
	lot, found, err := r.LotByCode(it.ID, code)
	if err != nil {
		return LotHead{}, err
	}
	if !found {
		return LotHead{}, command.NotFound("No lot %s of %s was ever noted here.", code, it.SKU)
	}
	sums, err := r.LotSums(lot.ID)
	if err != nil {
		return LotHead{}, err
	}
	out := LotHead{
		SKU: it.SKU, Item: it.Name, Unit: it.Unit, Lot: lot.Code, InBins: sums.InBins, Aside: sums.Aside, Picked: sums.Picked,
		Packed: sums.Packed, ToPutBack: sums.ToPutBack, Gone: sums.Gone, Customers: sums.Customers, Trail: []LotMove{},
	}
	if lot.RecallID != nil {
		out.Recalled = &LotRecall{lot.Who, momentOf(lot.At), lot.Reason}
	}
	events, err := r.LotEvents(lot.ID, mostLotMoves)
	for _, e := range events {
		out.Trail = append(out.Trail, LotMove{
			e.Command, e.At.UTC().Format(time.RFC3339), e.Who, lotText(e), e.Order, e.Shipment, e.Receipt, e.Reason,
		})
	}
	return out, err
}

// lotText says what was noted of a lot, in few words.
func lotText(e store.LotEvent) words.Message {
	bin := e.Bin
	if bin == "" {
		bin = "no bin"
	}
	switch {
	case e.Change == 0 && e.Moved == 0 && e.Aside > 0:
		return words.Say("set aside: %d", e.Aside)
	case e.Change == 0 && e.Moved == 0:
		return words.Say("no longer set aside: %d", -e.Aside)
	case e.Receipt != "":
		return words.Say("received: %d into %s", e.Moved, bin)
	case e.Verb == string(command.VerbPick) && e.Bin == "": // they were there before any lot was noted
		return words.Say("picked: %d", e.Moved)
	case e.Verb == string(command.VerbPick) && e.Moved > 0:
		return words.Say("picked: %d out of %s", e.Moved, bin)
	case e.Verb == string(command.VerbPack):
		return words.Say("packed: %d", e.Moved)
	case e.Verb == string(command.VerbUnpack):
		return words.Say("unpacked: %d", e.Moved)
	case e.Verb == string(command.VerbPutBack):
		return words.Say("put back: %d into %s", e.Moved, bin)
	case e.Verb == string(command.VerbCount):
		return words.Say("counted in %s: %d more", bin, e.Change)
	case e.Change < 0:
		return words.Say("written off: %d out of %s", -e.Change, bin)
	}
	return words.Say("brought to %s: %d", bin, e.Moved)
}
