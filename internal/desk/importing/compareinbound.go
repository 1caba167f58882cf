package importing

import (
	"cmp"
	"fmt"

	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

var inboundFields = []field[store.InboundRecord]{
	text("due", func(x store.InboundRecord) string { return x.Due }),
	number("qty", func(x store.InboundRecord) int64 { return x.Qty }),
	text("kind", func(x store.InboundRecord) string { return x.Kind }),
	text("supplier", func(x store.InboundRecord) string { return x.Supplier }),
}

func (c *comparing) compareInbound(f *FileReport, rows []exchange.Row[exchange.InboundRow]) error {
	items, err := c.items(distinct(rows, func(v exchange.InboundRow) string { return v.SKU }))
	if err != nil {
		return err
	}
	old, err := c.tx.InboundByRef(distinct(rows, func(v exchange.InboundRow) string { return v.Ref }))
	if err != nil {
		return err
	}
	type key struct{ ref, sku, warehouse string }
	here := map[key]*store.InboundRecord{}
	for _, x := range old {
		here[key{x.Ref, x.SKU, x.Warehouse}] = &x
	}
	row := map[key]int{}
	var inbound []store.InboundRecord
	for _, r := range rows {
		v := r.V
		if v.Ref == "" || v.Warehouse == "" || v.Due == "" || v.Qty == 0 {
			continue
		}
		k := key{v.Ref, v.SKU, v.Warehouse}
		switch {
		case items[v.SKU] == nil:
			c.unknown(f, r.N, "sku", v.SKU, "an item", "items")
			continue
		case !c.house[v.Warehouse]:
			c.unknown(f, r.N, "warehouse", v.Warehouse, "a warehouse", "stock")
			continue
		case !first(c, f, row, k, r.N, "ref", v.Ref, "each item of an inbound for a warehouse"):
			continue
		}
		x := cmp.Or(here[k], &store.InboundRecord{})
		rec := store.InboundRecord{
			ID: x.ID, Ref: v.Ref, SKU: v.SKU, Warehouse: v.Warehouse, Due: v.Due, Qty: v.Qty,
			Kind: cmp.Or(v.Kind, x.Kind, "purchase"), Supplier: cmp.Or(v.Supplier, x.Supplier),
		}
		if v.Qty < x.Received {
			c.wrong(f, r.N, "qty", fmt.Sprint(v.Qty), "at least the %d that were received", x.Received)
			continue
		}
		if changes(f, r, fmt.Sprintf("%s %s %s", v.Ref, v.SKU, v.Warehouse), here[k], rec, inboundFields) {
			if here[k] != nil && x.Due != rec.Due {
				rec.Was = x.Due
			}
			inbound = append(inbound, rec)
		}
	}
	if c.writing == nil {
		return nil
	}
	if err := c.tx.PutInbound(inbound, func(int) {}); err != nil {
		return err
	}
	return c.tx.NoteDues(inbound, c.writing.ID)
}
