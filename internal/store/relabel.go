package store

// PackedShipment is a shipment that has not left and has units of an order in it.
type PackedShipment struct {
	ID     int64
	Number string
	Labels int64  // that stand
	Asked  bool   // the carrier is being asked to take it
	Others string // numbers of other orders in it
}

// PackedShipmentsOf returns the shipments that have not left and have units of the order in them.
func (r *Reader) PackedShipmentsOf(order int64) ([]PackedShipment, error) {
	return all[PackedShipment](r, `
		SELECT s.id, s.number, s.asked_at IS NOT NULL AS asked,
			(SELECT count(*) FROM paper p JOIN package k ON k.id = p.package_id WHERE k.shipment_id = s.id AND p.void_by IS NULL) AS labels,
			coalesce(string_agg(DISTINCT o.number, ', ') FILTER (WHERE o.id <> @order), '') AS others
		FROM shipment s JOIN package g ON g.shipment_id = s.id JOIN package_line y ON y.package_id = g.id AND y.qty > 0
			JOIN order_line l ON l.id = y.line_id JOIN sales_order o ON o.id = l.order_id
		WHERE s.dispatched_at IS NULL AND s.id IN (SELECT p.shipment_id FROM order_line m JOIN package_line x ON x.line_id = m.id AND x.qty > 0
			JOIN package p ON p.id = x.package_id WHERE m.order_id = @order)
		GROUP BY s.id ORDER BY s.id`, map[string]any{"order": order})
}

// SendOtherwise has shipments go as their order does from now on, and makes the labels of their packages and the packing lists of the order
// void.
func (t *Tx) SendOtherwise(shipments IDs, order, shipTo int64, service, terms string, command int64) error {
	for _, id := range shipments {
		if err := t.note(id, map[string]any{"ship_to_id": shipTo, "service": service, "terms": terms}); err != nil {
			return err
		}
	}
	_, err := t.exec(`UPDATE paper SET void_by = $1, void_why = $2 WHERE void_by IS NULL
		AND (order_id = $3 OR package_id IN (SELECT id FROM package WHERE shipment_id = ANY($4)))`, command, SentOtherwise, order,
		[]int64(shipments))
	return err
}
