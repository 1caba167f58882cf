package supply

import (
	"fmt"
	"slices"
	"time"

	"journeyman/core/days"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// Docks says of each warehouse when it can send.
func (d *Desk) Docks(r *store.Reader, houses []store.Warehouse) (map[int64]days.Dock, error) {
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
		cal, err := days.NewCalendar(Weekdays(h.Workdays), shut[h.ID])
		if err != nil {
			return nil, fmt.Errorf("warehouse %s: %w", h.Code, err)
		}
		zone, err := d.ZoneOf(h)
		if err != nil {
			return nil, err
		}
		out[h.ID] = days.Dock{Calendar: cal, CutOff: h.CutOff, Handling: h.HandlingDays, Zone: zone}
	}
	return out, nil
}

// Weekdays are the days of the week whose bits are set, Sunday the lowest.
func Weekdays(bits int) []time.Weekday {
	var out []time.Weekday
	for w := time.Sunday; w <= time.Saturday; w++ {
		if bits>>w&1 == 1 {
			out = append(out, w)
		}
	}
	return out
}

// ReadyOn is the first day on which what is ordered now can leave.
func (d *Desk) ReadyOn(dock days.Dock) days.Day {
	return dock.ReadyAt(d.Now())
}

// ZoneOf is the time zone of a warehouse: its own, or the firm's.
func (d *Desk) ZoneOf(h store.Warehouse) (*time.Location, error) {
	if h.Timezone == "" {
		return d.Zone, nil
	}
	zone, err := time.LoadLocation(h.Timezone)
	if err != nil {
		return nil, fmt.Errorf("warehouse %s: %w", h.Code, err)
	}
	return zone, nil
}

// Calendar is the days on which the firm and its carriers work.
func (d *Desk) Calendar() days.Calendar {
	c, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		panic(err) // weekdays are not none
	}
	return c
}

// LookAhead is the day up to which work in those warehouses counts as due when nobody says.
func (d *Desk) LookAhead(r *store.Reader, houses []store.Warehouse) (days.Day, error) {
	docks, err := d.Docks(r, houses)
	var calendars []days.Calendar
	for _, k := range docks {
		calendars = append(calendars, k.Calendar)
	}
	return release.DueUntil(d.Today(), calendars), err
}

// DueUntil is the day up to which lines count as due: the one that was asked for, or else as far as is looked ahead at a warehouse, or
// at all.
func (d *Desk) DueUntil(r *store.Reader, asked, warehouse string) (days.Day, error) {
	if asked != "" {
		until, err := days.Parse(asked)
		if err != nil {
			return 0, command.Invalid("The day is not a date: use YYYY-MM-DD.")
		}
		return until, nil
	}
	houses, err := r.Warehouses()
	if err != nil {
		return 0, err
	}
	return d.LookAhead(r, slices.DeleteFunc(houses, func(h store.Warehouse) bool { return warehouse != "" && h.Code != warehouse }))
}

// ZoneOfWarehouse is the time zone of a warehouse.
func (d *Desk) ZoneOfWarehouse(r *store.Reader, id int64) (*time.Location, error) {
	houses, err := r.Warehouses()
	for _, h := range houses {
		if h.ID == id {
			return d.ZoneOf(h)
		}
	}
	return d.Zone, err
}
