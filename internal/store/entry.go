package store

import (
	"encoding/json"
	"time"
)

// NewOrder is an order that is entered here.
type NewOrder struct {
	CustomerID  int64
	ShipToID    int64
	Channel     string
	CustomerRef string
	Tier        int
	Urgency     int
	ShipRule    string
	Service     string
	Terms       string
	At          time.Time
	Wanted      string
	Currency    string
	Note        string
	QuoteID     int64 // 0 for none
}

// NewLine is a line of an order, or of a quote, that is entered here.
type NewLine struct {
	No          int    `json:"no"`
	ItemID      int64  `json:"item"`
	WarehouseID int64  `json:"warehouse"`
	Qty         int64  `json:"qty"`
	ShipBy      string `json:"ship_by,omitempty"`
	PriceMinor  int64  `json:"price"`
	ListMinor   int64  `json:"list"`
	DiscountBP  int    `json:"discount"`
	CostMinor   int64  `json:"cost"`
	How         string `json:"how,omitempty"`
	Told        string `json:"told,omitempty"`
}

// number takes the next number of a sequence that nothing in the table has.
func (t *Tx) number(sequence, table, prefix string) (string, error) {
	for {
		number, err := t.NextNumber(prefix, sequence)
		if err != nil {
			return "", err
		}
		_, taken, err := one[struct{ ID int64 }](&t.Reader, `SELECT id FROM `+table+` WHERE number = ?`, number)
		if err != nil || !taken {
			return number, err
		}
	}
}

// AddOrder adds an order under the next number.
func (t *Tx) AddOrder(o NewOrder) (id int64, number string, err error) {
	if number, err = t.number("order_number", "sales_order", "SO"); err != nil {
		return 0, "", err
	}
	var quote *int64
	if o.QuoteID != 0 {
		quote = &o.QuoteID
	}
	row, _, err := one[struct{ ID int64 }](&t.Reader, `
		INSERT INTO sales_order (number, customer_id, ship_to_id, channel, customer_ref, tier, urgency, ship_rule, service, terms,
			entered_at, wanted, currency, note, quote_id)
		VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?::date, ?, ?, ?) RETURNING id`,
		number, o.CustomerID, o.ShipToID, o.Channel, o.CustomerRef, o.Tier, o.Urgency, o.ShipRule, o.Service, o.Terms, o.At, o.Wanted,
		o.Currency, o.Note, quote)
	return row.ID, number, err
}

// AddLines adds lines to an order and returns their keys by line number. Their units are
// entered by the journal.
func (t *Tx) AddLines(order int64, lines []NewLine) (map[int]int64, error) {
	text, err := json.Marshal(lines)
	if err != nil {
		return nil, err
	}
	rows, err := all[struct {
		ID     int64
		LineNo int
	}](&t.Reader, `
		INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, discount_bp, cost_minor)
		SELECT ?, x.no, x.item, x.warehouse, x.ship_by, x.price, x.list, x.discount, x.cost
		FROM json_to_recordset(?::json) AS x (no integer, item bigint, warehouse bigint, ship_by date, price bigint, list bigint,
			discount integer, cost bigint)
		ORDER BY x.no RETURNING id, line_no`, order, string(text))
	out := map[int]int64{}
	for _, l := range rows {
		out[l.LineNo] = l.ID
	}
	return out, err
}

// AddShipToOnce adds an address of a customer for one order only and returns its key.
func (t *Tx) AddShipToOnce(customer int64, s ShipToRecord) (int64, error) {
	row, _, err := one[struct{ ID int64 }](&t.Reader, `
		INSERT INTO ship_to (customer_id, code, name, street, city, postcode, country, once)
		VALUES (?, '~' || nextval('command_id_seq'), ?, ?, ?, ?, ?, true) RETURNING id`, customer, s.Name, s.Street, s.City, s.Postcode, s.Country)
	return row.ID, err
}

// ShipToByID returns an address, and whether it was typed for one order only.
func (r *Reader) ShipToByID(id int64) (ShipToRecord, bool, error) {
	row, _, err := one[struct {
		ShipToRecord
		Once bool
	}](r, `SELECT s.id, c.code AS customer, s.code, s.name, s.street, s.city, s.postcode, s.country, s.once
		FROM ship_to s JOIN customer c ON c.id = s.customer_id WHERE s.id = ?`, id)
	return row.ShipToRecord, row.Once, err
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
	"wanted": "wanted = $2::date", "service": "service = $2", "terms": "terms = $2", "ship rule": "ship_rule = $2",
	"urgency":      "urgency = $2::integer",
	"their number": "customer_ref = $2", "note": "note = $2", "channel": "channel = $2",
}

// ChangeOrder changes values of an order and notes each for the command.
func (t *Tx) ChangeOrder(order, command int64, changes []OrderChange) error {
	for _, c := range changes {
		if c.Line == 0 {
			if column, ok := orderColumns[c.Field]; ok {
				if _, err := t.exec(`UPDATE sales_order SET `+column+` WHERE id = $1`, order, c.Now); err != nil {
					return err
				}
			}
		}
		var line *int64
		if c.Line != 0 {
			line = &c.Line
		}
		if _, err := t.exec(`INSERT INTO order_change (command_id, order_id, line_id, field, was, now) VALUES ($1, $2, $3, $4, $5, $6)`,
			command, order, line, c.Field, c.Was, c.Now); err != nil {
			return err
		}
	}
	return nil
}

// MoveShipTo sends an order to another address of its customer.
func (t *Tx) MoveShipTo(order, shipTo int64) error {
	_, err := t.exec(`UPDATE sales_order SET ship_to_id = $2 WHERE id = $1`, order, shipTo)
	return err
}

// ChangeLine sets what may be changed on a line besides its units.
func (t *Tx) ChangeLine(line int64, n NewLine) error {
	_, err := t.exec(`UPDATE order_line SET ship_by = $2::date, warehouse_id = $3, price_minor = $4, list_minor = $5, discount_bp = $6
		WHERE id = $1`,
		line, n.ShipBy, n.WarehouseID, n.PriceMinor, n.ListMinor, n.DiscountBP)
	return err
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
