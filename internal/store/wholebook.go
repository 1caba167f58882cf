package store

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
)

// BookItem is what a plan has to know of an item.
type BookItem struct {
	ID       int64
	SKU      string
	Multiple int64
	LeadDays int
	Buyable  bool
}

// BookCell is what is free of an item at a warehouse.
type BookCell struct{ Item, Warehouse, Free int64 }

// BookReceipt is what is still to come of an item to a warehouse on a day, counted from 1970-01-01.
type BookReceipt struct {
	Item, Warehouse int64
	Due             int32
	Qty             int64
}

// BookOrder is what the lines of an order share.
type BookOrder struct {
	ID           int64
	Number       string
	Customer     int64
	OneWarehouse bool
	Channel      string
	Tier         uint8
	Urgency      uint8
	Entered      int64 // microseconds from 1970-01-01
	Rule         string
	Currency     string
	Held         bool
}

// BookLine is a line with units that are open or allocated.
type BookLine struct {
	*BookOrder                      // many lines have the same
	ID, Order, Item, Warehouse      int64
	No                              int32
	Ordered, Open, Allocated, Price int64
	ShipBy                          int32 // counted from 1970-01-01
	Version                         int64
}

// BookPromise is a promise that stands.
type BookPromise struct {
	Line, Item, Warehouse int64
	Day                   int32
	Qty                   int64
}

// Book is everything a plan is computed from.
type Book struct {
	Items    []BookItem
	Cells    []BookCell
	Receipts []BookReceipt
	Lines    []BookLine
	Promises []BookPromise
	Journal  int64 // the last entry that it knows
}

// ReadBook reads the whole book as it stands at one moment.
func (s *Store) ReadBook(ctx context.Context) (Book, error) { return s.readBook(ctx, nil) }

// ReadBookOf reads what concerns the items; nothing if there are none.
func (s *Store) ReadBookOf(ctx context.Context, items IDs) (Book, error) {
	return s.readBook(ctx, &items)
}

func (s *Store) readBook(ctx context.Context, items *IDs) (Book, error) {
	tx, err := s.Pool.BeginTx(ctx, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly})
	if err != nil {
		return Book{}, err
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
	return readBook(ctx, tx, items)
}

// ReadBook reads the whole book as the transaction sees it. What it holds still does not change between
// the queries; the rest may.
func (t *Tx) ReadBook() (Book, error) { return t.readBook(nil) }

// ReadBookOf is the same for what concerns the items; nothing if there are none.
func (t *Tx) ReadBookOf(items IDs) (Book, error) { return t.readBook(&items) }

func (t *Tx) readBook(items *IDs) (b Book, err error) {
	err = t.tx.Raw(func(conn *pgx.Conn) (err error) {
		b, err = readBook(t.tx.Context(), conn, items)
		return err
	})
	return b, err
}

type asker interface {
	Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error)
}

// readBook reads what concerns the items, or all where none are named.
func readBook(ctx context.Context, q asker, items *IDs) (b Book, err error) {
	of := func(column string) string {
		if items == nil {
			return ""
		}
		return fmt.Sprintf(" AND %s = ANY($1::bigint[])", column)
	}
	var args []any
	if items != nil {
		args = []any{append([]int64{}, *items...)}
	}
	if b.Items, err = rowsOf(ctx, q, `SELECT id, sku, multiple, lead_days, buyable FROM item WHERE true`+of(
		"id",
	), args, func(rows pgx.Rows) (x BookItem, err error) {
		return x, rows.Scan(&x.ID, &x.SKU, &x.Multiple, &x.LeadDays, &x.Buyable)
	}); err != nil {
		return b, err
	}
	if b.Cells, err = rowsOf(ctx, q, `SELECT item_id, warehouse_id, free FROM stock_cell WHERE true`+of(
		"item_id",
	)+` ORDER BY item_id, warehouse_id`, args, func(rows pgx.Rows) (x BookCell, err error) {
		return x, rows.Scan(&x.Item, &x.Warehouse, &x.Free)
	}); err != nil {
		return b, err
	}
	if b.Receipts, err = rowsOf(ctx, q, `SELECT item_id, warehouse_id, due - DATE '1970-01-01', qty - received FROM inbound
		WHERE received < qty`+of("item_id")+` ORDER BY item_id, due, id`, args, func(rows pgx.Rows) (x BookReceipt, err error) {
		return x, rows.Scan(&x.Item, &x.Warehouse, &x.Due, &x.Qty)
	}); err != nil {
		return b, err
	}
	if b.Promises, err = rowsOf(ctx, q, `SELECT line_id, item_id, warehouse_id, day - DATE '1970-01-01', qty FROM promise WHERE true`+of(
		"item_id",
	)+` ORDER BY line_id, day, warehouse_id`, args, func(rows pgx.Rows) (x BookPromise, err error) {
		return x, rows.Scan(&x.Line, &x.Item, &x.Warehouse, &x.Day, &x.Qty)
	}); err != nil {
		return b, err
	}
	// The lines first, and what they share with the others of their order once for all of them.
	lines, err := rowsOf(ctx, q, `
		SELECT l.id, l.order_id, l.item_id, l.warehouse_id, l.line_no, n.ordered, n.open, n.allocated, l.price_minor,
			l.ship_by - DATE '1970-01-01', n.version
		FROM line_count n JOIN order_line l ON l.id = n.line_id WHERE n.open + n.allocated > 0 AND `+live+of("l.item_id"), args,
		func(rows pgx.Rows) (x BookLine, err error) {
			return x, rows.Scan(
				&x.ID, &x.Order, &x.Item, &x.Warehouse, &x.No, &x.Ordered, &x.Open, &x.Allocated, &x.Price, &x.ShipBy, &x.Version,
			)
		})
	if err != nil {
		return b, err
	}
	theirs, keys := `IN (SELECT order_id FROM order_count n WHERE `+live+`)`, []any(nil)
	if ids := ordersOf(lines); len(ids) < manyOrders {
		theirs, keys = `= ANY($1::bigint[])`, []any{ids}
	}
	orders, err := rowsOf(ctx, q, `
		SELECT o.id, o.number, o.customer_id, c.one_warehouse, o.channel, o.tier, o.urgency, (extract(epoch
			FROM o.entered_at) * 1000000)::bigint, o.ship_rule, o.currency,
			EXISTS (SELECT 1 FROM hold h WHERE h.order_id = o.id AND h.lifted_by IS NULL)
		FROM sales_order o JOIN customer c ON c.id = o.customer_id WHERE o.id `+theirs, keys, func(rows pgx.Rows) (x BookOrder, err error) {
		return x, rows.Scan(&x.ID, &x.Number, &x.Customer, &x.OneWarehouse, &x.Channel, &x.Tier, &x.Urgency, &x.Entered,
			&x.Rule, &x.Currency, &x.Held)
	})
	if err != nil {
		return b, err
	}
	b.Lines = inOrder(lines, orders)
	last, err := rowsOf(
		ctx, q, `SELECT coalesce(max(id), 0) FROM journal`, nil, func(rows pgx.Rows) (x int64, err error) { return x, rows.Scan(&x) },
	)
	if len(last) > 0 {
		b.Journal = last[0]
	}
	return b, err
}

func rowsOf[T any](ctx context.Context, q asker, query string, args []any, scan func(pgx.Rows) (T, error)) ([]T, error) {
	rows, err := q.Query(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []T
	for rows.Next() {
		x, err := scan(rows)
		if err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, rows.Err()
}

// manyOrders are so many that all that are not finished are read, in place of looking each up by its key.
const manyOrders = 2000

func ordersOf(lines []BookLine) []int64 {
	ids := make([]int64, len(lines))
	for i := range lines {
		ids[i] = lines[i].Order
	}
	slices.Sort(ids)
	return slices.Compact(ids)
}

// inOrder gives the lines their orders, and returns them by the number of these and their own. A line whose order
// has come to its end since the lines were read is left out.
func inOrder(lines []BookLine, orders []BookOrder) []BookLine {
	slices.SortFunc(orders, func(x, y BookOrder) int { return strings.Compare(x.Number, y.Number) })
	rank := make(map[int64]int, len(orders))
	for i := range orders {
		rank[orders[i].ID] = i
	}
	type place struct {
		order, no int32
		line      int
	}
	at := make([]place, 0, len(lines))
	for i := range lines {
		if r, known := rank[lines[i].Order]; known {
			lines[i].BookOrder = &orders[r]
			at = append(at, place{int32(r), lines[i].No, i})
		}
	}
	slices.SortFunc(at, func(x, y place) int { return cmp.Or(cmp.Compare(x.order, y.order), cmp.Compare(x.no, y.no)) })
	out := make([]BookLine, len(at))
	for i := range at {
		out[i] = lines[at[i].line]
	}
	return out
}
