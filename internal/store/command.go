package store

import (
	"fmt"
	"time"
)

// CommandByID returns the command, if there is one.
func (r *Reader) CommandByID(id int64) (Command, bool, error) {
	return one[Command](r, `SELECT * FROM command WHERE id = ?`, id)
}

// UndoneBy returns the command that took `id` back, if one did.
func (r *Reader) UndoneBy(id int64) (Command, bool, error) {
	return one[Command](r, `SELECT * FROM command WHERE undoes = ?`, id)
}

// Event is what one command did to a line or an order, in sum.
type Event struct {
	Command  int64
	ActorID  int64
	Verb     string
	Kind     string
	Cause    string
	Who      string
	At       time.Time
	Reason   string
	Qty      int64
	SKU      string `gorm:"column:sku"`
	LineNo   int
	Undone   bool
	Document string

	DocumentKind string
}

// ChangesOfLine returns what happened to the line after its journal entry `seen`, oldest first.
func (r *Reader) ChangesOfLine(line, seen int64) ([]Event, error) {
	return r.changes(IDs{line}, seen)
}

// ChangesOfOrder is the same for all lines of an order.
func (r *Reader) ChangesOfOrder(order, seen int64) ([]Event, error) {
	of, err := r.LineIDsOfOrders(IDs{order})
	if err != nil {
		return nil, err
	}
	lines := make(IDs, len(of))
	for i, l := range of {
		lines[i] = l.ID
	}
	return r.changes(lines, seen)
}

func (r *Reader) changes(lines IDs, seen int64) ([]Event, error) {
	return all[Event](r, `
		SELECT c.id AS command, c.verb, x.kind, x.cause, u.name AS who, c.at, c.reason, sum(x.qty) AS qty
		FROM (SELECT command_id, kind, cause, qty FROM journal WHERE line_id = ANY(@lines) AND id > @seen
			UNION ALL SELECT command_id, 'promise', '', now_units FROM promise_entry
			WHERE line_id = ANY(@lines) AND id > @seen AND cause = 'promised'
			UNION ALL SELECT command_id, 'change', '', 0 FROM order_change WHERE id > @seen
				AND order_id IN (SELECT order_id FROM order_line WHERE id = ANY(@lines)) AND (line_id IS NULL OR line_id = ANY(@lines))) x
			JOIN command c ON c.id = x.command_id JOIN app_user u ON u.id = c.actor_id
		GROUP BY c.id, u.name, x.kind, x.cause ORDER BY c.id`, map[string]any{"lines": lines, "seen": seen})
}

// TrailOfOrder returns everything that happened to an order, oldest first: moves by
// command, line and kind, then holds.
func (r *Reader) TrailOfOrder(order int64) ([]Event, error) {
	return all[Event](r, `
		SELECT * FROM (
			SELECT c.id AS command, c.actor_id, c.verb, j.kind, j.cause, u.name AS who, c.at, c.reason, sum(j.qty) AS qty, i.sku, l.line_no,
				EXISTS (SELECT 1 FROM command x WHERE x.undoes = c.id) AS undone,
				coalesce(min(pl.number), min(s.number), '') AS document,
				CASE WHEN min(pl.number) IS NOT NULL THEN 'pick list' WHEN min(s.number) IS NOT NULL THEN 'shipment' ELSE '' END AS document_kind
			FROM journal j JOIN command c ON c.id = j.command_id JOIN app_user u ON u.id = c.actor_id
				JOIN order_line l ON l.id = j.line_id JOIN item i ON i.id = j.item_id
				LEFT JOIN pick_task t ON t.id = j.task_id LEFT JOIN pick_list pl ON pl.id = t.pick_list_id
				LEFT JOIN package p ON p.id = j.package_id LEFT JOIN shipment s ON s.id = p.shipment_id
			WHERE j.line_id = ANY(ARRAY(SELECT id FROM order_line WHERE order_id = @order))
			GROUP BY c.id, u.name, j.kind, j.cause, i.sku, l.line_no
			UNION ALL
			SELECT c.id, c.actor_id, c.verb, 'hold', h.kind, u.name, c.at, h.note, 0, '', 0, false, '', ''
			FROM hold h JOIN command c ON c.id = h.placed_by JOIN app_user u ON u.id = c.actor_id WHERE h.order_id = @order
			UNION ALL
			SELECT c.id, c.actor_id, c.verb, 'lift', h.kind, u.name, c.at, c.reason, 0, '', 0, false, '', ''
			FROM hold h JOIN command c ON c.id = h.lifted_by JOIN app_user u ON u.id = c.actor_id WHERE h.order_id = @order
		) t ORDER BY at, command, line_no`, map[string]any{"order": order})
}

// mostLooked is of how many lines a command may have been for it to be looked at whether it stands: of more, it is found out when it is
// taken back.
const mostLooked = 2000

// Standing returns those of the commands that were not taken back and since which nothing else has happened to the lines that they
// touched.
func (r *Reader) Standing(commands IDs) (map[int64]bool, error) {
	found, err := all[struct{ ID int64 }](r, fmt.Sprintf(`
		SELECT c.id FROM command c
		WHERE c.id = ANY(?) AND NOT EXISTS (SELECT 1 FROM command x WHERE x.undoes = c.id)
			AND ((c.outcome ->> 'lines')::bigint > %d OR NOT EXISTS (
				SELECT 1 FROM (
					SELECT line_id, max(id) AS last FROM (
						SELECT line_id, id FROM journal WHERE command_id = c.id AND line_id IS NOT NULL
						UNION ALL SELECT line_id, id FROM promise_entry WHERE command_id = c.id) e
					GROUP BY line_id) m
				JOIN line_count n ON n.line_id = m.line_id WHERE n.version <> m.last))`, mostLooked), commands)
	out := make(map[int64]bool, len(found))
	for _, x := range found {
		out[x.ID] = true
	}
	return out, err
}

// Action is a command of a person's own.
type Action struct {
	ID       int64
	Verb     string
	At       time.Time
	Sentence string // in English
	Said     string // as JSON; empty for what was said before there was that
	Undone   bool
}

// ActionsOf returns the last commands of a person, the newest first.
func (r *Reader) ActionsOf(person int64, limit int) ([]Action, error) {
	return all[Action](r, `SELECT c.id, c.verb, c.at, coalesce(c.outcome ->> 'sentence', '') AS sentence,
			coalesce(c.outcome ->> 'said', '') AS said,
			EXISTS (SELECT 1 FROM command x WHERE x.undoes = c.id) AS undone
		FROM command c WHERE c.actor_id = ? ORDER BY c.id DESC LIMIT ?`, person, limit)
}
