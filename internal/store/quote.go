package store

import (
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// AddQuote adds a quote with its lines under the next number, and notes both in it.
func (t *Tx) AddQuote(q *Quote) (err error) {
	if q.Number, err = t.NextNumber(NumberedQuotes); err != nil {
		return err
	}
	if err := t.g.Omit(clause.Associations).Create(q).Error; err != nil {
		return err
	}
	return t.addQuoteLines(q)
}

func (t *Tx) addQuoteLines(q *Quote) error {
	for i := range q.Lines {
		q.Lines[i].QuoteID = q.ID
	}
	return t.g.Create(&q.Lines).Error
}

// ChangeQuote makes the quote of q's key another one under the same number, with other lines.
func (t *Tx) ChangeQuote(q *Quote) error {
	err := t.g.Select(
		"customer_id", "ship_to_id", "warehouse_id", "channel", "customer_ref", "urgency", "ship_rule", "service", "terms", "wanted",
		"expires", "currency", "note", "approved_by",
	).Updates(q).Error
	if err != nil {
		return err
	}
	if err := t.g.Where("quote_id = ?", q.ID).Delete(&QuoteLine{}).Error; err != nil {
		return err
	}
	return t.addQuoteLines(q)
}

// AcceptQuoteLines notes how many of the lines of a quote, by line number, became an order.
func (t *Tx) AcceptQuoteLines(quote int64, accepted map[int]int64) error {
	text, err := json.Marshal(accepted)
	if err != nil {
		return err
	}
	_, err = t.exec(`UPDATE quote_line l SET accepted = l.accepted + x.value::bigint FROM json_each_text($2::json) AS x
		WHERE l.quote_id = $1 AND l.line_no = x.key::integer`, quote, string(text))
	return err
}

// TellOfQuote notes what the command did to a quote and makes it a new version.
func (t *Tx) TellOfQuote(quote, command int64, what string) error {
	if _, err := t.exec(`INSERT INTO quote_entry (command_id, quote_id, what) VALUES ($1, $2, $3)`, command, quote, what); err != nil {
		return err
	}
	return t.g.Model(&Quote{ID: quote}).Update("version", gorm.Expr("version + 1")).Error
}

// ApproveQuote notes who approved a quote.
func (t *Tx) ApproveQuote(quote, command int64) error {
	return t.g.Model(&Quote{ID: quote}).Update("approved_by", command).Error
}

// WithdrawQuote notes who withdrew a quote.
func (t *Tx) WithdrawQuote(quote, command int64) error {
	return t.g.Model(&Quote{ID: quote}).Update("withdrawn_by", command).Error
}

// QuoteHead is a quote as lists and pages show it.
type QuoteHead struct {
	ID            int64
	Number        string
	CustomerCode  string
	CustomerName  string
	Tier          int
	ShipToID      int64
	Warehouse     string
	Channel       string
	CustomerRef   string
	Urgency       int
	ShipRule      string
	Service       string
	Terms         string
	Wanted        string
	Expires       string
	Currency      string
	Note          string
	Version       int64
	Approved      bool
	Withdrawn     bool
	MadeBy        string
	MadeAt        time.Time
	ApprovedBy    string
	ValueMinor    int64
	CostMinor     int64
	Zero          bool
	Lines         int
	Qty           int64
	Accepted      int64
	AcceptedMinor int64
}

const quoteHead = `
	SELECT q.id, q.number, c.code AS customer_code, c.name AS customer_name, c.tier, q.ship_to_id, w.code AS warehouse, q.channel,
		q.customer_ref, q.urgency,
		q.ship_rule, q.service, q.terms, q.wanted::text AS wanted, q.expires::text AS expires, q.currency, q.note, q.version,
		q.approved_by IS NOT NULL AS approved, q.withdrawn_by IS NOT NULL AS withdrawn, mu.name AS made_by, m.at AS made_at,
		coalesce(au.name, '') AS approved_by,
		coalesce(x.value, 0) AS value_minor, coalesce(x.cost, 0) AS cost_minor, coalesce(x.zero, false) AS zero,
		coalesce(x.lines, 0) AS lines,
		coalesce(x.qty, 0) AS qty, coalesce(x.accepted, 0) AS accepted, coalesce(x.accepted_minor, 0) AS accepted_minor
	FROM quote q JOIN customer c ON c.id = q.customer_id JOIN warehouse w ON w.id = q.warehouse_id
		JOIN command m ON m.id = q.made_by JOIN app_user mu ON mu.id = m.actor_id
		LEFT JOIN command a ON a.id = q.approved_by LEFT JOIN app_user au ON au.id = a.actor_id
		LEFT JOIN LATERAL (SELECT shown(sum(l.qty::numeric * l.price_minor)) AS value, shown(sum(l.qty::numeric * l.cost_minor)) AS cost,
		bool_or(l.price_minor = 0 OR l.cost_minor = 0) AS zero,
			count(*) AS lines, shown(sum(l.qty)) AS qty, shown(sum(l.accepted)) AS accepted,
			shown(sum(l.accepted::numeric * l.price_minor)) AS accepted_minor
			FROM quote_line l WHERE l.quote_id = q.id) x ON true`

// QuoteByNumber returns the quote of that number.
func (r *Reader) QuoteByNumber(number string) (QuoteHead, bool, error) {
	return one[QuoteHead](r, quoteHead+` WHERE q.number = ?`, number)
}

// LockQuote holds a quote still and returns its version.
func (t *Tx) LockQuote(id int64) (int64, error) {
	row, _, err := one[struct{ Version int64 }](&t.Reader, `SELECT version FROM quote WHERE id = ? FOR UPDATE`, id)
	return row.Version, err
}

// QuoteLineRow is a line of a quote.
type QuoteLineRow struct {
	LineNo     int
	ItemID     int64
	SKU        string `gorm:"column:sku"`
	Name       string
	Unit       string
	Warehouse  string
	Qty        int64
	Accepted   int64
	PriceMinor int64
	ListMinor  int64
	DiscountBP int `gorm:"column:discount_bp"`
	CostMinor  int64
	How        string
	Told       string
}

// QuoteLines returns the lines of a quote.
func (r *Reader) QuoteLines(quote int64) ([]QuoteLineRow, error) {
	return all[QuoteLineRow](r, `SELECT l.line_no, l.item_id, i.sku, i.name, i.unit, w.code AS warehouse, l.qty, l.accepted,
		l.price_minor, l.list_minor, l.discount_bp, l.cost_minor,
			l.how, coalesce(l.told::text, '') AS told
		FROM quote_line l JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = l.warehouse_id WHERE l.quote_id = ?
			ORDER BY l.line_no`, quote)
}

// OrdersOfQuote returns the orders that a quote became.
func (r *Reader) OrdersOfQuote(quote int64) ([]OrderHead, error) {
	return all[OrderHead](r, orderHead+` WHERE o.quote_id = ? ORDER BY o.id`, quote)
}

// QuoteEvent is what happened to a quote.
type QuoteEvent struct {
	Who    string
	At     time.Time
	Reason string
	What   string
}

// QuoteTrail returns what happened to a quote, oldest first.
func (r *Reader) QuoteTrail(quote int64) ([]QuoteEvent, error) {
	return all[QuoteEvent](r, `SELECT u.name AS who, c.at, c.reason, x.what FROM quote_entry x JOIN command c ON c.id = x.command_id
		JOIN app_user u ON u.id = c.actor_id
		WHERE x.quote_id = ? ORDER BY x.id`, quote)
}
