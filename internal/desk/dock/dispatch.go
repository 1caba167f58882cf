package dock

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/words"
	"journeyman/internal/store"
)

// Consignment is what a carrier is told of a shipment.
type Consignment struct {
	Shipment string
	Service  string
	Packages int
	WeightG  int64
	Postcode string
	Country  string
	At       time.Time // in the time zone of the warehouse it leaves
}

// Booking is the carrier's answer.
type Booking struct {
	Carrier  string
	Tracking string
	Expected days.Day // when it should arrive
}

// Carrier is whoever takes shipments away. Book must answer the same for the same
// shipment, however often it is asked: a dispatch may be tried again.
type Carrier interface {
	Book(context.Context, Consignment) (Booking, error)
	// Delivered says which of the parcels the carrier has delivered, and when.
	Delivered(context.Context, []Parcel) (map[string]time.Time, error)
}

// Parcel is a shipment under way, as the carrier knows it.
type Parcel struct {
	Tracking     string
	DispatchedAt time.Time
}

// ShipmentSeen is a shipment, as it was seen on the screen.
type ShipmentSeen struct {
	Number string `json:"number"`
	Seen   int64  `json:"seen" doc:"Units in it when it was seen"`
}

// Dispatch sends shipments off: the carrier gives each its tracking number, and
// stock falls now. All of them go, or none.
func (d *Desk) Dispatch(ctx context.Context, call command.Call, ships []ShipmentSeen) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbDispatch, ships, func(w *command.UnitOfWork) error {
		all, err := lockShipments(w, ships)
		if err != nil {
			return err
		}
		var said []string
		for _, s := range all {
			if s.DispatchedAt != nil {
				return command.Conflict("Shipment %s has left already, %s.", s.Number, d.Clock(*s.DispatchedAt))
			}
			if s.units == 0 {
				return command.Conflict("Shipment %s is empty. Pack something into it first.", s.Number)
			}
			if s.seen != 0 && s.seen != s.units {
				return command.Conflict("Shipment %s has changed since you saw it: it now holds %s, not %d. Look at it again, then dispatch.", s.Number, words.Count(s.units, "unit"), s.seen)
			}
			if err := refuseHeld(w, s); err != nil {
				return err
			}
			if err := refuseTornApart(w, s); err != nil {
				return err
			}
			booking, err := d.bookCarrier(w, s)
			if err != nil {
				return err
			}
			for _, c := range s.contents {
				if err := w.Move(w.Lines[c.LineID], s.WarehouseID, journey.Make(journey.Dispatch, journey.Qty(c.Qty)), command.Refs{Package: c.PackageID}); err != nil {
					return err
				}
			}
			if err := w.Tx.MarkDispatched(s.ID, w.ID, w.At, booking.Carrier, booking.Tracking, booking.Expected.String()); err != nil {
				return err
			}
			w.AddDocument("shipment", s.Number)
			said = append(said, fmt.Sprintf("%s with %s, tracking %s", s.Number, booking.Carrier, booking.Tracking))
		}
		w.Say("Dispatched %s.", strings.Join(said, "; "))
		return nil
	})
}

type lockedShipment struct {
	store.Shipment
	contents []store.ContentRow
	units    int64
	seen     int64
}

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
	fresh, err := w.Tx.Shipments(ids)
	if err != nil {
		return nil, err
	}
	for _, s := range fresh {
		byID[s.ID].Shipment = s
	}
	for _, c := range contents {
		s := byID[c.ShipmentID]
		s.contents = append(s.contents, c)
		s.units += c.Qty
	}
	return out, nil
}

// refuseHeld refuses a shipment with units of an order that is on hold: the dear
// mistake is an order cancelled in the office and shipped all the same.
func refuseHeld(w *command.UnitOfWork, s *lockedShipment) error {
	ids := store.IDs{}
	number := map[int64]string{}
	for _, c := range s.contents {
		l := w.Lines[c.LineID]
		if number[l.OrderID] == "" {
			number[l.OrderID] = l.OrderNumber
			ids = append(ids, l.OrderID)
		}
	}
	holds, err := w.Tx.StandingHolds(ids)
	if err != nil || len(holds) == 0 {
		return err
	}
	h := holds[0]
	return command.Conflict("%s in shipment %s is on %s hold: %s Lift the hold, or unpack it.", number[h.OrderID], s.Number, h.Kind, words.WithFullStop(h.Note))
}

// refuseTornApart refuses a shipment that would tear apart what must go together.
func refuseTornApart(w *command.UnitOfWork, s *lockedShipment) error {
	for _, c := range s.contents {
		l := w.Lines[c.LineID]
		inHouse := l.Now.At[journey.Open] + l.Now.At[journey.Allocated] + l.Now.At[journey.Released] + l.Now.At[journey.Picked]
		switch journey.ShipRule(l.ShipRule) {
		case journey.ShipLines:
			if inHouse > 0 {
				return command.Conflict("%s line %d goes only as a whole line, and %d of it are not packed yet.", l.OrderNumber, l.LineNo, inHouse)
			}
		case journey.ShipWhole:
			behind, err := w.Tx.UnitsBehind(l.OrderID)
			if err != nil {
				return err
			}
			if behind > 0 {
				return command.Conflict("%s goes only as a whole order, and %d of its units are not packed yet.", l.OrderNumber, behind)
			}
		}
	}
	return nil
}

func (d *Desk) bookCarrier(w *command.UnitOfWork, s *lockedShipment) (Booking, error) {
	facts, err := w.Tx.ConsignmentOf(s.ID)
	if err != nil {
		return Booking{}, err
	}
	zone, err := d.supply.ZoneOfWarehouse(w, s.WarehouseID)
	if err != nil {
		return Booking{}, err
	}
	b, err := d.carrier.Book(w.Ctx, Consignment{
		Shipment: s.Number, Service: s.Service, Packages: facts.Packages, WeightG: facts.WeightG,
		Postcode: facts.Postcode, Country: facts.Country, At: w.At.In(zone),
	})
	if err != nil {
		return b, &command.Refusal{Kind: command.KindConflict, Cause: err, Sentence: fmt.Sprintf("The carrier does not take shipment %s: %s. Nothing was dispatched.", s.Number, err)}
	}
	return b, nil
}

// Deliver records the news that shipments have arrived.
func (d *Desk) Deliver(ctx context.Context, call command.Call, ships []ShipmentSeen) (command.Outcome, error) {
	return d.deliver(ctx, call, ships, time.Time{})
}

// deliver is Deliver with the time at which they arrived, if somebody knows it.
func (d *Desk) deliver(ctx context.Context, call command.Call, ships []ShipmentSeen, arrived time.Time) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbDeliver, ships, func(w *command.UnitOfWork) error {
		all, err := lockShipments(w, ships)
		if err != nil {
			return err
		}
		for _, s := range all {
			if s.DispatchedAt == nil {
				return command.Conflict("Shipment %s has not left yet.", s.Number)
			}
			if s.DeliveredAt != nil {
				return command.Conflict("Shipment %s was delivered already, %s.", s.Number, d.Clock(*s.DeliveredAt))
			}
			for _, c := range s.contents {
				if err := w.Move(w.Lines[c.LineID], 0, journey.Make(journey.Deliver, journey.Qty(c.Qty)), command.Refs{Package: c.PackageID}); err != nil {
					return err
				}
			}
			at := w.At
			if !arrived.IsZero() && arrived.After(*s.DispatchedAt) && arrived.Before(w.At) {
				at = arrived
			}
			if err := w.Tx.MarkDelivered(s.ID, w.ID, at); err != nil {
				return err
			}
			w.AddDocument("shipment", s.Number)
		}
		w.Say("Delivered: %s of %s.", words.Count(w.Outcome.Units, "unit"), words.Count(int64(len(w.Orders)), "order"))
		return nil
	})
}

// newsAtOnce is about how many shipments the carrier is asked at once.
const newsAtOnce = 500

// CarrierNews asks the carrier about every shipment under way and delivers what
// has arrived, each in a command of its own, at the time that the carrier says. It returns how many arrived.
func (d *Desk) CarrierNews(ctx context.Context, as command.Actor) (int, error) {
	n, after := 0, int64(0)
	var failed error
	for {
		under, err := d.Store.Read(ctx).UnderWay(after, newsAtOnce)
		if err != nil || len(under) == 0 {
			return n, errors.Join(failed, err)
		}
		after = under[len(under)-1].ID
		parcels := make([]Parcel, len(under))
		for i, s := range under {
			parcels[i] = Parcel{Tracking: s.Tracking, DispatchedAt: *s.DispatchedAt}
		}
		news, err := d.carrier.Delivered(ctx, parcels)
		if err != nil {
			return n, errors.Join(failed, fmt.Errorf("carrier news: %w", err))
		}
		for _, s := range under {
			at, arrived := news[s.Tracking]
			if !arrived {
				continue
			}
			switch done, err := d.arrived(ctx, as, s, at); {
			case done:
				n++
			case ctx.Err() != nil:
				return n, ctx.Err()
			case err != nil:
				failed = errors.Join(failed, err)
			}
		}
	}
}

// arrived records that a shipment was delivered, and says whether that could be done. The key makes two servers that hear the same news record it once.
func (d *Desk) arrived(ctx context.Context, as command.Actor, s store.Shipment, at time.Time) (done bool, err error) {
	key, err := d.OwnKey(ctx, "delivered "+s.Tracking)
	if err != nil {
		return false, err
	}
	_, err = d.deliver(ctx, command.Call{Key: key, Actor: as, Reason: "news from the carrier"}, []ShipmentSeen{{Number: s.Number}}, at)
	if _, no := command.AsRefusal(err); no {
		d.Log.WarnContext(ctx, "news from the carrier was not recorded", "shipment", s.Number, "error", err)
		return false, nil
	}
	return err == nil, err
}
