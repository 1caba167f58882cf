package store

import (
	"github.com/jackc/pgx/v5"

	"journeyman/core/journey"
)

// Entry is a row of the journal to be written. Zero keys are absent.
type Entry struct {
	Move      journey.Move
	Item      int64
	Warehouse int64
	Bin       int64
	Line      int64
	Order     int64
	Task      int64
	Package   int64
	Inbound   int64
}

// intoJournal appends entries.
var intoJournal = newInsertion("journal",
	column{name: "kind", told: "text"},
	column{name: "from_station", told: "text"},
	column{name: "to_station", told: "text"},
	column{name: "cause", told: "text"},
	column{name: "qty", told: "bigint"},
	column{name: "item_id", told: "bigint"},
	column{"warehouse_id", "bigint", orNone},
	column{"bin_id", "bigint", orNone},
	column{"line_id", "bigint", orNone},
	column{"order_id", "bigint", orNone},
	column{"task_id", "bigint", orNone},
	column{"package_id", "bigint", orNone},
	column{"inbound_id", "bigint", orNone},
)

// writeJournal is the statement that appends entries, and what it is told.
func writeJournal(command int64, entries []Entry) (string, []any) {
	n := len(entries)
	kind, from, to, cause := make([]string, n), make([]string, n), make([]string, n), make([]string, n)
	qty, item := make([]int64, n), make([]int64, n)
	refs := [7][]int64{}
	for i := range refs {
		refs[i] = make([]int64, n)
	}
	for i := range entries {
		e := &entries[i]
		kind[i], from[i], to[i], cause[i] = string(e.Move.Kind), e.Move.From.String(), e.Move.To.String(), string(e.Move.Cause)
		qty[i], item[i] = int64(e.Move.Qty), e.Item
		for j, id := range [7]int64{e.Warehouse, e.Bin, e.Line, e.Order, e.Task, e.Package, e.Inbound} {
			refs[j][i] = id
		}
	}
	return intoJournal.of(n, command, kind, from, to, cause, qty, item, refs[0], refs[1], refs[2], refs[3], refs[4], refs[5], refs[6])
}

// PastEntry is a row of the journal that is written.
type PastEntry struct {
	ID int64
	Entry
}

// EntriesOf returns what a command entered, in the order in which it did.
func (t *Tx) EntriesOf(command int64) ([]PastEntry, error) {
	var out []PastEntry
	err := t.tx.Raw(func(conn *pgx.Conn) (err error) {
		out, err = rowsOf(t.tx.Context(), conn, `SELECT id, kind, from_station, to_station, cause, qty, item_id,
				coalesce(warehouse_id, 0), coalesce(bin_id, 0), coalesce(line_id, 0), coalesce(order_id, 0), coalesce(task_id, 0),
				coalesce(package_id, 0), coalesce(inbound_id, 0)
			FROM journal WHERE command_id = $1 ORDER BY id`, []any{command}, func(rows pgx.Rows) (x PastEntry, err error) {
			var kind, from, to, cause string
			if err := rows.Scan(&x.ID, &kind, &from, &to, &cause, &x.Move.Qty, &x.Item, &x.Warehouse, &x.Bin, &x.Line, &x.Order, &x.Task,
				&x.Package, &x.Inbound); err != nil {
				return x, err
			}
			x.Move.Kind, x.Move.Cause = journey.Kind(kind), journey.Cause(cause)
			if x.Move.From, err = journey.ParseStation(from); err != nil {
				return x, err
			}
			x.Move.To, err = journey.ParseStation(to)
			return x, err
		})
		return err
	})
	return out, err
}
