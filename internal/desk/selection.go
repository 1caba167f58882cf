package desk

import (
	"slices"

	"journeyman/core/journey"
)

// chosen is a line of a selection. asked is 0 for "as much as can be".
type chosen struct {
	line      *line
	warehouse int64
	asked     journey.Qty
}

// choose locks what was selected and checks that it is as it was seen. Lines come
// in the order listed; those of an order by line number.
func (w *work) choose(s Selection) ([]chosen, error) {
	if (len(s.Lines) == 0) == (len(s.Orders) == 0) {
		return nil, Invalid("Choose lines or orders.")
	}
	if len(s.Orders) > 0 {
		return w.chooseOrders(s.Orders)
	}
	ids := make([]int64, 0, len(s.Lines))
	for _, q := range s.Lines {
		if slices.Contains(ids, q.Line) {
			return nil, Invalid("A line was chosen twice. Choose it once, with the whole quantity.")
		}
		if q.Qty <= 0 {
			return nil, Invalid("The quantity must be at least 1.")
		}
		ids = append(ids, q.Line)
	}
	if err := w.lock(ids); err != nil {
		return nil, err
	}
	out := make([]chosen, 0, len(s.Lines))
	for _, q := range s.Lines {
		l := w.lines[q.Line]
		if q.Seen != 0 {
			if err := w.fresh(l, q.Seen); err != nil {
				return nil, err
			}
		}
		c := chosen{line: l, warehouse: l.WarehouseID, asked: journey.Qty(q.Qty)}
		if q.Warehouse != "" && q.Warehouse != l.Warehouse {
			id, err := w.warehouse(q.Warehouse)
			if err != nil {
				return nil, err
			}
			c.warehouse = id
		}
		out = append(out, c)
	}
	return out, nil
}

func (w *work) chooseOrders(asked []OrderSeen) ([]chosen, error) {
	numbers := make([]string, len(asked))
	for i, o := range asked {
		numbers[i] = o.Number
	}
	refs, err := w.tx.OrdersByNumber(numbers)
	if err != nil {
		return nil, err
	}
	id := map[string]int64{}
	ids := make([]int64, 0, len(refs))
	for _, r := range refs {
		id[r.Number] = r.ID
		ids = append(ids, r.ID)
	}
	of, err := w.tx.LineIDsOfOrders(ids)
	if err != nil {
		return nil, err
	}
	lineIDs := make([]int64, 0, len(of))
	perOrder := map[int64][]int64{}
	for _, l := range of {
		lineIDs = append(lineIDs, l.ID)
		perOrder[l.OrderID] = append(perOrder[l.OrderID], l.ID)
	}
	if err := w.lock(lineIDs); err != nil {
		return nil, err
	}
	var out []chosen
	done := map[string]bool{}
	for _, o := range asked {
		oid, ok := id[o.Number]
		if !ok {
			return nil, NotFound("There is no order %s.", o.Number)
		}
		if done[o.Number] {
			return nil, Invalid("Order %s was chosen twice.", o.Number)
		}
		done[o.Number] = true
		newest := int64(0)
		for _, lid := range perOrder[oid] {
			l := w.lines[lid]
			newest = max(newest, l.Version)
			out = append(out, chosen{line: l, warehouse: l.WarehouseID})
		}
		if o.Seen != 0 && o.Seen != newest {
			since, err := w.tx.ChangesOfOrder(oid, o.Seen)
			if err != nil {
				return nil, err
			}
			return nil, Conflict("%s has changed since you saw it: %s. Nothing was done; look at it as it is now and decide again.",
				o.Number, w.tellChanges(since))
		}
	}
	return out, nil
}

// warehouse returns the key of the warehouse of that code.
func (w *work) warehouse(code string) (int64, error) {
	wh, found, err := w.tx.WarehouseByCode(code)
	if err != nil {
		return 0, err
	}
	if !found {
		return 0, NotFound("There is no warehouse %s.", code)
	}
	return wh.ID, nil
}

func (w *work) free(l *line, warehouse int64) journey.Qty {
	if c := w.cells[cellKey{l.ItemID, warehouse}]; c != nil {
		return c.now.Free()
	}
	return 0
}

// code is the code of the warehouse, for a sentence.
func (w *work) code(l *line, warehouse int64) string {
	if c := w.cells[cellKey{l.ItemID, warehouse}]; c != nil && c.Warehouse != "" {
		return c.Warehouse
	}
	if warehouse == l.WarehouseID {
		return l.Warehouse
	}
	return "that warehouse"
}

// places lists the warehouses where units of the line stand, the first one first.
func (w *work) places(l *line, first int64) []int64 {
	out := make([]int64, 0, len(l.at))
	for id := range l.at {
		out = append(out, id)
	}
	slices.SortFunc(out, func(a, b int64) int {
		if (a == first) != (b == first) {
			if a == first {
				return -1
			}
			return 1
		}
		return int(a - b)
	})
	return out
}

// LineQty is so many units of one line, as the line was seen on the screen.
type LineQty struct {
	Line      int64  `json:"line" doc:"Key of the order line"`
	Qty       int64  `json:"qty" minimum:"1" maximum:"1000000000" doc:"Units"`
	Warehouse string `json:"warehouse,omitempty" doc:"Where; the line's own warehouse if empty"`
	Seen      int64  `json:"seen" doc:"Version of the line that was seen; the command is refused if it has changed since"`
}

// OrderSeen is an order, as it was seen on the screen.
type OrderSeen struct {
	Number string `json:"number"`
	Seen   int64  `json:"seen" doc:"Version of the order that was seen"`
}

// Selection is lines with quantities, or whole orders in the order listed.
type Selection struct {
	Lines  []LineQty   `json:"lines,omitempty" maxItems:"5000"`
	Orders []OrderSeen `json:"orders,omitempty" maxItems:"5000"`
}

// fromPlaces makes moves of kind k for what stands at station s of the line, from
// its own warehouse first; for all of it if no quantity was asked.
func (w *work) fromPlaces(c chosen, k journey.Kind, s journey.Station) error {
	left := c.asked
	if left == 0 {
		left = c.line.now.At[s]
	}
	if left > c.line.now.At[s] {
		return Conflict("%s line %d has %d %s; %d were asked for.", c.line.OrderNumber, c.line.LineNo, c.line.now.At[s], s, left)
	}
	for _, wh := range w.places(c.line, c.warehouse) {
		if q := min(left, c.line.at[wh][s]); q > 0 {
			if err := w.move(c.line, wh, journey.Make(k, q), entry{}); err != nil {
				return err
			}
			left -= q
		}
	}
	if left > 0 {
		return Conflict("%s line %d has fewer %s at %s than were asked for: %d are missing.", c.line.OrderNumber, c.line.LineNo, s, w.code(c.line, c.warehouse), left)
	}
	return nil
}
