package dock

import (
	"context"
	"errors"
	"fmt"
	"time"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Parcel is a shipment under way, as the carrier knows it.
type Parcel struct {
	Tracking     string
	DispatchedAt time.Time
}

// Event is something that happened to a parcel.
type Event struct {
	Tracking string
	Kind     string // EventDelivered or EventException
	At       time.Time
	Note     string // of an exception: what was in the way
}

// The kinds of events.
const (
	EventDelivered = "delivered"
	EventException = "exception"
)

// Deliver records that shipments have arrived. It locks the lines in them, then the shipments, and refuses one that has not left or was
// delivered already. It may be retried with the same key.
func (d *Desk) Deliver(ctx context.Context, call command.Call, ships []ShipmentSeen) (command.Outcome, error) {
	return d.deliver(ctx, call, ships, time.Time{})
}

// deliver is Deliver with the time at which they arrived, if the carrier says it.
func (d *Desk) deliver(ctx context.Context, call command.Call, ships []ShipmentSeen, arrived time.Time) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbDeliver, ships, func(w *command.UnitOfWork) error {
		all, err := lockShipments(w, ships)
		if err != nil {
			return err
		}
		id, err := w.Tx.CommandID()
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
				if err := w.Move(
					w.Lines[c.LineID], 0, journey.Make(journey.Deliver, journey.Qty(c.Qty)), command.Refs{Package: c.PackageID},
				); err != nil {
					return err
				}
			}
			at := w.At
			if !arrived.IsZero() && arrived.After(*s.DispatchedAt) && arrived.Before(w.At) {
				at = arrived
			}
			if err := w.Tx.MarkDelivered(s.ID, id, at); err != nil {
				return err
			}
			if err := w.Tx.AddShipmentEvent(
				store.ShipmentEvent{CommandID: id, ShipmentID: s.ID, At: at, Kind: EventDelivered},
			); err != nil {
				return err
			}
			if err := w.Tx.AddDelivered(at, s.units); err != nil {
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

// CarrierNews asks the carrier about every shipment under way, some hundreds at a time, and records what it says, each in a command of its
// own, at the time that the carrier says: what has arrived, and what was in the way. It returns how many arrived.
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
		byTracking := map[string]store.Shipment{}
		for i, s := range under {
			parcels[i] = Parcel{Tracking: s.Tracking, DispatchedAt: *s.DispatchedAt}
			byTracking[s.Tracking] = s
		}
		news, err := d.news(ctx, parcels)
		if err != nil {
			return n, errors.Join(failed, fmt.Errorf("carrier news: %w", err))
		}
		for _, e := range news {
			s, ours := byTracking[e.Tracking]
			if !ours {
				continue
			}
			switch done, err := d.heard(ctx, as, s, e); {
			case done && e.Kind == EventDelivered:
				n++
			case ctx.Err() != nil:
				return n, ctx.Err()
			case err != nil:
				failed = errors.Join(failed, err)
			}
		}
	}
}

func (d *Desk) news(ctx context.Context, parcels []Parcel) ([]Event, error) {
	within, cancel := context.WithTimeout(ctx, askWithin)
	defer cancel()
	return d.carrier.News(within, parcels)
}

// heard records an event, and says whether that could be done. The key makes two servers that hear the same news, or one that hears it
// twice, record it once.
func (d *Desk) heard(ctx context.Context, as command.Actor, s store.Shipment, e Event) (done bool, err error) {
	text := e.Kind + " " + s.Tracking
	if e.Kind == EventException {
		text += " " + e.At.UTC().Format(time.RFC3339Nano)
		if known, err := d.Store.Read(ctx).ShipmentEventKnown(s.ID, e.At, e.Kind); err != nil || known {
			return false, err
		}
	}
	key, err := d.OwnKey(ctx, text)
	if err != nil {
		return false, err
	}
	call := command.Call{Key: key, Actor: as, Reason: "news from the carrier"}
	switch e.Kind {
	case EventDelivered:
		_, err = d.deliver(ctx, call, []ShipmentSeen{{Number: s.Number}}, e.At)
	case EventException:
		_, err = d.except(ctx, call, s, e)
	default:
		return false, fmt.Errorf("the carrier says %q of %s, which is not known here", e.Kind, s.Tracking)
	}
	if _, no := command.AsRefusal(err); no {
		d.Log.WarnContext(ctx, "news from the carrier was not recorded", "shipment", s.Number, "error", err)
		return false, nil
	}
	return err == nil, err
}

// except records what was in the way of a shipment.
func (d *Desk) except(ctx context.Context, call command.Call, s store.Shipment, e Event) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbException, e, func(w *command.UnitOfWork) error {
		id, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		w.AddDocument("shipment", s.Number)
		w.Say("%s: %s", s.Number, words.WithFullStop(e.Note))
		return w.Tx.AddShipmentEvent(store.ShipmentEvent{CommandID: id, ShipmentID: s.ID, At: e.At, Kind: EventException, Note: e.Note})
	})
}
