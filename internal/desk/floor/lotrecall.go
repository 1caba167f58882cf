package floor

import (
	"context"
	"slices"
	"strings"

	"journeyman/core/journey"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// LotAsk names a lot of an item.
type LotAsk struct {
	SKU string `json:"sku" minLength:"1" maxLength:"60"`
	Lot string `json:"lot" minLength:"1" maxLength:"40"`
}

// find is the item and its lot.
func (ask LotAsk) find(r *store.Reader) (store.Item, store.Lot, error) {
	items, err := r.ItemsBySKU(store.Texts{ask.SKU})
	if err != nil {
		return store.Item{}, store.Lot{}, err
	}
	if len(items) == 0 {
		return store.Item{}, store.Lot{}, command.NotFound("There is no item %s.", ask.SKU)
	}
	lot, found, err := r.LotByCode(items[0].ID, ask.Lot)
	if err == nil && !found {
		err = command.NotFound("No lot %s of %s was ever noted here.", strings.ToUpper(strings.TrimSpace(ask.Lot)), ask.SKU)
	}
	return items[0], lot, err
}

// RecallLot says that a lot must not be sent, and takes back what of it is in the house: what lies in bins is set aside, what is picked or
// packed is to be put back, and its lines are open again. Who has such units on a pick list is sent elsewhere, or the units come off the
// list; where fewer are left then than are allocated, those are given back and allocated again by the default policy. Of a lot that was
// recalled before, the rest is taken back.
//
// It locks the lines concerned with their stock, then the pick lists, then the shipments. It refuses no reason, lots that there are not,
// and a lot that was recalled before and of which nothing is left to be taken back.
func (d *Desk) RecallLot(ctx context.Context, call command.Call, ask LotAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbLot, ask, func(w *command.UnitOfWork) error {
		if strings.TrimSpace(call.Reason) == "" {
			return command.Invalid("Say why the lot must not be sent: it stands wherever the lot is refused.")
		}
		item, lot, err := ask.find(&w.Tx.Reader)
		if err != nil {
			return err
		}
		lines, err := linesOfLot(&w.Tx.Reader, item, lot)
		if err != nil {
			return err
		}
		if err := w.Lock(lines, item.ID); err != nil {
			return err
		}
		if lot, _, err = w.Tx.LotByCode(item.ID, lot.Code); err != nil {
			return err
		}
		p, err := planLot(&w.Tx.Reader, item, lot, func(lines []stopLine) ([]stopPart, error) { return lockParts(w, lines) })
		if err != nil {
			return err
		}
		if missing := slices.ContainsFunc(p.lines(), func(id int64) bool { return w.Lines[id] == nil }); missing {
			return command.Conflict("Units of the lot are being moved just now. Nothing was done; try again in a moment.")
		}
		if lot.RecallID != nil && p.back+p.aside == 0 {
			return command.Conflict("%s recalled lot %s of %s %s. Nothing more of it can be recalled.", lot.Who, lot.Code, item.SKU,
				w.Clock(*lot.At))
		}
		if lot.RecallID == nil {
			if err := w.Tx.RecallLot(lot.ID, w.ID); err != nil {
				return err
			}
		}
		w.Say("Lot %s of %s must not be sent any more.", lot.Code, item.SKU)
		for _, m := range p.effects() {
			w.Also(m)
		}
		w.SKUs[item.SKU] = true
		w.AddDocument("item", item.SKU)
		if err := stopParts(w, p.parts, journey.Open); err != nil {
			return err
		}
		if err := d.setLotAside(w, p); err != nil {
			return err
		}
		w.Outcome.Units = int64(p.back + p.aside)
		return nil
	})
}

// linesOfLot are the lines that a recall of the lot may concern: those with units of it that have not left, and those that want the item.
func linesOfLot(r *store.Reader, item store.Item, lot store.Lot) (store.IDs, error) {
	lines, err := r.WantingLineIDs(store.IDs{item.ID})
	if err != nil {
		return nil, err
	}
	places, err := r.LotPlaces(lot.ID)
	if err != nil {
		return nil, err
	}
	var bins store.IDs
	for _, p := range places {
		switch {
		case p.Bin != 0:
			bins = append(bins, p.Bin)
		case !p.Gone:
			lines = append(lines, p.Line)
		}
	}
	due, err := r.LinesDueFrom(item.ID, bins)
	return append(lines, due...), err
}

// lotBin is a bin with units of a lot, how many of them are to be set aside, and what comes off pick lists for that.
type lotBin struct {
	store.BinRoom
	aside journey.Qty
	off   []store.DueRow
}

// lotPlan is what recalling a lot comes to.
type lotPlan struct {
	item  store.Item
	lot   store.Lot
	parts []stopPart // what was picked or packed; each says how many of it are of the lot and are taken back
	bins  []lotBin
	cells map[int64]store.LockedCell // of the item, by warehouse

	back, late, gone journey.Qty
	aside            journey.Qty
	ships            []string // for which it is too late
}

// lines are those whose units would be moved.
func (p lotPlan) lines() (ids []int64) {
	for _, x := range p.parts {
		if x.takes > 0 {
			ids = append(ids, x.line)
		}
	}
	for _, b := range p.bins {
		for _, t := range b.off {
			ids = append(ids, t.Line)
		}
	}
	return ids
}

// needs is by how many units more is to be set aside in a warehouse than is free.
func (p lotPlan) needs(house int64) journey.Qty {
	var aside journey.Qty
	for _, b := range p.bins {
		if b.WarehouseID == house {
			aside += b.aside
		}
	}
	c := p.cells[house]
	return aside - journey.Cell{OnHand: journey.Qty(c.OnHand), Held: journey.Qty(c.Held), At: c.Counts()}.Free()
}

// planLot works out what recalling a lot comes to. parts reads where units of lines are.
func planLot(r *store.Reader, item store.Item, lot store.Lot, parts func([]stopLine) ([]stopPart, error)) (lotPlan, error) {
	p := lotPlan{item: item, lot: lot, cells: map[int64]store.LockedCell{}}
	places, err := r.LotPlaces(lot.ID)
	if err != nil {
		return p, err
	}
	cells, err := r.CellsOfItem(item.ID)
	if err != nil {
		return p, err
	}
	for _, c := range cells {
		p.cells[c.WarehouseID] = c
	}
	if err := p.planBins(r, places); err != nil {
		return p, err
	}
	return p, p.planInHand(r, places, parts)
}

// planBins works out what is set aside in bins. Whoever is on the way to a bin for more than is left there is not sent there any more.
func (p *lotPlan) planBins(r *store.Reader, places []store.LotAt) error {
	rooms, err := r.BinsOf(store.IDs{p.item.ID})
	if err != nil {
		return err
	}
	var bins store.IDs
	for _, x := range places {
		i := slices.IndexFunc(rooms, func(b store.BinRoom) bool { return x.Bin != 0 && b.BinID == x.Bin })
		if i < 0 {
			continue
		}
		if n := min(journey.Qty(x.Qty-x.Aside), journey.Qty(rooms[i].Qty-rooms[i].Held)); n > 0 {
			p.bins = append(p.bins, lotBin{BinRoom: rooms[i], aside: n})
			p.aside += n
			bins = append(bins, x.Bin)
		}
	}
	lines, err := r.LinesDueFrom(p.item.ID, bins)
	if err != nil {
		return err
	}
	due, err := r.DueOf(lines)
	for i := range p.bins {
		b := &p.bins[i]
		over := journey.Qty(b.Due) - (journey.Qty(b.Qty-b.Held) - b.aside)
		for _, t := range due {
			if over > 0 && t.BinID == b.BinID {
				b.off = append(b.off, t)
				over -= journey.Qty(t.Due)
			}
		}
	}
	return err
}

// planInHand works out what is taken back of what was picked or packed.
func (p *lotPlan) planInHand(r *store.Reader, places []store.LotAt, parts func([]stopLine) ([]stopPart, error)) error {
	var ids store.IDs
	for _, x := range places {
		switch {
		case x.Gone:
			p.gone += journey.Qty(x.Qty)
		case x.Line != 0 && !slices.Contains(ids, x.Line):
			ids = append(ids, x.Line)
		}
	}
	rows, err := r.LinesByID(ids)
	if err != nil {
		return err
	}
	lines := make([]stopLine, len(rows))
	for i, l := range rows {
		lines[i] = stopLine{l.ID, l.LineNo, l.WeightG, l.Line().At}
	}
	if p.parts, err = parts(lines); err != nil {
		return err
	}
	waits, err := r.LotToPutBack(p.lot.ID)
	if err != nil {
		return err
	}
	for _, x := range places {
		if x.Line == 0 || x.Gone {
			continue
		}
		left := journey.Qty(x.Qty - waits[[2]int64{x.Line, x.Package}])
		for i := range p.parts {
			y := &p.parts[i]
			if y.line != x.Line || y.pack != x.Package || y.house != x.Warehouse || y.station != journey.Picked && y.station != journey.Packed {
				continue
			}
			n := min(y.qty, left)
			if left -= n; n > 0 && y.late {
				p.late += n
				if !slices.Contains(p.ships, y.shipment) {
					p.ships = append(p.ships, y.shipment)
				}
				continue
			}
			y.takes, y.lot = n, p.lot.ID
			p.back += n
		}
	}
	return nil
}

// effects says what recalling the lot brings with it, a sentence each.
func (p lotPlan) effects() (out []words.Message) {
	if p.aside > 0 {
		out = append(out, words.Say("Set aside: %s in %s.", words.Count(int64(p.aside), "unit"), words.Count(int64(len(p.bins)), "bin")))
	}
	if p.back > 0 {
		out = append(out, words.Say("To be put back, and set aside then: %s.", words.Count(int64(p.back), "unit")))
	}
	var stopped []string
	for _, x := range p.parts {
		if x.takes > 0 && x.asked && !slices.Contains(stopped, x.shipment) {
			stopped = append(stopped, x.shipment)
		}
	}
	if len(stopped) > 0 {
		out = append(out, stoppedDispatch(stopped))
	}
	if p.late > 0 {
		out = append(out, tooLate(p.late, p.ships))
	}
	var lists []string
	for _, b := range p.bins {
		for _, t := range b.off {
			if !slices.Contains(lists, t.List) {
				lists = append(lists, t.List)
			}
		}
	}
	if len(lists) > 0 {
		out = append(out, words.Say("Taken off %s, since their bin holds too few without the lot.", strings.Join(lists, ", ")))
	}
	for _, c := range p.inOrder() {
		if n := p.needs(c.WarehouseID); n > 0 {
			out = append(out, words.Say("Orders lose %s at %s.", words.Count(int64(n), "unit"), c.Warehouse))
		}
	}
	if p.gone > 0 {
		out = append(out, words.Say("Left the house already: %s.", words.Count(int64(p.gone), "unit")))
	}
	return out
}

// inOrder are the stock rows in which something is set aside, by warehouse.
func (p lotPlan) inOrder() (out []store.LockedCell) {
	for id, c := range p.cells {
		if slices.ContainsFunc(p.bins, func(b lotBin) bool { return b.WarehouseID == id }) {
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b store.LockedCell) int { return strings.Compare(a.Warehouse, b.Warehouse) })
	return out
}

// setLotAside takes off pick lists what cannot be picked any more, gives back as many units as have to be, and sets the lot aside.
func (d *Desk) setLotAside(w *command.UnitOfWork, p lotPlan) error {
	left := map[command.CellKey]int64{}
	more := map[int64]journey.Qty{} // to be given back of what comes off lists
	for _, c := range p.inOrder() {
		if n := p.needs(c.WarehouseID); n > 0 {
			left[command.CellKey{Item: p.item.ID, Warehouse: c.WarehouseID}] = max(0, c.Allocated-int64(n))
			more[c.WarehouseID] = max(0, n-journey.Qty(c.Allocated))
		}
	}
	var again *allocation.ComputedPlan
	if len(left) > 0 {
		x, changed, err := d.allocation.GiveBackBroken(w, left)
		if err != nil {
			return err
		}
		again = x
		w.Also(words.Say("Allocated anew by %s: other units for %s.", x.Policy, words.Count(changed, "line")))
	}
	for _, b := range p.bins {
		for _, t := range b.off {
			l := w.Lines[t.Line]
			w.AddDocumentOnce("pick list", t.List)
			due := journey.Qty(t.Due)
			if err := w.Move(l, b.WarehouseID, journey.Make(journey.Recall, due), command.Refs{Task: t.Task, Bin: b.BinID}); err != nil {
				return err
			}
			if n := min(due, more[b.WarehouseID]); n > 0 {
				more[b.WarehouseID] -= n
				if err := w.Move(l, b.WarehouseID, journey.Make(journey.GiveBack, n), command.Refs{}); err != nil {
					return err
				}
			}
		}
	}
	for _, b := range p.bins {
		if err := w.MoveStock(p.item.ID, b.WarehouseID, journey.Make(journey.Set, b.aside), command.Refs{Bin: b.BinID}); err != nil {
			return err
		}
		at := store.LotPlace{Item: p.item.ID, Warehouse: b.WarehouseID, Bin: b.BinID}
		w.Tx.NoteLots([]store.LotEntry{{LotPlace: at, Lot: p.lot.ID, Aside: int64(b.aside)}})
	}
	if again == nil {
		return nil
	}
	return allocation.AllocateAgain(w, again)
}

// LotRecallView is what recalling a lot would do.
type LotRecallView struct {
	Aside int64           `json:"aside" doc:"Units in bins that would be set aside"`
	Back  int64           `json:"back" doc:"Units that were picked or packed and would have to be put back"`
	Late  int64           `json:"late" doc:"Units for which it is too late, because a carrier is being asked"`
	Gone  int64           `json:"gone" doc:"Units that have left"`
	Does  []words.Message `json:"does" doc:"What that brings with it, a sentence each"`
}

// RehearseLot says what recalling a lot would do, and does nothing.
func (d *Desk) RehearseLot(ctx context.Context, ask LotAsk) (LotRecallView, error) {
	r := d.Store.Read(ctx)
	item, lot, err := ask.find(r)
	if err != nil {
		return LotRecallView{}, err
	}
	p, err := planLot(r, item, lot, func(lines []stopLine) ([]stopPart, error) { return partsOf(r, lines) })
	out := LotRecallView{int64(p.aside), int64(p.back), int64(p.late), int64(p.gone), p.effects()}
	if out.Does == nil {
		out.Does = []words.Message{}
	}
	return out, err
}

// LiftLot says that a lot may be sent again, and frees what of it was set aside.
//
// It locks the stock of the item. It refuses lots that are not recalled.
func (d *Desk) LiftLot(ctx context.Context, call command.Call, ask LotAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbLot, ask, func(w *command.UnitOfWork) error {
		lot, bins, err := lockRecalled(w, ask)
		if err != nil {
			return err
		}
		var freed journey.Qty
		for _, b := range bins {
			n := journey.Qty(b.Aside)
			if err := w.MoveStock(b.Item, b.Warehouse, journey.Make(journey.Unset, n), command.Refs{Bin: b.Bin}); err != nil {
				return err
			}
			w.Tx.NoteLots([]store.LotEntry{{LotPlace: b.LotPlace, Lot: lot.ID, Aside: -b.Aside}})
			freed += n
		}
		w.Say("Lot %s of %s may be sent again.", lot.Code, ask.SKU)
		if freed > 0 {
			w.Also(words.Say("Free at once: %s.", words.Count(int64(freed), "unit")))
		}
		w.Outcome.Units = int64(freed)
		return w.Tx.LiftLot(*lot.RecallID, w.ID)
	})
}

// WriteOffLot records that what was set aside of a recalled lot is not in the house any more: it went back to its supplier, or was
// destroyed.
//
// It locks the stock of the item. It refuses no reason, lots that are not recalled, and those of which nothing is set aside.
func (d *Desk) WriteOffLot(ctx context.Context, call command.Call, ask LotAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbLot, ask, func(w *command.UnitOfWork) error {
		if strings.TrimSpace(call.Reason) == "" {
			return command.Invalid("Say what becomes of the units: they went back to the supplier, or were destroyed.")
		}
		lot, bins, err := lockRecalled(w, ask)
		if err != nil {
			return err
		}
		if len(bins) == 0 {
			return command.Conflict("Nothing of lot %s of %s is set aside in a bin.", lot.Code, ask.SKU)
		}
		var gone journey.Qty
		for _, b := range bins {
			n := journey.Qty(b.Aside)
			if err := w.MoveStock(b.Item, b.Warehouse, journey.Make(journey.Unset, n), command.Refs{Bin: b.Bin}); err != nil {
				return err
			}
			of := []command.LotQty{{Lot: lot.Code, Qty: b.Aside}}
			if err := w.MoveStock(b.Item, b.Warehouse, journey.Make(journey.Loss, n), command.Refs{Bin: b.Bin, Lots: of}); err != nil {
				return err
			}
			gone += n
		}
		w.Say("Written off: %s of lot %s of %s.", words.Count(int64(gone), "unit"), lot.Code, ask.SKU)
		w.Outcome.Units = int64(gone)
		return nil
	})
}

// lockRecalled holds the stock of the item still, and returns its lot, which is recalled, with the bins in which some of it is set aside.
func lockRecalled(w *command.UnitOfWork, ask LotAsk) (store.Lot, []store.LotAt, error) {
	item, lot, err := ask.find(&w.Tx.Reader)
	if err != nil {
		return lot, nil, err
	}
	if err := w.Lock(nil, item.ID); err != nil {
		return lot, nil, err
	}
	if lot, _, err = w.Tx.LotByCode(item.ID, lot.Code); err != nil {
		return lot, nil, err
	}
	if lot.RecallID == nil {
		return lot, nil, command.Conflict("Lot %s of %s is not recalled. Somebody may have lifted that just now.", lot.Code, item.SKU)
	}
	w.SKUs[item.SKU] = true
	w.AddDocument("item", item.SKU)
	places, err := w.Tx.LotPlaces(lot.ID)
	return lot, slices.DeleteFunc(places, func(p store.LotAt) bool { return p.Aside == 0 }), err
}
