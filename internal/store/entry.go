package store

import (
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// AddOrder adds an order with its lines under the next number, and notes the keys in it. The units of its lines are entered by the
// journal.
func (t *Tx) AddOrder(o *Order) (err error) {
	if o.Number, err = t.NextNumber(NumberedOrders); err != nil {
		return err
	}
	if err := t.g.Omit(clause.Associations).Create(o).Error; err != nil {
		return err
	}
	for i := range o.Lines {
		o.Lines[i].OrderID = o.ID
	}
	return t.AddLines(o.Lines)
}

// AddLines adds lines to orders, and notes their keys in them.
func (t *Tx) AddLines(lines []OrderLine) error { return t.g.Create(&lines).Error }

// AddShipToOnce adds an address of a customer for one order only, and notes its key.
func (t *Tx) AddShipToOnce(s *ShipTo) error {
	row, _, err := one[struct{ Code string }](&t.Reader, `SELECT '~-' || nextval('command_id_seq') AS code`)
	if err != nil {
		return err
	}
	s.Code = row.Code
	s.Once = true
	return t.g.Create(s).Error
}

// ShipToByID returns an address.
func (r *Reader) ShipToByID(id int64) (ShipTo, error) {
	s, _, err := first[ShipTo](r.g.Where("id = ?", id))
	return s, err
}

// CustomerWithShipTos returns a customer with the addresses that are not of one order only, the first one first, and with its own
// warehouse.
func (r *Reader) CustomerWithShipTos(code string) (Customer, bool, error) {
	return first[Customer](r.g.Preload("Warehouse").Preload("ShipTos", func(g *gorm.DB) *gorm.DB {
		return g.Where("NOT once").Order("id")
	}).Where("code = ?", code))
}

// OrderChange is a value of an order, or of one of its lines, that was changed.
type OrderChange struct {
	Line  int64 // 0 for the order itself
	Field string
	Was   string
	Now   string
}

// orderColumns are the columns of an order that may be changed, by the name of the field.
var orderColumns = map[string]string{
	"wanted": "wanted", "not before": "not_before", "service": "service", "terms": "terms", "ship rule": "ship_rule", "urgency": "urgency",
	"the customer's order number": "customer_ref", "their number": "customer_ref", "note": "note", "channel": "channel",
}

// changeNote is an OrderChange as it is kept.
type changeNote struct {
	CommandID int64
	OrderID   int64
	LineID    *int64
	Field     string
	Was       string
	Now       string
}

// TableName is where changes are kept.
func (changeNote) TableName() string { return "order_change" }

// ChangeOrder changes values of an order and notes each for the command.
func (t *Tx) ChangeOrder(order, command int64, changes []OrderChange) error {
	if len(changes) == 0 {
		return nil
	}
	values := map[string]any{}
	notes := make([]changeNote, len(changes))
	for i, c := range changes {
		notes[i] = changeNote{CommandID: command, OrderID: order, Field: c.Field, Was: c.Was, Now: c.Now}
		if c.Line != 0 {
			notes[i].LineID = &c.Line
		} else if column, ok := orderColumns[c.Field]; ok {
			if values[column] = c.Now; column == "not_before" {
				values[column] = Date(c.Now)
			}
		}
	}
	if len(values) > 0 {
		if err := t.g.Model(&Order{ID: order}).Updates(values).Error; err != nil {
			return err
		}
	}
	return t.g.Create(&notes).Error
}

// MoveShipTo sends an order to another address of its customer.
func (t *Tx) MoveShipTo(order, shipTo int64) error {
	return t.g.Model(&Order{ID: order}).Update("ship_to_id", shipTo).Error
}

// ChangeLine sets what may be changed on the line of l's key besides its units.
func (t *Tx) ChangeLine(l OrderLine) error {
	return t.g.Select("ship_by", "warehouse_id", "price_minor", "list_minor", "discount_bp").Updates(&l).Error
}

// ChangeEvent is a change of an order's values for the trail.
type ChangeEvent struct {
	Command int64
	Who     string
	At      time.Time
	Reason  string
	LineNo  int    // 0 for the order itself
	SKU     string `gorm:"column:sku"`
	Field   string
	Was     string
	Now     string
}

// ChangeTrail returns every change of the values of an order, oldest first.
func (r *Reader) ChangeTrail(order int64) ([]ChangeEvent, error) {
	return all[ChangeEvent](r, `SELECT c.id AS command, u.name AS who, c.at, c.reason, coalesce(l.line_no, 0) AS line_no,
		coalesce(i.sku, '') AS sku,
			x.field, x.was, x.now
		FROM order_change x JOIN command c ON c.id = x.command_id JOIN app_user u ON u.id = c.actor_id
			LEFT JOIN order_line l ON l.id = x.line_id LEFT JOIN item i ON i.id = l.item_id
		WHERE x.order_id = ? ORDER BY x.id`, order)
}

// SubstituteRow is an item that may be sent in place of another, and how many are free.
type SubstituteRow struct {
	ItemID    int64
	SKU       string `gorm:"column:sku"`
	Name      string
	Kind      string
	Warehouse string
	Free      int64
}

// Substitutes returns what may be sent in place of the items and is free, by item and
// warehouse, the most first.
func (r *Reader) Substitutes(items IDs) ([]SubstituteRow, error) {
	return all[SubstituteRow](r, `SELECT x.item_id, i.sku, i.name, x.kind, w.code AS warehouse, s.free
		FROM substitute x JOIN item i ON i.id = x.other_id JOIN stock_cell s ON s.item_id = i.id JOIN warehouse w ON w.id = s.warehouse_id
		WHERE x.item_id = ANY(?) AND s.free > 0 ORDER BY x.item_id, s.free DESC, i.sku`, items)
}
