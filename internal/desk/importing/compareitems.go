package importing

import (
	"cmp"
	"fmt"
	"strings"

	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// itemsHere are the items of those numbers that there are.
func (c *comparing) itemsHere(skus store.Texts) (map[string]*store.ItemRecord, error) {
	out := map[string]*store.ItemRecord{}
	here, err := c.tx.ItemsBySKU(skus)
	for _, it := range here {
		out[it.SKU] = &store.ItemRecord{
			SKU: it.SKU, Name: it.Name, Unit: it.Unit, Multiple: it.Multiple, LeadDays: int64(it.LeadDays), Buyable: it.Buyable,
			WeightG: it.WeightG, LengthMM: int64(it.LengthMM), WidthMM: int64(it.WidthMM), HeightMM: int64(it.HeightMM), Barcode: it.Barcode,
			Lots: it.Lots, PriceMinor: it.PriceMinor, CostMinor: it.CostMinor, Currency: it.Currency,
		}
	}
	return out, err
}

// items are the items of those numbers that there are, or will be, as they will be.
func (c *comparing) items(skus store.Texts) (map[string]*store.ItemRecord, error) {
	out, err := c.itemsHere(skus)
	if err != nil {
		return nil, err
	}
	staged, err := stagedRows[exchange.ItemRow](c, exchange.Items, skus)
	for sku, rows := range staged {
		rec := itemOf(rows[0].V, out[sku])
		out[sku] = &rec
	}
	return out, err
}

// itemOf is an item as a row has it. What a file leaves out stays as it is here; a new item gets the default.
func itemOf(v exchange.ItemRow, old *store.ItemRecord) store.ItemRecord {
	base := store.ItemRecord{Unit: "each", Multiple: 1, Buyable: true, Currency: store.FirmCurrency}
	if old != nil {
		base = *old
	}
	return store.ItemRecord{
		SKU: v.SKU, Name: v.Name, Unit: cmp.Or(v.Unit, base.Unit), Multiple: stated(v.Multiple, base.Multiple),
		LeadDays: stated(v.LeadDays, base.LeadDays),
		Buyable:  stated(v.Buyable, base.Buyable), WeightG: stated(v.WeightG, base.WeightG),
		LengthMM: stated(v.LengthMM, base.LengthMM), WidthMM: stated(v.WidthMM, base.WidthMM),
		HeightMM: stated(v.HeightMM, base.HeightMM), Barcode: cmp.Or(v.Barcode, base.Barcode), Lots: stated(v.Lots, base.Lots),
		PriceMinor: stated(v.PriceMinor, base.PriceMinor),
		CostMinor:  stated(v.CostMinor, base.CostMinor), Currency: cmp.Or(v.Currency, base.Currency),
	}
}

var itemFields = []field[store.ItemRecord]{
	text("name", func(x store.ItemRecord) string { return x.Name }),
	text("unit", func(x store.ItemRecord) string { return x.Unit }),
	number("multiple", func(x store.ItemRecord) int64 { return x.Multiple }),
	number("lead_days", func(x store.ItemRecord) int64 { return x.LeadDays }),
	yes("buyable", func(x store.ItemRecord) bool { return x.Buyable }),
	number("weight in g", func(x store.ItemRecord) int64 { return x.WeightG }),
	number("length in mm", func(x store.ItemRecord) int64 { return x.LengthMM }),
	number("width in mm", func(x store.ItemRecord) int64 { return x.WidthMM }),
	number("height in mm", func(x store.ItemRecord) int64 { return x.HeightMM }),
	text("barcode", func(x store.ItemRecord) string { return x.Barcode }),
	yes("lots", func(x store.ItemRecord) bool { return x.Lots }),
	hundredths("price", func(x store.ItemRecord) int64 { return x.PriceMinor }),
	hundredths("cost", func(x store.ItemRecord) int64 { return x.CostMinor }),
	text("currency", func(x store.ItemRecord) string { return x.Currency }),
}

func (c *comparing) compareItems(f *FileReport, rows []exchange.Row[exchange.ItemRow]) error {
	here, err := c.itemsHere(distinct(rows, func(v exchange.ItemRow) string { return v.SKU }))
	if err != nil {
		return err
	}
	barcodes, err := c.tx.ItemsByBarcode(distinct(rows, func(v exchange.ItemRow) string { return strings.ToLower(v.Barcode) }))
	if err != nil {
		return err
	}
	if c.barcodes == nil {
		c.barcodes = map[string]string{}
	}
	row := map[string]int{}
	var items []store.ItemRecord
	for _, r := range rows {
		v := r.V
		if !first(c, f, row, v.SKU, r.N, "sku", v.SKU, "each item") {
			continue
		}
		if v.Barcode != "" {
			code := strings.ToLower(v.Barcode)
			has := cmp.Or(c.barcodes[code], barcodes[code], v.SKU)
			if c.barcodes[code] = v.SKU; has != v.SKU {
				c.wrong(f, r.N, "barcode", v.Barcode, "a bar code of its own; %s has it", has)
				continue
			}
		}
		if rec := itemOf(v, here[v.SKU]); changes(f, r, v.SKU+" "+v.Name, here[v.SKU], rec, itemFields) {
			items = append(items, rec)
		}
	}
	if c.writing == nil {
		return nil
	}
	return c.tx.PutItems(items, func(int) {})
}

var substituteFields = []field[store.SubstituteRecord]{
	text("kind", func(x store.SubstituteRecord) string { return x.Kind }),
}

func (c *comparing) compareSubstitutes(f *FileReport, rows []exchange.Row[exchange.SubstituteRow]) error {
	skus := distinct(rows, func(v exchange.SubstituteRow) string { return v.SKU })
	items, err := c.items(append(distinct(rows, func(v exchange.SubstituteRow) string { return v.Substitute }), skus...))
	if err != nil {
		return err
	}
	here, err := c.tx.SubstitutesOf(skus)
	if err != nil {
		return err
	}
	old := map[[2]string]*store.SubstituteRecord{}
	for _, x := range here {
		old[[2]string{x.SKU, x.Substitute}] = &x
	}
	row := map[[2]string]int{}
	var instead []store.SubstituteRecord
	for _, r := range rows {
		v := r.V
		if v.Substitute == "" {
			continue
		}
		k := [2]string{v.SKU, v.Substitute}
		switch {
		case items[v.SKU] == nil:
			c.unknown(f, r.N, "sku", v.SKU, "an item", "items")
			continue
		case items[v.Substitute] == nil:
			c.unknown(f, r.N, "substitute", v.Substitute, "an item", "items")
			continue
		case v.SKU == v.Substitute:
			c.wrong(f, r.N, "substitute", v.Substitute, "another item")
			continue
		case !first(c, f, row, k, r.N, "substitute", v.Substitute, "each substitute of an item"):
			continue
		}
		rec := store.SubstituteRecord{SKU: v.SKU, Substitute: v.Substitute, Kind: cmp.Or(v.Kind, "make")}
		if v.Kind == "" && old[k] != nil {
			rec.Kind = old[k].Kind
		}
		if changes(f, r, fmt.Sprintf("%s for %s", v.Substitute, v.SKU), old[k], rec, substituteFields) {
			instead = append(instead, rec)
		}
	}
	if c.writing == nil {
		return nil
	}
	return c.tx.PutSubstitutes(instead, func(int) {})
}
