package store

import "fmt"

// ReleaseFact is what is asked about a line that goes to the floor, besides its counts. Weight and volume are of one unit.
type ReleaseFact struct {
	Line      int64
	OrderID   int64
	Order     string
	LineNo    int
	ItemID    int64
	SKU       string `gorm:"column:sku"`
	ShipBy    string
	Tier      int
	Service   string
	WeightG   int64
	VolumeMM3 int64 `gorm:"column:volume_mm3"` // 0 if nobody has said how large it is
}

// ReleaseFacts returns that of the lines.
func (r *Reader) ReleaseFacts(lines IDs) ([]ReleaseFact, error) {
	return all[ReleaseFact](r, `
		SELECT l.id AS line, l.order_id, o.number AS "order", l.line_no, l.item_id, i.sku, l.ship_by::text AS ship_by, o.tier, o.service,
			i.weight_g, i.length_mm::bigint * i.width_mm * i.height_mm AS volume_mm3
		FROM order_line l JOIN sales_order o ON o.id = l.order_id JOIN item i ON i.id = l.item_id
		WHERE l.id IN (SELECT unnest(?::bigint[]))`, lines)
}

// LinePlace is how many units of a line are allocated in a warehouse.
type LinePlace struct {
	LineID, WarehouseID, Allocated int64
}

// AllocatedOf returns where units of the lines are allocated, those of a line at its own warehouse first.
func (r *Reader) AllocatedOf(lines IDs) ([]LinePlace, error) {
	return all[LinePlace](r, `
		SELECT p.line_id, p.warehouse_id, p.allocated FROM line_at p JOIN order_line l ON l.id = p.line_id
		WHERE p.line_id IN (SELECT unnest(?::bigint[])) AND p.allocated > 0
		ORDER BY p.line_id, p.warehouse_id <> l.warehouse_id, p.warehouse_id`, lines)
}

// BinPlace is a bin of a warehouse.
type BinPlace struct {
	WarehouseID int64
	Bin, Zone   string
}

// BinsAt returns the bins of warehouses that are set.
func (r *Reader) BinsAt(warehouses IDs) ([]BinPlace, error) {
	return all[BinPlace](
		r, `SELECT warehouse_id, code AS bin, zone FROM bin WHERE warehouse_id = ANY(?) AND code <> '' ORDER BY id`, warehouses,
	)
}

// OrderLeft is how much of an order is open, and allocated.
type OrderLeft struct{ OrderID, Open, Allocated int64 }

// OpenOfOrders returns that of orders, by order.
func (r *Reader) OpenOfOrders(orders IDs) (map[int64]OrderLeft, error) {
	rows, err := all[OrderLeft](
		r, `SELECT order_id, open, allocated FROM order_count WHERE order_id IN (SELECT unnest(?::bigint[]))`, orders,
	)
	out := make(map[int64]OrderLeft, len(rows))
	for _, x := range rows {
		out[x.OrderID] = x
	}
	return out, err
}

// ItemAt is an item in a warehouse.
type ItemAt struct{ ItemID, WarehouseID int64 }

// MostWanting is up to how many lines that lack some of an item are counted.
const MostWanting = 99

// Wanting says how many lines have open units of the items of lines at their warehouses, each up to one more than MostWanting.
func (r *Reader) Wanting(lines []LineRow) (map[ItemAt]int64, error) {
	items, houses := IDs{}, IDs{}
	out := map[ItemAt]int64{}
	for _, l := range lines {
		if at := (ItemAt{l.ItemID, l.WarehouseID}); out[at] == 0 {
			items, houses, out[at] = append(items, l.ItemID), append(houses, l.WarehouseID), 1
		}
	}
	rows, err := all[struct {
		ItemAt `gorm:"embedded"`
		N      int64
	}](r, fmt.Sprintf(`SELECT x.item_id, x.warehouse_id, (SELECT count(*) FROM (SELECT 1 FROM line_count n
			WHERE n.item_id = x.item_id AND n.warehouse_id = x.warehouse_id AND n.open > 0 AND %s LIMIT %d) y) AS n
		FROM unnest(?::bigint[], ?::bigint[]) AS x (item_id, warehouse_id)`, live, MostWanting+1), items, houses)
	for _, x := range rows {
		out[x.ItemAt] = x.N
	}
	return out, err
}

// CreateMany inserts records, some thousands at a time.
func CreateMany[T any](t *Tx, records []T) error {
	if len(records) == 0 {
		return nil
	}
	return t.g.CreateInBatches(&records, 2000).Error
}
