package importing

import (
	"fmt"
	"slices"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// mostZoneRows is how many rows a file of zones may have: a row may change what an earlier one said.
const mostZoneRows = 50_000

// compareZones compares rows of zones, each with what those before it said.
func (c *comparing) compareZones() func(f *FileReport, rows []exchange.Row[exchange.ZoneRow]) error {
	place, days := map[[2]string]string{}, map[[2]string]int{}
	var services []store.Service
	read := false
	return func(f *FileReport, rows []exchange.Row[exchange.ZoneRow]) error {
		if f.Rows > mostZoneRows {
			return command.Invalid("%s has more than %s rows. Split the file.", f.File, words.Number(mostZoneRows))
		}
		if !read {
			read = true
			rules, transit, err := c.tx.Zones()
			if err != nil {
				return err
			}
			if services, err = c.tx.Services(); err != nil {
				return err
			}
			for _, z := range rules {
				place[[2]string{z.Country, z.Prefix}] = z.Zone
			}
			for _, x := range transit {
				days[[2]string{x.Service, x.Zone}] = x.Days
			}
		}
		var zones []store.ZoneRule
		var transit []store.Transit
		for _, r := range rows {
			v := r.V
			known := slices.ContainsFunc(services, func(s store.Service) bool { return s.Code == v.Service })
			switch {
			case v.Country == "" && v.Service == "":
				c.wrong(f, r.N, "country", "", "a country whose places lie in the zone, or a service and its days")
				continue
			case v.Service != "" && !known:
				c.wrong(f, r.N, "service", v.Service, "a service that exists")
				continue
			case (v.Service == "") != (v.Days == nil):
				c.wrong(f, r.N, "days", "", "the working days of the service, and the service to which they belong")
				continue
			}
			var d []string
			fresh := false
			if v.Country != "" {
				k := [2]string{v.Country, v.Postcode}
				was, here := place[k]
				fresh = fresh || !here
				d = append(d, differences([]field[string]{text("zone", func(s string) string { return s })}, was, v.Zone)...)
				if was != v.Zone {
					zones = append(zones, store.ZoneRule{Country: v.Country, Prefix: v.Postcode, Zone: v.Zone})
					place[k] = v.Zone
				}
			}
			if v.Days != nil {
				k := [2]string{v.Service, v.Zone}
				was, here := days[k]
				fresh = fresh || !here
				if !here || was != int(*v.Days) {
					d = append(d, differences([]field[int64]{number("days", func(n int64) int64 { return n })}, int64(was), *v.Days)...)
					transit = append(transit, store.Transit{Service: v.Service, Zone: v.Zone, Days: int(*v.Days)})
					days[k] = int(*v.Days)
				}
			}
			what := strings.TrimSpace(fmt.Sprintf("%s %s %s %s", v.Zone, v.Country, v.Postcode, v.Service))
			switch {
			case len(d) == 0:
				f.note(r.N, what, "unchanged", "")
			case fresh:
				f.note(r.N, what, "new", "")
			default:
				f.note(r.N, what, "changed", strings.Join(d, "; "))
			}
		}
		if c.writing == nil {
			return nil
		}
		return c.tx.PutZones(zones, transit, func(int) {})
	}
}
