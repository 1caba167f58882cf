package standin

import (
	"context"
	"testing"
	"time"

	"journeyman/internal/desk/dock"
)

func TestLuhn(t *testing.T) {
	// The worked example of ISO/IEC 7812-1, from memory: 7992739871 has check digit 3.
	if got := luhn("7992739871"); got != '3' {
		t.Errorf("got %c", got)
	}
}

func TestABookingIsTheSameForTheSameShipment(t *testing.T) {
	friday := time.Date(2027, 3, 5, 15, 0, 0, 0, time.UTC)
	ask := dock.Consignment{Shipment: "SH-1", Service: "parcel", Packages: 1, WeightG: 500, At: friday}
	a, err := Carrier{}.Book(context.Background(), ask)
	if err != nil {
		t.Fatal(err)
	}
	b, err := Carrier{}.Book(context.Background(), ask)
	if err != nil || a != b {
		t.Errorf("%v and %v (%v)", a, b, err)
	}
	if a.Expected.String() != "2027-03-09" {
		t.Errorf("two working days after Friday is %s", a.Expected)
	}
	ask.Shipment = "SH-2"
	if c, _ := (Carrier{}).Book(context.Background(), ask); c.Tracking == a.Tracking {
		t.Error("two shipments have one tracking number")
	}
	ask.Packages = 0
	if _, err := (Carrier{}).Book(context.Background(), ask); err == nil {
		t.Error("nothing was taken away")
	}
}

func TestDeliveryComesAfterAWhile(t *testing.T) {
	start := time.Date(2027, 3, 5, 15, 0, 0, 0, time.UTC)
	now := start
	c := Carrier{After: time.Hour, Now: func() time.Time { return now }}
	parcels := []dock.Parcel{{Tracking: "B", DispatchedAt: start}, {Tracking: "C", DispatchedAt: start.Add(30 * time.Minute)}}
	for _, step := range []struct {
		at   time.Duration
		want int
	}{{59 * time.Minute, 0}, {time.Hour, 1}, {2 * time.Hour, 2}} {
		now = start.Add(step.at)
		got, err := c.News(context.Background(), parcels)
		if err != nil || len(got) != step.want {
			t.Errorf("after %s: %v (%v)", step.at, got, err)
		}
	}
	if got, _ := (Carrier{}).News(context.Background(), parcels); len(got) != 0 {
		t.Error("delivered although it never should")
	}
}
