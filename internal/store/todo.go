package store

import "time"

// OrdersWanting returns the orders, none of them on hold, with open units on lines that are to be shipped by the day: the most urgent
// first, at most so many. It looks at a bounded number of lines.
func (r *Reader) OrdersWanting(until string, most int) (IDs, error) {
	rows, err := all[struct{ OrderID int64 }](r, `
		SELECT order_id FROM (SELECT n.order_id, n.ship_by, n.tier, n.line_id FROM line_count n
				WHERE n.open > 0 AND `+live+` AND n.ship_by <= CAST(@until AS date)
					AND n.order_id NOT IN (SELECT order_id FROM hold WHERE lifted_by IS NULL)
				ORDER BY n.ship_by, n.tier, n.line_id LIMIT @most * 4) x
		GROUP BY order_id ORDER BY min((ship_by - DATE '1970-01-01')::bigint * 8 + tier), min(line_id) LIMIT @most`,
		map[string]any{"until": until, "most": most})
	out := make(IDs, len(rows))
	for i, x := range rows {
		out[i] = x.OrderID
	}
	return out, err
}

// HeldOrder is an order on hold with units that are due and have not left.
type HeldOrder struct {
	Number    string
	Kinds     string
	ShipBy    string // of its first line that is due
	Warehouse string // of that line
	Units     int64
	Lines     int64
	Stake
}

// HeldOrders returns the orders on hold with units that are to be shipped by the day and have not left, the most urgent first, at most so
// many.
func (r *Reader) HeldOrders(until string, most int) ([]HeldOrder, error) {
	const inside = "n.open + n.allocated + n.released + n.picked + n.packed"
	return all[HeldOrder](r, `
		SELECT o.number, h.kinds, min(n.ship_by)::text AS ship_by,
			(array_agg(w.code ORDER BY n.ship_by, l.line_no))[1] AS warehouse, shown(sum(`+inside+`)) AS units, count(*) AS lines, `+
		stake("("+inside+")")+`
		FROM (SELECT order_id, string_agg(kind, ' ' ORDER BY kind) AS kinds FROM hold WHERE lifted_by IS NULL GROUP BY order_id) h
			JOIN sales_order o ON o.id = h.order_id JOIN customer cu ON cu.id = o.customer_id JOIN order_line l ON l.order_id = o.id
			JOIN line_count n ON n.line_id = l.id JOIN warehouse w ON w.id = l.warehouse_id
		WHERE `+live+` AND `+inside+` > 0 AND n.ship_by <= CAST(@until AS date)
		GROUP BY o.id, h.kinds ORDER BY min(n.ship_by), o.tier, o.number LIMIT @most`, map[string]any{"until": until, "most": most})
}

// LateReceipt is a receipt that is overdue, with what waits for it.
type LateReceipt struct {
	ID         int64
	Due        string
	ShipBy     string // the first of the lines that wait
	Units      int64  // that wait, at most what is still to come
	Lines      int64
	ValueMinor int64
	Currency   string
	Tier       int
}

// LateReceipts returns the receipts that were due before today and for which lines wait that are to be shipped by the day, those that are
// longest overdue first, at most so many.
func (r *Reader) LateReceipts(today, until string, most int) ([]LateReceipt, error) {
	return all[LateReceipt](r, `
		SELECT b.id, b.due::text AS due, x.ship_by, least(x.units, b.qty - b.received) AS units, x.lines, x.tier, i.currency,
			shown(least(x.units, b.qty - b.received)::numeric * i.price_minor) AS value_minor
		FROM inbound b JOIN item i ON i.id = b.item_id JOIN LATERAL (
			SELECT shown(sum(n.open)) AS units, count(*) AS lines, min(n.ship_by)::text AS ship_by, min(n.tier) AS tier FROM line_count n
			WHERE n.item_id = b.item_id AND n.warehouse_id = b.warehouse_id AND n.open > 0 AND `+live+`
				AND n.ship_by <= CAST(@until AS date)) x ON x.lines > 0
		WHERE b.received < b.qty AND b.due < CAST(@today AS date) ORDER BY b.due, b.id LIMIT @most`,
		map[string]any{"today": today, "until": until, "most": most})
}

// PromisesUntil returns the promises that stand for the day or before, the earliest first, at most so many.
func (r *Reader) PromisesUntil(day string, most int) ([]PromiseLine, error) {
	return all[PromiseLine](r, promiseLine+` WHERE p.day <= CAST(@day AS date)
		ORDER BY p.day, o.tier, o.number, l.line_no LIMIT @most`, map[string]any{"day": day, "most": most})
}

// Begun is how far the book has been begun.
type Begun struct {
	Items  bool `json:"items" doc:"There is an item"`
	Orders bool `json:"orders" doc:"There is an order"`
	Left   bool `json:"left" doc:"A shipment has left"`
}

// Begun says how far the book has been begun.
func (r *Reader) Begun() (Begun, error) {
	row, _, err := one[Begun](r, `SELECT EXISTS (SELECT FROM item) AS items, EXISTS (SELECT FROM sales_order) AS orders,
		EXISTS (SELECT FROM shipment WHERE dispatched_at IS NOT NULL) AS left`)
	return row, err
}

// ShortLine is a line of which fewer were found than a pick list said, and of which nothing was decided since.
type ShortLine struct {
	Line      int64
	Number    string
	ShipBy    string
	Warehouse string
	SKU       string `gorm:"column:sku"`
	Units     int64  // that are open
	Free      int64  // of the item at that warehouse
	Multiple  int64
	Version   int64
	Cause     string // of the last time
	Bin       string
	Who       string
	At        time.Time
	Stake
}

// ShortLines returns the lines that are to be shipped by the day, have open units and neither stock nor promises for them since fewer were
// found, the most urgent first, at most so many.
func (r *Reader) ShortLines(until string, most int) ([]ShortLine, error) {
	return all[ShortLine](r, `
		SELECT l.id AS line, o.number, l.ship_by::text AS ship_by, w.code AS warehouse, i.sku, least(n.open - n.promised, j.qty) AS units,
			coalesce(s.free, 0) AS free, i.multiple, n.version, j.cause, coalesce(b.code, '') AS bin, u.name AS who, c.at,
			o.tier, 1 AS customers, cu.name AS customer, shown(least(n.open - n.promised, j.qty)::numeric * l.price_minor) AS value_minor, o.currency
		FROM (SELECT DISTINCT line_id FROM pick_task WHERE short > 0) t
			JOIN line_count n ON n.line_id = t.line_id AND n.open > n.promised AND n.ship_by <= CAST(@until AS date)
			JOIN order_line l ON l.id = n.line_id JOIN sales_order o ON o.id = l.order_id JOIN customer cu ON cu.id = o.customer_id
			JOIN item i ON i.id = l.item_id
			JOIN LATERAL (SELECT * FROM journal x WHERE x.line_id = l.id AND x.kind IN ('short', 'allocate', 'drop', 'reopen')
				ORDER BY x.id DESC LIMIT 1) j ON j.kind = 'short'
			JOIN warehouse w ON w.id = j.warehouse_id JOIN command c ON c.id = j.command_id JOIN app_user u ON u.id = c.actor_id
			LEFT JOIN bin b ON b.id = j.bin_id LEFT JOIN stock_cell s ON s.item_id = l.item_id AND s.warehouse_id = j.warehouse_id
		ORDER BY l.ship_by, o.tier, l.id LIMIT @most`, map[string]any{"until": until, "most": most})
}
