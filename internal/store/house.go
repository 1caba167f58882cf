package store

// ClosedDay is a day on which a warehouse does not work, and why.
type ClosedDay struct {
	WarehouseID int64  `json:"-"`
	Day         string `json:"day"`
	Name        string `json:"name"`
}

// ClosedDays returns the days from `from` on on which warehouses are closed, by day.
func (r *Reader) ClosedDays(from string) ([]ClosedDay, error) {
	return all[ClosedDay](
		r, `SELECT warehouse_id, day::text AS day, name FROM closed_day WHERE day >= ?::date ORDER BY day, warehouse_id`, from,
	)
}

// CloseDays closes a warehouse on the days, which may be closed already.
func (t *Tx) CloseDays(warehouse int64, closed []ClosedDay) error {
	return inChunks(t, closed, `INSERT INTO closed_day (warehouse_id, day, name)
		SELECT $2, x.day, x.name FROM json_to_recordset($1::json) AS x (day date, name text)
		ON CONFLICT (warehouse_id, day) DO UPDATE SET name = excluded.name`, func(int) {}, warehouse)
}

// OpenDay opens a warehouse on a day on which it was closed; it says whether it was.
func (t *Tx) OpenDay(warehouse int64, day string) (bool, error) {
	gone := t.g.Where("warehouse_id = ? AND day = ?", warehouse, Date(day)).Delete(&ClosedDay{})
	return gone.RowsAffected > 0, gone.Error
}

// SetFloor says how the floor of a warehouse is laid out and how quickly it works.
func (t *Tx) SetFloor(w Warehouse) error {
	return t.g.Select("aisle_cm", "place_cm", "walk_m_min", "row_s", "unit_ms", "pallet_kg", "pallet_l").Updates(&w).Error
}

// SetCutOff says when the carrier of a service comes, in minutes after midnight; 0: as the cut-off of the warehouse.
func (t *Tx) SetCutOff(service string, minutes int) error {
	return t.g.Model(&Service{}).Where("code = ?", service).Update("cut_off", minutes).Error
}

// SetHouse says when a warehouse works.
func (t *Tx) SetHouse(w Warehouse) error {
	return t.g.Select("workdays", "cut_off", "handling_days", "timezone").Updates(&w).Error
}

// Service is a way of sending, and how long it takes where no zone says otherwise.
type Service struct {
	Code        string
	Name        string
	TransitDays int
	CutOff      int // minutes after midnight at which the carrier comes; 0: as the warehouse's own cut-off
}

// Services returns the ways of sending, by code.
func (r *Reader) Services() ([]Service, error) {
	return find[Service](r.g.Order("code"))
}

// ZoneRule says where an address lies, by its country and the beginning of its postcode.
type ZoneRule struct {
	Country string `json:"country"`
	Prefix  string `json:"prefix"`
	Zone    string `json:"zone"`
}

// Transit is how long a service takes to a zone, in working days.
type Transit struct {
	Service string `json:"service"`
	Zone    string `json:"zone"`
	Days    int    `json:"days"`
}

// ZoneRules returns the rules of a country whose prefixes are among those, without regard to spaces and capitals.
func (r *Reader) ZoneRules(country string, prefixes Texts) ([]ZoneRule, error) {
	return find[ZoneRule](
		r.g.Where("country = ? AND upper(replace(prefix, ' ', '')) IN ?", country, []string(prefixes)).Order("country, prefix"),
	)
}

// TransitTo returns how long services take to zones.
func (r *Reader) TransitTo(zones Texts) ([]Transit, error) {
	return find[Transit](r.g.Where("zone IN ?", []string(zones)).Order("zone, service"))
}

// Zones returns the rules by which addresses lie in zones, and how long services take to them.
func (r *Reader) Zones() ([]ZoneRule, []Transit, error) {
	rules, err := find[ZoneRule](r.g.Order("zone, country, prefix"))
	if err != nil {
		return nil, nil, err
	}
	transit, err := find[Transit](r.g.Order("zone, service"))
	return rules, transit, err
}

// PutZones adds rules and transit days, and brings those that exist up to date. Of two that
// say something of the same the later counts.
func (t *Tx) PutZones(rules []ZoneRule, transit []Transit, step func(int)) error {
	if err := inChunks(t, rules, `INSERT INTO zone_rule (country, prefix, zone)
		SELECT DISTINCT ON (x.country, x.prefix) x.country, x.prefix, x.zone
		FROM json_array_elements($1::json) WITH ORDINALITY AS e (v, n) CROSS JOIN LATERAL json_to_record(e.v) AS x (country text,
			prefix text, zone text)
		ORDER BY x.country, x.prefix, e.n DESC
		ON CONFLICT (country, prefix) DO UPDATE SET zone = excluded.zone`, step); err != nil {
		return err
	}
	return inChunks(t, transit, `INSERT INTO transit (service, zone, days)
		SELECT DISTINCT ON (x.service, x.zone) x.service, x.zone, x.days
		FROM json_array_elements($1::json) WITH ORDINALITY AS e (v, n) CROSS JOIN LATERAL json_to_record(e.v) AS x (service text,
			zone text, days integer)
		ORDER BY x.service, x.zone, e.n DESC
		ON CONFLICT (service, zone) DO UPDATE SET days = excluded.days`, step)
}
