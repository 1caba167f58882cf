package store

// ClosedDay is a day on which a warehouse does not work, and why.
type ClosedDay struct {
	WarehouseID int64
	Day         string
	Name        string
}

// ClosedDays returns the days from `from` on on which warehouses are closed, by day.
func (r *Reader) ClosedDays(from string) ([]ClosedDay, error) {
	return all[ClosedDay](r, `SELECT warehouse_id, day::text AS day, name FROM closed_day WHERE day >= ?::date ORDER BY day, warehouse_id`, from)
}

// CloseDays closes a warehouse on the days, which may be closed already.
func (t *Tx) CloseDays(warehouse int64, closed []ClosedDay) error {
	for _, c := range closed {
		if _, err := t.exec(`INSERT INTO closed_day (warehouse_id, day, name) VALUES ($1, $2::date, $3)
			ON CONFLICT (warehouse_id, day) DO UPDATE SET name = excluded.name`, warehouse, c.Day, c.Name); err != nil {
			return err
		}
	}
	return nil
}

// OpenDay opens a warehouse on a day on which it was closed; it says whether it was.
func (t *Tx) OpenDay(warehouse int64, day string) (bool, error) {
	n, err := t.exec(`DELETE FROM closed_day WHERE warehouse_id = $1 AND day = $2::date`, warehouse, day)
	return n > 0, err
}

// SetHouse says when a warehouse works.
func (t *Tx) SetHouse(w Warehouse) error {
	_, err := t.exec(`UPDATE warehouse SET workdays = $2, cut_off = $3, handling_days = $4 WHERE id = $1`, w.ID, w.Workdays, w.CutOff, w.HandlingDays)
	return err
}

// Service is a way of sending, and how long it takes.
type Service struct {
	Code        string
	Name        string
	TransitDays int
	Zone        string // the zone for which that is, if there is one
}

// Services returns the ways of sending with how long each takes to an address, the quickest
// first. Without a country it is how long each takes where no zone says otherwise.
func (r *Reader) Services(country, postcode string) ([]Service, error) {
	return all[Service](r, `
		WITH lies AS (SELECT zone FROM zone_rule WHERE country = @country AND upper(replace(@postcode, ' ', '')) LIKE upper(replace(prefix, ' ', '')) || '%'
			ORDER BY length(prefix) DESC LIMIT 1)
		SELECT s.code, s.name, coalesce(t.days, s.transit_days) AS transit_days, coalesce(l.zone, '') AS zone
		FROM service s LEFT JOIN lies l ON true LEFT JOIN transit t ON t.service = s.code AND t.zone = l.zone
		ORDER BY 3, s.code`, map[string]any{"country": country, "postcode": postcode})
}

// ZoneRule says where an address lies, by its country and the beginning of its postcode.
type ZoneRule struct {
	Country string
	Prefix  string
	Zone    string
}

// Transit is how long a service takes to a zone, in working days.
type Transit struct {
	Service string
	Zone    string
	Days    int
}

// Zones returns the rules by which addresses lie in zones, and how long services take to them.
func (r *Reader) Zones() ([]ZoneRule, []Transit, error) {
	rules, err := all[ZoneRule](r, `SELECT country, prefix, zone FROM zone_rule ORDER BY zone, country, prefix`)
	if err != nil {
		return nil, nil, err
	}
	transit, err := all[Transit](r, `SELECT service, zone, days FROM transit ORDER BY zone, service`)
	return rules, transit, err
}

// PutZones adds rules and transit days, and brings those that exist up to date.
func (t *Tx) PutZones(rules []ZoneRule, transit []Transit) error {
	for _, z := range rules {
		if _, err := t.exec(`INSERT INTO zone_rule (country, prefix, zone) VALUES ($1, $2, $3)
			ON CONFLICT (country, prefix) DO UPDATE SET zone = excluded.zone`, z.Country, z.Prefix, z.Zone); err != nil {
			return err
		}
	}
	for _, x := range transit {
		if _, err := t.exec(`INSERT INTO transit (service, zone, days) VALUES ($1, $2, $3)
			ON CONFLICT (service, zone) DO UPDATE SET days = excluded.days`, x.Service, x.Zone, x.Days); err != nil {
			return err
		}
	}
	return nil
}

// PutSetting remembers a value.
func (t *Tx) PutSetting(key, value string) error {
	_, err := t.exec(`INSERT INTO setting (key, value) VALUES ($1, $2) ON CONFLICT (key) DO UPDATE SET value = excluded.value`, key, value)
	return err
}
