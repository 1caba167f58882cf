// Package standin holds the small simulated outside services that ship with the
// application: they behave like the real thing as far as the desk can see.
package standin

import (
	"context"
	"fmt"
	"hash/fnv"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/internal/desk/dock"
)

// Carrier is a simulated carrier. It takes everything, gives tracking numbers and
// delivers by itself some time after dispatch.
type Carrier struct {
	After time.Duration    // how long a delivery takes; never by itself if 0
	Since time.Time        // what left before this is not delivered by itself
	Now   func() time.Time // the clock; the system's if nil
}

// services are what the stand-in offers: the name of the service, who carries it, and in how many days.
var services = map[string]struct {
	carrier string
	days    int
}{
	"parcel":    {"Fellgate Parcels", 2},
	"overnight": {"Fellgate Parcels", 1},
	"pallet":    {"Brackwater Haulage", 3},
	"counter":   {"Collected", 0},
}

// Book gives the shipment a tracking number: always the same for the same shipment.
func (c Carrier) Book(_ context.Context, s dock.Consignment) (dock.Booking, error) {
	svc, ok := services[strings.ToLower(s.Service)]
	if !ok {
		svc = services["parcel"]
	}
	if s.Packages == 0 || s.WeightG <= 0 {
		return dock.Booking{}, fmt.Errorf("%s has no packages with a weight", s.Shipment)
	}
	due := days.Of(s.At)
	for n := svc.days; n > 0; {
		due++
		if d := due.Weekday(); d != time.Saturday && d != time.Sunday {
			n--
		}
	}
	return dock.Booking{Carrier: svc.carrier, Tracking: tracking(s.Shipment), Expected: due}, nil
}

// tracking is two letters, nine digits made from the shipment's number and a check digit (Luhn, ISO/IEC 7812-1).
func tracking(shipment string) string {
	h := fnv.New64a()
	_, _ = h.Write([]byte(shipment))
	digits := fmt.Sprintf("%09d", h.Sum64()%1_000_000_000)
	return "JS" + digits + string(luhn(digits))
}

func luhn(digits string) byte {
	sum := 0
	for i := range len(digits) {
		d := int(digits[len(digits)-1-i] - '0')
		if i%2 == 0 {
			if d *= 2; d > 9 {
				d -= 9
			}
		}
		sum += d
	}
	return byte('0' + (10-sum%10)%10)
}

// Delivered says what has arrived by now.
func (c Carrier) Delivered(_ context.Context, parcels []dock.Parcel) (map[string]time.Time, error) {
	now := time.Now
	if c.Now != nil {
		now = c.Now
	}
	out := map[string]time.Time{}
	if c.After <= 0 {
		return out, nil
	}
	for _, p := range parcels {
		if at := p.DispatchedAt.Add(c.After); !p.DispatchedAt.Before(c.Since) && !at.After(now()) {
			out[p.Tracking] = at
		}
	}
	return out, nil
}
