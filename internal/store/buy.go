package store

import (
	"fmt"
	"strings"
	"time"
)

// BuyRow is a request to buy.
type BuyRow struct {
	ID          int64
	Number      string
	ItemID      int64
	SKU         string `gorm:"column:sku"`
	Name        string
	Unit        string
	LeadDays    int
	WarehouseID int64
	Warehouse   string
	Qty         int64
	Wanted      string
	Note        string
	CostMinor   int64
	Currency    string
	Who         string
	At          time.Time
	Ref         string // of the inbound, once it is confirmed
	Due         string // of the inbound
	Settled     bool
	SettledBy   string
	Why         string // why it was withdrawn
}

const buyRow = `
	SELECT b.id, b.number, b.item_id, i.sku, i.name, i.unit, i.lead_days, b.warehouse_id,
		w.code AS warehouse, b.qty, b.wanted::text AS wanted, b.note,
		i.cost_minor, i.currency,
		u.name AS who, c.at, coalesce(n.ref, '') AS ref, coalesce(n.due::text, '') AS due, b.settled_by IS NOT NULL AS settled,
		coalesce(su.name, '') AS settled_by, coalesce(s.reason, '') AS why
	FROM buy_request b JOIN item i ON i.id = b.item_id JOIN warehouse w ON w.id = b.warehouse_id JOIN command c ON c.id = b.asked_by
		JOIN app_user u ON u.id = c.actor_id
		LEFT JOIN inbound n ON n.id = b.inbound_id LEFT JOIN command s ON s.id = b.settled_by LEFT JOIN app_user su ON su.id = s.actor_id`

// BuyRequests returns the requests to buy that have all the words: those that wait first, by
// the day on which they are wanted, then the last ones that were settled.
func (r *Reader) BuyRequests(words []string, item int64, limit int) ([]BuyRow, error) {
	args := map[string]any{"item": item}
	conds := []string{"true"}
	for i, w := range words {
		k := fmt.Sprintf("w%d", i)
		args[k] = "%" + likeEscape(w) + "%"
		conds = append(
			conds,
			strings.ReplaceAll(
				`(lower(b.number) LIKE lower(@w) OR i.found_by LIKE lower(@w) OR lower(n.ref) LIKE lower(@w))`,
				"@w", "@"+k,
			),
		)
	}
	if item != 0 {
		conds = append(conds, "b.item_id = @item")
	}
	return all[BuyRow](r, fmt.Sprintf(`%s WHERE %s ORDER BY b.settled_by IS NOT NULL, CASE WHEN b.settled_by IS NULL THEN b.wanted END,
		b.id DESC LIMIT %d`,
		buyRow, strings.Join(conds, " AND "), limit), args)
}

// LockBuyRequest holds a request still and returns it.
func (t *Tx) LockBuyRequest(number string) (BuyRow, bool, error) {
	if _, err := all[struct{ ID int64 }](&t.Reader, `SELECT id FROM buy_request WHERE number = ? FOR UPDATE`, number); err != nil {
		return BuyRow{}, false, err
	}
	return one[BuyRow](&t.Reader, buyRow+` WHERE b.number = ?`, number)
}

// AddBuyRequest adds a request under the next number.
func (t *Tx) AddBuyRequest(item, warehouse, qty int64, wanted, note string, command int64) (string, error) {
	number, err := t.NextNumber(NumberedBuys)
	if err != nil {
		return "", err
	}
	_, err = t.exec(`INSERT INTO buy_request (number, item_id, warehouse_id, qty, wanted, note, asked_by)
		VALUES ($1, $2, $3, $4, $5::date, $6, $7)`,
		number, item, warehouse, qty, wanted, note, command)
	return number, err
}

// ConfirmBuyRequest makes an expected receipt of a request. It fails with the constraint
// inbound_ref_item_id_warehouse_id_key if there is one of that reference already.
func (t *Tx) ConfirmBuyRequest(b BuyRow, ref, due, supplier string, qty, command int64) error {
	row, _, err := one[struct{ ID int64 }](&t.Reader, `INSERT INTO inbound (ref, item_id, warehouse_id, kind, supplier, due, qty)
		VALUES (?, ?, ?, 'purchase', ?, ?::date, ?) RETURNING id`, ref, b.ItemID, b.WarehouseID, supplier, due, qty)
	if err != nil {
		return err
	}
	_, err = t.exec(`UPDATE buy_request SET inbound_id = $2, settled_by = $3 WHERE id = $1`, b.ID, row.ID, command)
	return err
}

// WithdrawBuyRequest ends a request.
func (t *Tx) WithdrawBuyRequest(id, command int64) error {
	_, err := t.exec(`UPDATE buy_request SET settled_by = $2 WHERE id = $1`, id, command)
	return err
}

// FoundItem is an item that was found, with what is free of it.
type FoundItem struct {
	SKU        string `gorm:"column:sku"`
	Name       string
	Unit       string
	Multiple   int64
	PriceMinor int64
	Free       int64 // at the warehouse
	Elsewhere  int64 // in others
}

// FindItems returns the items whose number or name has all the words: one with exactly that
// number first, then those whose number begins with it, then by how many of the words stand
// there as they are, not within another.
func (r *Reader) FindItems(words []string, warehouse string, limit int) ([]FoundItem, error) {
	whole := strings.Join(words, " ")
	args := map[string]any{"warehouse": warehouse, "whole": whole, "head": likeEscape(whole) + "%", "limit": limit}
	conds, wholes := []string{"true"}, []string{"0"}
	for i, w := range words {
		k := fmt.Sprintf("w%d", i)
		args[k] = "%" + likeEscape(w) + "%"
		args[k+"whole"] = "% " + likeEscape(w) + " %"
		conds = append(conds, fmt.Sprintf("i.found_by LIKE lower(@%s)", k))
		wholes = append(wholes, fmt.Sprintf("(' ' || translate(i.sku || ' ' || i.name, '-,.()', '     ') || ' ' ILIKE @%swhole)::int", k))
	}
	return all[FoundItem](r, fmt.Sprintf(`
		WITH found AS (SELECT * FROM item i WHERE %s)
		SELECT i.sku, i.name, i.unit, i.multiple, i.price_minor, coalesce(s.here, 0)::bigint AS free,
			coalesce(s.there, 0)::bigint AS elsewhere
		FROM found i LEFT JOIN LATERAL (SELECT sum(c.free) FILTER (WHERE w.code = @warehouse) AS here, sum(c.free)
			FILTER (WHERE w.code <> @warehouse) AS there
			FROM stock_cell c JOIN warehouse w ON w.id = c.warehouse_id WHERE c.item_id = i.id) s ON true
		ORDER BY (lower(i.sku) = lower(@whole)) DESC, (lower(i.sku) LIKE lower(@head)) DESC, %s DESC,
			(lower(i.name) LIKE lower(@head)) DESC, i.sku LIMIT @limit`, strings.Join(conds, " AND "), strings.Join(wholes, " + ")), args)
}
