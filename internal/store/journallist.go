package store

import (
	"fmt"
	"strings"
)

// ordersMoved are the orders whose lines a move names.
var ordersMoved = &naming{
	table: "sales_order", code: "number", name: "customer_ref",
	of: "j.line_id IN (SELECT id FROM order_line WHERE order_id IN (@those))",
}

// What else a move can name: the document by which it was made, and a bin. Each is found by the lines or the items that it has, for which
// the journal has an index.
var (
	listsMoved = &naming{
		table: "pick_list", code: "number", name: "zone",
		of: `(j.line_id IN (SELECT line_id FROM pick_task WHERE pick_list_id IN (@those))
			AND j.task_id IN (SELECT id FROM pick_task WHERE pick_list_id IN (@those)))`,
	}
	shipmentsMoved = &naming{
		table: "shipment", code: "number", name: "tracking",
		of: `(j.line_id IN (SELECT y.line_id FROM package g JOIN package_line y ON y.package_id = g.id WHERE g.shipment_id IN (@those))
			AND j.package_id IN (SELECT id FROM package WHERE shipment_id IN (@those)))`,
	}
	receiptsMoved = &naming{
		table: "inbound", code: "ref", name: "supplier",
		of: "(j.item_id IN (SELECT item_id FROM inbound WHERE id IN (@those)) AND j.inbound_id IN (@those))",
	}
	binsMoved = &naming{
		table: "bin", code: "code", name: "zone",
		of: `((j.item_id, j.warehouse_id) IN (SELECT item_id, warehouse_id FROM bin_stock WHERE bin_id IN (@those)) AND j.bin_id IN (@those))`,
	}
)

// Journal is the list of all moves and stock entries, the latest first. Its scope "state" is empty for those of today and six days before,
// today, month for thirty days, or all.
var Journal = &List{
	Name: "journal", First: "at", Down: true, tie: part{"j.id", Number}, key: "j.id",
	Columns: []Column{
		{Name: "at", Title: "When", Kind: Moment, By: "m.at", Sort: "j.id"},
		{Name: "who", Title: "Who", Kind: Text, By: "u.name", Group: true},
		{Name: "move", Title: "Move", Kind: Text, By: "j.kind", Group: true},
		{Name: "qty", Title: "Units", Kind: Number, By: "j.qty", Sum: "j.qty"},
		{Name: "item", Title: "Item", Kind: Text, By: "i.sku", Names: itemsNamed, Key: "j.item_id", Group: true},
		{Name: "from", Title: "From", Kind: Text, By: "j.from_station", Group: true},
		{Name: "to", Title: "To", Kind: Text, By: "j.to_station", Group: true},
		{Name: "order", Title: "Order", Kind: Text, By: "coalesce(o.number, '')", Names: ordersMoved, Key: "j.order_id", Group: true},
		{
			Name: "customer", Title: "Customer", Kind: Text, By: "coalesce(c.name, '')", Names: customersNamed, Key: "o.customer_id",
			Group: true,
		},
		{
			Name: "warehouse", Title: "Warehouse", Kind: Text, By: "coalesce(w.code, '')", Names: warehousesNamed, Key: "j.warehouse_id",
			Group: true,
		},
		{Name: "line", Title: "Line", Kind: Number, By: "coalesce(l.line_no, 0)"},
		{Name: "bin", Title: "Bin", Kind: Text, By: "coalesce(b.code, '')", Names: binsMoved, Key: "j.bin_id"},
		{Name: "list", Title: "Pick list", Kind: Text, By: "coalesce(pl.number, '')", Names: listsMoved, Key: "t.pick_list_id", Group: true},
		{
			Name: "shipment", Title: "Shipment", Kind: Text, By: "coalesce(sh.number, '')", Names: shipmentsMoved, Key: "a.shipment_id",
			Group: true,
		},
		{Name: "receipt", Title: "Receipt", Kind: Text, By: "coalesce(n.ref, '')", Names: receiptsMoved, Key: "j.inbound_id", Group: true},
		{Name: "document", Title: "Document", Kind: Text, By: "coalesce(pl.number, sh.number, n.ref, '')", Group: true},
		{Name: "cause", Title: "Cause", Kind: Text, By: "j.cause", Group: true},
		{Name: "command", Title: "Command", Kind: Text, By: "m.verb", Group: true},
		{Name: "reason", Title: "Reason", Kind: Text, By: "m.reason"},
	},
	begin: beginJournal,
}

func beginJournal(r *Reader, ask ListAsk, _ bool) (*rows, error) {
	p := &rows{args: map[string]any{}, from: func(shows string) string {
		return "journal j" + joins(
			shows,
			join{"m", "command m ON m.id = j.command_id"},
			join{"u", "app_user u ON u.id = m.actor_id"},
			join{"i", "item i ON i.id = j.item_id"},
			join{"o", "sales_order o ON o.id = j.order_id"},
			join{"c", "customer c ON c.id = o.customer_id"},
			join{"l", "order_line l ON l.id = j.line_id"},
			join{"w", "warehouse w ON w.id = j.warehouse_id"},
			join{"b", "bin b ON b.id = j.bin_id"},
			join{"t", "pick_task t ON t.id = j.task_id"},
			join{"pl", "pick_list pl ON pl.id = t.pick_list_id"},
			join{"a", "package a ON a.id = j.package_id"},
			join{"sh", "shipment sh ON sh.id = a.shipment_id"},
			join{"n", "inbound n ON n.id = j.inbound_id"},
		)
	}}
	if before, known := map[string]int{"today": 0, "": 6, "month": 29}[ask.Scope["state"]]; known {
		p.args["today"] = ask.Today
		// Commands are numbered as they come.
		p.conds = append(
			p.conds, fmt.Sprintf("j.command_id >= (SELECT min(id) FROM command WHERE at >= CAST(@today AS date) - %d)", before),
		)
	}
	for i, word := range ask.Words {
		cond, err := r.movesWith(p.args, fmt.Sprintf("w%d", i), word)
		if err != nil {
			return nil, err
		}
		p.conds = append(p.conds, cond)
	}
	return p, nil
}

// movesWith is the condition that a word is found in the order, customer or item of a move.
func (r *Reader) movesWith(args map[string]any, name, word string) (string, error) {
	args[name] = "%" + likeEscape(word) + "%"
	return r.amongThose("j.id", strings.ReplaceAll(`
		SELECT y.id FROM item i JOIN journal y ON y.item_id = i.id WHERE i.found_by LIKE lower(@w)
		UNION ALL SELECT y.id FROM sales_order o JOIN order_line l ON l.order_id = o.id JOIN journal y ON y.line_id = l.id
			WHERE o.found_by LIKE lower(@w)
		UNION ALL SELECT y.id FROM customer c JOIN sales_order o ON o.customer_id = c.id JOIN order_line l ON l.order_id = o.id
			JOIN journal y ON y.line_id = l.id WHERE c.found_by LIKE lower(@w)`, "@w", "@"+name), name+"ids", args)
}

// JournalRow is a move, or a stock entry, as lists show it.
type JournalRow struct {
	Event
	ID           int64
	From         string `gorm:"column:from_station"`
	To           string `gorm:"column:to_station"`
	OrderNumber  string
	CustomerName string
	ItemName     string
	Warehouse    string
	Bin          string
}

// JournalRows returns the moves of those keys, in their order.
func (r *Reader) JournalRows(keys IDs) ([]JournalRow, error) {
	rows, err := all[JournalRow](r, `
		SELECT j.id, j.command_id AS command, m.actor_id, m.verb, j.kind, j.cause, u.name AS who, m.at, m.reason, j.qty,
			i.sku, i.name AS item_name, coalesce(l.line_no, 0) AS line_no, EXISTS (SELECT 1 FROM command x WHERE x.undoes = m.id) AS undone,
			j.from_station, j.to_station, coalesce(o.number, '') AS order_number, coalesce(c.name, '') AS customer_name,
			coalesce(w.code, '') AS warehouse, coalesce(b.code, '') AS bin, coalesce(pl.number, sh.number, n.ref, '') AS document,
			CASE WHEN pl.id IS NOT NULL THEN 'pick list' WHEN sh.id IS NOT NULL THEN 'shipment' WHEN n.id IS NOT NULL THEN 'receipt'
				ELSE '' END AS document_kind
		FROM journal j JOIN command m ON m.id = j.command_id JOIN app_user u ON u.id = m.actor_id JOIN item i ON i.id = j.item_id
			LEFT JOIN order_line l ON l.id = j.line_id LEFT JOIN sales_order o ON o.id = j.order_id
			LEFT JOIN customer c ON c.id = o.customer_id LEFT JOIN warehouse w ON w.id = j.warehouse_id LEFT JOIN bin b ON b.id = j.bin_id
			LEFT JOIN pick_task t ON t.id = j.task_id LEFT JOIN pick_list pl ON pl.id = t.pick_list_id
			LEFT JOIN package a ON a.id = j.package_id LEFT JOIN shipment sh ON sh.id = a.shipment_id
			LEFT JOIN inbound n ON n.id = j.inbound_id
		WHERE j.id = ANY(?)`, keys)
	return inKeyOrder(keys, rows, func(x JournalRow) int64 { return x.ID }), err
}
