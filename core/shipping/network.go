package shipping

import (
	"cmp"
	"slices"
	"strings"

	"journeyman/core/days"
)

// Network is how long services take to where an address lies. It is made by NewNetwork and not changed any more; many may ask it at
// once.
type Network struct {
	services []Service
	zones    map[place]string
	transit  map[toZone]int
	carriers days.Calendar
}

type place struct{ country, prefix string }

type toZone struct{ service, zone string }

// NewNetwork returns the network of those services, rules and transit days, whose carriers move and deliver on the days of the
// calendar. Of two rules that say the same of a service or a place the later one counts.
func NewNetwork(services []Service, zones []ZoneRule, transit []Transit, carriers days.Calendar) *Network {
	n := &Network{services: services, zones: map[place]string{}, transit: map[toZone]int{}, carriers: carriers}
	for _, z := range zones {
		n.zones[place{z.Country, squeezed(z.Prefix)}] = z.Zone
	}
	for _, t := range transit {
		n.transit[toZone{strings.ToLower(t.Service), t.Zone}] = t.Days
	}
	return n
}

// Service is a way of sending.
type Service struct {
	Code, Name  string
	TransitDays int // working days of the carrier where no zone says otherwise
}

// ZoneRule says in which zone an address lies, by its country and the beginning of its postcode. Spaces and capitals of postcodes do
// not count.
type ZoneRule struct{ Country, Prefix, Zone string }

// Transit is how many working days a service takes to a zone.
type Transit struct {
	Service, Zone string
	Days          int
}

// Prefixes are the beginnings of a postcode, as rules are compared with them, the longest first and the empty one last.
func Prefixes(postcode string) []string {
	postcode = squeezed(postcode)
	out := make([]string, 0, len(postcode)+1)
	for n := len(postcode); n >= 0; n-- {
		out = append(out, postcode[:n])
	}
	return out
}

func squeezed(s string) string { return strings.ToUpper(strings.ReplaceAll(s, " ", "")) }

// Zone returns the zone of an address, that of the longest prefix that fits; "" if none does. Cost: the length of the postcode.
func (n *Network) Zone(country, postcode string) string {
	for _, prefix := range Prefixes(postcode) {
		if zone, says := n.zones[place{country, prefix}]; says {
			return zone
		}
	}
	return ""
}

// To returns the services with what each takes to an address, the quickest first, ties by code. Capitals of codes do not count.
func (n *Network) To(country, postcode string) []Service {
	zone := n.Zone(country, postcode)
	out := slices.Clone(n.services)
	for i := range out {
		if takes, says := n.transit[toZone{strings.ToLower(out[i].Code), zone}]; says && zone != "" {
			out[i].TransitDays = takes
		}
	}
	slices.SortStableFunc(out, func(a, b Service) int {
		return cmp.Or(cmp.Compare(a.TransitDays, b.TransitDays), cmp.Compare(a.Code, b.Code))
	})
	return out
}

// Takes returns what a service takes to an address. If there is no such service it takes no time, and ok is false.
func (n *Network) Takes(service, country, postcode string) (s days.Service, ok bool) {
	at := slices.IndexFunc(n.services, func(s Service) bool { return strings.EqualFold(s.Code, service) })
	if at < 0 {
		return days.Service{Calendar: n.carriers}, false
	}
	takes := n.services[at].TransitDays
	if zone := n.Zone(country, postcode); zone != "" {
		if says, found := n.transit[toZone{strings.ToLower(service), zone}]; found {
			takes = says
		}
	}
	return days.Service{Transit: takes, Calendar: n.carriers}, true
}

// UsualService is how goods go if nobody says otherwise.
const UsualService = "parcel"
