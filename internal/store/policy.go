package store

import (
	"time"

	"gorm.io/gorm"
)

// Policies returns all policies, the default first.
func (r *Reader) Policies() ([]Policy, error) {
	return find[Policy](r.g.Order("is_default DESC, name"))
}

// PolicyByName returns the policy of that name; the default for the empty one.
func (r *Reader) PolicyByName(name string) (Policy, bool, error) {
	if name == "" {
		return first[Policy](r.g.Where("is_default"))
	}
	return first[Policy](r.g.Where("name = ?", name))
}

// SetPolicy changes what the policy of p's key says, and makes it a new version.
func (t *Tx) SetPolicy(p Policy) error {
	return t.g.Model(&p).Updates(map[string]any{
		"name": p.Name, "keys": p.Keys, "sharing": p.Sharing, "goal": p.Goal, "window_days": p.WindowDays, "protect": p.Protect,
		"ship_rules": p.ShipRules, "elsewhere": p.Elsewhere, "reserves": p.Reserves, "version": gorm.Expr("version + 1"),
	}).Error
}

// DropPolicy forgets a policy; what it did stays where it is told.
func (t *Tx) DropPolicy(id int64) error { return t.g.Delete(&Policy{ID: id}).Error }

// DefaultPolicy makes a policy the one that is used where none is named.
func (t *Tx) DefaultPolicy(id int64) error {
	next := gorm.Expr("version + 1")
	if err := t.g.Model(&Policy{}).Where("is_default").Updates(map[string]any{"is_default": false, "version": next}).Error; err != nil {
		return err
	}
	return t.g.Model(&Policy{ID: id}).Updates(map[string]any{"is_default": true, "version": next}).Error
}

// LockPolicies lets one command after another change policies.
func (t *Tx) LockPolicies() error {
	_, err := t.exec(`SELECT pg_advisory_xact_lock(71004)`)
	return err
}

// NotePolicy keeps what was done to a policy; was or now may be empty.
func (t *Tx) NotePolicy(command int64, name, was, now string) error {
	_, err := t.exec(
		`INSERT INTO policy_entry (command_id, policy, was, now) VALUES ($1, $2, nullif($3, '')::jsonb, nullif($4, '')::jsonb)`, command,
		name, was, now,
	)
	return err
}

// PolicyChange is what was done to a policy.
type PolicyChange struct {
	Policy string
	Who    string
	At     time.Time
	Was    string
	Now    string
}

// PolicyChanges returns what was done to policies, the newest first.
func (r *Reader) PolicyChanges(limit int) ([]PolicyChange, error) {
	return all[PolicyChange](r, `SELECT e.policy, u.name AS who, c.at, coalesce(e.was::text, '') AS was, coalesce(e.now::text, '') AS now
		FROM policy_entry e JOIN command c ON c.id = e.command_id JOIN app_user u ON u.id = c.actor_id ORDER BY e.id DESC LIMIT ?`, limit)
}

// Rehearsal is a plan that was shown.
type Rehearsal struct {
	Key     string
	UserID  int64
	At      time.Time
	Asked   string // JSON
	Journal int64
	Plan    []byte
	Applied *int64
}

// SaveRehearsal keeps a plan until it is applied, and forgets those older than a day.
func (t *Tx) SaveRehearsal(r Rehearsal) error {
	if _, err := t.exec(`DELETE FROM rehearsal WHERE at < $1`, r.At.Add(-24*time.Hour)); err != nil {
		return err
	}
	_, err := t.exec(
		`INSERT INTO rehearsal (key, user_id, at, asked, journal, plan) VALUES ($1, $2, $3, $4::text::jsonb, $5, $6)`, r.Key, r.UserID,
		r.At, r.Asked, r.Journal, r.Plan,
	)
	return err
}

// RehearsalByKey returns the plan of that key.
func (r *Reader) RehearsalByKey(key string) (Rehearsal, bool, error) {
	return one[Rehearsal](r, `SELECT key, user_id, at, asked::text AS asked, journal, plan, applied FROM rehearsal WHERE key = ?`, key)
}

// RehearsalApplied says whether the plan of that key was applied.
func (r *Reader) RehearsalApplied(key string) (bool, error) {
	applied, _, err := one[bool](r, `SELECT applied IS NOT NULL FROM rehearsal WHERE key = ?`, key)
	return applied, err
}

// MarkApplied says which command carried a plan out.
func (t *Tx) MarkApplied(key string, command int64) error {
	_, err := t.exec(`UPDATE rehearsal SET applied = $2 WHERE key = $1`, key, command)
	return err
}

// LineReason is what a run said about a line.
type LineReason struct {
	Line    int64  `json:"line"`
	Wanted  int64  `json:"wanted"`
	Reasons string `json:"reasons"` // JSON
}

// PutRun notes that a command ran a policy, and keeps what it said about lines that lack something,
// in place of what the runs before said about all lines that it looked at.
func (t *Tx) PutRun(command int64, policy string, lacking []LineReason, covered IDs) error {
	if _, err := t.exec(`INSERT INTO policy_run (command_id, policy) VALUES ($1, $2)`, command, policy); err != nil {
		return err
	}
	if _, err := t.exec(`DELETE FROM line_reason WHERE line_id = ANY($1::bigint[])`, []int64(covered)); err != nil {
		return err
	}
	return inChunks(t, lacking, `INSERT INTO line_reason (line_id, command_id, wanted, reasons)
		SELECT x.line, $2, x.wanted, x.reasons::jsonb FROM json_to_recordset($1::json) AS x (line bigint, wanted bigint, reasons text)
		ON CONFLICT (line_id) DO UPDATE SET command_id = excluded.command_id, wanted = excluded.wanted, reasons = excluded.reasons`,
		func(int) {}, command)
}

// RunRow is a command that ran a policy.
type RunRow struct {
	CommandID int64
	Policy    string
	ActorID   int64
	Who       string
	At        time.Time
	Sentence  string // in English
	Said      string // as JSON; empty for what was said before there was that
	UndoneBy  string
	UndoneAt  *time.Time
}

// LastRuns returns the commands that ran a policy, the newest first.
func (r *Reader) LastRuns(limit int) ([]RunRow, error) {
	return all[RunRow](r, `SELECT p.command_id, p.policy, c.actor_id, u.name AS who, c.at, c.outcome->>'sentence' AS sentence,
		coalesce(c.outcome->>'said', '') AS said,
		coalesce(xu.name, '') AS undone_by, x.at AS undone_at
		FROM policy_run p JOIN command c ON c.id = p.command_id JOIN app_user u ON u.id = c.actor_id
			LEFT JOIN command x ON x.undoes = c.id LEFT JOIN app_user xu ON xu.id = x.actor_id
		ORDER BY p.command_id DESC LIMIT ?`, limit)
}

// ReasonRow is what the last run said about a line, and when.
type ReasonRow struct {
	LineID  int64
	Policy  string
	Wanted  int64
	Reasons string
	Who     string
	At      time.Time
	Undone  bool
}

// ReasonOf returns what the last run said about a line that lacks something. If none did, it is
// the run that last allocated to the line, without reasons.
func (r *Reader) ReasonOf(line int64) (ReasonRow, bool, error) {
	const who = `u.name AS who, c.at, EXISTS (SELECT 1 FROM command z WHERE z.undoes = c.id) AS undone`
	row, found, err := one[ReasonRow](r, `SELECT x.line_id, p.policy, x.wanted, x.reasons::text AS reasons, `+who+`
		FROM line_reason x JOIN policy_run p ON p.command_id = x.command_id JOIN command c ON c.id = x.command_id
			JOIN app_user u ON u.id = c.actor_id WHERE x.line_id = ?`, line)
	if err != nil || found {
		return row, found, err
	}
	return one[ReasonRow](r, `SELECT j.line_id, p.policy, j.qty AS wanted, '' AS reasons, `+who+`
		FROM (SELECT line_id, command_id, qty FROM journal WHERE line_id = ? AND kind = 'allocate' ORDER BY id DESC LIMIT 1) j
			JOIN policy_run p ON p.command_id = j.command_id JOIN command c ON c.id = j.command_id
			JOIN app_user u ON u.id = c.actor_id`, line)
}

// HeldBy is what was allocated to a line of an item at a warehouse, when and by whom last.
type HeldBy struct {
	LineID      int64
	OrderNumber string
	LineNo      int
	Customer    string
	Tier        int
	ShipBy      string
	Qty         int64
	Who         string
	At          time.Time
	Verb        string
}

// HoldersOf returns the lines that hold units of an item at a warehouse, the last allocated first.
func (r *Reader) HoldersOf(item, warehouse int64) ([]HeldBy, error) {
	return all[HeldBy](r, `SELECT p.line_id, o.number AS order_number, l.line_no, c.name AS customer, o.tier, l.ship_by::text AS ship_by,
			p.allocated + p.released + p.picked + p.packed AS qty, coalesce(x.who, '') AS who, coalesce(x.at, o.entered_at) AS at,
			coalesce(x.verb, '') AS verb
		FROM order_line l JOIN line_at p ON p.line_id = l.id AND p.warehouse_id = @warehouse JOIN sales_order o ON o.id = l.order_id
			JOIN customer c ON c.id = o.customer_id
			LEFT JOIN LATERAL (SELECT u.name AS who, k.at, k.verb FROM journal j JOIN command k ON k.id = j.command_id
			JOIN app_user u ON u.id = k.actor_id
				WHERE j.line_id = l.id AND j.kind = 'allocate' ORDER BY j.id DESC LIMIT 1) x ON true
		WHERE l.item_id = @item AND p.allocated + p.released + p.picked + p.packed > 0
			ORDER BY at DESC, p.line_id`, map[string]any{"item": item, "warehouse": warehouse})
}

// SinceOf is what happened to lines of items, or to their stock, after a journal entry.
func (r *Reader) SinceOf(items IDs, journal int64) ([]Event, error) {
	return all[Event](r, `SELECT c.id AS command, c.verb, j.kind, u.name AS who, c.at, c.reason, shown(sum(j.qty)) AS qty, i.sku,
		coalesce(min(l.line_no), 0) AS line_no,
			coalesce(min(o.number), '') AS document
		FROM journal j JOIN command c ON c.id = j.command_id JOIN app_user u ON u.id = c.actor_id JOIN item i ON i.id = j.item_id
			LEFT JOIN order_line l ON l.id = j.line_id LEFT JOIN sales_order o ON o.id = l.order_id
		WHERE j.id > @journal AND j.item_id = ANY(@items) GROUP BY c.id, c.verb, j.kind, u.name, c.at, c.reason, i.sku, l.id
			ORDER BY c.id LIMIT 20`,
		map[string]any{"items": items, "journal": journal})
}

// Message is a message that is ready to be sent.
type Message struct {
	OrderID int64     `json:"order"`
	Address string    `json:"address"`
	Subject string    `json:"subject"`
	Body    string    `json:"body"`
	Who     string    `json:"-"`
	At      time.Time `json:"-"`
}

// AddMessages keeps messages.
func (t *Tx) AddMessages(command int64, ms []Message) error {
	return inChunks(t, ms, `INSERT INTO message (order_id, command_id, address, subject, body)
		SELECT x."order", $2, x.address, x.subject, x.body FROM json_to_recordset($1::json) AS x ("order" bigint, address text,
			subject text, body text)`,
		func(int) {}, command)
}

// MessagesOf returns the messages of an order, the newest first.
func (r *Reader) MessagesOf(order int64) ([]Message, error) {
	return all[Message](r, `SELECT m.order_id, m.address, m.subject, m.body, u.name AS who, c.at
		FROM message m JOIN command c ON c.id = m.command_id JOIN app_user u ON u.id = c.actor_id WHERE m.order_id = ?
			ORDER BY m.id DESC`, order)
}

// LineHead is what is shown of a line where there is little room, with its counts and what is free for it.
type LineHead struct {
	ID           int64
	OrderID      int64
	OrderNumber  string
	LineNo       int
	ItemID       int64
	SKU          string `gorm:"column:sku"`
	Item         string
	WarehouseID  int64
	Warehouse    string
	Customer     string
	CustomerCode string
	Email        string
	Tier         int
	ShipBy       string
	Free         int64
	StationCounts
}

// LineHeads returns the lines of those keys.
func (r *Reader) LineHeads(lines IDs) ([]LineHead, error) {
	return all[LineHead](r, `SELECT l.id, l.order_id, o.number AS order_number, l.line_no, l.item_id, i.sku, i.name AS item,
		l.warehouse_id, w.code AS warehouse, c.name AS customer,
			c.code AS customer_code, c.email, o.tier, l.ship_by::text AS ship_by, coalesce(s.free, 0) AS free, n.ordered, n.open,
			n.allocated, n.released, n.picked, n.packed, n.shipped, n.delivered, n.dropped, n.promised
		FROM order_line l JOIN line_count n ON n.line_id = l.id JOIN sales_order o ON o.id = l.order_id
			JOIN customer c ON c.id = o.customer_id
			JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = l.warehouse_id
			LEFT JOIN stock_cell s ON s.item_id = l.item_id AND s.warehouse_id = l.warehouse_id
		WHERE l.id = ANY(?)`, lines)
}

// AllocatedPlace is so many units that are allocated to a line from a warehouse.
type AllocatedPlace struct{ LineID, ItemID, WarehouseID, Allocated int64 }

// AllocatedPlaces returns where units are allocated to lines of the items.
func (r *Reader) AllocatedPlaces(items IDs) ([]AllocatedPlace, error) {
	return all[AllocatedPlace](r, `SELECT p.line_id, l.item_id, p.warehouse_id, p.allocated FROM line_at p
		JOIN order_line l ON l.id = p.line_id
		WHERE l.item_id = ANY(?) AND p.allocated > 0 ORDER BY p.line_id, p.warehouse_id`, items)
}

// ListsOf returns the numbers of the pick lists on which units of the lines still are.
func (r *Reader) ListsOf(lines IDs) (map[int64][]string, error) {
	rows, err := all[struct {
		LineID int64
		Number string
	}](r, `SELECT DISTINCT t.line_id, p.number FROM pick_task t JOIN pick_list p ON p.id = t.pick_list_id
		WHERE t.line_id = ANY(?) AND t.due > 0 ORDER BY 1, 2`, lines)
	out := map[int64][]string{}
	for _, x := range rows {
		out[x.LineID] = append(out[x.LineID], x.Number)
	}
	return out, err
}

// AllocatedLineIDs returns the lines with units allocated from a warehouse; from any if it is 0.
func (r *Reader) AllocatedLineIDs(warehouse int64) (IDs, error) {
	rows, err := all[struct{ ID int64 }](r, `SELECT DISTINCT line_id AS id FROM line_at
		WHERE allocated > 0 AND (@warehouse = 0 OR warehouse_id = @warehouse) ORDER BY 1`,
		map[string]any{"warehouse": warehouse})
	out := make(IDs, len(rows))
	for i, x := range rows {
		out[i] = x.ID
	}
	return out, err
}

// AllocatedAt is how many units are allocated from a warehouse, to how many lines.
type AllocatedAt struct {
	Warehouse string `json:"warehouse"`
	Units     int64  `json:"units"`
	Lines     int64  `json:"lines"`
}

// AllocatedBy returns what is allocated, everywhere (without a code) and by warehouse; nothing if nothing is.
func (r *Reader) AllocatedBy() ([]AllocatedAt, error) {
	return all[AllocatedAt](r, `SELECT coalesce(w.code, '') AS warehouse, shown(sum(p.allocated)) AS units,
		count(DISTINCT p.line_id) AS lines
		FROM line_at p JOIN warehouse w ON w.id = p.warehouse_id WHERE p.allocated > 0 GROUP BY GROUPING SETS ((), (w.code))
			HAVING count(*) > 0 ORDER BY w.code NULLS FIRST`)
}

// WantingLineIDs returns the unfinished lines of the items with units that are open or allocated.
func (r *Reader) WantingLineIDs(items IDs) (IDs, error) {
	rows, err := all[struct{ ID int64 }](
		r,
		`SELECT l.id FROM order_line l JOIN line_count n ON n.line_id = l.id
			WHERE l.item_id = ANY(?) AND n.open + n.allocated > 0 AND `+live+` ORDER BY 1`,
		items,
	)
	out := make(IDs, len(rows))
	for i, x := range rows {
		out[i] = x.ID
	}
	return out, err
}

// ShortCell is an item at a warehouse of which more is open than is free. While all of it is the same, so is who wants it, when
// and at what price.
type ShortCell struct {
	ItemID      int64
	WarehouseID int64
	Currency    string // of the item
	Free        int64
	Units       int64 // open
	Lines       int64 // with open units
	Parts       int64 // rows that say so,
	Last        int64 // and the newest of them
}

// ShortCells returns the items and warehouses of which more is open than is free, by item and warehouse.
func (r *Reader) ShortCells() ([]ShortCell, error) {
	return all[ShortCell](r, `SELECT x.item_id, x.warehouse_id, i.currency, coalesce(s.free, 0) AS free, x.units, x.lines, x.parts, x.last
		FROM (SELECT item_id, warehouse_id, sum(units)::bigint AS units, sum(lines)::bigint AS lines, count(*) AS parts, max(id) AS last
			FROM wanting_part GROUP BY 1, 2) x
			JOIN item i ON i.id = x.item_id LEFT JOIN stock_cell s USING (item_id, warehouse_id)
		WHERE x.units > coalesce(s.free, 0) ORDER BY x.item_id, x.warehouse_id`)
}
