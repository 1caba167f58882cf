package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Create inserts a record or a slice of records.
func (t *Tx) Create(record any) error { return t.g.Create(record).Error }

// WarehouseByCode returns the warehouse of that code.
func (r *Reader) WarehouseByCode(code string) (Warehouse, bool, error) {
	return first[Warehouse](r.g.Where("code = ?", code))
}

// Warehouses lists all warehouses by code.
func (r *Reader) Warehouses() ([]Warehouse, error) {
	return find[Warehouse](r.g.Order("id"))
}

// OrdersOfLines returns the numbers of the orders to which the lines belong.
func (r *Reader) OrdersOfLines(lines IDs) ([]string, error) {
	return all[string](
		r, `SELECT DISTINCT o.number FROM sales_order o JOIN order_line l ON l.order_id = o.id WHERE l.id = ANY(?) ORDER BY 1`, lines,
	)
}

// TaskRow is a row of a pick list with its list and bin.
type TaskRow struct {
	PickTask
	List        string
	WarehouseID int64
	Bin         string
	Barcode     string // of its item
}

// Tasks returns the rows of those keys, in the order of list and row.
func (r *Reader) Tasks(ids IDs) ([]TaskRow, error) {
	return all[TaskRow](r, `
		SELECT t.*, p.number AS list, p.warehouse_id, b.code AS bin, i.barcode
		FROM pick_task t JOIN pick_list p ON p.id = t.pick_list_id JOIN bin b ON b.id = t.bin_id JOIN order_line l ON l.id = t.line_id
			JOIN item i ON i.id = l.item_id
		WHERE t.id = ANY(?) ORDER BY t.pick_list_id, t.seq`, ids)
}

// TasksDueOf returns the keys of the rows of pick lists on which units of the lines are still to be picked.
func (r *Reader) TasksDueOf(lines IDs) (IDs, error) {
	return all[int64](r, `SELECT id FROM pick_task WHERE line_id = ANY(?) AND qty - picked - short - recalled > 0 ORDER BY id`, lines)
}

// stillGoes says that a shipment (s) is still being packed, and goes as an order (o) does now.
const stillGoes = `s.dispatched_at IS NULL AND s.asked_at IS NULL AND s.customer_id = o.customer_id AND s.ship_to_id = o.ship_to_id
	AND s.service = o.service AND s.terms = o.terms`

// OpenShipmentOf holds the order's shipment that is still being packed in the warehouse and goes as the order does now.
func (t *Tx) OpenShipmentOf(order, warehouse int64) (Shipment, bool, error) {
	return one[Shipment](&t.Reader, `
		SELECT s.* FROM shipment s JOIN sales_order o ON o.id = ? WHERE s.warehouse_id = ? AND `+stillGoes+` AND EXISTS (
			SELECT 1 FROM package p JOIN package_line c ON c.package_id = p.id JOIN order_line l ON l.id = c.line_id
			WHERE p.shipment_id = s.id AND l.order_id = o.id AND c.qty > 0)
		ORDER BY s.id LIMIT 1 FOR UPDATE OF s`, order, warehouse)
}

// ShipmentOfPackage returns the shipment to which the package belongs.
func (r *Reader) ShipmentOfPackage(number string) (Shipment, bool, error) {
	return one[Shipment](r, `SELECT s.* FROM shipment s JOIN package p ON p.shipment_id = s.id WHERE p.number = ?`, number)
}

// ShipmentByNumber returns the shipment of that number.
func (r *Reader) ShipmentByNumber(number string) (Shipment, bool, error) {
	return first[Shipment](r.g.Where("number = ?", number))
}

// LockShipments holds the shipments still. Call it after their lines are locked.
func (t *Tx) LockShipments(ids IDs) error {
	_, err := all[struct{ ID int64 }](&t.Reader, `SELECT id FROM shipment WHERE id = ANY(?) ORDER BY id FOR UPDATE`, ids)
	return err
}

// Shipments returns the shipments of those keys.
func (r *Reader) Shipments(ids IDs) ([]Shipment, error) {
	return find[Shipment](r.g.Where("id IN ?", []int64(ids)).Order("id"))
}

// ShipmentsAsked returns the shipments about which a carrier is being asked.
func (r *Reader) ShipmentsAsked() ([]Shipment, error) {
	return find[Shipment](r.g.Where("asked_at IS NOT NULL").Order("id"))
}

// ContentRow is so many units of a line in a package.
type ContentRow struct {
	ShipmentID int64
	PackageID  int64
	Package    string
	LineID     int64
	Qty        int64
}

// Contents returns what lies in the packages of the shipments.
func (r *Reader) Contents(shipments IDs) ([]ContentRow, error) {
	return all[ContentRow](r, `
		SELECT p.shipment_id, p.id AS package_id, p.number AS package, c.line_id, c.qty
		FROM package p JOIN package_line c ON c.package_id = p.id
		WHERE p.shipment_id = ANY(?) AND c.qty > 0 ORDER BY p.id, c.line_id`, shipments)
}

// MarkAsked notes on the shipment that the carrier is asked to take it.
func (t *Tx) MarkAsked(id, command int64, at time.Time) error {
	return t.note(id, map[string]any{
		"asked_by": command, "asked_at": at, "asking_at": nil, "asked_times": 0, "asked_note": "", "refused": "", "refused_at": nil,
	})
}

// BeginAsking notes that the carrier is being asked from now on, if that dispatch still waits for an answer, and says whether it does. It
// is what a recall that would stop the dispatch is told apart by: whichever comes first has the shipment.
func (t *Tx) BeginAsking(id, asked int64, at time.Time) (bool, error) {
	n, err := t.exec(`UPDATE shipment SET asking_at = coalesce(asking_at, $3) WHERE id = $1 AND asked_by = $2`, id, asked, at)
	return n == 1, err
}

// NoteTrouble notes why the carrier could not be asked, if that dispatch still waits for an answer.
func (t *Tx) NoteTrouble(id, asked int64, note string) error {
	return t.g.Model(&Shipment{ID: id}).Where("asked_by = ?", asked).Updates(map[string]any{
		"asked_times": gorm.Expr("asked_times + 1"), "asked_note": note, "version": gorm.Expr("version + 1"),
	}).Error
}

// MarkRefused notes on the shipment why the carrier did not take it, a sentence.
func (t *Tx) MarkRefused(id int64, sentence string, at time.Time) error {
	return t.note(id, map[string]any{"refused": sentence, "refused_at": at, "asked_by": nil, "asked_at": nil, "asking_at": nil})
}

// AddShipmentEvent keeps what the carrier says of a shipment; the same of the same time is kept once.
func (t *Tx) AddShipmentEvent(e ShipmentEvent) error {
	return t.g.Clauses(clause.OnConflict{DoNothing: true}).Create(&e).Error
}

// ShipmentEvents returns what the carrier said of a shipment, oldest first.
func (r *Reader) ShipmentEvents(shipment int64) ([]ShipmentEvent, error) {
	return find[ShipmentEvent](r.g.Where("shipment_id = ?", shipment).Order("at, id"))
}

// ShipmentEventKnown says whether that was said before.
func (r *Reader) ShipmentEventKnown(shipment int64, at time.Time, kind string) (bool, error) {
	_, found, err := one[struct{ ID int64 }](
		r, `SELECT id FROM shipment_event WHERE shipment_id = ? AND at = ? AND kind = ?`, shipment, at, kind,
	)
	return found, err
}

// HoldOnShipment says what holds an order in the shipment, if one is on hold.
func (r *Reader) HoldOnShipment(shipment int64) (string, error) {
	row, _, err := one[struct{ Note string }](r, `
		SELECT o.number || ', ' || h.kind || CASE WHEN h.note = '' THEN '' ELSE ': ' || h.note END AS note
		FROM hold h JOIN sales_order o ON o.id = h.order_id WHERE h.lifted_by IS NULL AND h.order_id IN (
			SELECT l.order_id FROM package p JOIN package_line y ON y.package_id = p.id JOIN order_line l ON l.id = y.line_id
				WHERE p.shipment_id = ? AND y.qty > 0)
		ORDER BY h.id LIMIT 1`, shipment)
	return row.Note, err
}

// MarkDispatched notes on the shipment that it has left.
func (t *Tx) MarkDispatched(id, command int64, at time.Time, carrier, tracking, expected string) error {
	return t.note(id, map[string]any{
		"dispatched_by": command, "dispatched_at": at, "carrier": carrier, "tracking": tracking, "expected": Date(expected),
		"asked_by": nil, "asked_at": nil, "asking_at": nil,
	})
}

// MarkDelivered notes on the shipment that it has arrived.
func (t *Tx) MarkDelivered(id, command int64, at time.Time) error {
	return t.note(id, map[string]any{"delivered_by": command, "delivered_at": at})
}

// note sets values of a shipment and makes it a new version.
func (t *Tx) note(shipment int64, values map[string]any) error {
	values["version"] = gorm.Expr("version + 1")
	return t.g.Model(&Shipment{ID: shipment}).Updates(values).Error
}

// AddDelivered adds units to those that arrived on the day of that time.
func (t *Tx) AddDelivered(at time.Time, units int64) error {
	_, err := t.exec(`INSERT INTO delivered_part (day, units) VALUES ($1::date, $2)`, at.UTC().Format(time.DateOnly), units)
	return err
}

// CompactCounts puts together the sums that commands have added to, if there are many.
func (s *Store) CompactCounts(ctx context.Context) error {
	_, err := s.aside.Exec(ctx, `SELECT compact_counts()`)
	return err
}

// UnitsBehind is how many units of the order have neither left nor been packed nor dropped.
func (r *Reader) UnitsBehind(order int64) (int64, error) {
	row, _, err := one[struct{ N int64 }](r, `SELECT open + allocated + released + picked AS n FROM order_count WHERE order_id = ?`, order)
	return row.N, err
}

// Consignment returns the shipment of that key with the address it goes to and its packages that are not empty.
func (r *Reader) Consignment(shipment int64) (Shipment, bool, error) {
	return first[Shipment](r.g.Preload("ShipTo").Preload("Packages", func(g *gorm.DB) *gorm.DB {
		return g.Where("EXISTS (SELECT 1 FROM package_line c WHERE c.package_id = package.id AND c.qty > 0)").Order("id")
	}).Where("id = ?", shipment))
}

// UnderWay returns shipments that have left and not arrived, by key: so many of those that come after one.
func (r *Reader) UnderWay(after int64, most int) ([]Shipment, error) {
	return find[Shipment](
		r.g.Where("dispatched_at IS NOT NULL AND delivered_at IS NULL AND id > ?", after).Order("id").Limit(most),
	)
}

// InboundRow is an expected receipt with its item and warehouse.
type InboundRow struct {
	ID          int64
	Ref         string
	ItemID      int64
	SKU         string `gorm:"column:sku"`
	Barcode     string
	WarehouseID int64
	Warehouse   string
	Due         string
	Qty         int64
	Received    int64
}

const inboundRow = `SELECT n.id, n.due::text AS due, n.ref, n.item_id, i.sku, i.barcode, n.warehouse_id, w.code AS warehouse, n.qty,
		n.received
	FROM inbound n JOIN item i ON i.id = n.item_id JOIN warehouse w ON w.id = n.warehouse_id WHERE n.id = ?`

// InboundByID returns the inbound of that key.
func (r *Reader) InboundByID(id int64) (InboundRow, bool, error) {
	return one[InboundRow](r, inboundRow, id)
}

// LockInbound holds it still. Call it after its item is locked.
func (t *Tx) LockInbound(id int64) (InboundRow, bool, error) {
	return one[InboundRow](&t.Reader, inboundRow+` FOR UPDATE OF n`, id)
}

// ExpectAnother has another quantity expected of an inbound in all, and notes which it was. Call it after LockInbound.
func (t *Tx) ExpectAnother(in InboundRow, qty, command int64) error {
	if _, err := t.exec(`UPDATE inbound SET qty = $2 WHERE id = $1`, in.ID, qty); err != nil {
		return err
	}
	_, err := t.exec(`INSERT INTO qty_change (command_id, inbound_id, was, now) VALUES ($1, $2, $3, $4)`, command, in.ID, in.Qty, qty)
	return err
}

// LiftHold notes that the hold was lifted by the command.
func (t *Tx) LiftHold(id, command int64) error {
	return t.g.Model(&Hold{ID: id}).Where("lifted_by IS NULL").Update("lifted_by", command).Error
}
