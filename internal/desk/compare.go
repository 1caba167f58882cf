package desk

import (
	"fmt"
	"slices"
	"strings"

	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// importing is what has to be written so that the database says what the files say.
type importing struct {
	batch     *exchange.Batch
	files     []FileReport
	houses    []store.Warehouse
	items     []store.ItemRecord
	instead   []store.SubstituteRecord
	zones     []store.ZoneRule
	transit   []store.Transit
	customers []store.CustomerRecord
	shipTos   []store.ShipToRecord
	inbound   []store.InboundRecord
	orders    []store.OrderRecord
	lines     []store.LineRecord
	bins      []store.BinSet
	counts    []count
	breaks    []StockBreak
}

// count is by how much a bin's stock differs from the file.
type count struct {
	warehouse, sku, bin string
	onHand, held        int64
}

// comparing is the state of one comparison: what will be known once the files are applied.
type comparing struct {
	importing
	d         *Desk
	r         *store.Reader
	book      bookOf
	house     map[string]bool
	item      map[string]*store.ItemRecord
	customer  map[string]*store.CustomerRecord
	shipTo    map[[2]string]*store.ShipToRecord
	firstShip map[string]string
}

// compare finds what the files would change, and the faults that only the database
// can show. Files are compared in the order in which they would be applied, so an
// order may name an item that comes in the same import.
func compare(r *store.Reader, d *Desk, b *exchange.Batch, book bookOf, step func(int)) (*importing, error) {
	fresh := *b
	fresh.Faults = slices.Clone(b.Faults)
	c := &comparing{
		importing: importing{batch: &fresh}, d: d, r: r, book: book, house: map[string]bool{}, item: map[string]*store.ItemRecord{},
		customer: map[string]*store.CustomerRecord{}, shipTo: map[[2]string]*store.ShipToRecord{}, firstShip: map[string]string{},
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	for _, h := range houses {
		c.house[h.Code] = true
	}
	done := 0
	for _, part := range []struct {
		rows int
		do   func() error
	}{
		{len(b.Items), c.compareItems},
		{len(b.Substitutes), c.compareSubstitutes},
		{len(b.Zones), c.compareZones},
		{len(b.Stock), c.compareStock},
		{len(b.Customers), c.compareCustomers},
		{len(b.Inbound), c.compareInbound},
		{len(b.Orders), c.compareOrders},
	} {
		if err := part.do(); err != nil {
			return nil, err
		}
		done += part.rows
		step(done)
	}
	if err := c.recount(); err != nil {
		return nil, err
	}
	return &c.importing, nil
}

func (im *importing) report(key string) ImportReport {
	r := ImportReport{Key: key, Files: im.files, Faults: im.batch.Faults, Faulty: im.batch.Faulty}
	if r.Files == nil {
		r.Files = []FileReport{}
	}
	if r.Breaks = im.breaks; r.Breaks == nil {
		r.Breaks = []StockBreak{}
	}
	if r.Faults == nil {
		r.Faults = []exchange.Fault{}
	}
	for _, f := range im.files {
		r.Does += f.New + f.Changed
	}
	return r
}

// file begins the report of a file, if there is one of that kind.
func (c *comparing) file(k exchange.Kind, rows int) (*FileReport, bool) {
	name, ok := c.batch.Names[k]
	if !ok {
		return nil, false
	}
	c.files = append(c.files, FileReport{File: name, Kind: k, Rows: rows, Effects: []Effect{}})
	return &c.files[len(c.files)-1], true
}

func (c *comparing) fault(f *FileReport, row int, column, got, expected string, args ...any) {
	c.batch.Fault(exchange.Fault{File: f.File, Row: row, Column: column, Got: got, Expected: fmt.Sprintf(expected, args...)})
}

// note counts a row and keeps it for the report, those that change something first.
func (f *FileReport) note(row int, what, does, notes string) {
	switch does {
	case "new":
		f.New++
	case "changed":
		f.Changed++
	case "kept":
		f.Kept++
	default:
		f.Unchanged++
	}
	e := Effect{row, what, does, notes}
	switch {
	case len(f.Effects) < mostEffects:
		f.Effects = append(f.Effects, e)
	case does != "unchanged":
		if i := slices.IndexFunc(f.Effects, func(x Effect) bool { return x.Does == "unchanged" }); i >= 0 {
			f.Effects[i] = e
		}
	}
}

// differ lists what two records say differently, as "name: here → in the file".
type differ []string

func (d *differ) text(name, here, there string) {
	if here != there {
		*d = append(*d, fmt.Sprintf("%s: %s → %s", name, quoted(here), quoted(there)))
	}
}

func (d *differ) num(name string, here, there int64) {
	d.text(name, fmt.Sprint(here), fmt.Sprint(there))
}

func (d *differ) money(name string, here, there int64) {
	d.text(name, fmt.Sprintf("%d.%02d", here/100, here%100), fmt.Sprintf("%d.%02d", there/100, there%100))
}

func quoted(s string) string {
	if s == "" {
		return "nothing"
	}
	return s
}

// stated is what the file says, or what holds if it says nothing.
func stated[T any](v *T, fallback T) T {
	if v == nil {
		return fallback
	}
	return *v
}

func or[T comparable](v, fallback T) T {
	var zero T
	if v == zero {
		return fallback
	}
	return v
}

func (c *comparing) compareItems() error {
	// Every file names items: those that exist are read once, for all of them.
	skus := distinct(c.batch.Items, func(r exchange.ItemRow) string { return r.SKU })
	skus = append(skus, distinct(c.batch.Substitutes, func(r exchange.SubstituteRow) string { return r.SKU })...)
	skus = append(skus, distinct(c.batch.Substitutes, func(r exchange.SubstituteRow) string { return r.Substitute })...)
	skus = append(skus, distinct(c.batch.Stock, func(r exchange.StockRow) string { return r.SKU })...)
	skus = append(skus, distinct(c.batch.Inbound, func(r exchange.InboundRow) string { return r.SKU })...)
	skus = append(skus, distinct(c.batch.Orders, func(r exchange.OrderRow) string { return r.SKU })...)
	here, err := c.r.ItemsBySKU(skus)
	if err != nil {
		return err
	}
	for _, it := range here {
		c.item[it.SKU] = &store.ItemRecord{
			SKU: it.SKU, Name: it.Name, Unit: it.Unit, Multiple: it.Multiple, LeadDays: int64(it.LeadDays), Buyable: it.Buyable,
			WeightG: it.WeightG, PriceMinor: it.PriceMinor, CostMinor: it.CostMinor, Currency: it.Currency,
		}
	}
	f, ok := c.file(exchange.Items, len(c.batch.Items))
	if !ok {
		return nil
	}
	row := map[string]int{}
	for _, r := range c.batch.Items {
		v := r.V
		if v.SKU == "" {
			continue
		}
		if first := row[v.SKU]; first != 0 {
			c.fault(f, r.N, "sku", v.SKU, "each item once; it stands in row %d already", first)
			continue
		}
		row[v.SKU] = r.N
		// What a file leaves out stays as it is here; a new item gets the default.
		old := c.item[v.SKU]
		base := store.ItemRecord{Unit: "each", Multiple: 1, Buyable: true, Currency: "GBP"}
		if old != nil {
			base = *old
		}
		rec := store.ItemRecord{
			SKU: v.SKU, Name: v.Name, Unit: or(v.Unit, base.Unit), Multiple: stated(v.Multiple, base.Multiple), LeadDays: stated(v.LeadDays, base.LeadDays),
			Buyable: stated(v.Buyable, base.Buyable), WeightG: stated(v.WeightG, base.WeightG), PriceMinor: stated(v.PriceMinor, base.PriceMinor),
			CostMinor: stated(v.CostMinor, base.CostMinor), Currency: or(v.Currency, base.Currency),
		}
		if old == nil {
			f.note(r.N, v.SKU+" "+v.Name, "new", "")
		} else {
			var d differ
			d.text("name", old.Name, rec.Name)
			d.text("unit", old.Unit, rec.Unit)
			d.num("multiple", old.Multiple, rec.Multiple)
			d.num("lead_days", old.LeadDays, rec.LeadDays)
			d.text("buyable", fmt.Sprint(old.Buyable), fmt.Sprint(rec.Buyable))
			d.num("weight in g", old.WeightG, rec.WeightG)
			d.money("price", old.PriceMinor, rec.PriceMinor)
			d.money("cost", old.CostMinor, rec.CostMinor)
			d.text("currency", old.Currency, rec.Currency)
			if len(d) == 0 {
				f.note(r.N, v.SKU+" "+v.Name, "unchanged", "")
				continue
			}
			f.note(r.N, v.SKU+" "+v.Name, "changed", strings.Join(d, "; "))
		}
		c.item[v.SKU] = &rec
		c.items = append(c.items, rec)
	}
	return nil
}

func (c *comparing) compareStock() error {
	f, ok := c.file(exchange.Stock, len(c.batch.Stock))
	if !ok {
		return nil
	}
	bins, err := c.r.BinRecords(skusOfStock(c.batch))
	if err != nil {
		return err
	}
	type key struct{ warehouse, sku, bin string }
	here := map[key]store.BinRecord{}
	for _, b := range bins {
		here[key{b.Warehouse, b.SKU, b.Bin}] = b
	}
	keys, err := c.r.BinKeys()
	if err != nil {
		return err
	}
	row := map[key]int{}
	spare := map[[2]string]int64{} // by how much free stock falls, per item and warehouse
	last := map[[2]string]int{}
	for _, r := range c.batch.Stock {
		v := r.V
		if v.SKU == "" || v.Warehouse == "" {
			continue
		}
		if c.item[v.SKU] == nil {
			c.fault(f, r.N, "sku", v.SKU, "an item that exists or is in the items file")
			continue
		}
		if !c.house[v.Warehouse] {
			c.house[v.Warehouse] = true
			c.houses = append(c.houses, store.Warehouse{Code: v.Warehouse, Name: or(v.WarehouseName, v.Warehouse)})
		}
		k := key{v.Warehouse, v.SKU, v.Bin}
		if first := row[k]; first != 0 {
			c.fault(f, r.N, "bin", v.Bin, "each bin of an item once; it stands in row %d already", first)
			continue
		}
		row[k] = r.N
		old := here[k]
		switch {
		case v.Held > v.OnHand:
			c.fault(f, r.N, "held", fmt.Sprint(v.Held), "at most what is on hand, %d", v.OnHand)
			continue
		case v.OnHand-v.Held < old.Due:
			c.fault(f, r.N, "on_hand", fmt.Sprint(v.OnHand), "at least %d, which pick lists still take from this bin: recall them first, or finish picking", old.Due+v.Held)
			continue
		}
		if _, known := keys[[2]string{v.Warehouse, v.Bin}]; !known || v.Zone != "" {
			c.bins = append(c.bins, store.BinSet{Warehouse: v.Warehouse, Code: v.Bin, Zone: or(v.Zone, ZoneOf(v.Bin))})
		}
		what := strings.TrimSpace(fmt.Sprintf("%s %s %s", v.SKU, v.Warehouse, v.Bin))
		var d differ
		d.num("on hand", old.Qty, v.OnHand)
		d.num("held", old.Held, v.Held)
		cellKey := [2]string{v.SKU, v.Warehouse}
		spare[cellKey] += (v.OnHand - v.Held) - (old.Qty - old.Held)
		last[cellKey] = r.N
		switch {
		case len(d) == 0 && (old.Warehouse != "" || v.OnHand == 0):
			f.note(r.N, what, "unchanged", "")
			continue
		case old.Warehouse == "":
			f.note(r.N, what, "new", fmt.Sprintf("on hand: %d", v.OnHand))
		default:
			f.note(r.N, what, "changed", strings.Join(d, "; "))
		}
		c.counts = append(c.counts, count{v.Warehouse, v.SKU, v.Bin, v.OnHand - old.Qty, v.Held - old.Held})
	}
	return c.checkFree(f, spare, last)
}

// checkFree finds the items of which the count would leave fewer than are spoken for.
func (c *comparing) checkFree(f *FileReport, spare map[[2]string]int64, last map[[2]string]int) error {
	cells, err := c.r.FreeOf(skusOfStock(c.batch))
	if err != nil {
		return err
	}
	for _, x := range cells {
		k := [2]string{x.SKU, x.Warehouse}
		switch after := x.Free + spare[k]; {
		case after >= 0:
		case after+x.Allocated >= 0: // what is allocated can be given back
			c.breaks = append(c.breaks, StockBreak{SKU: x.SKU, Warehouse: x.Warehouse, Allocated: x.Allocated, Left: after + x.Allocated})
		default:
			c.fault(f, last[k], "on_hand", "", "%s at %s to keep at least the %d that are on pick lists and not yet picked; this count is %d short: recall them first, or finish picking",
				x.SKU, x.Warehouse, x.Spoken-x.Allocated, -(after + x.Allocated))
		}
	}
	return nil
}

func (c *comparing) compareSubstitutes() error {
	f, ok := c.file(exchange.Substitutes, len(c.batch.Substitutes))
	if !ok {
		return nil
	}
	here, err := c.r.SubstitutesOf(distinct(c.batch.Substitutes, func(r exchange.SubstituteRow) string { return r.SKU }))
	if err != nil {
		return err
	}
	old := map[[2]string]string{}
	for _, x := range here {
		old[[2]string{x.SKU, x.Substitute}] = x.Kind
	}
	row := map[[2]string]int{}
	for _, r := range c.batch.Substitutes {
		v := r.V
		if v.SKU == "" || v.Substitute == "" {
			continue
		}
		k := [2]string{v.SKU, v.Substitute}
		switch {
		case c.item[v.SKU] == nil:
			c.fault(f, r.N, "sku", v.SKU, "an item that exists or is in the items file")
			continue
		case c.item[v.Substitute] == nil:
			c.fault(f, r.N, "substitute", v.Substitute, "an item that exists or is in the items file")
			continue
		case v.SKU == v.Substitute:
			c.fault(f, r.N, "substitute", v.Substitute, "another item")
			continue
		case row[k] != 0:
			c.fault(f, r.N, "substitute", v.Substitute, "each substitute of an item once; it stands in row %d already", row[k])
			continue
		}
		row[k] = r.N
		rec := store.SubstituteRecord{SKU: v.SKU, Substitute: v.Substitute, Kind: or(v.Kind, or(old[k], "make"))}
		what := fmt.Sprintf("%s for %s", v.Substitute, v.SKU)
		switch was := old[k]; was {
		case rec.Kind:
			f.note(r.N, what, "unchanged", "")
			continue
		case "":
			f.note(r.N, what, "new", "")
		default:
			f.note(r.N, what, "changed", fmt.Sprintf("kind: %s → %s", was, rec.Kind))
		}
		c.instead = append(c.instead, rec)
	}
	return nil
}

func (c *comparing) compareZones() error {
	f, ok := c.file(exchange.Zones, len(c.batch.Zones))
	if !ok {
		return nil
	}
	rules, transit, err := c.r.Zones()
	if err != nil {
		return err
	}
	services, err := c.r.Services("", "")
	if err != nil {
		return err
	}
	place, days := map[[2]string]string{}, map[[2]string]int{}
	for _, z := range rules {
		place[[2]string{z.Country, z.Prefix}] = z.Zone
	}
	for _, x := range transit {
		days[[2]string{x.Service, x.Zone}] = x.Days
	}
	for _, r := range c.batch.Zones {
		v := r.V
		if v.Zone == "" {
			continue
		}
		known := slices.ContainsFunc(services, func(s store.Service) bool { return s.Code == v.Service })
		switch {
		case v.Country == "" && v.Service == "":
			c.fault(f, r.N, "country", "", "a country whose places lie in the zone, or a service and its days")
			continue
		case v.Service != "" && !known:
			c.fault(f, r.N, "service", v.Service, "a service that exists")
			continue
		case (v.Service == "") != (v.Days == nil):
			c.fault(f, r.N, "days", "", "the working days of the service, and the service to which they belong")
			continue
		}
		var d differ
		fresh := false
		if v.Country != "" {
			k := [2]string{v.Country, v.Postcode}
			was, here := place[k]
			fresh = fresh || !here
			d.text("zone", was, v.Zone)
			if was != v.Zone {
				c.zones = append(c.zones, store.ZoneRule{Country: v.Country, Prefix: v.Postcode, Zone: v.Zone})
				place[k] = v.Zone
			}
		}
		if v.Days != nil {
			k := [2]string{v.Service, v.Zone}
			was, here := days[k]
			fresh = fresh || !here
			if !here || was != int(*v.Days) {
				d.num("days", int64(was), *v.Days)
				c.transit = append(c.transit, store.Transit{Service: v.Service, Zone: v.Zone, Days: int(*v.Days)})
				days[k] = int(*v.Days)
			}
		}
		what := strings.TrimSpace(fmt.Sprintf("%s %s %s %s", v.Zone, v.Country, v.Postcode, v.Service))
		switch {
		case len(d) == 0:
			f.note(r.N, what, "unchanged", "")
		case fresh:
			f.note(r.N, what, "new", "")
		default:
			f.note(r.N, what, "changed", strings.Join(d, "; "))
		}
	}
	return nil
}

func (c *comparing) compareCustomers() error {
	codes := distinct(c.batch.Customers, func(r exchange.CustomerRow) string { return r.Customer })
	codes = append(codes, distinct(c.batch.Orders, func(r exchange.OrderRow) string { return r.Customer })...)
	here, err := c.r.CustomersByCode(codes)
	if err != nil {
		return err
	}
	for _, x := range here {
		c.customer[x.Code] = &x
	}
	ships, err := c.r.ShipTosOf(codes)
	if err != nil {
		return err
	}
	for _, s := range ships {
		c.shipTo[[2]string{s.Customer, s.Code}] = &s
		if c.firstShip[s.Customer] == "" {
			c.firstShip[s.Customer] = s.Code
		}
	}
	f, ok := c.file(exchange.Customers, len(c.batch.Customers))
	if !ok {
		return nil
	}
	firstRow := map[string]exchange.Row[exchange.CustomerRow]{}
	shipRow := map[[2]string]int{}
	for _, r := range c.batch.Customers {
		v := r.V
		if v.Customer == "" || v.ShipTo == "" {
			continue
		}
		if v.Warehouse != "" && !c.house[v.Warehouse] {
			c.fault(f, r.N, "warehouse", v.Warehouse, "a warehouse that exists or is in the stock file")
			continue
		}
		base := store.CustomerRecord{Tier: 5, ShipRule: "any"}
		if known := c.customer[v.Customer]; known != nil {
			base = *known
		}
		rec := store.CustomerRecord{
			Code: v.Customer, Name: v.Name, Tier: or(v.Tier, base.Tier), ShipRule: or(v.ShipRule, base.ShipRule), Warehouse: or(v.Warehouse, base.Warehouse),
			Service: or(v.Service, base.Service), Terms: or(v.Terms, base.Terms), Email: or(v.Email, base.Email), Discount: stated(v.Discount, base.Discount),
			OneWarehouse: stated(v.OneWarehouse, base.OneWarehouse),
		}
		k := [2]string{v.Customer, v.ShipTo}
		if first := shipRow[k]; first != 0 {
			c.fault(f, r.N, "ship_to", v.ShipTo, "each ship-to of a customer once; it stands in row %d already", first)
			continue
		}
		shipRow[k] = r.N
		var d differ
		old := c.customer[v.Customer]
		if first, again := firstRow[v.Customer]; again {
			if d := differCustomer(*old, rec); len(d) > 0 {
				c.fault(f, r.N, "customer", v.Customer, "the same as in row %d; it differs in %s", first.N, strings.Join(d, "; "))
				continue
			}
		} else {
			firstRow[v.Customer] = r
			if old != nil {
				d = differCustomer(*old, rec)
			}
			if old == nil || len(d) > 0 {
				c.customers = append(c.customers, rec)
			}
			c.customer[v.Customer] = &rec
		}
		oldShip := c.shipTo[k]
		place := store.ShipToRecord{Name: v.Name, Country: "GB"}
		if oldShip != nil {
			place = *oldShip
		}
		ship := store.ShipToRecord{
			Customer: v.Customer, Code: v.ShipTo, Name: or(v.ToName, place.Name), Street: or(v.Street, place.Street), City: or(v.City, place.City),
			Postcode: or(v.Postcode, place.Postcode), Country: or(v.Country, place.Country),
		}
		if oldShip != nil {
			d.text("ship_to_name", oldShip.Name, ship.Name)
			d.text("street", oldShip.Street, ship.Street)
			d.text("city", oldShip.City, ship.City)
			d.text("postcode", oldShip.Postcode, ship.Postcode)
			d.text("country", oldShip.Country, ship.Country)
		}
		what := fmt.Sprintf("%s %s, %s", v.Customer, v.Name, v.ShipTo)
		switch {
		case oldShip == nil:
			f.note(r.N, what, "new", strings.Join(d, "; "))
		case len(d) > 0:
			f.note(r.N, what, "changed", strings.Join(d, "; "))
		default:
			f.note(r.N, what, "unchanged", "")
			continue
		}
		c.shipTos = append(c.shipTos, ship)
		c.shipTo[k] = &ship
		if c.firstShip[v.Customer] == "" {
			c.firstShip[v.Customer] = v.ShipTo
		}
	}
	return nil
}

func differCustomer(old, rec store.CustomerRecord) differ {
	var d differ
	d.text("name", old.Name, rec.Name)
	d.num("tier", old.Tier, rec.Tier)
	d.text("ship_rule", old.ShipRule, rec.ShipRule)
	d.text("warehouse", old.Warehouse, rec.Warehouse)
	d.text("service", old.Service, rec.Service)
	d.text("terms", old.Terms, rec.Terms)
	d.text("email", old.Email, rec.Email)
	d.money("discount", old.Discount, rec.Discount)
	d.text("one_warehouse", fmt.Sprint(old.OneWarehouse), fmt.Sprint(rec.OneWarehouse))
	return d
}

func (c *comparing) compareInbound() error {
	f, ok := c.file(exchange.Inbound, len(c.batch.Inbound))
	if !ok {
		return nil
	}
	old, err := c.r.InboundByRef(distinct(c.batch.Inbound, func(r exchange.InboundRow) string { return r.Ref }))
	if err != nil {
		return err
	}
	type key struct{ ref, sku, warehouse string }
	here := map[key]store.InboundRecord{}
	for _, x := range old {
		here[key{x.Ref, x.SKU, x.Warehouse}] = x
	}
	row := map[key]int{}
	for _, r := range c.batch.Inbound {
		v := r.V
		if v.Ref == "" || v.SKU == "" || v.Warehouse == "" || v.Due == "" || v.Qty == 0 {
			continue
		}
		k := key{v.Ref, v.SKU, v.Warehouse}
		switch {
		case c.item[v.SKU] == nil:
			c.fault(f, r.N, "sku", v.SKU, "an item that exists or is in the items file")
			continue
		case !c.house[v.Warehouse]:
			c.fault(f, r.N, "warehouse", v.Warehouse, "a warehouse that exists or is in the stock file")
			continue
		case row[k] != 0:
			c.fault(f, r.N, "ref", v.Ref, "each item of an inbound once for a warehouse; it stands in row %d already", row[k])
			continue
		}
		row[k] = r.N
		x, known := here[k]
		rec := store.InboundRecord{
			Ref: v.Ref, SKU: v.SKU, Warehouse: v.Warehouse, Due: v.Due, Qty: v.Qty, Kind: or(or(v.Kind, x.Kind), "purchase"), Supplier: or(v.Supplier, x.Supplier),
		}
		what := fmt.Sprintf("%s %s %s", v.Ref, v.SKU, v.Warehouse)
		if known && v.Qty < x.Received {
			c.fault(f, r.N, "qty", fmt.Sprint(v.Qty), "at least the %d that were received", x.Received)
			continue
		}
		if !known {
			f.note(r.N, what, "new", "")
		} else {
			var d differ
			d.text("due", x.Due, rec.Due)
			d.num("qty", x.Qty, rec.Qty)
			d.text("kind", x.Kind, rec.Kind)
			d.text("supplier", x.Supplier, rec.Supplier)
			if len(d) == 0 {
				f.note(r.N, what, "unchanged", "")
				continue
			}
			f.note(r.N, what, "changed", strings.Join(d, "; "))
		}
		c.inbound = append(c.inbound, rec)
	}
	return nil
}
