package store

import (
	"context"
	"maps"
	"slices"

	"github.com/jackc/pgx/v5"

	"journeyman/core/days"
)

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

// Locked is what a command holds still.
type Locked struct {
	Cells  []LockedCell
	Lines  []LockedLine
	Places []LockedPlace
}

// Lock holds all stock rows of the items and of the lines' items, and then the lines, in
// the one order everybody uses: item, warehouse, line. Lines that do not exist are missing.
func (t *Tx) Lock(lines, items []int64) (Locked, error) {
	var out Locked
	err := t.tx.Send(func(b *pgx.Batch) {
		// One line is what people mostly ask for: found by its key, it needs no sorting.
		if len(lines) == 1 && len(items) == 0 {
			b.Queue(cellsOf+`c.item_id = (SELECT item_id FROM order_line WHERE id = $1)`+cellsHeld, lines[0]).Query(into(&out.Cells))
			b.Queue(linesOf+`c.line_id = $1`+linesHeld, lines[0]).Query(into(&out.Lines))
			b.Queue(placesOf+`line_id = $1 ORDER BY warehouse_id`, lines[0]).Query(into(&out.Places))
			return
		}
		b.Queue(cellsOf+`c.item_id = ANY(ARRAY(SELECT item_id FROM order_line
			WHERE id = ANY($1::bigint[]) UNION SELECT unnest($2::bigint[])))`+
			cellsHeld, lines, items).Query(into(&out.Cells))
		if len(lines) > 0 {
			b.Queue(linesOf+`c.line_id = ANY($1::bigint[]) ORDER BY c.line_id`+linesHeld, lines).Query(into(&out.Lines))
			// Joined, not compared with the whole list: that would be done for each row of a table that has just been filled.
			b.Queue(placesOf+`line_id IN (SELECT unnest($1::bigint[])) ORDER BY line_id, warehouse_id`, lines).Query(into(&out.Places))
		}
	})
	return out, err
}

// LockCounts is Lock for thousands of lines: of each it tells only its key, version and counts. What
// else a command must know of them is told by the book, or by Lines.
func (t *Tx) LockCounts(lines []int64) (Locked, error) {
	out := Locked{Lines: make([]LockedLine, 0, len(lines))}
	err := t.tx.Send(func(b *pgx.Batch) {
		b.Queue(
			cellsOf+`c.item_id IN (SELECT item_id FROM order_line WHERE id IN (SELECT unnest($1::bigint[])))`+cellsHeld, lines,
		).Query(into(&out.Cells))
		b.Queue(`SELECT line_id AS id, version, ordered, open, allocated, released, picked, packed, shipped, delivered, dropped, promised
			FROM line_count WHERE line_id = ANY($1::bigint[]) ORDER BY line_id FOR NO KEY UPDATE`, lines).Query(into(&out.Lines))
		b.Queue(placesOf+`line_id IN (SELECT unnest($1::bigint[])) ORDER BY line_id, warehouse_id`, lines).Query(into(&out.Places))
	})
	return out, err
}

// LockNamed is LockCounts with the keys, numbers and warehouse of each line, and nothing else about it.
func (t *Tx) LockNamed(lines []int64) (Locked, error) {
	out, err := t.LockCounts(lines)
	if err != nil {
		return out, err
	}
	at := make(map[int64]*LockedLine, len(out.Lines))
	for i := range out.Lines {
		at[out.Lines[i].ID] = &out.Lines[i]
	}
	orders, items := map[int64]string{}, map[int64]string{}
	err = t.tx.Raw(func(conn *pgx.Conn) error {
		rows, err := conn.Query(
			t.tx.Context(), `SELECT id, order_id, line_no, item_id, warehouse_id FROM order_line WHERE id IN (SELECT unnest($1::bigint[]))`, lines,
		)
		if err != nil {
			return err
		}
		defer rows.Close()
		for rows.Next() {
			var x LockedLine
			if err := rows.Scan(&x.ID, &x.OrderID, &x.LineNo, &x.ItemID, &x.WarehouseID); err != nil {
				return err
			}
			if l := at[x.ID]; l != nil {
				l.OrderID, l.LineNo, l.ItemID, l.WarehouseID = x.OrderID, x.LineNo, x.ItemID, x.WarehouseID
				orders[x.OrderID], items[x.ItemID] = "", ""
			}
		}
		if err := rows.Err(); err != nil {
			return err
		}
		if err := fillNames(
			t.tx.Context(), conn, `SELECT id, number FROM sales_order WHERE id IN (SELECT unnest($1::bigint[]))`, orders,
		); err != nil {
			return err
		}
		return fillNames(t.tx.Context(), conn, `SELECT id, sku FROM item WHERE id IN (SELECT unnest($1::bigint[]))`, items)
	})
	for i := range out.Lines {
		l := &out.Lines[i]
		l.OrderNumber, l.SKU = orders[l.OrderID], items[l.ItemID]
	}
	return out, err
}

// fillNames asks for the names of keys.
func fillNames(ctx context.Context, q asker, query string, names map[int64]string) error {
	type named struct {
		id   int64
		name string
	}
	rows, err := rowsOf(ctx, q, query, []any{slices.Collect(maps.Keys(names))}, func(rows pgx.Rows) (x named, err error) {
		return x, rows.Scan(&x.id, &x.name)
	})
	for _, x := range rows {
		names[x.id] = x.name
	}
	return err
}

// Lines returns lines as they are; call it on those that are held.
func (t *Tx) Lines(ids []int64) ([]LockedLine, error) {
	var out []LockedLine
	err := t.tx.Send(func(b *pgx.Batch) {
		b.Queue(linesOf+`c.line_id = ANY($1::bigint[]) ORDER BY c.line_id`, ids).Query(into(&out))
	})
	return out, err
}

const (
	cellsOf = `
		SELECT c.item_id, c.warehouse_id, (SELECT code FROM warehouse w WHERE w.id = c.warehouse_id) AS warehouse,
			c.on_hand, c.held, c.allocated, c.released, c.picked, c.packed
		FROM stock_cell c WHERE `
	cellsHeld = ` ORDER BY c.item_id, c.warehouse_id FOR NO KEY UPDATE`
	linesOf   = `
		SELECT c.ordered, c.open, c.allocated, c.released, c.picked, c.packed, c.shipped, c.delivered, c.dropped, c.promised, c.version,
			l.id, l.order_id, o.number AS order_number, l.line_no, l.item_id, i.sku, i.name AS item_name, i.unit, i.multiple,
			i.weight_g, l.warehouse_id, w.code AS warehouse, l.ship_by::text AS ship_by, o.ship_rule, o.customer_id, o.ship_to_id,
			o.service, o.terms
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = l.warehouse_id
		WHERE `
	linesHeld = ` FOR NO KEY UPDATE OF c`
	placesOf  = `SELECT line_id, warehouse_id, allocated, released, picked, packed FROM line_at WHERE `
)

// into collects the rows of a query in a batch.
func into[T any](to *[]T) func(pgx.Rows) error {
	return func(rows pgx.Rows) error {
		got, err := pgx.AppendRows((*to)[:0], rows, pgx.RowToStructByNameLax[T])
		*to = got
		return err
	}
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
	return all[struct{ ID, OrderID int64 }](
		r, `SELECT id, order_id FROM order_line WHERE order_id = ANY(?) ORDER BY order_id, line_no`, orders,
	)
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

// BinsOf returns the bins of the items, those with the least stock first, without the places where units wait to be put back. Call it after
// Lock.
func (r *Reader) BinsOf(items IDs) ([]BinRoom, error) {
	return all[BinRoom](r, `
		SELECT s.item_id, s.warehouse_id, s.bin_id, b.code AS bin, b.zone, s.qty, s.held,
			coalesce((SELECT sum(t.due) FROM pick_task t JOIN order_line l ON l.id = t.line_id
				WHERE t.bin_id = s.bin_id AND l.item_id = s.item_id AND t.qty - t.picked - t.short - t.recalled > 0), 0) AS due
		FROM bin_stock s JOIN bin b ON b.id = s.bin_id
		WHERE s.item_id = ANY(?) AND NOT b.put_back ORDER BY s.item_id, s.warehouse_id, s.qty, b.code`, items)
}

// EnsureBin returns the bin of that code, made if it is new. The empty code is "no bin set".
func (t *Tx) EnsureBin(warehouse int64, code, zone string) (int64, error) {
	row, found, err := one[struct{ ID int64 }](&t.Reader, `SELECT id FROM bin WHERE warehouse_id = ? AND code = ?`, warehouse, code)
	if err != nil || found {
		return row.ID, err
	}
	row, _, err = one[struct{ ID int64 }](&t.Reader, `INSERT INTO bin (warehouse_id, code, zone) VALUES (?, ?, ?)
		ON CONFLICT (warehouse_id, code) DO UPDATE SET zone = bin.zone RETURNING id`, warehouse, code, zone)
	return row.ID, err
}

// NotBefore returns of the orders that must not leave before some day which one it is, by key. Call it after Lock.
func (r *Reader) NotBefore(orders IDs) (map[int64]days.Day, error) {
	rows, err := all[struct {
		ID        int64
		NotBefore Date
	}](r, `SELECT id, not_before FROM sales_order WHERE id = ANY(?) AND not_before IS NOT NULL`, orders)
	out := make(map[int64]days.Day, len(rows))
	for _, x := range rows {
		day, err := days.Parse(string(x.NotBefore))
		if err != nil {
			return nil, err
		}
		out[x.ID] = day
	}
	return out, err
}

// StandingHolds returns the holds that stand on the orders. Call it after Lock.
func (r *Reader) StandingHolds(orders IDs) ([]Hold, error) {
	return all[Hold](r, `SELECT h.*, coalesce(c.kind, h.kind) AS rank FROM hold h LEFT JOIN customer_hold c ON c.id = h.customer_hold_id
		WHERE h.order_id = ANY(?) AND h.lifted_by IS NULL ORDER BY h.order_id, h.kind`, orders)
}

// HoldItems holds the items themselves, for those that have no stock row that could be held.
// Call it after Lock.
func (t *Tx) HoldItems(items IDs) error {
	_, err := all[struct{ ID int64 }](&t.Reader, `SELECT id FROM item WHERE id = ANY(?) ORDER BY id FOR NO KEY UPDATE`, items)
	return err
}
