package importing

import (
	"cmp"
	"fmt"
	"strings"

	"journeyman/core/release"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// count is by how much a bin's stock differs from the file.
type count struct {
	warehouse, sku, bin string
	onHand, held        int64
}

// mostBreaks is of how many items a count may leave fewer than are allocated.
const mostBreaks = 1000

var binFields = []field[store.BinRecord]{
	number("on hand", func(x store.BinRecord) int64 { return x.Qty }),
	number("held", func(x store.BinRecord) int64 { return x.Held }),
}

func (c *comparing) compareStock(f *FileReport, rows []exchange.Row[exchange.StockRow]) error {
	skus := distinct(rows, func(v exchange.StockRow) string { return v.SKU })
	items, err := c.items(skus)
	if err != nil {
		return err
	}
	binRecords, err := c.tx.BinRecords(skus)
	if err != nil {
		return err
	}
	type key struct{ warehouse, sku, bin string }
	here := map[key]store.BinRecord{}
	for _, b := range binRecords {
		here[key{b.Warehouse, b.SKU, b.Bin}] = b
	}
	named := make([]store.BinSet, len(rows))
	for i, r := range rows {
		named[i] = store.BinSet{Warehouse: r.V.Warehouse, Code: r.V.Bin}
	}
	keys, err := c.tx.BinKeys(named)
	if err != nil {
		return err
	}
	waiting, err := c.tx.PutBackPlaces()
	if err != nil {
		return err
	}
	row := map[key]int{}
	spare := map[[2]string]int64{} // by how much free stock falls, per item and warehouse
	last := map[[2]string]int{}
	var bins []store.BinSet
	var counts []count
	for _, r := range rows {
		v := r.V
		if v.Warehouse == "" {
			continue
		}
		if items[v.SKU] == nil {
			c.unknown(f, r.N, "sku", v.SKU, "an item", "items")
			continue
		}
		if !c.house[v.Warehouse] {
			c.wrong(f, r.N, "warehouse", v.Warehouse, "one of at most %d warehouses", mostHouses)
			continue
		}
		if waiting[[2]string{v.Warehouse, v.Bin}] || store.IsPutBackName(v.Bin) {
			c.wrong(f, r.N, "bin", v.Bin, "another bin: in this one recalled units wait to be put back")
			continue
		}
		k := key{v.Warehouse, v.SKU, v.Bin}
		if !first(c, f, row, k, r.N, "bin", v.Bin, "each bin of an item") {
			continue
		}
		old := here[k]
		if !c.binFits(f, r, old) {
			continue
		}
		if _, known := keys[[2]string{v.Warehouse, v.Bin}]; !known || v.Zone != "" {
			bins = append(bins, store.BinSet{Warehouse: v.Warehouse, Code: v.Bin, Zone: cmp.Or(v.Zone, release.ZoneOf(v.Bin))})
		}
		cellKey := [2]string{v.SKU, v.Warehouse}
		spare[cellKey] += (v.OnHand - v.Held) - (old.Qty - old.Held)
		last[cellKey] = r.N
		if noteBin(f, r, old) {
			counts = append(counts, count{v.Warehouse, v.SKU, v.Bin, v.OnHand - old.Qty, v.Held - old.Held})
		}
	}
	if c.writing == nil {
		return c.checkFree(f, skus, spare, last)
	}
	if err := c.tx.PutBins(bins); err != nil {
		return err
	}
	return putCounts(c.writing, counts, named)
}

// binFits says whether a bin may have what the file says: not more held than there is, and not fewer than pick lists still take.
func (c *comparing) binFits(f *FileReport, r exchange.Row[exchange.StockRow], old store.BinRecord) bool {
	v := r.V
	switch {
	case v.Held > v.OnHand:
		c.wrong(f, r.N, "held", fmt.Sprint(v.Held), "at most what is on hand, %d", v.OnHand)
	case v.Held < old.Aside:
		c.wrong(
			f, r.N, "held", fmt.Sprint(v.Held),
			"at least %d, which are of lots that must not be sent: write them off, or lift that, on the page of lots", old.Aside,
		)
	case v.OnHand-v.Held < old.Due:
		c.wrong(
			f, r.N, "on_hand", fmt.Sprint(v.OnHand),
			"at least %d, which pick lists still take from this bin: recall them first, or finish picking", old.Due+v.Held,
		)
	default:
		return true
	}
	return false
}

// noteBin notes what the file does to a bin, and says whether it does anything.
func noteBin(f *FileReport, r exchange.Row[exchange.StockRow], old store.BinRecord) bool {
	v := r.V
	what := strings.TrimSpace(fmt.Sprintf("%s %s %s", v.SKU, v.Warehouse, v.Bin))
	there := old
	there.Qty, there.Held = v.OnHand, v.Held
	d := differences(binFields, old, there)
	switch {
	case len(d) == 0 && (old.Warehouse != "" || v.OnHand == 0):
		f.note(r.N, what, "unchanged", "")
		return false
	case old.Warehouse == "":
		f.note(r.N, what, "new", fmt.Sprintf("on hand: %d", v.OnHand))
	default:
		f.note(r.N, what, "changed", strings.Join(d, "; "))
	}
	return true
}

// mostHouses is how many warehouses there may be.
const mostHouses = 200

// checkFree finds the items of which the count would leave fewer than are spoken for.
func (c *comparing) checkFree(f *FileReport, skus store.Texts, spare map[[2]string]int64, last map[[2]string]int) error {
	cells, err := c.tx.FreeOf(skus)
	if err != nil {
		return err
	}
	for _, x := range cells {
		k := [2]string{x.SKU, x.Warehouse}
		switch after := x.Free + spare[k]; {
		case after >= 0:
		case after+x.Allocated >= 0 && len(c.breaks) < mostBreaks: // what is allocated can be given back
			c.breaks = append(c.breaks, StockBreak{SKU: x.SKU, Warehouse: x.Warehouse, Allocated: x.Allocated, Left: after + x.Allocated})
		case after+x.Allocated >= 0:
			c.wrong(f, last[k], "on_hand", "", "fewer than are allocated of at most %d items; count them in parts", mostBreaks)
		default:
			c.wrong(f, last[k], "on_hand", "", "%s at %s to keep at least the %d that are on pick lists and not yet picked; this "+
				"count is %d short: recall them first, or finish picking",
				x.SKU, x.Warehouse, x.Spoken-x.Allocated, -(after + x.Allocated))
		}
	}
	return nil
}
