package store

// LockedLine is a line and what a command must know of it, its counts held still.
type LockedLine struct {
	ID          int64
	OrderID     int64
	OrderNumber string
	LineNo      int
	ItemID      int64
	SKU         string `gorm:"column:sku"`
	ItemName    string
	Unit        string
	Multiple    int64
	WeightG     int64
	WarehouseID int64
	Warehouse   string
	ShipBy      string
	ShipRule    string
	CustomerID  int64
	ShipToID    int64
	Service     string
	Terms       string
	Version     int64
	StationCounts
}

// LockedCell is a stock row held still.
type LockedCell struct {
	ItemID      int64
	WarehouseID int64
	Warehouse   string
	OnHand      int64
	Held        int64
	HouseCounts
}

// LockedPlace is where units of a locked line stand.
type LockedPlace struct {
	LineID      int64
	WarehouseID int64
	HouseCounts
}

// LockItems holds all stock rows of the items, in the one order everybody uses:
// item, then warehouse. Lines are locked after their items, never before.
func (t *Tx) LockItems(items IDs) ([]LockedCell, error) {
	return all[LockedCell](&t.Reader, `
		SELECT c.*, w.code AS warehouse FROM stock_cell c JOIN warehouse w ON w.id = c.warehouse_id
		WHERE c.item_id = ANY(?) ORDER BY c.item_id, c.warehouse_id FOR NO KEY UPDATE OF c`, items)
}

// LockLines holds the lines in the order of their keys.
func (t *Tx) LockLines(lines IDs) ([]LockedLine, error) {
	return all[LockedLine](&t.Reader, `
		SELECT c.*, l.id, l.order_id, o.number AS order_number, l.line_no, l.item_id, i.sku, i.name AS item_name, i.unit, i.multiple,
			i.weight_g, l.warehouse_id, w.code AS warehouse, l.ship_by::text AS ship_by, o.ship_rule, o.customer_id, o.ship_to_id, o.service, o.terms
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = l.warehouse_id
		WHERE c.line_id = ANY(?) ORDER BY c.line_id FOR NO KEY UPDATE OF c`, lines)
}

// PlacesOf returns where the units of the lines stand. Call it after LockLines.
func (t *Tx) PlacesOf(lines IDs) ([]LockedPlace, error) {
	return all[LockedPlace](&t.Reader, `SELECT * FROM line_at WHERE line_id = ANY(?) ORDER BY line_id, warehouse_id`, lines)
}

// ItemsOfLines returns the items of the lines, each once. It also tells which lines exist.
func (r *Reader) ItemsOfLines(lines IDs) (items IDs, known map[int64]bool, err error) {
	rows, err := all[struct{ ID, ItemID int64 }](r, `SELECT id, item_id FROM order_line WHERE id = ANY(?) ORDER BY item_id`, lines)
	if err != nil {
		return nil, nil, err
	}
	known = make(map[int64]bool, len(rows))
	for _, x := range rows {
		known[x.ID] = true
		if len(items) == 0 || items[len(items)-1] != x.ItemID {
			items = append(items, x.ItemID)
		}
	}
	return items, known, nil
}

// OrderRef is an order and its lines, by number.
type OrderRef struct {
	ID      int64
	Number  string
	Version int64
}

// OrdersByNumber returns the orders of those numbers that exist.
func (r *Reader) OrdersByNumber(numbers Texts) ([]OrderRef, error) {
	return all[OrderRef](r, `SELECT o.id, o.number, c.version FROM sales_order o JOIN order_count c ON c.order_id = o.id
		WHERE o.number = ANY(?) ORDER BY o.id`, numbers)
}

// LineIDsOfOrders returns the lines of the orders, by order and line number.
func (r *Reader) LineIDsOfOrders(orders IDs) ([]struct{ ID, OrderID int64 }, error) {
	return all[struct{ ID, OrderID int64 }](r, `SELECT id, order_id FROM order_line WHERE order_id = ANY(?) ORDER BY order_id, line_no`, orders)
}

// BinRoom is a bin in which an item lies, and how much of it is not yet on a pick list.
type BinRoom struct {
	ItemID      int64
	WarehouseID int64
	BinID       int64
	Bin         string
	Zone        string
	Qty         int64
	Held        int64
	Due         int64
}

// BinsOf returns the bins of the items, those with the least stock first. Call it after LockItems.
func (r *Reader) BinsOf(items IDs) ([]BinRoom, error) {
	return all[BinRoom](r, `
		SELECT s.item_id, s.warehouse_id, s.bin_id, b.code AS bin, b.zone, s.qty, s.held,
			coalesce((SELECT sum(t.due) FROM pick_task t JOIN order_line l ON l.id = t.line_id
				WHERE t.bin_id = s.bin_id AND l.item_id = s.item_id AND t.qty - t.picked - t.short - t.recalled > 0), 0) AS due
		FROM bin_stock s JOIN bin b ON b.id = s.bin_id
		WHERE s.item_id = ANY(?) ORDER BY s.item_id, s.warehouse_id, s.qty, b.code`, items)
}

// EnsureBin returns the bin of that code, made if it is new. The empty code is "no bin set".
func (t *Tx) EnsureBin(warehouse int64, code, zone string) (int64, error) {
	row, found, err := one[struct{ ID int64 }](&t.Reader, `SELECT id FROM bin WHERE warehouse_id = ? AND code = ?`, warehouse, code)
	if err != nil || found {
		return row.ID, err
	}
	row, _, err = one[struct{ ID int64 }](&t.Reader, `INSERT INTO bin (warehouse_id, code, zone) VALUES (?, ?, ?)
		ON CONFLICT (warehouse_id, code) DO UPDATE SET code = excluded.code RETURNING id`, warehouse, code, zone)
	return row.ID, err
}

// StandingHolds returns the holds that stand on the orders. Call it after LockLines.
func (r *Reader) StandingHolds(orders IDs) ([]Hold, error) {
	return all[Hold](r, `SELECT * FROM hold WHERE order_id = ANY(?) AND lifted_by IS NULL ORDER BY order_id, kind`, orders)
}
