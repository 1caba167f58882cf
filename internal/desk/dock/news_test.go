package dock_test

import (
	"context"
	"testing"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
)

// somewhere is a carrier that has lost all parcels but the last.
type somewhere struct {
	standin.Carrier
	last string
	at   time.Time
}

func (c somewhere) News(_ context.Context, parcels []dock.Parcel) (out []dock.Event, err error) {
	for _, p := range parcels {
		if p.Tracking == c.last {
			out = append(out, dock.Event{Tracking: p.Tracking, Kind: dock.EventDelivered, At: c.at})
		}
	}
	return out, nil
}

func TestLostParcelsDoNotKeepNewsOfOthersBackAndTheTimeOfDeliveryIsKept(t *testing.T) {
	t.Parallel()
	o, ctx := desktest.New(t), context.Background()
	o.Owner(`INSERT INTO shipment (number, customer_id, warehouse_id, ship_to_id, service, carrier, tracking, dispatched_at, packed_by)
		SELECT 'SH-L' || n, (SELECT min(id) FROM customer), (SELECT min(id) FROM warehouse), (SELECT min(id)
			FROM ship_to), 'parcel', 'Fellgate Parcels', 'LOST' || n, now() - interval '30 days', (SELECT max(id) FROM command)
		FROM generate_series(1, 1200) AS n`)
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	o.Send("SO-1002", "HL")
	var number, tracking string
	if err := o.Store.Pool.QueryRow(ctx, `SELECT number, tracking FROM shipment ORDER BY id DESC LIMIT 1`).Scan(&number,
		&tracking); err != nil {
		t.Fatal(err)
	}
	at := o.At.Add(3 * time.Hour).Truncate(time.Second)
	o.At = o.At.Add(24 * time.Hour)
	d := rooms.Open(
		o.Store, rooms.Options{WeakHash: true, Now: func() time.Time { return o.At }, Carrier: somewhere{last: tracking, at: at}},
	)
	if n, err := d.Dock.CarrierNews(ctx, o.Max); err != nil || n != 1 {
		t.Errorf("%d were delivered, %v", n, err)
	}
	s, err := o.Query.Shipment(ctx, number)
	if err != nil || s.Delivered != at.UTC().Format(time.RFC3339) {
		t.Errorf("delivered %s, want %s (%v)", s.Delivered, at.UTC().Format(time.RFC3339), err)
	}
	if n, err := d.Dock.CarrierNews(ctx, o.Max); err != nil || n != 0 {
		t.Errorf("a second time %d were delivered, %v", n, err)
	}
	o.Sound()
}

// A stop is of one's own command: the same key in another's hand is another command.
func TestAStopReachesOnlyOnesOwn(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	call := o.By(o.Ana)
	ok(o.Stop(ctx, command.Call{Key: call.Key, Actor: o.Flo}, command.StopAsk{}))
	if out := ok(o.Allocation.Allocate(ctx, call, command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}})); out.Units == 0 {
		t.Errorf("%+v", out)
	}
	o.Send("SO-1002", "HL")
	o.At = o.At.Add(48 * time.Hour)
	if n, err := o.Dock.CarrierNews(ctx, o.Max); err != nil || n != 1 {
		t.Errorf("%d were delivered, %v", n, err)
	}
}
