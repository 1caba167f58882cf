package store

import (
	"fmt"
	"strings"
	"time"
)

// join is a table that is read beside others if something of it is shown: its alias, and how it is joined.
type join struct{ alias, on string }

// joins are the tables that an expression reads from. One that only leads to another is read with it if it stands before it.
func joins(shows string, tables ...join) string {
	needed := make([]bool, len(tables))
	for i := len(tables) - 1; i >= 0; i-- {
		if needed[i] = uses(shows, tables[i].alias); needed[i] {
			shows += " " + tables[i].on
		}
	}
	var b strings.Builder
	for i, t := range tables {
		if needed[i] {
			b.WriteString(" LEFT JOIN " + t.on)
		}
	}
	return b.String()
}

// found are conditions that each of the words is a part of an expression in small letters.
func found(words []string, in string) (conds []string, args map[string]any) {
	args = map[string]any{}
	for i, w := range words {
		k := fmt.Sprintf("w%d", i)
		args[k] = "%" + likeEscape(w) + "%"
		conds = append(conds, fmt.Sprintf("%s LIKE lower(@%s)", in, k))
	}
	return conds, args
}

// Never is the day, or moment, that stands for none, after all others. It is shown as nothing.
const Never = "infinity"

const never = "CAST('" + Never + "' AS date)"

// noMoment is the same of a moment.
const noMoment = "CAST('" + Never + "' AS timestamptz)"

// Items is the list of items.
var Items = &List{
	Name: "items", First: "sku", tie: part{"i.sku", Text}, key: "i.id",
	Columns: []Column{
		{Name: "sku", Title: "Item", Kind: Text, By: "i.sku"},
		{Name: "name", Title: "Name", Kind: Text, By: "i.name"},
		{Name: "unit", Title: "Unit", Kind: Text, By: "i.unit", Group: true},
		{Name: "on_hand", Title: "On hand", Kind: Number, By: "coalesce(s.on_hand, 0)", Sum: "coalesce(s.on_hand, 0)"},
		{Name: "free", Title: "Free", Kind: Number, By: "coalesce(s.free, 0)", Sum: "coalesce(s.free, 0)"},
		{Name: "open", Title: "Open", Kind: Number, By: "coalesce(o.open, 0)", Sum: "coalesce(o.open, 0)"},
		{Name: "wanting", Title: "Wanting", Kind: Number, By: wanting, Sum: wanting},
		{Name: "incoming", Title: "On its way", Kind: Number, By: "coalesce(b.incoming, 0)", Sum: "coalesce(b.incoming, 0)"},
		{Name: "next_due", Title: "Next arrival", Kind: Day, By: "coalesce(b.next_due, " + never + ")"},
		{Name: "price", Title: "Price", Kind: Money, By: "i.price_minor"},
		{Name: "cost", Title: "Cost", Kind: Money, By: "i.cost_minor", Costs: true},
		{Name: "currency", Title: "Currency", Kind: Text, By: "i.currency", Group: true},
		{Name: "lead_days", Title: "Lead days", Kind: Number, By: "i.lead_days", Group: true},
	},
	begin: func(_ *Reader, ask ListAsk, _ bool) (*rows, error) {
		conds, args := found(ask.Words, "i.found_by")
		return &rows{conds: conds, args: args, from: func(shows string) string { return "item i" + joins(shows, itemSums...) }}, nil
	},
}

// wanting is by how much the open units of an item exceed what is free.
const wanting = "greatest(coalesce(o.open, 0) - coalesce(s.free, 0), 0)"

var itemSums = []join{
	{"s", `(SELECT item_id, sum(on_hand)::bigint AS on_hand, sum(free)::bigint AS free FROM stock_cell
		GROUP BY item_id) s ON s.item_id = i.id`},
	{"o", "(SELECT item_id, sum(units)::bigint AS open FROM wanting_part GROUP BY item_id) o ON o.item_id = i.id"},
	{"b", `(SELECT item_id, sum(qty - received)::bigint AS incoming, min(due) AS next_due FROM inbound WHERE received < qty
		GROUP BY item_id) b ON b.item_id = i.id`},
}

// ItemHead is an item as the list shows it.
type ItemHead struct {
	Item
	OnHand   int64
	Free     int64
	Open     int64
	Incoming int64
	NextDue  string
}

// ItemHeads returns the items of those keys, in their order.
func (r *Reader) ItemHeads(keys IDs) ([]ItemHead, error) {
	heads, err := all[ItemHead](r, `
		SELECT i.*, coalesce(s.on_hand, 0) AS on_hand, coalesce(s.free, 0) AS free, coalesce(o.open, 0) AS open,
			coalesce(b.incoming, 0) AS incoming, coalesce(b.next_due::text, '') AS next_due
		FROM item i
			LEFT JOIN LATERAL (SELECT sum(on_hand) AS on_hand, sum(free) AS free FROM stock_cell WHERE item_id = i.id) s ON true
			LEFT JOIN LATERAL (SELECT sum(units) AS open FROM wanting_part WHERE item_id = i.id) o ON true
			LEFT JOIN LATERAL (SELECT sum(qty - received) AS incoming, min(due) AS next_due FROM inbound
				WHERE item_id = i.id AND received < qty) b ON true
		WHERE i.id = ANY(?)`, keys)
	return inKeyOrder(keys, heads, func(h ItemHead) int64 { return h.ID }), err
}

// Customers is the list of customers.
var Customers = &List{
	Name: "customers", First: "tier", Page: 50, tie: part{"c.code", Text}, key: "c.id",
	Columns: append([]Column{
		{Name: "tier", Title: "Tier", Kind: Number, By: "c.tier", Then: []part{{"c.name", Text}}, Group: true},
		{Name: "code", Title: "Code", Kind: Text, By: "c.code"},
		{Name: "name", Title: "Name", Kind: Text, By: "c.name"},
		{Name: "rule", Title: "Ship rule", Kind: Text, By: "c.ship_rule", Group: true},
		{Name: "service", Title: "Service", Kind: Text, By: "c.service", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "coalesce(w.code, '')", Group: true},
		{Name: "terms", Title: "Freight terms", Kind: Text, By: "c.terms", Group: true},
		{Name: "hold", Title: "Hold", Kind: Text, By: customerHeldBy, Group: true},
		{Name: "orders", Title: "Orders", Kind: Number, By: "coalesce(n.orders, 0)", Sum: "coalesce(n.orders, 0)"},
		{Name: "unfinished", Title: "Unfinished", Kind: Number, By: "coalesce(n.unfinished, 0)", Sum: "coalesce(n.unfinished, 0)"},
		{Name: "value", Title: "Value", Kind: Money, By: "coalesce(n.value_minor, 0)", Sum: "coalesce(n.value_minor, 0)"},
	}, sumsOfOrders()...),
	begin: func(_ *Reader, ask ListAsk, _ bool) (*rows, error) {
		conds, args := found(ask.Words, "c.found_by")
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return "customer c" + joins(shows, join{"w", "warehouse w ON w.id = c.warehouse_id"}, join{"n", ordersAddedUp})
		}}, nil
	},
}

// customerHeldBy is the kind of the hold that stands on a customer (c).
const customerHeldBy = `coalesce((SELECT h.kind FROM customer_hold h WHERE h.customer_id = c.id AND h.lifted_by IS NULL), '')`

// sumsOfOrders are the units of a customer's orders by where they stand.
func sumsOfOrders() []Column {
	out := stationColumns("n")
	for i := range out {
		out[i].By = "coalesce(" + out[i].By + ", 0)"
		out[i].Sum = out[i].By
	}
	return out
}

const ordersAddedUp = `(SELECT customer_id, count(*) AS orders, count(*) FILTER (WHERE delivered + dropped < ordered) AS unfinished,
		shown(sum(value_minor) FILTER (WHERE currency = '` + FirmCurrency + `')) AS value_minor,
		shown(sum(ordered)) AS ordered, shown(sum(open)) AS open, shown(sum(promised)) AS promised, shown(sum(allocated)) AS allocated,
		shown(sum(released)) AS released, shown(sum(picked)) AS picked, shown(sum(packed)) AS packed, shown(sum(shipped)) AS shipped,
		shown(sum(delivered)) AS delivered, shown(sum(dropped)) AS dropped
	FROM order_count GROUP BY customer_id) n ON n.customer_id = c.id`

// CustomerHeads returns the customers of those keys, in their order.
func (r *Reader) CustomerHeads(keys IDs) ([]CustomerHead, error) {
	heads, err := all[CustomerHead](r, customerHead+` WHERE c.id = ANY(?) GROUP BY c.id, w.code`, keys)
	return inKeyOrder(keys, heads, func(h CustomerHead) int64 { return h.ID }), err
}

// InboundList is an expected receipt as lists show it.
type InboundList struct {
	ID        int64
	Ref       string
	SKU       string `gorm:"column:sku"`
	ItemName  string
	Unit      string
	Warehouse string
	Kind      string
	Supplier  string
	Due       string
	Qty       int64
	Received  int64
	Waiting   int64 // open units of the item at the warehouse
	Bin       string
	Barcode   string
	Lots      bool  // it is noted of which lot its units are
	Was       int64 // how many were expected before more came, or fewer; 0 if that never was
	WasUntil  *time.Time
	WasBy     string
	WasWhy    string
}

// Receipts is the list of expected receipts. Its scope "state" is empty for those that have not come in full, overdue, or all.
var Receipts = &List{
	Name: "inbound", First: "due", tie: part{"n.id", Number}, key: "n.id",
	Columns: []Column{
		{Name: "due", Title: "Due", Kind: Day, By: "n.due", Group: true},
		{Name: "ref", Title: "Reference", Kind: Text, By: "n.ref", Group: true},
		{Name: "item", Title: "Item", Kind: Text, By: "i.sku", Names: itemsNamed, Key: "n.item_id", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "n.warehouse_id", Group: true},
		{Name: "kind", Title: "Kind", Kind: Text, By: "n.kind", Group: true},
		{Name: "supplier", Title: "Supplier", Kind: Text, By: "n.supplier", Group: true},
		{Name: "qty", Title: "Expected", Kind: Number, By: "n.qty", Sum: "n.qty"},
		{Name: "received", Title: "Received", Kind: Number, By: "n.received", Sum: "n.received"},
		{Name: "left", Title: "Still expected", Kind: Number, By: "n.qty - n.received", Sum: "n.qty - n.received"},
		{Name: "waiting", Title: "Wanted", Kind: Number, By: waitingFor},
	},
	begin: func(_ *Reader, ask ListAsk, _ bool) (*rows, error) {
		conds, args := found(ask.Words, "(lower(n.ref) || chr(10) || lower(n.supplier) || chr(10) || i.found_by)")
		args["today"] = ask.Today
		switch ask.Scope["state"] {
		case "":
			conds = append(conds, "n.received < n.qty")
		case "overdue":
			conds = append(conds, "n.received < n.qty", "n.due < CAST(@today AS date)")
		}
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return "inbound n" + joins(shows, join{"i", "item i ON i.id = n.item_id"}, join{"w", "warehouse w ON w.id = n.warehouse_id"})
		}}, nil
	},
}

// waitingFor is how many units of a receipt's item are open at its warehouse.
const waitingFor = `coalesce((SELECT sum(x.units) FROM wanting_part x WHERE x.item_id = n.item_id AND x.warehouse_id = n.warehouse_id),
	0)::bigint`

// ReceiptRows returns the expected receipts of those keys, in their order.
func (r *Reader) ReceiptRows(keys IDs) ([]InboundList, error) {
	rows, err := all[InboundList](r, receiptRow+` WHERE n.id = ANY(?)`, keys)
	return inKeyOrder(keys, rows, func(n InboundList) int64 { return n.ID }), err
}

// ReceiptsOfItem returns what is still expected of an item, the earliest first.
func (r *Reader) ReceiptsOfItem(item int64) ([]InboundList, error) {
	return all[InboundList](r, receiptRow+` WHERE n.item_id = ? AND n.received < n.qty ORDER BY n.due, n.ref, n.id LIMIT 100`, item)
}

const receiptRow = `
		SELECT n.id, n.ref, i.sku, i.name AS item_name, i.unit, w.code AS warehouse, n.kind, n.supplier, n.due::text AS due, n.qty,
			n.received, ` + waitingFor + ` AS waiting,
			coalesce((SELECT b.code FROM bin_stock s JOIN bin b ON b.id = s.bin_id
			WHERE s.item_id = n.item_id AND s.warehouse_id = n.warehouse_id
				AND b.code <> '' AND NOT b.put_back ORDER BY s.qty DESC, b.code DESC LIMIT 1), '') AS bin,
			i.barcode, i.lots, coalesce(q.was, 0) AS was, q.at AS was_until, coalesce(q.name, '') AS was_by, coalesce(q.reason, '') AS was_why
		FROM inbound n JOIN item i ON i.id = n.item_id JOIN warehouse w ON w.id = n.warehouse_id
			LEFT JOIN LATERAL (SELECT x.was, m.at, u.name, m.reason FROM qty_change x JOIN command m ON m.id = x.command_id
				JOIN app_user u ON u.id = m.actor_id WHERE x.inbound_id = n.id ORDER BY x.id DESC LIMIT 1) q ON true`

// Lists are the lists that can be sorted, filtered, grouped and taken along as a file.
var Lists = []*List{
	Orders, OpenLines, Promises, Items, Customers, Receipts, PickLists, Packing, Shipments, Journal, Quotes, Release, Papers, LotsNoted,
}
