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

// Carrier is a simulated carrier. It gives tracking numbers and delivers by itself some time after dispatch; now and then nobody is in
// first. It remembers nothing: what it says follows from the shipment alone, so it says the same however often it is asked, and after
// it was started again.
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

// nowhere is how a postcode begins to which the stand-in does not deliver.
const nowhere = "ZZ"

// Book gives the shipment a tracking number: always the same for the same shipment.
func (c Carrier) Book(_ context.Context, s dock.Consignment) (dock.Booking, error) {
	svc, ok := services[strings.ToLower(s.Service)]
	if !ok {
		svc = services["parcel"]
	}
	switch {
	case s.Packages == 0 || s.WeightG <= 0:
		return dock.Booking{}, &dock.Refused{Sentence: "it has no packages with a weight"}
	case strings.HasPrefix(strings.ToUpper(s.Postcode), nowhere):
		return dock.Booking{}, &dock.Refused{Sentence: fmt.Sprintf("%s do not deliver to %s", svc.carrier, s.Postcode)}
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

func hash(s string) uint64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(s))
	return h.Sum64()
}

// tracking is two letters, nine digits made from the shipment's number and a check digit (Luhn, ISO/IEC 7812-1).
func tracking(shipment string) string {
	digits := fmt.Sprintf("%09d", hash(shipment)%1_000_000_000)
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

// missedOnce says whether nobody is in when the parcel is brought first.
func missedOnce(tracking string) bool { return hash(tracking)%7 == 0 }

// News says what has happened to the parcels by now.
func (c Carrier) News(_ context.Context, parcels []dock.Parcel) ([]dock.Event, error) {
	now := time.Now
	if c.Now != nil {
		now = c.Now
	}
	var out []dock.Event
	if c.After <= 0 {
		return out, nil
	}
	for _, p := range parcels {
		if p.DispatchedAt.Before(c.Since) {
			continue
		}
		if at := p.DispatchedAt.Add(c.After / 2); missedOnce(p.Tracking) && !at.After(now()) {
			out = append(
				out, dock.Event{Tracking: p.Tracking, Kind: dock.EventException, At: at, Note: "Nobody was in; it is brought again."},
			)
		}
		if at := p.DispatchedAt.Add(c.After); !at.After(now()) {
			out = append(out, dock.Event{Tracking: p.Tracking, Kind: dock.EventDelivered, At: at})
		}
	}
	return out, nil
}
