package promising

import (
	"context"
	"strings"

	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
	"journeyman/internal/words"
)

// BuyProposal is how many of an item should be bought for a warehouse, by when, and why.
type BuyProposal struct {
	SKU       string        `json:"sku"`
	Warehouse string        `json:"warehouse"`
	Qty       int64         `json:"qty" doc:"Enough for what is open and nothing covers, in whole packs; 0 if nothing lacks"`
	Wanted    string        `json:"wanted" format:"date" doc:"The day on which it is lacking first, or the lead day if that is later"`
	Open      int64         `json:"open" doc:"Open units of the item at the warehouse"`
	Free      int64         `json:"free"`
	Coming    int64         `json:"coming" doc:"Units that are expected; overdue ones are not counted"`
	Asked     int64         `json:"asked" doc:"Units that are requested already and not yet confirmed"`
	LeadDays  int           `json:"lead_days"`
	Why       words.Message `json:"why,omitzero" doc:"Why it cannot be bought"`
}

// BuyAsk requests to buy.
type BuyAsk struct {
	SKU       string `json:"sku" maxLength:"60"`
	Warehouse string `json:"warehouse" maxLength:"12"`
	Qty       int64  `json:"qty" minimum:"1" maximum:"1000000000"`
	Wanted    string `json:"wanted" format:"date"`
	Note      string `json:"note,omitempty" maxLength:"500"`
}

// BuyConfirm says that a request was ordered: it is expected from now on.
type BuyConfirm struct {
	Number   string `json:"number" maxLength:"40"`
	Ref      string `json:"ref" minLength:"1" maxLength:"40" doc:"Reference of the purchase, by which it is received"`
	Due      string `json:"due" format:"date"`
	Qty      int64  `json:"qty" minimum:"1" maximum:"1000000000"`
	Supplier string `json:"supplier,omitempty" maxLength:"200"`
}

// BuyNamed names a request.
type BuyNamed struct {
	Number string `json:"number" maxLength:"40"`
}

// ProposeBuy says how many of an item a warehouse lacks, and by when.
func (d *Desk) ProposeBuy(ctx context.Context, sku, warehouse string) (BuyProposal, error) {
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(sku)
	if err != nil {
		return BuyProposal{}, err
	}
	if !found {
		return BuyProposal{}, command.NotFound("There is no item %s.", sku)
	}
	s, err := d.supply.ReadSupply(r, store.IDs{it.ID})
	if err != nil {
		return BuyProposal{}, err
	}
	house, ok := s.WarehouseID[warehouse]
	if !ok {
		return BuyProposal{}, command.NotFound("There is no warehouse %s.", warehouse)
	}
	out := BuyProposal{
		SKU: sku, Warehouse: warehouse, Free: s.Cells[command.CellKey{Item: it.ID, Warehouse: house}].Free, LeadDays: it.LeadDays,
	}
	for _, x := range s.Receipts[command.CellKey{Item: it.ID, Warehouse: house}] {
		out.Coming += x.Qty
	}
	lines, err := r.LinesOfItem(it.ID)
	if err != nil {
		return out, err
	}
	var wants []outlook.Event
	for _, l := range lines {
		if l.WarehouseID != house {
			continue
		}
		day, err := days.Parse(l.ShipBy)
		if err != nil {
			return out, err
		}
		out.Open += l.Open
		wants = append(wants, outlook.Event{Day: day, Qty: l.Open})
	}
	asked, err := r.BuyRequests(nil, it.ID, 500)
	if err != nil {
		return out, err
	}
	for _, b := range asked {
		if !b.Settled && b.WarehouseID == house {
			out.Asked += b.Qty
		}
	}
	wanted := outlook.Lead(s.Calendar, s.Today, it.LeadDays, true)
	buy, lacking, lacks := outlook.Lack(out.Free+out.Coming, out.Asked, wants, it.Multiple)
	if out.Qty = buy; lacks {
		wanted = max(wanted, lacking)
	}
	out.Wanted = s.Docks[house].Calendar.Next(wanted).String()
	if !it.Buyable {
		out.Why = words.Say("%s cannot be bought any more", sku)
	}
	return out, nil
}

// RequestBuy asks for more of an item to be bought. Nothing is expected until it is confirmed.
//
// It locks nothing. It refuses an item that cannot be bought, a day that has passed, and what is no whole pack.
func (d *Desk) RequestBuy(ctx context.Context, call command.Call, ask BuyAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbBuy, ask, func(w *command.UnitOfWork) error {
		it, found, err := w.Tx.ItemBySKU(ask.SKU)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no item %s.", ask.SKU)
		}
		h, err := w.Warehouse(ask.Warehouse)
		if err != nil {
			return err
		}
		day, err := days.Parse(ask.Wanted)
		switch {
		case err != nil:
			return command.Invalid("%s.", err)
		case day < d.Today():
			return command.Invalid("%s has passed: nothing can be bought for then.", words.Day(day))
		case ask.Qty <= 0:
			return command.Invalid("The quantity must be at least 1.")
		case ask.Qty%it.Multiple != 0:
			return command.Invalid(
				"%s goes in packs of %d: request %d or %d.", it.SKU, it.Multiple, ask.Qty/it.Multiple*it.Multiple,
				(ask.Qty/it.Multiple+1)*it.Multiple,
			)
		case !it.Buyable:
			return command.Conflict("%s cannot be bought any more. Offer a substitute, or import it as buyable.", it.SKU)
		}
		id, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		number, err := w.Tx.AddBuyRequest(it.ID, h.ID, ask.Qty, ask.Wanted, strings.TrimSpace(ask.Note), id)
		if err != nil {
			return err
		}
		w.SKUs[it.SKU] = true
		w.AddDocument("request to buy", number)
		w.Say("%s asks for %d of %s at %s by %s. It is expected once it is confirmed.", number, ask.Qty, it.SKU, h.Code, words.Day(day))
		return nil
	})
}

// ConfirmBuy makes an expected receipt of a request: it counts for promises from now on.
//
// It locks the request. It refuses one that is settled, a day that has passed, and a reference that is expected already.
func (d *Desk) ConfirmBuy(ctx context.Context, call command.Call, ask BuyConfirm) (command.Outcome, error) {
	return d.settleBuy(ctx, call, ask, ask.Number, func(w *command.UnitOfWork, b store.BuyRow, by int64) error {
		day, err := days.Parse(ask.Due)
		ref := strings.TrimSpace(ask.Ref)
		switch {
		case err != nil:
			return command.Invalid("%s.", err)
		case day < d.Today():
			return command.Invalid("%s has passed: what has not come cannot be expected then.", words.Day(day))
		case ask.Qty <= 0:
			return command.Invalid("The quantity must be at least 1.")
		case ref == "":
			return command.Invalid("Give the purchase a reference, by which it is received.")
		}
		err = w.Tx.ConfirmBuyRequest(b, ref, ask.Due, strings.TrimSpace(ask.Supplier), ask.Qty, by)
		if postgres.Check(err) == "inbound_ref_item_id_warehouse_id_key" {
			return command.Conflict("%s of %s is expected at %s already. Give another reference.", ref, b.SKU, b.Warehouse)
		}
		w.AddDocument("inbound", ref)
		w.Say("%d of %s are expected at %s on %s: %s.", ask.Qty, b.SKU, b.Warehouse, words.Day(day), ref)
		return err
	})
}

// WithdrawBuy ends a request, with a reason.
//
// It locks the request. It refuses one that is settled, or no reason.
func (d *Desk) WithdrawBuy(ctx context.Context, call command.Call, ask BuyNamed) (command.Outcome, error) {
	return d.settleBuy(ctx, call, ask, ask.Number, func(w *command.UnitOfWork, b store.BuyRow, by int64) error {
		if strings.TrimSpace(call.Reason) == "" {
			return command.Invalid("Say why it is not to be bought.")
		}
		w.Say("%s is withdrawn.", b.Number)
		return w.Tx.WithdrawBuyRequest(b.ID, by)
	})
}

func (d *Desk) settleBuy(
	ctx context.Context, call command.Call, ask any, number string, do func(w *command.UnitOfWork, b store.BuyRow, by int64) error,
) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSettle, ask, func(w *command.UnitOfWork) error {
		b, found, err := w.Tx.LockBuyRequest(number)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no request to buy %s.", number)
		}
		if b.Settled {
			if b.Ref != "" {
				return command.Conflict("%s is settled already: confirmed as %s by %s.", number, b.Ref, b.SettledBy)
			}
			return command.Conflict("%s is settled already: withdrawn by %s.", number, b.SettledBy)
		}
		id, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		w.SKUs[b.SKU] = true
		return do(w, b, id)
	})
}
