package dock

import (
	"context"
	"strings"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/floor"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ShipmentSeen is a shipment, as it was seen on the screen.
type ShipmentSeen struct {
	Number string `json:"number"`
	Seen   int64  `json:"seen" doc:"Units in it when it was seen"`
}

// Dispatch has the carrier asked to take shipments: all of them, or none. They leave, and stock falls, when the carrier has taken them (see
// Book); until then nothing is packed into them or taken out.
//
// It locks the lines in the shipments with their stock, then the shipments. It refuses one that has left, is being asked about, is empty
// or not as it was seen, has an order on hold in it or one that must not leave yet, may hold units that were recalled and not put back
// yet, or are of a lot that must not be sent, has a package whose label is void, or has to wait for more by a ship rule. It may be retried
// with the same key.
func (d *Desk) Dispatch(ctx context.Context, call command.Call, ships []ShipmentSeen) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbDispatch, ships, func(w *command.UnitOfWork) error {
		all, err := lockShipments(w, ships)
		if err != nil {
			return err
		}
		var numbers []string
		for _, s := range all {
			if err := d.mayLeave(w, s); err != nil {
				return err
			}
			id, err := w.Tx.CommandID()
			if err != nil {
				return err
			}
			if err := w.Tx.MarkAsked(s.ID, id, w.At); err != nil {
				return err
			}
			if err := w.Tx.Enqueue(BookShipment{Shipment: s.ID, Asked: id}); err != nil {
				return err
			}
			for _, c := range s.contents {
				l := w.Lines[c.LineID]
				w.Orders[l.OrderNumber] = true
			}
			w.AddDocument("shipment", s.Number)
			numbers = append(numbers, s.Number)
		}
		w.Say("Asking the carrier to take %s …", strings.Join(numbers, ", "))
		return nil
	})
}

// mayLeave refuses a shipment that may not be dispatched.
func (d *Desk) mayLeave(w *command.UnitOfWork, s *lockedShipment) error {
	switch {
	case s.DispatchedAt != nil:
		return command.Conflict("Shipment %s has left already, %s.", s.Number, w.Clock(*s.DispatchedAt))
	case s.AskedAt != nil:
		return command.Conflict("The carrier was asked %s to take shipment %s, and has not answered yet.", w.Clock(*s.AskedAt), s.Number)
	case s.units == 0:
		return command.Conflict("Shipment %s is empty. Pack something into it first.", s.Number)
	case s.seen != 0 && s.seen != s.units:
		return command.Conflict("Shipment %s has changed since you saw it: it now holds %s, not %d. Look at it again, then dispatch.",
			s.Number, words.Count(s.units, "unit"), s.seen)
	}
	if err := refuseHeld(w, s); err != nil {
		return err
	}
	if err := d.refuseEarly(w, s); err != nil {
		return err
	}
	back, err := w.Tx.PutBacksOfPackages(store.IDs{s.ID})
	if err != nil {
		return err
	}
	if len(back) > 0 {
		b := back[0]
		return command.Conflict(
			"%s of shipment %s may still hold %d of %s that %s recalled for %s. Take them out and put them back first.", b.Package, s.Number,
			b.Qty-b.Done, b.SKU, b.Who, b.Order,
		)
	}
	stopped, err := w.Tx.StoppedLots(store.IDs{s.ID})
	if err != nil {
		return err
	}
	if len(stopped) > 0 {
		return command.Conflict("Shipment %s holds %d of lot %s, which must not be sent. Recall the lot again, or unpack it.", s.Number,
			stopped[0].Qty, stopped[0].Lot)
	}
	bare, found, err := w.Tx.PackageWithoutLabel(s.ID)
	if err != nil {
		return err
	}
	if found {
		return command.Conflict("The label of %s in shipment %s is void. Print its labels again, and stick the new one on it.", bare, s.Number)
	}
	return refuseTornApart(w, s)
}

type lockedShipment struct {
	store.Shipment
	contents []store.ContentRow
	units    int64
	seen     int64
}

// lockShipments holds the lines in the shipments still, then the shipments.
func lockShipments(w *command.UnitOfWork, ships []ShipmentSeen) ([]*lockedShipment, error) {
	if len(ships) == 0 {
		return nil, command.Invalid("Choose a shipment.")
	}
	var out []*lockedShipment
	byID := map[int64]*lockedShipment{}
	ids := store.IDs{}
	for _, a := range ships {
		s, found, err := w.Tx.ShipmentByNumber(a.Number)
		if err != nil {
			return nil, err
		}
		if !found {
			return nil, command.NotFound("There is no shipment %s.", a.Number)
		}
		if byID[s.ID] != nil {
			return nil, command.Invalid("Shipment %s was chosen twice.", a.Number)
		}
		byID[s.ID] = &lockedShipment{Shipment: s, seen: a.Seen}
		out = append(out, byID[s.ID])
		ids = append(ids, s.ID)
	}
	contents, err := floor.LockContents(w, ids...)
	if err != nil {
		return nil, err
	}
	locked, err := w.Tx.Shipments(ids)
	if err != nil {
		return nil, err
	}
	for _, s := range locked {
		byID[s.ID].Shipment = s
	}
	for _, c := range contents {
		s := byID[c.ShipmentID]
		s.contents = append(s.contents, c)
		s.units += c.Qty
	}
	return out, nil
}

// orders are the keys and the numbers of the orders of which there is something in it.
func (s *lockedShipment) orders(w *command.UnitOfWork) (ids store.IDs, number map[int64]string) {
	number = map[int64]string{}
	for _, c := range s.contents {
		if l := w.Lines[c.LineID]; number[l.OrderID] == "" {
			number[l.OrderID] = l.OrderNumber
			ids = append(ids, l.OrderID)
		}
	}
	return ids, number
}

// refuseHeld refuses a shipment with units of an order that is on hold: the dear mistake is an order cancelled in the office and shipped
// all the same.
func refuseHeld(w *command.UnitOfWork, s *lockedShipment) error {
	ids, number := s.orders(w)
	holds, err := w.Tx.StandingHolds(ids)
	if err != nil || len(holds) == 0 {
		return err
	}
	h := holds[0]
	return command.Conflict("%s in shipment %s is on %s hold: %s Lift the hold, or unpack it.",
		number[h.OrderID], s.Number, h.Kind, words.WithFullStop(h.Note))
}

// refuseEarly refuses a shipment with units of an order that must not leave before a later day, by the calendar of its warehouse.
func (d *Desk) refuseEarly(w *command.UnitOfWork, s *lockedShipment) error {
	ids, number := s.orders(w)
	leaves, err := w.Tx.NotBefore(ids)
	if err != nil || len(leaves) == 0 {
		return err
	}
	zone, err := d.supply.ZoneOfWarehouse(&w.Tx.Reader, s.WarehouseID)
	if err != nil {
		return err
	}
	today := days.Of(w.At.In(zone))
	for _, id := range ids {
		if leaves[id] > today {
			return command.Conflict(
				"%s in shipment %s must not leave before %s. Dispatch it then, or change the order.", number[id], s.Number,
				words.Day(leaves[id]),
			)
		}
	}
	return nil
}

// refuseTornApart refuses a shipment that would tear apart what must go together.
func refuseTornApart(w *command.UnitOfWork, s *lockedShipment) error {
	for _, c := range s.contents {
		l := w.Lines[c.LineID]
		rule := journey.ShipRule(l.ShipRule)
		order := int64(0)
		if rule == journey.ShipWhole {
			var err error
			if order, err = w.Tx.UnitsBehind(l.OrderID); err != nil {
				return err
			}
		}
		line := l.Now.At[journey.Open] + l.Now.At[journey.Allocated] + l.Now.At[journey.Released] + l.Now.At[journey.Picked]
		behind := shipping.Behind(rule, line, journey.Qty(order))
		if behind == 0 {
			continue
		}
		if rule == journey.ShipWhole {
			return command.Conflict("%s goes only as a whole order, and %d of its units are not packed yet.", l.OrderNumber, behind)
		}
		return command.Conflict("%s line %d goes only as a whole line, and %d of it are not packed yet.", l.OrderNumber, l.LineNo, behind)
	}
	return nil
}
