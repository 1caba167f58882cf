package store

// Standing is what a customer is worth and how well they were served.
type Standing struct {
	Code       string
	Name       string
	Tier       int
	Email      string
	Value      int64 // of the orders of the last 12 months, in minor units
	Recent     int64 // of the last 6
	Before     int64 // of the 6 before
	Rank       int64 // by value, 1 is the first
	Customers  int64
	Sent       int64 // lines whose last unit was sent in the last 12 months
	SentInTime int64 // of these, on or before their ship-by day
	LateLines  int64 // unfinished lines whose ship-by day has passed
}

// StandingOf returns the standing of a customer by code, seen from today. Days of dispatch are those of the warehouse, or of the zone.
func (r *Reader) StandingOf(code, today, zone string) (Standing, bool, error) {
	return one[Standing](r, `
		WITH worth AS (
			SELECT o.customer_id, shown(sum(n.value_minor)) AS value,
				shown(sum(n.value_minor) FILTER (WHERE o.entered_at >= CAST(@today AS date) - interval '6 months')) AS recent,
				shown(sum(n.value_minor) FILTER (WHERE o.entered_at < CAST(@today AS date) - interval '6 months')) AS before
			FROM sales_order o JOIN order_count n ON n.order_id = o.id WHERE o.currency = '`+FirmCurrency+`'
				AND o.entered_at >= CAST(@today AS date) - interval '12 months' GROUP BY o.customer_id)
		SELECT c.code, c.name, c.tier, c.email, coalesce(w.value, 0) AS value, coalesce(w.recent, 0) AS recent,
			coalesce(w.before, 0) AS before,
			1 + (SELECT count(*) FROM worth x WHERE x.value > coalesce(w.value, 0)) AS rank, (SELECT count(*) FROM customer) AS customers,
			coalesce(s.sent, 0) AS sent, coalesce(s.in_time, 0) AS sent_in_time,
			(SELECT count(*) FROM line_count n JOIN order_line l ON l.id = n.line_id JOIN sales_order o ON o.id = l.order_id
				WHERE o.customer_id = c.id AND `+live+` AND n.open + n.allocated + n.released + n.picked + n.packed > 0
					AND l.ship_by < CAST(@today AS date)) AS late_lines
		FROM customer c LEFT JOIN worth w ON w.customer_id = c.id LEFT JOIN LATERAL (
			SELECT count(*) AS sent, count(*) FILTER (WHERE z.last <= z.ship_by) AS in_time FROM (
				SELECT l.id, l.ship_by, max((k.at AT TIME ZONE coalesce(nullif(w.timezone, ''), @zone))::date) AS last
					FROM sales_order o JOIN order_line l ON l.order_id = o.id
					JOIN journal j ON j.line_id = l.id AND j.kind = 'dispatch' JOIN warehouse w ON w.id = l.warehouse_id
						JOIN command k ON k.id = j.command_id JOIN line_count n ON n.line_id = l.id
				WHERE o.customer_id = c.id AND n.shipped + n.delivered > 0 AND n.open + n.allocated + n.released + n.picked + n.packed = 0
					AND k.at >= CAST(@today AS date) - interval '12 months' GROUP BY l.id, l.ship_by) z) s ON true
		WHERE c.code = @code`, map[string]any{"code": code, "today": today, "zone": zone})
}
