package importing

import (
	"cmp"
	"fmt"
	"strings"

	"journeyman/core/days"
	"journeyman/core/price"
	"journeyman/core/shipping"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

type lineKey struct {
	order string
	line  int64
}

// ordersAbout is what rows of orders are compared with.
type ordersAbout struct {
	old       map[string]store.OrderRecord
	oldLine   map[lineKey]store.LineRecord
	item      map[string]*store.ItemRecord
	customer  map[string]*store.CustomerRecord
	shipTo    map[[2]string]*store.ShipToRecord
	firstShip map[string]string
}

func (c *comparing) aboutOrders(rows []exchange.Row[exchange.OrderRow]) (x ordersAbout, err error) {
	numbers := distinct(rows, func(v exchange.OrderRow) string { return v.Order })
	heads, err := c.tx.OrderRecords(numbers)
	if err != nil {
		return x, err
	}
	x.old, x.oldLine = map[string]store.OrderRecord{}, map[lineKey]store.LineRecord{}
	for _, o := range heads {
		x.old[o.Number] = o
	}
	lines, err := c.tx.LineRecords(numbers)
	if err != nil {
		return x, err
	}
	for _, l := range lines {
		x.oldLine[lineKey{l.Number, l.Line}] = l
	}
	if x.item, err = c.items(distinct(rows, func(v exchange.OrderRow) string { return v.SKU })); err != nil {
		return x, err
	}
	x.customer, x.shipTo, x.firstShip, err = c.customersToBe(distinct(rows, func(v exchange.OrderRow) string { return v.Customer }))
	return x, err
}

// compareOrders finds the orders and lines that are new. An order that is here
// already is never changed by a file: people have worked on it since.
func (c *comparing) compareOrders(f *FileReport, rows []exchange.Row[exchange.OrderRow]) error {
	about, err := c.aboutOrders(rows)
	if err != nil {
		return err
	}
	if c.way == nil {
		if c.way, err = c.ways(); err != nil {
			return err
		}
	}
	heads := map[string]exchange.Row[exchange.OrderRow]{}
	row := map[lineKey]int{}
	worth := map[string]int64{}
	var orders []store.OrderRecord
	var lines []store.LineRecord
	at := map[string]int{} // of each order among those
	for _, r := range rows {
		v := r.V
		if v.Line == 0 || v.SKU == "" || v.Customer == "" || v.Qty == 0 || v.Wanted == "" {
			continue // the missing value is a fault already
		}
		k := lineKey{v.Order, v.Line}
		if !first(c, f, row, k, r.N, "line", fmt.Sprint(v.Line), "each line of an order") {
			continue
		}
		one, again := heads[v.Order]
		if again {
			if column, same := one.V.SameOrder(v); !same {
				c.found.Fault(exchange.Fault{
					File: f.File, Row: r.N, Column: column, Expected: words.Say("the same as in row %d, which is of the same order", one.N),
					Mend: words.Say("Say it alike in every row of an order, or leave the column out."),
				})
				continue
			}
		} else {
			heads[v.Order] = r
		}
		what := fmt.Sprintf("%s line %d, %d of %s", v.Order, v.Line, v.Qty, v.SKU)
		if head, known := about.old[v.Order]; known {
			c.compareKnown(f, r, head, about.oldLine, what)
			continue
		}
		rec, line, ok := c.newLine(f, r, &about)
		if !ok {
			continue
		}
		value, ok := price.Value(line.Qty, max(line.PriceMinor, line.CostMinor))
		if worth[v.Order] += value; !ok || worth[v.Order] > price.MostOrder {
			c.wrong(f, r.N, "qty", fmt.Sprint(v.Qty), "an order worth at most %s", words.Money(price.MostOrder, rec.Currency))
			continue
		}
		if n, begun := at[v.Order]; !begun {
			at[v.Order] = len(orders)
			orders = append(orders, rec)
		} else if orders[n].Currency != rec.Currency {
			c.wrong(f, r.N, "sku", v.SKU, "an item that is sold in %s, as the others of order %s; it is sold in %s",
				orders[n].Currency, v.Order, rec.Currency)
			continue
		}
		f.note(r.N, what, "new", "")
		lines = append(lines, line)
	}
	if c.writing == nil {
		return nil
	}
	if err := c.tx.PutOrders(orders, func(int) {}); err != nil {
		return err
	}
	if err := c.tx.PutLines(lines, c.writing.ID, func(int) {}); err != nil {
		return err
	}
	if c.lines += len(lines); c.lines >= c.estimateAt {
		if err := c.tx.EstimateOrders(); err != nil {
			return err
		}
		c.estimateAt = 2 * c.lines
	}
	for _, l := range lines {
		c.units += l.Qty
	}
	return c.tx.PutHolds(orders, c.writing.ID)
}

// knownLine is a line that is here, with its order.
type knownLine struct {
	head store.OrderRecord
	line store.LineRecord
}

var knownFields = []field[knownLine]{
	text("customer", func(x knownLine) string { return x.head.Customer }),
	text("wanted", func(x knownLine) string { return x.head.Wanted }),
	text("sku", func(x knownLine) string { return x.line.SKU }),
	number("qty", func(x knownLine) int64 { return x.line.Qty }),
	text("ship_to", func(x knownLine) string { return x.head.ShipTo }),
	text("warehouse", func(x knownLine) string { return x.line.Warehouse }),
	text("ship_by", func(x knownLine) string { return x.line.ShipBy }),
	hundredths("price", func(x knownLine) int64 { return x.line.PriceMinor }),
}

// compareKnown says how a row differs from the line that is here, which stays as it is.
func (c *comparing) compareKnown(
	f *FileReport, r exchange.Row[exchange.OrderRow], head store.OrderRecord, lines map[lineKey]store.LineRecord, what string,
) {
	v := r.V
	l, known := lines[lineKey{v.Order, v.Line}]
	if !known {
		c.wrong(f, r.N, "line", fmt.Sprint(v.Line), "a line that order %s has; an order that is here is not added to by a file", v.Order)
		return
	}
	here := knownLine{head, l}
	there := here
	there.head.Customer, there.head.Wanted, there.line.SKU, there.line.Qty = v.Customer, v.Wanted, v.SKU, v.Qty
	there.head.ShipTo, there.line.Warehouse = cmp.Or(v.ShipTo, head.ShipTo), cmp.Or(v.Warehouse, l.Warehouse)
	there.line.ShipBy, there.line.PriceMinor = cmp.Or(v.ShipBy, l.ShipBy), stated(v.Price, l.PriceMinor)
	d := differences(knownFields, here, there)
	if len(d) == 0 {
		f.note(r.N, what, "unchanged", "")
		return
	}
	f.note(r.N, what, "kept", "is here and stays as it is; the file says "+strings.Join(d, "; "))
}

// newLine is the row as an order and a line, with the customer's and item's defaults.
func (c *comparing) newLine(f *FileReport, r exchange.Row[exchange.OrderRow], about *ordersAbout) (store.OrderRecord,
	store.LineRecord, bool,
) {
	v := r.V
	cust := about.customer[v.Customer]
	if cust == nil {
		c.unknown(f, r.N, "customer", v.Customer, "a customer", "customers")
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	it := about.item[v.SKU]
	if it == nil {
		c.unknown(f, r.N, "sku", v.SKU, "an item", "items")
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	ship := cmp.Or(v.ShipTo, about.firstShip[v.Customer])
	to := about.shipTo[[2]string{v.Customer, ship}]
	if to == nil {
		c.wrong(f, r.N, "ship_to", v.ShipTo, "a ship-to of customer %s", v.Customer)
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	house := cmp.Or(v.Warehouse, cust.Warehouse)
	if !c.house[house] {
		c.wrong(f, r.N, "warehouse", house, "a warehouse that exists or is in the stock file, here or as the customer's own")
		return store.OrderRecord{}, store.LineRecord{}, false
	}
	entered := v.Entered
	if entered.IsZero() {
		entered = c.d.Now().UTC()
	}
	o := store.OrderRecord{
		Number: v.Order, Customer: v.Customer, ShipTo: ship, Channel: v.Channel, CustomerRef: v.CustomerRef,
		Tier:    cmp.Or(v.Tier, cust.Tier),
		Urgency: cmp.Or(v.Urgency, 3), ShipRule: cmp.Or(v.ShipRule, cust.ShipRule), Service: cmp.Or(v.Service, cust.Service),
		Terms:   cmp.Or(v.Terms, cust.Terms),
		Entered: entered, Wanted: v.Wanted, NotBefore: v.NotBefore, Currency: it.Currency, Note: v.Note, Hold: v.Hold, HoldNote: v.HoldNote,
	}
	l := store.LineRecord{
		Number: v.Order, Line: v.Line, SKU: v.SKU, Warehouse: house, Qty: v.Qty,
		ShipBy:     max(cmp.Or(v.ShipBy, c.way.shipBy(house, o.Service, to, v.Wanted)), v.NotBefore),
		PriceMinor: price.Net(it.PriceMinor, int(cust.Discount)), ListMinor: it.PriceMinor, DiscountBP: cust.Discount,
		CostMinor: it.CostMinor,
	}
	if v.Price != nil {
		l.PriceMinor, l.ListMinor, l.DiscountBP = *v.Price, *v.Price, 0
	}
	if v.Cost != nil {
		l.CostMinor = *v.Cost
	}
	return o, l, true
}

// ways is how goods get from the warehouses to an address, read once for all orders of a file.
type ways struct {
	docks   map[string]days.Dock
	usual   days.Dock
	network *shipping.Network
}

func (c *comparing) ways() (*ways, error) {
	houses, err := c.tx.Warehouses()
	if err != nil {
		return nil, err
	}
	docks, err := c.d.supply.Docks(&c.tx.Reader, houses)
	if err != nil {
		return nil, err
	}
	w := &ways{docks: map[string]days.Dock{}, usual: days.Dock{Calendar: c.d.supply.Calendar()}}
	for _, h := range houses {
		w.docks[h.Code] = docks[h.ID]
	}
	w.network, err = c.d.supply.Network(&c.tx.Reader)
	return w, err
}

// shipBy is the day by which it has to leave to be there on the wanted day: the rule of entering an order (drafting.line).
func (w *ways) shipBy(house, service string, to *store.ShipToRecord, wanted string) string {
	day, err := days.Parse(wanted)
	if err != nil {
		return wanted
	}
	dock, known := w.docks[house]
	if !known {
		dock = w.usual // it comes in the same import
	}
	takes, _ := w.network.Takes(cmp.Or(service, shipping.UsualService), to.Country, to.Postcode)
	return takes.ShipBy(dock, day).String()
}
