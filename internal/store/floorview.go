package store

import "time"

// ListHead is a pick list as the floor's page shows it.
type ListHead struct {
	ID          int64
	Number      string
	WarehouseID int64
	Warehouse   string
	At          time.Time
	Who         string
	Tasks       int64
	TasksDue    int64
	Units       int64
	Due         int64
	Short       int64
	Orders      int64
	FirstShip   string
	Zone        string // if it was split by zone
	WalkCM      int64  `gorm:"column:walk_cm"` // how far one walks for it, and order by order
	ByOrderCM   int64  `gorm:"column:walk_by_order_cm"`
	WorkS       int64  `gorm:"column:work_s"` // how long it should take
	Picker      string // who picks it
	Login       string // the same
	TakenAt     *time.Time
	Break       *time.Time // since when whoever picks it is on a break, if they are
	Timezone    string     // of the warehouse
	CutOff      int        // the first at which a carrier comes for something left to pick, in minutes after midnight; 0 for none
	Stake
}

// Stake is what is at stake in something, and for whom.
type Stake struct {
	Tier       int    // the first of those concerned
	Customers  int64  // how many
	Customer   string // one of them
	ValueMinor int64
	Currency   string // empty if there are several
}

// stake is the columns of a Stake over some units of lines (l) of orders (o) and their customers (cu).
func stake(units string) string {
	return `min(o.tier) AS tier, count(DISTINCT cu.id) AS customers, min(cu.name) AS customer, shown(sum(` + units +
		`::numeric * l.price_minor)) AS value_minor, CASE WHEN count(DISTINCT o.currency) = 1 THEN min(o.currency) ELSE '' END AS currency`
}

// listHead reads the lines on the lists by order first, so that orders and customers are looked up once each.
const listHead = `
	SELECT p.id, p.number, p.warehouse_id, p.zone, p.walk_cm, p.walk_by_order_cm, p.work_s, w.code AS warehouse, c.at, u.name AS who,
		coalesce(pk.name, '') AS picker, coalesce(pk.login, '') AS login, p.taken_at, br.since AS break, w.timezone,
		coalesce(min(coalesce(nullif(sv.cut_off, 0), nullif(w.cut_off, 0))) FILTER (WHERE g.due > 0), 0) AS cut_off,
		sum(g.tasks)::bigint AS tasks, sum(g.tasks_due)::bigint AS tasks_due,
		shown(sum(g.units)) AS units, shown(sum(g.due)) AS due, shown(sum(g.short)) AS short, count(*) AS orders,
		min(g.first_ship)::text AS first_ship, min(o.tier) AS tier, count(DISTINCT cu.id) AS customers, min(cu.name) AS customer,
		shown(sum(g.value)) AS value_minor, CASE WHEN count(DISTINCT o.currency) = 1 THEN min(o.currency) ELSE '' END AS currency
	FROM pick_list p JOIN warehouse w ON w.id = p.warehouse_id JOIN command c ON c.id = p.command_id JOIN app_user u ON u.id = c.actor_id
		JOIN LATERAL (
			SELECT l.order_id, count(*) AS tasks, count(*) FILTER (WHERE t.due > 0) AS tasks_due, sum(t.qty - t.recalled) AS units,
				sum(t.due) AS due, sum(t.short) AS short, min(l.ship_by) AS first_ship, sum(t.due::numeric * l.price_minor) AS value
			FROM pick_task t JOIN order_line l ON l.id = t.line_id WHERE t.pick_list_id = p.id GROUP BY l.order_id) g ON true
		JOIN sales_order o ON o.id = g.order_id JOIN customer cu ON cu.id = o.customer_id
		LEFT JOIN service sv ON lower(sv.code) = lower(o.service)
		LEFT JOIN app_user pk ON pk.id = p.picker_id LEFT JOIN on_break br ON br.user_id = p.picker_id`

// byList ends a query for the heads of lists.
const byList = ` GROUP BY p.id, w.code, w.cut_off, w.timezone, c.at, u.name, pk.name, pk.login, br.since`

// ListByNumber returns the head of a pick list.
func (r *Reader) ListByNumber(number string) (ListHead, bool, error) {
	return one[ListHead](r, listHead+` WHERE p.number = ?`+byList, number)
}

// TaskView is a row of a pick list as the picker sees it.
type TaskView struct {
	ID           int64
	Seq          int
	Bin          string
	Zone         string
	SKU          string `gorm:"column:sku"`
	ItemName     string
	Unit         string
	WeightG      int64
	ItemID       int64
	Barcode      string
	Lots         bool // it is noted of which lot its units are
	BinID        int64
	InBin        int64 // units of the item that lie in its bin
	Service      string
	OrderNumber  string
	LineNo       int
	CustomerName string
	Tier         int
	ShipBy       string
	Qty          int64
	Picked       int64
	Short        int64
	Recalled     int64
	Due          int64
	Held         bool
}

// TasksOfList returns the rows of a pick list in walking order.
func (r *Reader) TasksOfList(list int64) ([]TaskView, error) {
	return all[TaskView](r, `
		SELECT t.id, t.seq, b.code AS bin, b.zone, i.sku, i.name AS item_name, i.unit, i.weight_g, l.item_id, i.barcode, i.lots, t.bin_id,
			CASE WHEN i.lots THEN (SELECT s.qty FROM bin_stock s WHERE s.item_id = i.id AND s.bin_id = t.bin_id LIMIT 1) ELSE 0 END AS in_bin,
			o.service, o.number AS order_number, l.line_no,
			c.name AS customer_name,
			o.tier, l.ship_by::text AS ship_by, t.qty, t.picked, t.short, t.recalled, t.due,
			EXISTS (SELECT 1 FROM hold h WHERE h.order_id = o.id AND h.lifted_by IS NULL) AS held
		FROM pick_task t JOIN bin b ON b.id = t.bin_id JOIN order_line l ON l.id = t.line_id JOIN item i ON i.id = l.item_id
			JOIN sales_order o ON o.id = l.order_id JOIN customer c ON c.id = o.customer_id
		WHERE t.pick_list_id = ? ORDER BY t.seq`, list)
}

// PickedRow is units of a line that wait to be packed.
type PickedRow struct {
	OrderNumber  string
	CustomerName string
	ShipToName   string
	City         string
	Tier         int
	Service      string
	ShipRule     string
	Warehouse    string
	WarehouseID  int64
	LineID       int64
	LineNo       int
	SKU          string `gorm:"column:sku"`
	ItemName     string
	Unit         string
	WeightG      int64
	Barcode      string
	PriceMinor   int64
	Currency     string
	ShipBy       string
	Picked       int64
	StillComing  int64 // of the order, in this warehouse, released and not yet picked
	OpenShipment string
	Holds        string
}

// PickedOf returns what waits to be packed of an order in a warehouse.
func (r *Reader) PickedOf(order, house string) ([]PickedRow, error) {
	return all[PickedRow](r, pickedRow+` AND o.number = ? AND w.code = ? ORDER BY l.line_no`, order, house)
}

var pickedRow = `
		SELECT o.number AS order_number, c.name AS customer_name, a.name AS ship_to_name, a.city, o.tier, o.service, o.ship_rule,
			w.code AS warehouse, p.warehouse_id,
			l.id AS line_id, l.line_no, i.sku, i.name AS item_name, i.unit, i.weight_g, i.barcode, l.price_minor, o.currency,
			l.ship_by::text AS ship_by, p.picked,
			(SELECT coalesce(sum(q.released), 0) FROM line_at q JOIN order_line m ON m.id = q.line_id
			WHERE m.order_id = o.id AND q.warehouse_id = p.warehouse_id) AS still_coming,
			` + heldBy + ` AS holds,
			coalesce((SELECT min(s.number) FROM shipment s JOIN package k ON k.shipment_id = s.id JOIN package_line y ON y.package_id = k.id
				JOIN order_line m ON m.id = y.line_id WHERE m.order_id = o.id AND s.warehouse_id = p.warehouse_id
				AND y.qty > 0 AND ` + stillGoes + `), '') AS open_shipment
		FROM line_at p JOIN order_line l ON l.id = p.line_id JOIN sales_order o ON o.id = l.order_id JOIN customer c ON c.id = o.customer_id
			JOIN ship_to a ON a.id = o.ship_to_id JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = p.warehouse_id
		WHERE p.picked > 0`

// ShipmentHead is a shipment as lists and pages show it.
type ShipmentHead struct {
	ID           int64
	Number       string
	Warehouse    string
	CustomerName string
	ShipToName   string
	Street       string
	City         string
	Postcode     string
	Country      string
	Service      string
	Carrier      string
	Tracking     string
	Orders       string
	Packages     int64
	WeightG      int64
	Units        int64
	Tier         int
	ValueMinor   int64
	Currency     string // empty if there are several
	ShipBy       string
	DispatchedAt *time.Time
	Expected     string
	DeliveredAt  *time.Time
	Holds        string
	LeftBehind   string // of each line in it: its ship rule, and what of the line and of its order is neither packed nor gone, as JSON
	NotBefore    string // the last day before which an order in it must not leave; empty for none
	Recalled     bool   // units that were recalled out of its packages are still to be put back
	AskedAt      *time.Time
	AskedTimes   int
	AskedNote    string
	Refused      string
	Exception    string // what was in its way last
}

const shipmentHead = `
	SELECT s.id, s.number, w.code AS warehouse, c.name AS customer_name, t.name AS ship_to_name, t.street, t.city, t.postcode, t.country,
		s.service, s.carrier, s.tracking,
		s.dispatched_at, coalesce(s.expected::text, '') AS expected, s.delivered_at, x.orders, x.units, x.tier, x.value_minor, x.currency,
		x.ship_by, x.not_before, x.left_behind,
		EXISTS (SELECT 1 FROM package k JOIN put_back b ON b.package_id = k.id WHERE k.shipment_id = s.id AND b.done < b.qty) AS recalled,
		x.holds, s.asked_at, s.asked_times, s.asked_note, s.refused,
		coalesce((SELECT e.note FROM shipment_event e WHERE e.shipment_id = s.id AND e.kind = 'exception' ORDER BY e.at DESC LIMIT 1),
		'') AS exception,
		(SELECT count(*) FROM package k WHERE k.shipment_id = s.id AND EXISTS (SELECT 1 FROM package_line y
		WHERE y.package_id = k.id AND y.qty > 0)) AS packages,
		(SELECT shown(sum(k.weight_g)) FROM package k WHERE k.shipment_id = s.id AND EXISTS (SELECT 1 FROM package_line y
			WHERE y.package_id = k.id AND y.qty > 0)) AS weight_g
	FROM shipment s JOIN warehouse w ON w.id = s.warehouse_id JOIN customer c ON c.id = s.customer_id JOIN ship_to t ON t.id = s.ship_to_id
		JOIN LATERAL (
			SELECT string_agg(DISTINCT o.number, ' ') AS orders, shown(sum(y.qty)) AS units, min(o.tier) AS tier,
				min(l.ship_by)::text AS ship_by, coalesce(max(o.not_before)::text, '') AS not_before,
				shown(sum(y.qty::numeric * l.price_minor)) AS value_minor,
				CASE WHEN count(DISTINCT o.currency) = 1 THEN min(o.currency) ELSE '' END AS currency,
				jsonb_agg(DISTINCT jsonb_build_object('rule', o.ship_rule, 'line', m.open + m.allocated + m.released + m.picked,
					'order', n.open + n.allocated + n.released + n.picked))::text AS left_behind,
				coalesce(string_agg(DISTINCT (SELECT string_agg(h.kind, ' ') FROM hold h WHERE h.order_id = o.id AND h.lifted_by IS NULL),
				' '), '') AS holds
			FROM package k JOIN package_line y ON y.package_id = k.id JOIN order_line l ON l.id = y.line_id
				JOIN line_count m ON m.line_id = l.id
				JOIN sales_order o ON o.id = l.order_id JOIN order_count n ON n.order_id = o.id
			WHERE k.shipment_id = s.id AND y.qty > 0) x ON x.units > 0`

// ShipmentHeadByNumber returns the shipment of that number, if there is anything in it.
func (r *Reader) ShipmentHeadByNumber(number string) (ShipmentHead, bool, error) {
	return one[ShipmentHead](r, shipmentHead+` WHERE s.number = ?`, number)
}

// PackedRow is units of a line in a package.
type PackedRow struct {
	Package     string
	Kind        string
	WeightG     int64
	OrderNumber string
	LineNo      int
	SKU         string `gorm:"column:sku"`
	ItemName    string
	Unit        string
	Qty         int64
}

// PackedRows returns what lies in the packages of a shipment.
func (r *Reader) PackedRows(shipment int64) ([]PackedRow, error) {
	return all[PackedRow](r, `
		SELECT p.number AS package, coalesce(nullif(p.made_of, ''), p.kind) AS kind, p.weight_g, o.number AS order_number,
			l.line_no, i.sku, i.name AS item_name, i.unit, c.qty
		FROM package p JOIN package_line c ON c.package_id = p.id JOIN order_line l ON l.id = c.line_id
			JOIN sales_order o ON o.id = l.order_id JOIN item i ON i.id = l.item_id
		WHERE p.shipment_id = ? AND c.qty > 0 ORDER BY p.id, o.number, l.line_no`, shipment)
}

// StripRow is the book's units and lines at one station.
type StripRow struct {
	Units int64
	Lines int64
}

// Strip returns units and lines at each station over all lines, the units delivered since a day, and what waits for a person there, but for
// what could be released (see ReleaseGroups). It reads sums that are kept, not the lines.
func (r *Reader) Strip(since, today string) (map[string]StripRow, map[string]int64, error) {
	type sums struct {
		Open, Promised, Allocated, Released, Picked, Packed, Shipped                                    int64
		OpenLines, PromisedLines, AllocatedLines, ReleasedLines, PickedLines, PackedLines, ShippedLines int64
		Delivered                                                                                       int64
	}
	l, _, err := one[sums](r, `
		SELECT shown(sum(open)) AS open, shown(sum(open_lines)) AS open_lines, shown(sum(promised)) AS promised,
			shown(sum(promised_lines)) AS promised_lines,
			shown(sum(allocated)) AS allocated, shown(sum(allocated_lines)) AS allocated_lines, shown(sum(released)) AS released,
			shown(sum(released_lines)) AS released_lines, shown(sum(picked)) AS picked, shown(sum(picked_lines)) AS picked_lines,
			shown(sum(packed)) AS packed,
			shown(sum(packed_lines)) AS packed_lines, shown(sum(shipped)) AS shipped, shown(sum(shipped_lines)) AS shipped_lines,
			(SELECT shown(sum(units)) FROM delivered_part WHERE day >= ?::date) AS delivered
		FROM strip_part`, since)
	if err != nil {
		return nil, nil, err
	}
	w, _, err := one[struct{ Open, Promised, Lists, Packing, Dock, Overdue int64 }](r, `
		SELECT (SELECT shown(sum(w.lines)) FROM wanting w JOIN stock_cell s USING (item_id, warehouse_id) WHERE s.free > 0) AS open,
			(SELECT count(DISTINCT line_id) FROM promise WHERE day <= ?::date) AS promised,
			(SELECT count(DISTINCT pick_list_id) FROM pick_task WHERE qty - picked - short - recalled > 0) AS lists,
			(SELECT count(DISTINCT (l.order_id, p.warehouse_id)) FROM line_at p JOIN order_line l ON l.id = p.line_id
			WHERE p.picked > 0) AS packing,
			(SELECT count(*) FROM shipment s WHERE s.dispatched_at IS NULL AND s.asked_at IS NULL
			AND EXISTS (SELECT 1 FROM package p JOIN package_line y ON y.package_id = p.id
				WHERE p.shipment_id = s.id AND y.qty > 0)) AS dock,
			(SELECT count(*) FROM shipment s WHERE s.dispatched_at IS NOT NULL AND s.delivered_at IS NULL
			AND s.expected < ?::date) AS overdue`, today, today)
	if err != nil {
		return nil, nil, err
	}
	return map[string]StripRow{
		"open": {l.Open, l.OpenLines}, "promised": {l.Promised, l.PromisedLines}, "allocated": {l.Allocated, l.AllocatedLines},
		"released": {l.Released, l.ReleasedLines},
		"picked":   {l.Picked, l.PickedLines}, "packed": {l.Packed, l.PackedLines}, "shipped": {l.Shipped, l.ShippedLines},
		"delivered": {Units: l.Delivered},
	}, map[string]int64{
		"open": w.Open, "promised": w.Promised, "released": w.Lists, "picked": w.Packing, "packed": w.Dock, "shipped": w.Overdue,
	}, nil
}

// Hit is something found by its number or name.
type Hit struct {
	Kind   string
	Number string
	Text   string
	Of     string // of a lot, its item
}

// Search finds orders, items, customers, pick lists, shipments and inbound by part of their number or name, a sheet by its code, and lots
// by how they begin; what begins with the words comes first.
func (r *Reader) Search(words string, limit int) ([]Hit, error) {
	part := "%" + likeEscape(words) + "%"
	// Orders that match are found by an index on parts before they are sorted: there may be none among a
	// million. Of very many some are taken, beside the one whose number it is. The index cannot find less than
	// three letters, which many orders have.
	some, late := "LIMIT 500", "LIMIT 500"
	if !findable(words) {
		some, late = "ORDER BY number LIMIT 20", "ORDER BY id DESC LIMIT 10"
	}
	return all[Hit](r, `
		WITH matching AS MATERIALIZED (
			(SELECT id, number, customer_id FROM sales_order WHERE number IN (@whole, upper(@whole)))
			UNION (SELECT id, number, customer_id FROM sales_order
			WHERE found_by LIKE lower(@part) `+some+`))
		SELECT kind, number, text, of FROM (
			(SELECT 1 AS k, 'order' AS kind, o.number, c.name AS text, '' AS of FROM matching o JOIN customer c ON c.id = o.customer_id
			ORDER BY o.number LIMIT 20)
			UNION ALL (SELECT 2, 'item', sku, name, '' FROM item WHERE found_by LIKE lower(@part)
			ORDER BY sku LIMIT 20)
			UNION ALL (SELECT 3, 'customer', code, name, '' FROM customer WHERE found_by LIKE lower(@part)
			ORDER BY name LIMIT 20)
			UNION ALL (SELECT 4, 'pick list', number, '', '' FROM (
				SELECT id, number FROM pick_list WHERE lower(number) LIKE lower(@part) `+late+`) p ORDER BY id DESC LIMIT 10)
			UNION ALL (SELECT 5, 'shipment', number, tracking, '' FROM (
				SELECT id, number, tracking FROM shipment WHERE lower(number) LIKE lower(@part) OR lower(tracking) LIKE lower(@part)
				`+late+`) s ORDER BY id DESC LIMIT 10)
			UNION ALL (SELECT 3, 'quote', q.number, c.name, '' FROM quote q JOIN customer c ON c.id = q.customer_id
			WHERE lower(q.number) LIKE lower(@part) OR lower(q.customer_ref) LIKE lower(@part) ORDER BY q.number LIMIT 10)
			UNION ALL (SELECT 4, 'sheet', code, CASE WHEN void_by IS NULL THEN kind ELSE kind || ', void' END, '' FROM paper
			WHERE lower(code) = lower(@whole))
			UNION ALL (SELECT DISTINCT 6, 'inbound', ref, supplier, '' FROM inbound WHERE lower(ref) LIKE lower(@part) LIMIT 10)
			UNION ALL (SELECT 3, 'lot', t.code, i.sku || ' ' || i.name, i.sku FROM lot t JOIN item i ON i.id = t.item_id
			WHERE t.code LIKE upper(@head) ORDER BY t.code LIMIT 10)
		) x ORDER BY (lower(number) = lower(@whole)) DESC, (lower(number) LIKE lower(@head)) DESC, k, number LIMIT @limit`,
		map[string]any{"part": part, "head": likeEscape(words) + "%", "whole": words, "limit": limit})
}
