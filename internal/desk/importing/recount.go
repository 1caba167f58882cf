package importing

import (
	"cmp"
	"slices"
	"strings"

	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// StockBreak is an item at a warehouse of which a count leaves fewer than are allocated.
type StockBreak struct {
	SKU       string       `json:"sku"`
	Item      string       `json:"item"`
	Warehouse string       `json:"warehouse"`
	Allocated int64        `json:"allocated" doc:"Units that are allocated and on no pick list"`
	Left      int64        `json:"left" doc:"Units that the count leaves for them"`
	Lines     []BrokenLine `json:"lines" doc:"Lines that would have other units after giving back and allocating anew"`
}

// BrokenLine is a line that would have other units than it has.
type BrokenLine struct {
	Order    string        `json:"order"`
	No       int           `json:"no"`
	Customer string        `json:"customer"`
	Tier     int           `json:"tier"`
	ShipBy   string        `json:"ship_by" format:"date"`
	Has      int64         `json:"has"`
	Gets     int64         `json:"gets"`
	Why      words.Message `json:"why"`
}

// recount works out what giving back and allocating again by the default policy would do where the
// count breaks allocations.
func (c *comparing) recount() error {
	if len(c.breaks) == 0 {
		return nil
	}
	var skus store.Texts
	free := map[[2]string]int64{}
	for _, b := range c.breaks {
		if !slices.Contains(skus, b.SKU) {
			skus = append(skus, b.SKU)
		}
		free[[2]string{b.SKU, b.Warehouse}] = b.Left
	}
	items, err := c.tx.ItemsBySKU(skus)
	if err != nil {
		return err
	}
	var ids store.IDs
	named, sku := map[string]store.Item{}, map[int64]string{}
	for _, it := range items {
		ids = append(ids, it.ID)
		named[it.SKU], sku[it.ID] = it, it.SKU
	}
	rows, err := c.tx.ReadBookOf(ids)
	if err != nil {
		return err
	}
	houses, err := c.tx.Warehouses()
	if err != nil {
		return err
	}
	code := map[int64]string{}
	for _, h := range houses {
		code[h.ID] = h.Code
	}
	x, had, err := c.d.allocation.Reallocate(&c.tx.Reader, rows, func(item, house int64) (int64, bool) {
		left, is := free[[2]string{sku[item], code[house]}]
		return left, is
	})
	if err != nil {
		return err
	}
	var changed store.IDs
	for k := range x.Book.Rows {
		if l := &x.Book.Rows[k]; had[l.ID] != x.Allocation.Units(int32(k)) {
			changed = append(changed, l.ID)
		}
	}
	heads, err := c.tx.LineHeads(changed)
	if err != nil {
		return err
	}
	for i := range c.breaks {
		b := &c.breaks[i]
		b.Item = named[b.SKU].Name
		b.Lines = brokenLines(*b, heads, had, x)
	}
	return nil
}

// brokenLines are the lines that would have other units of what a count leaves short, the first tier first.
func brokenLines(b StockBreak, heads []store.LineHead, had map[int64]int64, x *allocation.ComputedPlan) []BrokenLine {
	out := []BrokenLine{}
	for _, h := range heads {
		if h.SKU != b.SKU || h.Warehouse != b.Warehouse {
			continue
		}
		k := x.Book.LineOf[h.ID]
		out = append(out, BrokenLine{
			h.OrderNumber, h.LineNo, h.Customer, h.Tier, h.ShipBy, had[h.ID], x.Allocation.Units(k),
			x.Why(k).Sentence(x.Book.Lines[k].Open),
		})
	}
	slices.SortFunc(out, func(p, q BrokenLine) int {
		return cmp.Or(p.Tier-q.Tier, strings.Compare(p.Order, q.Order), p.No-q.No)
	})
	return out
}

// giveBackBroken gives back all that is allocated where the count breaks allocations, and returns the plan
// by which it is allocated again.
func (d *Desk) giveBackBroken(w *command.UnitOfWork, breaks []StockBreak) (*allocation.ComputedPlan, error) {
	var skus store.Texts
	for _, b := range breaks {
		if !slices.Contains(skus, b.SKU) {
			skus = append(skus, b.SKU)
		}
	}
	known, err := w.Tx.ItemsBySKU(skus)
	if err != nil {
		return nil, err
	}
	sku := map[int64]string{}
	for _, it := range known {
		sku[it.ID] = it.SKU
	}
	left := map[command.CellKey]int64{}
	for k, c := range w.Cells {
		for _, b := range breaks {
			if b.SKU == sku[k.Item] && b.Warehouse == c.Warehouse {
				left[k] = b.Left
			}
		}
	}
	x, _, err := d.allocation.GiveBackBroken(w, left)
	return x, err
}

// allocateBroken allocates again what was given back, as it was shown, once the count is in.
func allocateBroken(w *command.UnitOfWork, x *allocation.ComputedPlan, breaks []StockBreak) error {
	if err := allocation.AllocateAgain(w, x); err != nil {
		return err
	}
	lines := 0
	for _, b := range breaks {
		lines += len(b.Lines)
	}
	w.Also(words.Say(
		"Given back and allocated anew by %s: %s, other units for %s.", x.Policy, words.Count(len(breaks), "item"), words.Count(lines, "line"),
	))
	return nil
}
