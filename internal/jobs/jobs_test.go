package jobs

import (
	"context"
	"log/slog"
	"net/http/httptest"
	"sync"
	"testing"
	"time"

	"github.com/riverqueue/river/rivertype"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// docked is an office with a shipment packed, a carrier that is asked over HTTP, and one or more servers that work the queue.
type docked struct {
	*desktest.Office
	carrier  *standin.Server
	rooms    *rooms.Rooms
	shipment string
}

func newDocked(t *testing.T, servers int) *docked {
	t.Helper()
	o := desktest.New(t)
	desktest.Done(t)(o.Allocation.Allocate(t.Context(), o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
	c := &docked{
		Office: o, carrier: &standin.Server{Carrier: standin.Carrier{After: time.Hour}, Wait: 300 * time.Millisecond},
		shipment: o.Pack("SO-1002", "HL"),
	}
	srv := httptest.NewServer(c.carrier)
	t.Cleanup(srv.Close)
	for range servers {
		c.rooms = rooms.Open(
			dbtest.Again(t, o.Store),
			rooms.Options{WeakHash: true, Carrier: standin.Client{URL: srv.URL}, Log: slog.New(slog.DiscardHandler)},
		)
		q, err := Start(context.WithoutCancel(t.Context()), c.rooms, slog.New(slog.DiscardHandler))
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() {
			ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
			defer cancel()
			if err := q.Stop(ctx); err != nil {
				t.Error(err)
			}
		})
	}
	return c
}

// await waits until the shipment is in the state, and returns it.
func (c *docked) await(what string, is func(query.ShipmentPage) bool) query.ShipmentPage {
	c.T.Helper()
	for deadline := time.Now().Add(2 * time.Minute); ; {
		s, err := c.Query.Shipment(context.Background(), c.shipment)
		if err != nil {
			c.T.Fatal(err)
		}
		if is(s) {
			return s
		}
		if time.Now().After(deadline) {
			c.T.Fatalf("%s was waited for in vain: %+v", what, s.ShipmentView)
		}
		time.Sleep(10 * time.Millisecond)
	}
}

func underWay(s query.ShipmentPage) bool { return s.State == "under way" }

// leftOnce checks that the shipment was booked once and left once.
func (c *docked) leftOnce(tries int) {
	c.T.Helper()
	if l := c.Line("SO-1002", 1); l.At.Shipped != 24 || l.At.Packed != 0 {
		c.T.Errorf("%+v", l.At)
	}
	if times, _ := c.carrier.Booked(c.shipment); times < tries {
		c.T.Errorf("the carrier was asked %d times, want at least %d", times, tries)
	}
	var moves int
	if err := c.Store.Pool.QueryRow(
		context.Background(), `SELECT count(*) FROM journal WHERE kind = 'dispatch'`,
	).Scan(&moves); err != nil || moves != 1 {
		c.T.Errorf("%d moves, %v", moves, err)
	}
	c.Sound()
}

func TestADispatchLeavesWhenTheCarrierHasTakenIt(t *testing.T) {
	t.Parallel()
	c := newDocked(t, 1)
	c.carrier.SetMode(standin.Slow)
	out := desktest.Done(t)(c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), []dock.ShipmentSeen{{Number: c.shipment}}))
	if out.Sentence != "Asking the carrier to take "+c.shipment+" …" {
		t.Error(out.Sentence)
	}
	s := c.await("asking", func(s query.ShipmentPage) bool { return s.State == "asking" || underWay(s) })
	if s.State == "asking" {
		if l := c.Line("SO-1002", 1); l.At.Packed != 24 {
			t.Errorf("stock fell before the carrier had taken it: %+v", l.At)
		}
		_, err := c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), []dock.ShipmentSeen{{Number: c.shipment}})
		desktest.Refused(t, err, command.KindConflict, "was asked")
		_, err = c.Floor.Unpack(t.Context(), c.By(c.Flo), s.Contents[0].Number)
		desktest.Refused(t, err, command.KindConflict, "until it has answered")
	}
	if s = c.await("the departure", underWay); s.Tracking == "" || s.Carrier != "Brackwater Haulage" || s.Asked != "" {
		t.Errorf("%+v", s.ShipmentView)
	}
	c.leftOnce(1)
}

func TestACarrierThatFailsIsAskedAgain(t *testing.T) {
	t.Parallel()
	c := newDocked(t, 1)
	c.carrier.SetMode(standin.Failing)
	desktest.Done(t)(c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), []dock.ShipmentSeen{{Number: c.shipment}}))
	if s := c.await("trouble", func(s query.ShipmentPage) bool { return s.AskedTimes > 1 }); s.State != "asking" ||
		s.AskedNote != "the carrier cannot be reached" {
		t.Errorf("%+v", s.ShipmentView)
	}
	c.carrier.SetMode(standin.Well)
	c.await("the departure", underWay)
	c.leftOnce(1)
}

// The carrier takes the shipment and its answer is lost: it is asked again, by the same key.
func TestALostAnswerBooksOnce(t *testing.T) {
	t.Parallel()
	c := newDocked(t, 2)
	c.carrier.SetMode(standin.Late)
	desktest.Done(t)(c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), []dock.ShipmentSeen{{Number: c.shipment}}))
	if s := c.await(
		"trouble", func(s query.ShipmentPage) bool { return s.AskedTimes > 0 },
	); s.AskedNote != "the carrier has not answered in time" {
		t.Errorf("%+v", s.ShipmentView)
	}
	c.carrier.SetMode(standin.Well)
	c.await("the departure", underWay)
	c.leftOnce(2)
}

func TestARefusalIsShownAndTheShipmentCanBeDispatchedAgain(t *testing.T) {
	t.Parallel()
	c := newDocked(t, 1)
	c.Owner(`UPDATE ship_to SET postcode = 'ZZ1 1AA' WHERE id = (SELECT max(ship_to_id) FROM shipment)`)
	ships := []dock.ShipmentSeen{{Number: c.shipment}}
	desktest.Done(t)(c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), ships))
	s := c.await("the refusal", func(s query.ShipmentPage) bool { return s.Refused != "" })
	if want := "The carrier does not take shipment " + c.shipment +
		": Brackwater Haulage do not deliver to ZZ1 1AA."; s.Refused != want || s.State != "packed" {
		t.Errorf("%+v", s.ShipmentView)
	}
	c.Owner(`UPDATE ship_to SET postcode = 'SB1 1AA' WHERE id = (SELECT max(ship_to_id) FROM shipment)`)
	desktest.Done(t)(c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), ships))
	if s := c.await("the departure", underWay); s.Refused != "" {
		t.Errorf("%+v", s.ShipmentView)
	}
	c.leftOnce(1)
}

// A carrier that says everything twice is heard once, by two servers at the same time, too.
func TestNewsIsHeardOnceHoweverOftenItIsSaid(t *testing.T) {
	t.Parallel()
	c := newDocked(t, 2)
	c.carrier.SetMode(standin.Twice)
	desktest.Done(t)(c.rooms.Dock.Dispatch(t.Context(), c.By(c.Flo), []dock.ShipmentSeen{{Number: c.shipment}}))
	s := c.await("the departure", underWay)
	at := time.Now().Add(-time.Minute).UTC().Truncate(time.Second)
	c.Owner(`UPDATE shipment SET dispatched_at = now() - interval '2 hours'`)
	d := rooms.Open(c.Store, rooms.Options{WeakHash: true, Carrier: twice{s.Tracking, at}})
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() {
			if _, err := d.Dock.CarrierNews(context.Background(), c.Max); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	s = c.await("the delivery", func(s query.ShipmentPage) bool { return s.State == "delivered" })
	if s.Delivered != at.Format(time.RFC3339) || len(s.Events) != 2 || s.Events[0].Note != "Nobody was in." ||
		s.Events[1].Kind != "delivered" {
		t.Errorf("delivered %s, want %s; %+v", s.Delivered, at, s.Events)
	}
	c.Sound()
}

// twice says of a parcel that nobody was in, and then that it has arrived, and all of it twice.
type twice struct {
	tracking string
	at       time.Time
}

func (twice) Book(context.Context, dock.Consignment) (dock.Booking, error) {
	return dock.Booking{}, &dock.Refused{Sentence: "it takes nothing"}
}

func (c twice) News(context.Context, []dock.Parcel) ([]dock.Event, error) {
	missed := dock.Event{Tracking: c.tracking, Kind: dock.EventException, At: c.at.Add(-time.Minute), Note: "Nobody was in."}
	there := dock.Event{Tracking: c.tracking, Kind: dock.EventDelivered, At: c.at}
	return []dock.Event{missed, there, missed, there}, nil
}

func TestTheWaitBetweenTriesGrowsToAMinute(t *testing.T) {
	t.Parallel()
	for attempt, want := range map[int]time.Duration{
		1: time.Second, 2: 2 * time.Second, 6: 32 * time.Second, 7: time.Minute, 59: time.Minute,
	} {
		if got := time.Until(backOff{}.NextRetry(&rivertype.JobRow{Attempt: attempt})).Round(time.Second); got != want {
			t.Errorf("after try %d it waits %s, want %s", attempt, got, want)
		}
	}
}
