package store

import "time"

// CustomerHold keeps all orders of a customer from being released, those that come later, too.
type CustomerHold struct {
	ID         int64
	CustomerID int64
	Kind       string
	Note       string
	PlacedBy   int64
	LiftedBy   *int64
}

// StandingCustomerHold is the hold that stands on a customer, with who placed it.
type StandingCustomerHold struct {
	ID   int64
	Kind string
	Note string
	Who  string
	At   time.Time
}

// HoldOnCustomer returns the hold that stands on the customer, if there is one.
func (r *Reader) HoldOnCustomer(customer int64) (StandingCustomerHold, bool, error) {
	return one[StandingCustomerHold](r, `
		SELECT h.id, h.kind, h.note, u.name AS who, c.at
		FROM customer_hold h JOIN command c ON c.id = h.placed_by JOIN app_user u ON u.id = c.actor_id
		WHERE h.customer_id = ? AND h.lifted_by IS NULL`, customer)
}

// LockCustomer holds a customer still: no order of it comes in until the command has ended. Call it after Lock.
func (t *Tx) LockCustomer(customer int64) error {
	_, err := t.exec(`SELECT 1 FROM customer WHERE id = $1 FOR UPDATE`, customer)
	return err
}

// UnsentOrders returns the numbers of the customer's orders of which something has not left and is not dropped.
func (r *Reader) UnsentOrders(customer int64) (Texts, error) {
	return all[string](r, `SELECT o.number FROM sales_order o JOIN order_count n ON n.order_id = o.id
		WHERE o.customer_id = ? AND n.shipped + n.delivered + n.dropped < n.ordered ORDER BY o.number`, customer)
}

// OrdersHeldWith returns the numbers of the orders that are on hold with their customer.
func (r *Reader) OrdersHeldWith(hold int64) (Texts, error) {
	return all[string](r, `SELECT o.number FROM hold h JOIN sales_order o ON o.id = h.order_id
		WHERE h.customer_hold_id = ? AND h.lifted_by IS NULL ORDER BY o.number`, hold)
}

// PlaceCustomerHold places a hold on a customer and on those of its orders.
func (t *Tx) PlaceCustomerHold(h *CustomerHold, orders Texts) error {
	if err := t.Create(h); err != nil {
		return err
	}
	_, err := t.exec(`
		INSERT INTO hold (order_id, kind, note, placed_by, customer_hold_id)
		SELECT o.id, 'customer', $2, $3, $4 FROM sales_order o WHERE o.number = ANY($1)`, orders, h.Note, h.PlacedBy, h.ID)
	return err
}

// LiftCustomerHold notes that a hold on a customer, and on all orders that were held with it, was lifted by the command.
func (t *Tx) LiftCustomerHold(id, command int64) error {
	if _, err := t.exec(`UPDATE customer_hold SET lifted_by = $2 WHERE id = $1`, id, command); err != nil {
		return err
	}
	_, err := t.exec(`UPDATE hold SET lifted_by = $2 WHERE customer_hold_id = $1 AND lifted_by IS NULL`, id, command)
	return err
}
