package store

import (
	"gorm.io/gorm/clause"

	"journeyman/core/shipping"
)

// PackageKind is a kind of carton or pallet that goods are packed into. Lengths are inside, in millimetres, weights in grams.
type PackageKind struct {
	ID       int64
	Code     string // what is scanned to take one
	Name     string
	Pallet   bool
	LengthMM int   `gorm:"column:length_mm"`
	WidthMM  int   `gorm:"column:width_mm"`
	HeightMM int   `gorm:"column:height_mm"`
	TareG    int64 // what it weighs empty
	MostG    int64 // what it may weigh with its goods
}

// Shipping is the kind as core/shipping takes it.
func (k PackageKind) Shipping() shipping.PackageKind {
	return shipping.PackageKind{
		Pallet: k.Pallet, Inner: shipping.Size{int64(k.LengthMM), int64(k.WidthMM), int64(k.HeightMM)}, TareG: k.TareG, MostG: k.MostG,
	}
}

// PackageKinds returns all kinds, the smallest first.
func (r *Reader) PackageKinds() ([]PackageKind, error) {
	return all[PackageKind](r, `SELECT * FROM package_kind ORDER BY pallet, length_mm::bigint * width_mm * height_mm, code`)
}

// PutPackageKind adds a kind, or changes the one of its code.
func (t *Tx) PutPackageKind(k PackageKind) error {
	return t.g.Clauses(clause.OnConflict{
		Columns:   []clause.Column{{Name: "code"}},
		DoUpdates: clause.AssignmentColumns([]string{"name", "pallet", "length_mm", "width_mm", "height_mm", "tare_g", "most_g"}),
	}).Create(&k).Error
}

// DropPackageKind takes a kind away and says whether there was one.
func (t *Tx) DropPackageKind(code string) (bool, error) {
	n, err := t.exec(`DELETE FROM package_kind WHERE code = $1`, code)
	return n > 0, err
}

// PickedGoods is units of a line that wait to be packed, with how large one is, in millimetres, and what it weighs, in grams.
type PickedGoods struct {
	LineID   int64
	SKU      string `gorm:"column:sku"`
	Units    int64
	LengthMM int64 `gorm:"column:length_mm"`
	WidthMM  int64 `gorm:"column:width_mm"`
	HeightMM int64 `gorm:"column:height_mm"`
	WeightG  int64
}

// PickedGoodsOf returns what waits to be packed of an order in a warehouse.
func (r *Reader) PickedGoodsOf(order, house string) ([]PickedGoods, error) {
	return all[PickedGoods](r, `
		SELECT l.id AS line_id, i.sku, p.picked AS units, i.length_mm, i.width_mm, i.height_mm, i.weight_g
		FROM line_at p JOIN order_line l ON l.id = p.line_id JOIN sales_order o ON o.id = l.order_id JOIN item i ON i.id = l.item_id
			JOIN warehouse w ON w.id = p.warehouse_id
		WHERE o.number = ? AND w.code = ? AND p.picked > 0 ORDER BY l.line_no`, order, house)
}

// Consigned is what has to be alike of what goes in one shipment, as a person reads it.
type Consigned struct {
	Shipment string
	Orders   string // their numbers
	shipping.Consigned
}

const consignedOrder = `
	SELECT '' AS shipment, o.number AS orders, c.code AS customer, o.ship_to_id AS ship_to, t.name || ', ' || t.city AS address, o.service,
		o.terms, ? AS warehouse
	FROM sales_order o JOIN customer c ON c.id = o.customer_id JOIN ship_to t ON t.id = o.ship_to_id WHERE o.number = ?`

// ConsignedOrder is how an order goes from a warehouse.
func (r *Reader) ConsignedOrder(order, house string) (Consigned, bool, error) {
	return one[Consigned](r, consignedOrder, house, order)
}

const consignedShipment = `
	SELECT s.number AS shipment, c.code AS customer, s.ship_to_id AS ship_to, t.name || ', ' || t.city AS address, s.service, s.terms,
		w.code AS warehouse, (SELECT string_agg(DISTINCT o.number, ', ') FROM package p JOIN package_line y ON y.package_id = p.id
			JOIN order_line l ON l.id = y.line_id JOIN sales_order o ON o.id = l.order_id WHERE p.shipment_id = s.id AND y.qty > 0) AS orders
	FROM shipment s JOIN customer c ON c.id = s.customer_id JOIN ship_to t ON t.id = s.ship_to_id JOIN warehouse w ON w.id = s.warehouse_id`

// ConsignedShipment is how a shipment goes.
func (r *Reader) ConsignedShipment(number string) (Consigned, bool, error) {
	return one[Consigned](r, consignedShipment+` WHERE s.number = ?`, number)
}

// mostConsigned is how many shipments of a customer are looked at.
const mostConsigned = 20

// OpenConsigned returns the shipments of the customer of an order that are being packed at a warehouse and are not empty, the latest first.
func (r *Reader) OpenConsigned(order, house string) ([]Consigned, error) {
	return all[Consigned](r, consignedShipment+` WHERE c.id = (SELECT customer_id FROM sales_order WHERE number = ?) AND w.code = ?
			AND s.dispatched_at IS NULL AND s.asked_at IS NULL AND EXISTS (
				SELECT 1 FROM package p JOIN package_line y ON y.package_id = p.id WHERE p.shipment_id = s.id AND y.qty > 0)
		ORDER BY s.id DESC LIMIT ?`, order, house, mostConsigned)
}
