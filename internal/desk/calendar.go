package desk

import (
	"fmt"
	"time"

	"journeyman/core/days"
	"journeyman/internal/store"
)

// docks says of each warehouse when it can send.
func (d *Desk) docks(r *store.Reader, houses []store.Warehouse) (map[int64]days.Dock, error) {
	closed, err := r.ClosedDays(d.Today().String())
	if err != nil {
		return nil, err
	}
	shut := map[int64][]days.Day{}
	for _, c := range closed {
		day, err := days.Parse(c.Day)
		if err != nil {
			return nil, err
		}
		shut[c.WarehouseID] = append(shut[c.WarehouseID], day)
	}
	out := map[int64]days.Dock{}
	for _, h := range houses {
		cal, err := days.NewCalendar(weekdays(h.Workdays), shut[h.ID])
		if err != nil {
			return nil, fmt.Errorf("warehouse %s: %w", h.Code, err)
		}
		zone, err := d.zoneOf(h)
		if err != nil {
			return nil, err
		}
		out[h.ID] = days.Dock{Calendar: cal, CutOff: h.CutOff, Handling: h.HandlingDays, Zone: zone}
	}
	return out, nil
}

func weekdays(bits int) []time.Weekday {
	var out []time.Weekday
	for w := time.Sunday; w <= time.Saturday; w++ {
		if bits>>w&1 == 1 {
			out = append(out, w)
		}
	}
	return out
}

// ready is the first day on which what is ordered now can leave.
func (d *Desk) ready(dock days.Dock) days.Day {
	return dock.ReadyAt(d.Now())
}

// zoneOf is the time zone of a warehouse: its own, or the firm's.
func (d *Desk) zoneOf(h store.Warehouse) (*time.Location, error) {
	if h.Timezone == "" {
		return d.Zone, nil
	}
	zone, err := time.LoadLocation(h.Timezone)
	if err != nil {
		return nil, fmt.Errorf("warehouse %s: %w", h.Code, err)
	}
	return zone, nil
}

// calendar is the days on which the firm and its carriers work.
func (d *Desk) calendar() days.Calendar {
	c, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		panic(err) // weekdays are not none
	}
	return c
}

// lookAhead is the day up to which work counts as due when nobody says: two working days on, where that is latest.
func (d *Desk) lookAhead(r *store.Reader, houses []store.Warehouse) (days.Day, error) {
	docks, err := d.docks(r, houses)
	last := d.Today()
	for _, k := range docks {
		last = max(last, k.Calendar.Add(d.Today(), 2))
	}
	return last, err
}
