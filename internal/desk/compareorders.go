package desk

import (
	"fmt"
	"strings"

	"journeyman/core/price"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

type lineKey struct {
	order string
	line  int64
}

// compareOrders finds the orders and lines that are new. An order that is here
// already is never changed by a file: people have worked on it since.
func (c *comparing) compareOrders() error {
	f, ok := c.file(exchange.Orders, len(c.batch.Orders))
	if !ok {
		return nil
	}
	numbers := distinct(c.batch.Orders, func(r exchange.OrderRow) string { return r.Order })
	heads, err := c.r.OrderRecords(numbers)
	if err != nil {
		return err
	}
	old := map[string]store.OrderRecord{}
	for _, o := range heads {
		old[o.Number] = o
	}
	oldLines, err := c.r.LineRecords(numbers)
	if err != nil {
		return err
	}
	oldLine := map[lineKey]store.LineRecord{}
	for _, l := range oldLines {
		oldLine[lineKey{l.Number, l.Line}] = l
	}
	first := map[string]exchange.Row[exchange.OrderRow]{}
	row := map[lineKey]int{}
	for _, r := range c.batch.Orders {
		v := r.V
		if v.Order == "" || v.Line == 0 || v.SKU == "" || v.Customer == "" || v.Qty == 0 || v.Wanted == "" {
			continue // the missing value is a fault already
		}
		k := lineKey{v.Order, v.Line}
		if row[k] != 0 {
			c.fault(f, r.N, "line", fmt.Sprint(v.Line), "each line of an order once; it stands in row %d already", row[k])
			continue
		}
		row[k] = r.N
		one, again := first[v.Order]
		if again {
			if column, same := one.V.SameOrder(v); !same {
				c.fault(f, r.N, column, "", "the same as in row %d, which is of the same order", one.N)
				continue
			}
		} else {
			first[v.Order] = r
		}
		what := fmt.Sprintf("%s line %d, %d of %s", v.Order, v.Line, v.Qty, v.SKU)
		if head, known := old[v.Order]; known {
			c.compareKnown(f, r, head, oldLine, what)
			continue
		}
		rec, line, ok := c.newLine(f, r)
		if !ok {
			continue
		}
		if !again {
			c.orders = append(c.orders, rec)
		}
		f.note(r.N, what, "new", "")
		c.lines = append(c.lines, line)
	}
	return nil
}

func (c *comparing) compareKnown(f *FileReport, r exchange.Row[exchange.OrderRow], head store.OrderRecord, lines map[lineKey]store.LineRecord, what string) {
	v := r.V
	l, known := lines[lineKey{v.Order, v.Line}]
	if !known {
		c.fault(f, r.N, "line", fmt.Sprint(v.Line), "a line that order %s has; an order that is here is not added to by a file", v.Order)
		return
	}
	var d differ
	d.text("customer", head.Customer, v.Customer)
	d.text("wanted", head.Wanted, v.Wanted)
	d.text("sku", l.SKU, v.SKU)
	d.num("qty", l.Qty, v.Qty)
	if v.ShipTo != "" {
		d.text("ship_to", head.ShipTo, v.ShipTo)
	}
	if v.Warehouse != "" {
		d.text("warehouse", l.Warehouse, v.Warehouse)
	}
	if v.ShipBy != "" {
		d.text("ship_by", l.ShipBy, v.ShipBy)
	}
	if v.Price != nil {
		d.money("price", l.PriceMinor, *v.Price)
	}
	if len(d) == 0 {
		f.note(r.N, what, "unchanged", "")
		return
	}
	f.note(r.N, what, "kept", "is here and stays as it is; the file says "+strings.Join(d, "; "))
}

// newLine is the row as an order and a line, with the customer's and item's defaults.
func (c *comparing) newLine(f *FileReport, r exchange.Row[exchange.OrderRow]) (store.OrderRecord, store.LineRecord, bool) {
	v := r.V
	cust := c.customer[v.Customer]
	if cust == nil {
		c.fault(f, r.N, "customer", v.Customer, "a customer that exists or is in the customers file")
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	it := c.item[v.SKU]
	if it == nil {
		c.fault(f, r.N, "sku", v.SKU, "an item that exists or is in the items file")
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	ship := or(v.ShipTo, c.firstShip[v.Customer])
	if c.shipTo[[2]string{v.Customer, ship}] == nil {
		c.fault(f, r.N, "ship_to", v.ShipTo, "a ship-to of customer %s", v.Customer)
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	house := or(v.Warehouse, cust.Warehouse)
	if !c.house[house] {
		c.fault(f, r.N, "warehouse", house, "a warehouse that exists or is in the stock file, here or as the customer's own")
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	entered := v.Entered
	if entered.IsZero() {
		entered = c.d.now().UTC()
	}
	o := store.OrderRecord{
		Number: v.Order, Customer: v.Customer, ShipTo: ship, Channel: v.Channel, CustomerRef: v.CustomerRef, Tier: or(v.Tier, cust.Tier),
		Urgency: or(v.Urgency, 3), ShipRule: or(v.ShipRule, cust.ShipRule), Service: or(v.Service, cust.Service), Terms: or(v.Terms, cust.Terms),
		Entered: entered, Wanted: v.Wanted, Note: v.Note, Hold: v.Hold, HoldNote: v.HoldNote,
	}
	l := store.LineRecord{
		Number: v.Order, Line: v.Line, SKU: v.SKU, Warehouse: house, Qty: v.Qty, ShipBy: or(v.ShipBy, v.Wanted),
		PriceMinor: price.Net(it.PriceMinor, int(cust.Discount)), ListMinor: it.PriceMinor, DiscountBP: cust.Discount, CostMinor: it.CostMinor,
	}
	if v.Price != nil {
		l.PriceMinor, l.ListMinor, l.DiscountBP = *v.Price, *v.Price, 0
	}
	if v.Cost != nil {
		l.CostMinor = *v.Cost
	}
	return o, l, true
}
