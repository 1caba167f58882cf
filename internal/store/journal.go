package store

import "journeyman/core/journey"

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

// LineEntries returns the moves that a command made on lines, in the order in which it made them.
func (r *Reader) LineEntries(command int64) ([]Entry, error) {
	type row struct {
		Kind, FromStation, ToStation, Cause string
		Qty, ItemID                         int64
		WarehouseID, BinID, LineID, OrderID *int64
		TaskID, PackageID, InboundID        *int64
	}
	rows, err := all[row](r, `SELECT * FROM journal WHERE command_id = ? ORDER BY id`, command)
	if err != nil {
		return nil, err
	}
	out := make([]Entry, len(rows))
	for i, x := range rows {
		from, err := journey.ParseStation(x.FromStation)
		if err != nil {
			return nil, err
		}
		to, err := journey.ParseStation(x.ToStation)
		if err != nil {
			return nil, err
		}
		out[i] = Entry{
			Move: journey.Move{Kind: journey.Kind(x.Kind), From: from, To: to, Cause: journey.Cause(x.Cause), Qty: journey.Qty(x.Qty)},
			Item: x.ItemID, Warehouse: val(x.WarehouseID), Bin: val(x.BinID), Line: val(x.LineID), Order: val(x.OrderID),
			Task: val(x.TaskID), Package: val(x.PackageID), Inbound: val(x.InboundID),
		}
	}
	return out, nil
}

func val(p *int64) int64 {
	if p == nil {
		return 0
	}
	return *p
}
