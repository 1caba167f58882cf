package command

import (
	"slices"

	"journeyman/core/journey"
	"journeyman/internal/store"
)

// Chosen is a line of a selection. asked is 0 for "as much as can be".
type Chosen struct {
	Line      *Line
	Warehouse int64
	Asked     journey.Qty
}

// Choose locks what was selected and checks that it is as it was seen. Lines come
// in the order listed; those of an order by line number.
func (w *UnitOfWork) Choose(s Selection) ([]Chosen, error) {
	if (len(s.Lines) == 0) == (len(s.Orders) == 0) {
		return nil, Invalid("Choose lines or orders.")
	}
	if len(s.Orders) > 0 {
		return w.ChooseOrders(s.Orders)
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
	if err := w.Lock(ids); err != nil {
		return nil, err
	}
	out := make([]Chosen, 0, len(s.Lines))
	for _, q := range s.Lines {
		l := w.Lines[q.Line]
		if q.Seen != 0 {
			if err := w.CheckVersion(l, q.Seen); err != nil {
				return nil, err
			}
		}
		c := Chosen{Line: l, Warehouse: l.WarehouseID, Asked: journey.Qty(q.Qty)}
		if q.Warehouse != "" && q.Warehouse != l.Warehouse {
			id, err := w.WarehouseID(q.Warehouse)
			if err != nil {
				return nil, err
			}
			c.Warehouse = id
		}
		out = append(out, c)
	}
	return out, nil
}

// ChooseOrders locks all lines of the orders and returns them in the order listed, those of an order by line
// number. It refuses an order that is not as it was seen.
func (w *UnitOfWork) ChooseOrders(asked []OrderSeen) ([]Chosen, error) {
	numbers := make([]string, len(asked))
	for i, o := range asked {
		numbers[i] = o.Number
	}
	refs, err := w.Tx.OrdersByNumber(numbers)
	if err != nil {
		return nil, err
	}
	id := map[string]int64{}
	ids := make([]int64, 0, len(refs))
	for _, r := range refs {
		id[r.Number] = r.ID
		ids = append(ids, r.ID)
	}
	of, err := w.Tx.LineIDsOfOrders(ids)
	if err != nil {
		return nil, err
	}
	lineIDs := make([]int64, 0, len(of))
	perOrder := map[int64][]int64{}
	for _, l := range of {
		lineIDs = append(lineIDs, l.ID)
		perOrder[l.OrderID] = append(perOrder[l.OrderID], l.ID)
	}
	if err := w.Lock(lineIDs); err != nil {
		return nil, err
	}
	var out []Chosen
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
			l := w.Lines[lid]
			newest = max(newest, l.Version)
			out = append(out, Chosen{Line: l, Warehouse: l.WarehouseID})
		}
		if o.Seen != 0 && o.Seen != newest {
			since, err := w.Tx.ChangesOfOrder(oid, o.Seen)
			if err != nil {
				return nil, err
			}
			return nil, Conflict("%s has changed since you saw it: %s. Nothing was done; look at it as it is now and decide again.",
				o.Number, w.DescribeChanges(since))
		}
	}
	return out, nil
}

// WarehouseID returns the key of the warehouse of that code.
func (w *UnitOfWork) WarehouseID(code string) (int64, error) {
	wh, found, err := w.Tx.WarehouseByCode(code)
	if err != nil {
		return 0, err
	}
	if !found {
		return 0, NotFound("There is no warehouse %s.", code)
	}
	return wh.ID, nil
}

// Free is how many units of the line's item are free in the warehouse, after the moves made so far.
func (w *UnitOfWork) Free(l *Line, warehouse int64) journey.Qty {
	if c := w.Cells[CellKey{l.ItemID, warehouse}]; c != nil {
		return c.Now.Free()
	}
	return 0
}

// WarehouseCode is the code of the warehouse, for a sentence.
func (w *UnitOfWork) WarehouseCode(l *Line, warehouse int64) string {
	if c := w.Cells[CellKey{l.ItemID, warehouse}]; c != nil && c.Warehouse != "" {
		return c.Warehouse
	}
	if warehouse == l.WarehouseID {
		return l.Warehouse
	}
	return "that warehouse"
}

// Places lists the warehouses where units of the line stand, the first one first.
func (w *UnitOfWork) Places(l *Line, first int64) []int64 {
	out := make([]int64, 0, len(l.At))
	for id := range l.At {
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
	Qty       int64  `json:"qty" minimum:"0" maximum:"1000000000" doc:"Units; when releasing, 0 for all that is allocated"`
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

// MoveFromPlaces makes moves of kind k for what stands at station s of the line, from
// its own warehouse first; for all of it if no quantity was asked.
func (w *UnitOfWork) MoveFromPlaces(c Chosen, k journey.Kind, s journey.Station) error {
	left := c.Asked
	if left == 0 {
		left = c.Line.Now.At[s]
	}
	if left > c.Line.Now.At[s] {
		return Conflict("%s line %d has %d %s; %d were asked for.", c.Line.OrderNumber, c.Line.LineNo, c.Line.Now.At[s], s, left)
	}
	for _, wh := range w.Places(c.Line, c.Warehouse) {
		if q := min(left, c.Line.At[wh][s]); q > 0 {
			if err := w.Move(c.Line, wh, journey.Make(k, q), Refs{}); err != nil {
				return err
			}
			left -= q
		}
	}
	if left > 0 {
		return Conflict(
			"%s line %d has fewer %s at %s than were asked for: %d are missing.", c.Line.OrderNumber, c.Line.LineNo, s,
			w.WarehouseCode(c.Line, c.Warehouse), left,
		)
	}
	return nil
}

// Warehouse is the warehouse of that code.
func (w *UnitOfWork) Warehouse(code string) (store.Warehouse, error) {
	h, found, err := w.Tx.WarehouseByCode(code)
	if err == nil && !found {
		err = NotFound("There is no warehouse %s.", code)
	}
	return h, err
}
