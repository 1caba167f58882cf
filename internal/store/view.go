package store

import (
	"strings"
	"time"
)

// OrderHead is an order as lists and pages show it.
type OrderHead struct {
	ID           int64
	Number       string
	CustomerID   int64
	CustomerCode string
	CustomerName string
	ShipToID     int64
	ShipToName   string
	Street       string
	City         string
	Postcode     string
	Country      string
	Channel      string
	CustomerRef  string
	Tier         int
	Urgency      int
	ShipRule     string
	Service      string
	Terms        string
	EnteredAt    time.Time
	Wanted       string
	NotBefore    string // on which it may leave first; empty for any
	Currency     string
	Note         string
	ValueMinor   int64
	CostMinor    int64
	Lines        int
	Zero         bool // a line has no price or no cost
	Holds        string
	Version      int64
	StationCounts
}

const orderHead = `
	SELECT o.id, o.number, o.customer_id, o.ship_to_id, c.code AS customer_code, c.name AS customer_name, t.name AS ship_to_name,
		t.street, t.city, t.postcode, t.country,
		o.channel, o.customer_ref, o.tier, o.urgency, o.ship_rule, o.service, o.terms, o.entered_at, o.wanted::text AS wanted,
		coalesce(o.not_before::text, '') AS not_before, o.currency, o.note,
		n.ordered, n.open, n.allocated, n.released, n.picked, n.packed, n.shipped, n.delivered, n.dropped, n.promised, n.value_minor,
		n.cost_minor, n.version,
		(SELECT count(*) FROM order_line l WHERE l.order_id = o.id) AS lines,
		EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = o.id AND (l.price_minor = 0 OR l.cost_minor = 0)) AS zero,
		coalesce((SELECT string_agg(h.kind, ' ' ORDER BY h.kind) FROM hold h WHERE h.order_id = o.id AND h.lifted_by IS NULL), '') AS holds
	FROM sales_order o JOIN order_count n ON n.order_id = o.id JOIN customer c ON c.id = o.customer_id
		JOIN ship_to t ON t.id = o.ship_to_id`

// OrderByNumber returns the head of the order of that number.
func (r *Reader) OrderByNumber(number string) (OrderHead, bool, error) {
	return one[OrderHead](r, orderHead+` WHERE o.number = ?`, number)
}

func likeEscape(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}

// FirmCurrency is the currency of the firm. Totals over orders are of those that are in it.
const FirmCurrency = "GBP"

const inFirmCurrency = " FILTER (WHERE o.currency = '" + FirmCurrency + "')"

// Channels lists the channels through which orders came.
func (r *Reader) Channels() ([]string, error) {
	// One look into the index for each channel, not one for each order.
	return all[string](r, `WITH RECURSIVE c AS (
			(SELECT channel FROM sales_order WHERE channel <> '' ORDER BY channel LIMIT 1)
			UNION ALL SELECT (SELECT o.channel FROM sales_order o WHERE o.channel > c.channel ORDER BY o.channel LIMIT 1) FROM c
			WHERE c.channel IS NOT NULL)
		SELECT channel FROM c WHERE channel IS NOT NULL ORDER BY 1`)
}

// LineRow is an order line as lists and pages show it.
type LineRow struct {
	ID           int64
	OrderID      int64
	OrderNumber  string
	CustomerName string
	CustomerCode string
	Tier         int
	LineNo       int
	ItemID       int64
	SKU          string `gorm:"column:sku"`
	ItemName     string
	Unit         string
	Multiple     int64
	WeightG      int64
	WarehouseID  int64
	Warehouse    string
	ShipBy       string
	Wanted       string
	NotBefore    string // on which its order may leave first; empty for any
	ShipRule     string
	Service      string
	Currency     string
	PriceMinor   int64
	CostMinor    int64
	ListMinor    int64 // the price before the discount
	DiscountBP   int   `gorm:"column:discount_bp"`
	Version      int64
	OrderOpen    int64
	Holds        string
	Free         int64
	OnHand       int64
	Elsewhere    int64 // free in other warehouses
	NextRef      string
	NextDue      string
	NextLeft     int64
	HasBin       bool
	Waiting      bool // some of its allocated units are still to be put back
	StationCounts
}

const lineRow = `
	SELECT n.ordered, n.open, n.allocated, n.released, n.picked, n.packed, n.shipped, n.delivered, n.dropped, n.promised, n.version, l.id,
		l.order_id, o.number AS order_number, c.name AS customer_name, c.code AS customer_code, o.tier, l.line_no,
		l.item_id, i.sku, i.name AS item_name, i.unit, i.multiple, i.weight_g, l.warehouse_id, w.code AS warehouse,
		l.ship_by::text AS ship_by,
		o.wanted::text AS wanted, coalesce(o.not_before::text, '') AS not_before, o.ship_rule, o.service, o.currency,
		l.price_minor, l.cost_minor, l.list_minor, l.discount_bp, oc.open AS order_open,
		coalesce((SELECT string_agg(h.kind, ' ' ORDER BY h.kind) FROM hold h WHERE h.order_id = o.id AND h.lifted_by IS NULL), '') AS holds,
		coalesce(s.free, 0) AS free, coalesce(s.on_hand, 0) AS on_hand,
		coalesce((SELECT sum(x.free) FROM stock_cell x WHERE x.item_id = l.item_id AND x.warehouse_id <> l.warehouse_id), 0) AS elsewhere,
		coalesce(nx.ref, '') AS next_ref, coalesce(nx.due::text, '') AS next_due, coalesce(nx.qty - nx.received, 0) AS next_left,
		NOT EXISTS (SELECT 1 FROM line_at p WHERE p.line_id = l.id AND p.allocated > 0 AND NOT EXISTS (
			SELECT 1 FROM bin_stock b JOIN bin k ON k.id = b.bin_id WHERE b.item_id = l.item_id AND b.warehouse_id = p.warehouse_id
				AND k.code <> '' AND NOT k.put_back)) AS has_bin,
		EXISTS (SELECT 1 FROM put_back b WHERE b.line_id = l.id AND b.done < b.qty AND b.ends = 'allocated') AS waiting
	FROM line_count n JOIN order_line l ON l.id = n.line_id JOIN sales_order o ON o.id = l.order_id
		JOIN order_count oc ON oc.order_id = o.id
		JOIN customer c ON c.id = o.customer_id JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = l.warehouse_id
		LEFT JOIN stock_cell s ON s.item_id = l.item_id AND s.warehouse_id = l.warehouse_id
		LEFT JOIN LATERAL (SELECT * FROM inbound b WHERE b.item_id = l.item_id AND b.warehouse_id = l.warehouse_id AND b.received < b.qty
			ORDER BY b.due, b.id LIMIT 1) nx ON true`

// LinesOfOrders returns the lines of the orders, by order and line number.
func (r *Reader) LinesOfOrders(orders IDs) ([]LineRow, error) {
	return all[LineRow](r, lineRow+` WHERE l.order_id = ANY(?) ORDER BY l.order_id, l.line_no`, orders)
}

// live says that a line is not finished; the partial index of line_count has those lines.
const live = "n.delivered + n.dropped < n.ordered"

// LinesByID returns the lines of those keys.
func (r *Reader) LinesByID(lines IDs) ([]LineRow, error) {
	return all[LineRow](r, lineRow+` WHERE l.id = ANY(?)`, lines)
}

// WantsOfOrders returns of the lines of orders just what decides whether they could go now.
func (r *Reader) WantsOfOrders(orders IDs) ([]LineRow, error) {
	return all[LineRow](r, `SELECT l.id, l.order_id, l.item_id, l.warehouse_id, n.open, n.allocated, coalesce(s.free, 0) AS free
		FROM order_line l JOIN line_count n ON n.line_id = l.id LEFT JOIN stock_cell s ON s.item_id = l.item_id
			AND s.warehouse_id = l.warehouse_id
		WHERE l.order_id = ANY(?) ORDER BY l.order_id, l.line_no`, orders)
}

// LinesOfItem returns the unfinished lines of an item, by day.
func (r *Reader) LinesOfItem(item int64) ([]LineRow, error) {
	return all[LineRow](r, lineRow+` WHERE n.item_id = ? AND `+live+` ORDER BY l.ship_by, o.tier, o.number, l.line_no LIMIT 500`, item)
}

// PlaceRow is where units of a line stand.
type PlaceRow struct {
	LineID    int64
	Warehouse string
	HouseCounts
}

// Places returns where units of the lines stand in the house.
func (r *Reader) Places(lines IDs) ([]PlaceRow, error) {
	return all[PlaceRow](r, `SELECT p.line_id, w.code AS warehouse, p.allocated, p.released, p.picked, p.packed
		FROM line_at p JOIN warehouse w ON w.id = p.warehouse_id
		WHERE p.line_id = ANY(?) AND p.allocated + p.released + p.picked + p.packed > 0 ORDER BY p.line_id, w.code`, lines)
}

// HoldRow is a standing hold with who placed it.
type HoldRow struct {
	Kind string
	Rank string // who may lift it goes by this kind
	Note string
	Who  string
	At   time.Time
}

// HoldsOfOrder returns the holds that stand on an order.
func (r *Reader) HoldsOfOrder(order int64) ([]HoldRow, error) {
	return all[HoldRow](r, `SELECT h.kind, coalesce(k.kind, h.kind) AS rank, h.note, u.name AS who, c.at
		FROM hold h LEFT JOIN customer_hold k ON k.id = h.customer_hold_id JOIN command c ON c.id = h.placed_by
		JOIN app_user u ON u.id = c.actor_id
		WHERE h.order_id = ? AND h.lifted_by IS NULL ORDER BY h.kind`, order)
}

// DocumentRow is a document that an order led to.
type DocumentRow struct {
	Kind   string
	Number string
	State  string
}

// DocumentsOfOrder returns the pick lists and shipments of an order.
func (r *Reader) DocumentsOfOrder(order int64) ([]DocumentRow, error) {
	return all[DocumentRow](r, `
		SELECT 'pick list' AS kind, p.number, CASE WHEN sum(t.due) > 0 THEN sum(t.due) || ' to pick' ELSE 'done' END AS state
		FROM pick_list p JOIN pick_task t ON t.pick_list_id = p.id JOIN order_line l ON l.id = t.line_id WHERE l.order_id = @order
			GROUP BY p.id
		UNION ALL
		SELECT 'quote', q.number, 'accepted' FROM quote q JOIN sales_order o ON o.quote_id = q.id WHERE o.id = @order
		UNION ALL
		SELECT DISTINCT 'shipment', s.number,
			CASE WHEN s.delivered_at IS NOT NULL THEN 'delivered' WHEN s.dispatched_at IS NOT NULL THEN 'under way' ELSE 'packed' END
		FROM shipment s JOIN package p ON p.shipment_id = s.id JOIN package_line c ON c.package_id = p.id
			JOIN order_line l ON l.id = c.line_id
		WHERE l.order_id = @order AND c.qty > 0
		ORDER BY 1, 2`, map[string]any{"order": order})
}

// CellRow is the stock of an item in a warehouse.
type CellRow struct {
	WarehouseID   int64
	Warehouse     string
	WarehouseName string
	OnHand        int64
	Held          int64
	Allocated     int64
	Released      int64
	Picked        int64
	Packed        int64
	Free          int64
}

// CellsOf returns the stock of an item by warehouse.
func (r *Reader) CellsOf(item int64) ([]CellRow, error) {
	return all[CellRow](r, `SELECT c.*, w.code AS warehouse, w.name AS warehouse_name FROM stock_cell c
		JOIN warehouse w ON w.id = c.warehouse_id
		WHERE c.item_id = ? ORDER BY w.id`, item)
}

// WantedOf returns how many units of an item are open, by warehouse.
func (r *Reader) WantedOf(item int64) (map[int64]int64, error) {
	rows, err := all[struct{ WarehouseID, Units int64 }](r,
		`SELECT warehouse_id, shown(sum(units)) AS units FROM wanting_part WHERE item_id = ? GROUP BY 1`, item)
	out := map[int64]int64{}
	for _, x := range rows {
		out[x.WarehouseID] = x.Units
	}
	return out, err
}

// ItemBySKU returns the item of that number.
func (r *Reader) ItemBySKU(sku string) (Item, bool, error) {
	return one[Item](r, `SELECT * FROM item WHERE sku = ?`, sku)
}

// BinRow is what lies in a bin of a warehouse.
type BinRow struct {
	Warehouse string
	Bin       string
	Zone      string
	Qty       int64
	Held      int64
	PutBack   bool // what lies there waits to be put back
}

// BinsOfItem returns the bins in which an item lies.
func (r *Reader) BinsOfItem(item int64) ([]BinRow, error) {
	return all[BinRow](r, `SELECT w.code AS warehouse, b.code AS bin, b.zone, s.qty, s.held, b.put_back
		FROM bin_stock s JOIN bin b ON b.id = s.bin_id JOIN warehouse w ON w.id = s.warehouse_id
		WHERE s.item_id = ? AND s.qty > 0 ORDER BY w.id, b.code`, item)
}

// StockEntry is a journal row that changed stock without a line.
type StockEntry struct {
	At        time.Time
	Who       string
	Kind      string
	Cause     string
	Qty       int64
	Warehouse string
	Bin       string
	Ref       string
	OrderNo   string
}

// StockTrail returns the latest entries that changed what is on hand or held of an item.
func (r *Reader) StockTrail(item int64, limit int) ([]StockEntry, error) {
	return all[StockEntry](r, `
		SELECT c.at, u.name AS who, j.kind, j.cause, j.qty, coalesce(w.code, '') AS warehouse, coalesce(b.code, '') AS bin,
			coalesce(n.ref, '') AS ref, coalesce(o.number, '') AS order_no
		FROM journal j JOIN command c ON c.id = j.command_id JOIN app_user u ON u.id = c.actor_id
			LEFT JOIN warehouse w ON w.id = j.warehouse_id LEFT JOIN bin b ON b.id = j.bin_id LEFT JOIN inbound n ON n.id = j.inbound_id
			LEFT JOIN sales_order o ON o.id = j.order_id
		WHERE j.item_id = ? AND j.kind IN ('receive', 'gain', 'loss', 'set aside', 'make good', 'dispatch', 'void', 'short', 'pick')
		ORDER BY j.id DESC LIMIT ?`, item, limit)
}

// CustomerHead is a customer as lists and pages show it.
type CustomerHead struct {
	ID         int64
	Code       string
	Name       string
	Tier       int
	ShipRule   string
	Warehouse  string
	Service    string
	Terms      string
	Email      string
	Hold       string
	Orders     int64
	OpenOrders int64
	ValueMinor int64
	StationCounts
}

const customerHead = `
	SELECT c.id, c.code, c.name, c.tier, c.ship_rule, coalesce(w.code, '') AS warehouse, c.service, c.terms, c.email,
		` + customerHeldBy + ` AS hold, count(o.id) AS orders, count(o.id) FILTER (WHERE n.delivered + n.dropped < n.ordered) AS open_orders,
		shown(sum(n.value_minor)` + inFirmCurrency + `) AS value_minor,
		shown(sum(n.ordered)) AS ordered, shown(sum(n.open)) AS open, shown(sum(n.allocated)) AS allocated,
		shown(sum(n.released)) AS released, shown(sum(n.picked)) AS picked, shown(sum(n.packed)) AS packed,
		shown(sum(n.shipped)) AS shipped, shown(sum(n.delivered)) AS delivered, shown(sum(n.dropped)) AS dropped,
		shown(sum(n.promised)) AS promised
	FROM customer c LEFT JOIN warehouse w ON w.id = c.warehouse_id LEFT JOIN sales_order o ON o.customer_id = c.id
		LEFT JOIN order_count n ON n.order_id = o.id`

// CustomerByCode returns the customer of that code.
func (r *Reader) CustomerByCode(code string) (CustomerHead, bool, error) {
	return one[CustomerHead](r, customerHead+` WHERE c.code = ? GROUP BY c.id, w.code`, code)
}
