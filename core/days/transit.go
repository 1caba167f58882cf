package days

import "time"

// Dock says when a warehouse can send: the days it works, the time of the day until
// which an order still counts as that day's, and how many working days it takes to
// make an order ready.
type Dock struct {
	Calendar Calendar
	CutOff   int            // minutes after midnight; 0 stands for no cut-off: any time will do
	Handling int            // working days between the order and the lorry, never negative
	Zone     *time.Location // in which its days begin and its clock runs; UTC if nil
}

// ReadyAt is Ready for what is ordered at the time t, by the dock's own clock.
func (k Dock) ReadyAt(t time.Time) Day {
	zone := k.Zone
	if zone == nil {
		zone = time.UTC
	}
	t = t.In(zone)
	return k.Ready(Of(t), t.Hour()*60+t.Minute())
}

// Ready returns the first day on which what is ordered at that minute of that day
// can leave: the day itself, or the next one worked if it is not worked or the
// cut-off has passed, and the handling days after it.
func (k Dock) Ready(d Day, minute int) Day {
	if k.CutOff > 0 && minute >= k.CutOff && k.Calendar.Works(d) {
		d++
	}
	return k.Calendar.Add(k.Calendar.Next(d), k.Handling)
}

// Service is how long a carrier takes to a destination zone.
type Service struct {
	Transit  int      // working days of the carrier; 0: collected or there on the same day
	Calendar Calendar // the days on which the carrier moves and delivers
}

// Arrives returns the day on which what leaves on d is there: the carrier's
// Transit-th working day after it; d itself, worked or not, for none.
func (s Service) Arrives(d Day) Day { return s.Calendar.Add(d, s.Transit) }

// ShipBy returns the last day on which the dock can send so that the service has it
// there by the wanted day. It is the other way round of Arrives: of all days that the
// dock works, Arrives(ShipBy(w)) ≤ w < Arrives(the next working day after ShipBy(w)).
func (s Service) ShipBy(k Dock, wanted Day) Day {
	// Nothing arrives on a day that the carrier does not work, unless it is collected.
	if s.Transit > 0 {
		wanted = s.Calendar.Add(s.Calendar.Prev(wanted), -s.Transit)
		// What leaves on any day up to the carrier's next one arrives with it.
		for !s.Calendar.Works(wanted + 1) {
			wanted++
		}
	}
	return k.Calendar.Prev(wanted)
}
