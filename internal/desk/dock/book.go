package dock

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Consignment is what a carrier is told of a shipment.
type Consignment struct {
	Shipment string // its number, which is also the key of the booking
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

// Carrier is whoever takes shipments away.
type Carrier interface {
	// Book has the carrier take a shipment. It must answer the same for the same shipment, however often it is
	// asked. It returns a *Refused if the carrier will not take it; after any other error it is not known whether
	// it has, and Book is asked again.
	Book(context.Context, Consignment) (Booking, error)
	// News says what has happened to the parcels, at the carrier's own time. It may say the same again.
	News(context.Context, []Parcel) ([]Event, error)
}

// Refused is the error of a carrier that will not take a shipment, with a sentence that says why.
type Refused struct{ Sentence string }

func (r *Refused) Error() string { return r.Sentence }

// BookShipment is the job that asks the carrier to take a shipment, for the dispatch that asked for it.
type BookShipment struct {
	Shipment int64 `json:"shipment"`
	Asked    int64 `json:"asked"`
}

// Kind names the job in the queue.
func (BookShipment) Kind() string { return "book_shipment" }

// askWithin is how long a carrier may take to answer.
const askWithin = 10 * time.Second

// Book carries a BookShipment out: it asks the carrier, while no transaction is open and nothing is locked, and records the answer in a
// command of its own: that the shipment left, with its tracking number, or why it did not. An error means that the answer is not known: it
// is asked again, which is harmless, since the carrier answers the same. After the last try the dispatch is given up: the shipment can be
// dispatched again, which asks with the same key.
func (d *Desk) Book(ctx context.Context, job BookShipment, last bool) error {
	c, asked, held, err := d.consignment(ctx, job)
	if err != nil || asked == nil {
		return err
	}
	if !held.IsZero() {
		return d.refuse(ctx, asked, job, held)
	}
	// From here on a recall comes too late, until the carrier has answered.
	var waits bool
	err = d.Store.InTx(ctx, func(tx *store.Tx) (err error) {
		waits, err = tx.BeginAsking(job.Shipment, job.Asked, d.Now())
		return err
	})
	if err != nil || !waits {
		return err
	}
	b, err := d.ask(ctx, c)
	var refused *Refused
	switch {
	case err == nil:
		return d.depart(ctx, asked, job, b)
	case errors.As(err, &refused):
		return d.refuse(
			ctx, asked, job,
			words.Say("The carrier does not take shipment %s: %s.", c.Shipment, strings.TrimSuffix(refused.Sentence, ".")),
		)
	case ctx.Err() != nil: // the server stops
		return ctx.Err()
	case last:
		return errors.Join(
			err,
			d.refuse(
				ctx, asked, job,
				words.Say("The carrier has not answered about shipment %s. Dispatch it again once it can be reached.", c.Shipment),
			),
		)
	}
	if e := d.noteTrouble(ctx, job, err); e != nil {
		return errors.Join(err, e)
	}
	return err
}

// BookAll carries out every BookShipment that waits, one after another: for where no queue is worked, as when the demo is made. It returns
// how many there were.
func (d *Desk) BookAll(ctx context.Context) (int, error) {
	waiting, err := d.Store.Read(ctx).ShipmentsAsked()
	for i, s := range waiting {
		if err := d.Book(ctx, BookShipment{Shipment: s.ID, Asked: *s.AskedBy}, false); err != nil {
			return i, err
		}
	}
	return len(waiting), err
}

// ask is the one call that leaves the house.
func (d *Desk) ask(ctx context.Context, c Consignment) (Booking, error) {
	within, cancel := context.WithTimeout(ctx, askWithin)
	defer cancel()
	b, err := d.carrier.Book(within, c)
	if err == nil && (b.Tracking == "" || b.Expected == 0) {
		err = errors.New("the carrier's answer has no tracking number, or no day")
	}
	return b, err
}

// consignment is what the carrier is told, by whom it was asked for, and what holds it back since. There is nobody if the dispatch waits
// for no answer any more.
func (d *Desk) consignment(ctx context.Context, job BookShipment) (c Consignment, asked *command.Actor, held words.Message, err error) {
	r := d.Store.Read(ctx)
	s, found, err := r.Consignment(job.Shipment)
	if err != nil || !found || s.AskedBy == nil || *s.AskedBy != job.Asked {
		return c, nil, held, err
	}
	by, found, err := r.CommandByID(job.Asked)
	if err != nil || !found {
		return c, nil, held, err
	}
	who, err := r.UserByID(by.ActorID)
	if err != nil {
		return c, nil, held, err
	}
	zone, err := d.supply.ZoneOfWarehouse(r, s.WarehouseID)
	if err != nil {
		return c, nil, held, err
	}
	hold, err := r.HoldOnShipment(s.ID)
	if err != nil {
		return c, nil, held, err
	}
	if hold != "" {
		held = words.Say("An order in shipment %s was put on hold before the carrier was asked: %s", s.Number, hold)
	}
	c = Consignment{
		Shipment: s.Number, Service: s.Service, Packages: len(s.Packages), Postcode: s.ShipTo.Postcode, Country: s.ShipTo.Country,
		At: d.Now().In(zone),
	}
	for _, p := range s.Packages {
		c.WeightG = capped.Plus(c.WeightG, p.WeightG)
	}
	return c, &command.Actor{ID: who.ID, Name: who.Name, Role: command.Role(who.Role)}, held, nil
}

// answered runs the command that records the carrier's answer. Its key is the dispatch's own, so that two servers record it once.
func (d *Desk) answered(ctx context.Context, asked *command.Actor, job BookShipment, verb command.Verb, what any,
	fn func(*command.UnitOfWork, *lockedShipment) error,
) error {
	key, err := d.OwnKey(ctx, fmt.Sprintf("%s %d %d", verb, job.Asked, job.Shipment))
	if err != nil {
		return err
	}
	_, err = d.Run(ctx, command.Call{Key: key, Actor: *asked}, verb, what, func(w *command.UnitOfWork) error {
		ships, err := w.Tx.Shipments(store.IDs{job.Shipment})
		if err != nil || len(ships) == 0 {
			return err
		}
		all, err := lockShipments(w, []ShipmentSeen{{Number: ships[0].Number}})
		if err != nil {
			return err
		}
		s := all[0]
		if s.AskedBy == nil || *s.AskedBy != job.Asked {
			return errNobodyWaits
		}
		for _, c := range s.contents {
			w.Orders[w.Lines[c.LineID].OrderNumber] = true
		}
		w.AddDocument("shipment", s.Number)
		return fn(w, s)
	})
	if errors.Is(err, errNobodyWaits) {
		d.Log.WarnContext(ctx, "the carrier's answer was not recorded", "shipment", job.Shipment, "error", err)
		return nil
	}
	return err
}

// errNobodyWaits refuses an answer to what was answered before.
var errNobodyWaits = command.Conflict("Nobody waits for the carrier's answer about that shipment any more.")

// depart records that the carrier has taken a shipment: it has left, and stock falls.
func (d *Desk) depart(ctx context.Context, asked *command.Actor, job BookShipment, b Booking) error {
	return d.answered(ctx, asked, job, command.VerbDepart, job, func(w *command.UnitOfWork, s *lockedShipment) error {
		for _, c := range s.contents {
			if err := w.Move(
				w.Lines[c.LineID], s.WarehouseID, journey.Make(journey.Dispatch, journey.Qty(c.Qty)), command.Refs{Package: c.PackageID},
			); err != nil {
				return err
			}
		}
		w.Say("Dispatched %s with %s, tracking %s.", s.Number, b.Carrier, b.Tracking)
		id, err := w.Tx.CommandID()
		if err != nil {
			return err
		}
		return w.Tx.MarkDispatched(s.ID, id, w.At, b.Carrier, b.Tracking, b.Expected.String())
	})
}

// refuse records why a shipment did not leave: it is packed as before.
func (d *Desk) refuse(ctx context.Context, asked *command.Actor, job BookShipment, why words.Message) error {
	return d.answered(ctx, asked, job, command.VerbNotTaken, job, func(w *command.UnitOfWork, s *lockedShipment) error {
		w.Outcome.Said = why
		return w.Tx.MarkRefused(s.ID, why.String(), w.At)
	})
}

// noteTrouble keeps what went wrong, for the dock page, and says so to those who watch.
func (d *Desk) noteTrouble(ctx context.Context, job BookShipment, trouble error) error {
	d.Log.WarnContext(ctx, "the carrier could not be asked", "shipment", job.Shipment, "error", trouble)
	note := "the carrier cannot be reached"
	if errors.Is(trouble, context.DeadlineExceeded) {
		note = "the carrier has not answered in time"
	}
	err := d.Store.InTx(ctx, func(tx *store.Tx) error { return tx.NoteTrouble(job.Shipment, job.Asked, note) })
	d.Announce(command.Change{All: true, Touches: []command.Touched{command.TouchedShipments}})
	return err
}
