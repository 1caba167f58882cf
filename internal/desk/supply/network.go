package supply

import (
	"journeyman/core/shipping"
	"journeyman/internal/store"
)

// NetworkTo is how long services take to an address: of the rules just those are read that could fit it.
func (d *Desk) NetworkTo(r *store.Reader, country, postcode string) (*shipping.Network, error) {
	rules, err := r.ZoneRules(country, shipping.Prefixes(postcode))
	if err != nil {
		return nil, err
	}
	var zones store.Texts
	for _, z := range rules {
		zones = append(zones, z.Zone)
	}
	transit, err := r.TransitTo(zones)
	if err != nil {
		return nil, err
	}
	return d.network(r, rules, transit)
}

// Network is how long services take to every address.
func (d *Desk) Network(r *store.Reader) (*shipping.Network, error) {
	rules, transit, err := r.Zones()
	if err != nil {
		return nil, err
	}
	return d.network(r, rules, transit)
}

func (d *Desk) network(r *store.Reader, rules []store.ZoneRule, transit []store.Transit) (*shipping.Network, error) {
	rows, err := r.Services()
	if err != nil {
		return nil, err
	}
	services := make([]shipping.Service, len(rows))
	for i, s := range rows {
		services[i] = shipping.Service{Code: s.Code, Name: s.Name, TransitDays: s.TransitDays}
	}
	zones := make([]shipping.ZoneRule, len(rules))
	for i, z := range rules {
		zones[i] = shipping.ZoneRule(z)
	}
	takes := make([]shipping.Transit, len(transit))
	for i, t := range transit {
		takes[i] = shipping.Transit(t)
	}
	return shipping.NewNetwork(services, zones, takes, d.Calendar()), nil
}

// ServiceViews are services as pages show them.
func ServiceViews(services []shipping.Service) []ServiceView {
	out := make([]ServiceView, len(services))
	for i, s := range services {
		out[i] = ServiceView{Code: s.Code, Name: s.Name, TransitDays: s.TransitDays}
	}
	return out
}
