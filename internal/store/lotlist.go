package store

import (
	"fmt"
	"strings"
	"time"
)

// whereLot is where units of a lot are: in a bin, with an order, or with whoever got them.
const whereLot = `CASE WHEN n.bin_id IS NOT NULL THEN 'bin' WHEN n.package_id IS NULL THEN 'picked'
	WHEN s.dispatched_at IS NULL THEN 'packed' WHEN s.delivered_at IS NULL THEN 'shipped' ELSE 'delivered' END`

// LotsNoted is the list of where units of lots are, or went, the place to which some came last first. Its scope "state" is empty for all,
// house for those in the house, or recalled.
var LotsNoted = &List{
	Name: "lots", First: "age", Down: true, tie: part{"n.id", Number}, key: "n.id",
	Columns: []Column{
		{Name: "age", Kind: Number, By: "n.id"},
		{Name: "lot", Title: "Lot", Kind: Text, By: "t.code", Group: true},
		{Name: "item", Title: "Item", Kind: Text, By: "i.sku", Names: itemsNamed, Key: "n.item_id", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "n.warehouse_id", Group: true},
		{Name: "where", Title: "Where", Kind: Text, By: whereLot, Group: true},
		{Name: "bin", Title: "Bin", Kind: Text, By: "coalesce(b.code, '')"},
		{Name: "order", Title: "Order", Kind: Text, By: "coalesce(o.number, '')", Group: true},
		{Name: "customer", Title: "Customer", Kind: Text, By: "coalesce(c.name, '')", Names: customersNamed, Key: "o.customer_id", Group: true},
		{Name: "email", Title: "Email", Kind: Text, By: "coalesce(c.email, '')"},
		{Name: "package", Title: "Package", Kind: Text, By: "coalesce(k.number, '')"},
		{Name: "shipment", Title: "Shipment", Kind: Text, By: "coalesce(s.number, '')", Group: true},
		{Name: "left", Title: "Left", Kind: Text, By: "coalesce((s.dispatched_at AT TIME ZONE w.timezone)::date::text, '')", Group: true},
		{
			Name: "delivered", Title: "Delivered", Kind: Text, By: "coalesce((s.delivered_at AT TIME ZONE w.timezone)::date::text, '')",
			Group: true,
		},
		{Name: "qty", Title: "Units", Kind: Number, By: "n.qty", Sum: "n.qty"},
		{Name: "aside", Title: "Set aside", Kind: Number, By: "n.aside", Sum: "n.aside"},
		{Name: "recalled", Title: "Recalled", Kind: Text, By: "CASE WHEN x.id IS NULL THEN 'no' ELSE 'yes' END", Group: true},
	},
	begin: func(_ *Reader, ask ListAsk, _ bool) (*rows, error) {
		_, args := found(ask.Words, "")
		conds := []string{"n.qty > 0"}
		for i := range ask.Words {
			conds = append(conds, strings.ReplaceAll(`(lower(t.code) LIKE lower(@w) OR i.found_by LIKE lower(@w) OR lower(b.code) LIKE lower(@w)
				OR o.found_by LIKE lower(@w) OR c.found_by LIKE lower(@w) OR lower(s.number) LIKE lower(@w))`, "@w", fmt.Sprintf("@w%d", i)))
		}
		switch ask.Scope["state"] {
		case "house":
			conds = append(conds, "s.dispatched_at IS NULL")
		case "recalled":
			conds = append(conds, "x.id IS NOT NULL")
		}
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return "lot_count n" + joins(
				shows,
				join{"t", "lot t ON t.id = n.lot_id"},
				join{"i", "item i ON i.id = n.item_id"},
				join{"w", "warehouse w ON w.id = n.warehouse_id"},
				join{"b", "bin b ON b.id = n.bin_id"},
				join{"l", "order_line l ON l.id = n.line_id"},
				join{"o", "sales_order o ON o.id = l.order_id"},
				join{"c", "customer c ON c.id = o.customer_id"},
				join{"k", "package k ON k.id = n.package_id"},
				join{"s", "shipment s ON s.id = k.shipment_id"},
				join{"x", "lot_recall x ON x.lot_id = n.lot_id AND x.lifted_by IS NULL"},
			)
		}}, nil
	},
}

// LotRow is so many units of a lot in a place, as the list shows it.
type LotRow struct {
	ID        int64
	Lot       string
	SKU       string `gorm:"column:sku"`
	ItemName  string
	Unit      string
	Warehouse string
	Where     string
	Bin       string
	Order     string
	LineNo    int
	Code      string // of the customer
	Customer  string
	Email     string
	Package   string
	Shipment  string
	LeftAt    *time.Time
	Delivered *time.Time
	Qty       int64
	Aside     int64
	ToPutBack int64 // of them, those that were taken back because of the lot and wait to be put back
	Recalled  bool
}

// LotRows returns the rows of those keys, in their order.
func (r *Reader) LotRows(keys IDs) ([]LotRow, error) {
	rows, err := all[LotRow](r, `
		SELECT n.id, t.code AS lot, i.sku, i.name AS item_name, i.unit, w.code AS warehouse, `+whereLot+` AS "where", coalesce(b.code, '') AS bin,
			coalesce(o.number, '') AS "order", coalesce(l.line_no, 0) AS line_no, coalesce(c.code, '') AS code, coalesce(c.name, '') AS customer,
			coalesce(c.email, '') AS email, coalesce(k.number, '') AS package, coalesce(s.number, '') AS shipment, s.dispatched_at AS left_at,
			s.delivered_at AS delivered, n.qty, n.aside, x.id IS NOT NULL AS recalled,
			coalesce((SELECT sum(p.qty - p.done) FROM put_back p WHERE p.lot_id = n.lot_id AND p.line_id = n.line_id AND p.done < p.qty
				AND p.warehouse_id = n.warehouse_id AND p.package_id IS NOT DISTINCT FROM n.package_id), 0) AS to_put_back
		FROM lot_count n JOIN lot t ON t.id = n.lot_id JOIN item i ON i.id = n.item_id JOIN warehouse w ON w.id = n.warehouse_id
			LEFT JOIN bin b ON b.id = n.bin_id LEFT JOIN order_line l ON l.id = n.line_id LEFT JOIN sales_order o ON o.id = l.order_id
			LEFT JOIN customer c ON c.id = o.customer_id LEFT JOIN package k ON k.id = n.package_id LEFT JOIN shipment s ON s.id = k.shipment_id
			LEFT JOIN lot_recall x ON x.lot_id = n.lot_id AND x.lifted_by IS NULL
		WHERE n.id = ANY(?)`, keys)
	return inKeyOrder(keys, rows, func(x LotRow) int64 { return x.ID }), err
}

// LotSums are where the units of a lot are, added up.
type LotSums struct {
	InBins, Aside, Picked, Packed, Gone, ToPutBack int64
	Customers                                      int64 // to whom some of it went
}

// LotSums adds up where the units of a lot are.
func (r *Reader) LotSums(lot int64) (LotSums, error) {
	out, _, err := one[LotSums](r, `
		SELECT coalesce(sum(n.qty) FILTER (WHERE n.bin_id IS NOT NULL), 0) AS in_bins, coalesce(sum(n.aside), 0) AS aside,
			coalesce(sum(n.qty) FILTER (WHERE n.line_id IS NOT NULL AND n.package_id IS NULL), 0) AS picked,
			coalesce(sum(n.qty) FILTER (WHERE n.package_id IS NOT NULL AND s.dispatched_at IS NULL), 0) AS packed,
			coalesce(sum(n.qty) FILTER (WHERE s.dispatched_at IS NOT NULL), 0) AS gone,
			count(DISTINCT s.customer_id) FILTER (WHERE s.dispatched_at IS NOT NULL) AS customers,
			coalesce((SELECT sum(p.qty - p.done) FROM put_back p WHERE p.lot_id = ? AND p.done < p.qty), 0) AS to_put_back
		FROM lot_count n LEFT JOIN package k ON k.id = n.package_id LEFT JOIN shipment s ON s.id = k.shipment_id
		WHERE n.lot_id = ? AND n.qty > 0`, lot, lot)
	return out, err
}

// LotEvent is something that was noted of a lot: units went from a place to another, or were set aside, by one command.
type LotEvent struct {
	Command  int64
	At       time.Time
	Who      string
	Verb     string
	Reason   string
	Change   int64  // in all, 0 if units only went from one place to another
	Moved    int64  // units that came to a place
	Aside    int64  // by how many more are set aside
	Bin      string // one of the bins concerned
	Order    string // one of the orders
	Receipt  string
	Shipment string
}

// LotEvents returns what was noted of a lot, the latest first.
func (r *Reader) LotEvents(lot int64, most int) ([]LotEvent, error) {
	return all[LotEvent](r, `
		SELECT e.command_id AS command, m.at, u.name AS who, m.verb, m.reason, sum(e.change) AS change,
			coalesce(sum(e.change) FILTER (WHERE e.change > 0), 0) AS moved, sum(e.aside) AS aside, coalesce(max(b.code), '') AS bin,
			coalesce(max(o.number), '') AS "order", coalesce(max(n.ref), '') AS receipt, coalesce(max(s.number), '') AS shipment
		FROM lot_entry e JOIN command m ON m.id = e.command_id JOIN app_user u ON u.id = m.actor_id LEFT JOIN bin b ON b.id = e.bin_id
			LEFT JOIN order_line l ON l.id = e.line_id LEFT JOIN sales_order o ON o.id = l.order_id LEFT JOIN inbound n ON n.id = e.inbound_id
			LEFT JOIN package k ON k.id = e.package_id LEFT JOIN shipment s ON s.id = k.shipment_id
		WHERE e.lot_id = ? GROUP BY e.command_id, m.at, u.name, m.verb, m.reason ORDER BY e.command_id DESC LIMIT ?`, lot, most)
}

// LotsOfItem returns the lots of an item of which there is some in the house, the one that was noted first first.
func (r *Reader) LotsOfItem(item int64) ([]LotIn, error) {
	return all[LotIn](r, `SELECT t.id AS place, t.code AS lot, sum(c.qty)::bigint AS qty,
			EXISTS (SELECT 1 FROM lot_recall x WHERE x.lot_id = t.id AND x.lifted_by IS NULL) AS stop
		FROM lot_count c JOIN lot t ON t.id = c.lot_id LEFT JOIN package k ON k.id = c.package_id LEFT JOIN shipment s ON s.id = k.shipment_id
		WHERE c.item_id = ? AND c.qty > 0 AND s.dispatched_at IS NULL GROUP BY t.id, t.code ORDER BY t.id LIMIT 200`, item)
}
