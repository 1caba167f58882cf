package store

import (
	"encoding/json"
	"time"
)

// PromiseRow is a promise that stands.
type PromiseRow struct {
	LineID      int64
	OrderID     int64
	ItemID      int64
	WarehouseID int64
	Day         string
	Qty         int64
}

// PromisePart is a promise as an entry keeps it.
type PromisePart struct {
	Warehouse int64  `json:"warehouse"`
	Day       string `json:"day"`
	Qty       int64  `json:"qty"`
}

// PromiseEntry says what a line's promises were and are from now on, each by day.
type PromiseEntry struct {
	Line, Order, Item int64
	Was, Now          []PromisePart
	Cause             string
}

func promisedUnits(ps []PromisePart) (n int64) {
	for _, p := range ps {
		n += p.Qty
	}
	return n
}

// intoPromises appends entries of promises.
var intoPromises = newInsertion("promise_entry",
	column{name: "line_id", told: "bigint"},
	column{name: "order_id", told: "bigint"},
	column{name: "item_id", told: "bigint"},
	column{"was", "text", "%s::jsonb"},
	column{"now", "text", "%s::jsonb"},
	column{name: "was_units", told: "bigint"},
	column{name: "now_units", told: "bigint"},
	column{name: "cause", told: "text"},
)

// writePromises is the statement that appends entries, and what it is told; it is empty if there is nothing to write.
func writePromises(command int64, entries []PromiseEntry, which func(was, now int64) bool) (query string, args []any, err error) {
	var line, order, item, wasUnits, nowUnits []int64
	var was, now, cause []string
	for _, e := range entries {
		before, after := promisedUnits(e.Was), promisedUnits(e.Now)
		if !which(before, after) {
			continue
		}
		for _, x := range []struct {
			to    *[]string
			parts []PromisePart
		}{{&was, e.Was}, {&now, e.Now}} {
			text, err := json.Marshal(nonNil(x.parts))
			if err != nil {
				return "", nil, err
			}
			*x.to = append(*x.to, string(text))
		}
		line, order, item = append(line, e.Line), append(order, e.Order), append(item, e.Item)
		wasUnits, nowUnits, cause = append(wasUnits, before), append(nowUnits, after), append(cause, e.Cause)
	}
	if len(line) == 0 {
		return "", nil, nil
	}
	query, args = intoPromises.of(len(line), command, line, order, item, was, now, wasUnits, nowUnits, cause)
	return query, args, nil
}

func nonNil(ps []PromisePart) []PromisePart {
	if ps == nil {
		return []PromisePart{}
	}
	return ps
}

// PromisesOfLines returns the promises that stand on the lines, by day.
func (r *Reader) PromisesOfLines(lines IDs) ([]PromiseRow, error) {
	return all[PromiseRow](r, `SELECT line_id, order_id, item_id, warehouse_id, day::text AS day, qty FROM promise
		WHERE line_id = ANY(?) ORDER BY line_id, day, warehouse_id`, lines)
}

// ItemsPromisedWith returns the item and all others that are promised together with it, to orders that go only whole.
func (r *Reader) ItemsPromisedWith(item int64) (IDs, error) {
	return all[int64](r, `
		SELECT ?::bigint UNION
		SELECT p.item_id FROM promise q JOIN sales_order o ON o.id = q.order_id AND o.ship_rule = 'whole'
		JOIN order_line l ON l.order_id = o.id JOIN promise p ON p.line_id = l.id WHERE q.item_id = ?`, item, item)
}

// PromiseHead is a promise with whose it is.
type PromiseHead struct {
	PromiseRow
	Warehouse    string
	OrderNumber  string
	LineNo       int
	CustomerName string
	Tier         int
}

// PromisesOfItems returns the promises that stand on the items, by item, day and order.
func (r *Reader) PromisesOfItems(items IDs) ([]PromiseHead, error) {
	// Each promise looks its order up by key. A plan that is kept for any number of items would
	// read all orders and lines instead, which takes ten times as long.
	return all[PromiseHead](r, `SELECT p.line_id, p.order_id, p.item_id, p.warehouse_id, p.day::text AS day, p.qty, w.code AS warehouse,
			x.number AS order_number, x.line_no, x.name AS customer_name, x.tier
		FROM promise p JOIN warehouse w ON w.id = p.warehouse_id CROSS JOIN LATERAL (
			SELECT o.number, o.tier, l.line_no, c.name FROM order_line l JOIN sales_order o ON o.id = l.order_id
				JOIN customer c ON c.id = o.customer_id
			WHERE l.id = p.line_id LIMIT 1) x
		WHERE p.item_id = ANY(?) ORDER BY p.item_id, p.day, x.number, x.line_no`, items)
}

// PromisesStanding returns the same without whose they are.
func (r *Reader) PromisesStanding(items IDs) ([]PromiseHead, error) {
	return all[PromiseHead](r, `SELECT line_id, order_id, item_id, warehouse_id, day::text AS day, qty FROM promise
		WHERE item_id = ANY(?) ORDER BY item_id, day, line_id`, items)
}

// Supply is an expected receipt that has not all come.
type Supply struct {
	ID          int64
	ItemID      int64
	WarehouseID int64
	Warehouse   string
	Ref         string
	Due         string
	Qty         int64 // still to come
}

// SupplyOf returns what is still to come of the items, by item and day.
func (r *Reader) SupplyOf(items IDs) ([]Supply, error) {
	return all[Supply](r, `SELECT n.id, n.item_id, n.warehouse_id, w.code AS warehouse, n.ref, n.due::text AS due, n.qty - n.received AS qty
		FROM inbound n JOIN warehouse w ON w.id = n.warehouse_id
		WHERE n.item_id = ANY(?) AND n.received < n.qty ORDER BY n.item_id, n.due, n.ref`, items)
}

// ItemsByID returns the items of those keys.
func (r *Reader) ItemsByID(ids IDs) ([]Item, error) {
	return all[Item](r, `SELECT * FROM item WHERE id = ANY(?) ORDER BY id`, ids)
}

// FreeCell is what is free of an item at a warehouse.
type FreeCell struct {
	ItemID      int64
	WarehouseID int64
	Warehouse   string
	Name        string
	OnHand      int64
	Held        int64
	Free        int64
}

// StockOf returns the stock of the items, by item and warehouse.
func (r *Reader) StockOf(items IDs) ([]FreeCell, error) {
	return all[FreeCell](r, `SELECT c.item_id, c.warehouse_id, w.code AS warehouse, w.name, c.on_hand, c.held, c.free
		FROM stock_cell c JOIN warehouse w ON w.id = c.warehouse_id WHERE c.item_id = ANY(?) ORDER BY c.item_id, w.id`, items)
}

// PromiseChange is an entry of promises as it was written.
type PromiseChange struct {
	ID      int64
	LineID  int64
	OrderID int64
	ItemID  int64
	Was     string
	Now     string
	Cause   string
	Newest  bool // nothing was promised or taken on the line since
}

// PromisesByCommand returns what a command did to promises.
func (r *Reader) PromisesByCommand(command int64) ([]PromiseChange, error) {
	return all[PromiseChange](r, `SELECT e.id, e.line_id, e.order_id, e.item_id, e.was::text AS was, e.now::text AS now, e.cause,
			NOT EXISTS (SELECT 1 FROM promise_entry x WHERE x.line_id = e.line_id AND x.id > e.id) AS newest
		FROM promise_entry e WHERE e.command_id = ? ORDER BY e.line_id`, command)
}

// PromiseEvent is a change of promises for the trail.
type PromiseEvent struct {
	Command int64
	Verb    string
	Who     string
	At      time.Time
	Reason  string
	LineNo  int
	SKU     string `gorm:"column:sku"`
	Was     string
	Now     string
	Cause   string
	Undone  bool
}

// PromiseTrail returns every change of the promises of an order, oldest first.
func (r *Reader) PromiseTrail(order int64) ([]PromiseEvent, error) {
	return all[PromiseEvent](r, `SELECT c.id AS command, c.verb, u.name AS who, c.at, c.reason, l.line_no, i.sku, e.was::text AS was,
		e.now::text AS now, e.cause,
			EXISTS (SELECT 1 FROM command x WHERE x.undoes = c.id) AS undone
		FROM promise_entry e JOIN command c ON c.id = e.command_id JOIN app_user u ON u.id = c.actor_id
			JOIN order_line l ON l.id = e.line_id JOIN item i ON i.id = e.item_id
		WHERE e.line_id = ANY(ARRAY(SELECT id FROM order_line WHERE order_id = ?)) ORDER BY e.id`, order)
}

// OpenLinesOfItem returns the lines of an item with open units: those of the customer
// first, then by day, at most as many.
func (r *Reader) OpenLinesOfItem(item int64, customer string, most int) ([]LineRow, error) {
	return all[LineRow](r, lineRow+` WHERE l.id = ANY(ARRAY(
			SELECT l.id FROM order_line l JOIN line_count n ON n.line_id = l.id JOIN sales_order o ON o.id = l.order_id
				JOIN customer c ON c.id = o.customer_id
			WHERE l.item_id = @item AND n.open > 0 AND `+live+` ORDER BY (c.code = @customer) DESC, l.ship_by, o.tier, o.number, l.line_no
				LIMIT @most))
		ORDER BY (c.code = @customer) DESC, l.ship_by, o.tier, o.number, l.line_no`,
		map[string]any{"item": item, "customer": customer, "most": most})
}

// PromiseLine is a promise with its line.
type PromiseLine struct {
	PromiseHead
	ID       int64
	SKU      string `gorm:"column:sku"`
	ItemName string
	ShipBy   string
	LateDays int

	PriceMinor   int64
	Currency     string
	CustomerCode string
	Open         int64 // of the line
}

const (
	promiseFrom = ` FROM promise p JOIN order_line l ON l.id = p.line_id JOIN sales_order o ON o.id = p.order_id
		JOIN customer c ON c.id = o.customer_id JOIN item i ON i.id = p.item_id JOIN warehouse w ON w.id = p.warehouse_id`
	promiseLine = `SELECT p.id, p.line_id, p.order_id, p.item_id, p.warehouse_id, p.day::text AS day, p.qty, w.code AS warehouse,
		o.number AS order_number, l.line_no, c.name AS customer_name, o.tier, i.sku, i.name AS item_name, l.ship_by::text AS ship_by,
		greatest(p.day - l.ship_by, 0) AS late_days, l.price_minor, o.currency, c.code AS customer_code,
		(SELECT n.open FROM line_count n WHERE n.line_id = p.line_id) AS open` + promiseFrom
)

// Promises is the list of the promises that stand, the earliest day first.
var Promises = &List{
	Name: "promises", First: "day", tie: part{"p.id", Number}, key: "p.id",
	Columns: []Column{
		{Name: "day", Title: "Leaves", Kind: Day, By: "p.day", Then: []part{{"n.tier", Number}}, Group: true},
		{Name: "tier", Title: "Tier", Kind: Number, By: "n.tier", Then: []part{{"p.day", Day}}, Group: true},
		{Name: "order", Title: "Order", Kind: Text, By: "oc.number", Group: true},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "oc.customer_id", Group: true},
		{Name: "item", Title: "Item", Kind: Text, By: "i.sku", Names: itemsNamed, Key: "p.item_id", Group: true},
		{Name: "qty", Title: "Promised", Kind: Number, By: "p.qty", Sum: "p.qty"},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "p.warehouse_id", Group: true},
		{Name: "ship_by", Title: "Ship by", Kind: Day, By: "n.ship_by", Group: true},
		{Name: "late", Title: "Days late", Kind: Number, By: "greatest(p.day - n.ship_by, 0)", Group: true},
	},
	begin: func(r *Reader, ask ListAsk, _ bool) (*rows, error) {
		conds, args, err := r.lineWords("p", ask.Words)
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return "promise p" + joins(
				shows,
				join{"n", "line_count n ON n.line_id = p.line_id"},
				join{"oc", "order_count oc ON oc.order_id = p.order_id"},
				join{"c", "customer c ON c.id = oc.customer_id"},
				join{"i", "item i ON i.id = p.item_id"},
				join{"w", "warehouse w ON w.id = p.warehouse_id"},
			)
		}}, err
	},
}

// PromisesByKey returns the promises of those keys with their lines, in their order.
func (r *Reader) PromisesByKey(keys IDs) ([]PromiseLine, error) {
	rows, err := all[PromiseLine](r, promiseLine+` WHERE p.id = ANY(?)`, keys)
	return inKeyOrder(keys, rows, func(p PromiseLine) int64 { return p.ID }), err
}

// LinesWithoutPromise is how many lines have open units of which none is promised.
func (r *Reader) LinesWithoutPromise() (int64, error) {
	row, _, err := one[struct{ N int64 }](r, `SELECT count(*) AS n FROM line_count n WHERE open > 0 AND promised = 0 AND `+live)
	return row.N, err
}

// MoveDue gives a receipt another day and notes it for the command.
func (t *Tx) MoveDue(inbound, command int64, was, now string) error {
	if _, err := t.exec(`UPDATE inbound SET due = $2::date WHERE id = $1`, inbound, now); err != nil {
		return err
	}
	_, err := t.exec(
		`INSERT INTO due_change (command_id, inbound_id, was, now) VALUES ($1, $2, $3::date, $4::date)`, command, inbound, was, now,
	)
	return err
}

// DueChange is a receipt that was given another day.
type DueChange struct {
	At     time.Time
	Who    string
	Reason string
	Was    string
	Now    string
}

// DueChanges returns how the day of a receipt was changed, oldest first.
func (r *Reader) DueChanges(inbound int64) ([]DueChange, error) {
	return all[DueChange](r, `SELECT c.at, u.name AS who, c.reason, d.was::text AS was, d.now::text AS now
		FROM due_change d JOIN command c ON c.id = d.command_id JOIN app_user u ON u.id = c.actor_id WHERE d.inbound_id = ?
			ORDER BY d.id`, inbound)
}

// PromiseLineHead is what a line's promises depend on.
type PromiseLineHead struct {
	ID          int64
	OrderID     int64
	WarehouseID int64
	ShipBy      string
	ShipRule    string
}

// PromiseLines returns the lines of those keys.
func (r *Reader) PromiseLines(lines IDs) ([]PromiseLineHead, error) {
	return all[PromiseLineHead](r, `SELECT l.id, l.order_id, l.warehouse_id, l.ship_by::text AS ship_by, o.ship_rule
		FROM order_line l JOIN sales_order o ON o.id = l.order_id WHERE l.id = ANY(?) ORDER BY l.id`, lines)
}
