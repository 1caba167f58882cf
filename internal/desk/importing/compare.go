package importing

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/words"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// count is by how much a bin's stock differs from the file.
type count struct {
	warehouse, sku, bin string
	onHand, held        int64
}

// comparing is one look at the rows of an import: at some thousands at a time, those that have to do with
// each other together. It finds what they would change, and the faults that only the database can show; or,
// if it writes, it also does it.
type comparing struct {
	d          *Desk
	tx         *store.Tx
	key        string // of the staged rows
	found      exchange.Found
	writing    *command.UnitOfWork // nil: nothing is written
	estimateAt int                 // after so many lines the database is to estimate again how many there are
	step       func(int)
	done       int

	files  []FileReport
	breaks []StockBreak
	house  map[string]bool
	way    *ways // how long services take
	lines  int
	units  int64
}

// mostOfOne is how many rows may be about one thing: the lines of an order, the bins of an item.
const mostOfOne = 20_000

// compare looks at all rows. Kinds are compared in the order in which they are applied, so an order may name an item that
// comes in the same import.
func (c *comparing) compare() error {
	c.house = map[string]bool{}
	c.found.Faults = slices.Clone(c.found.Faults)
	houses, err := c.tx.Warehouses()
	if err != nil {
		return err
	}
	for _, h := range houses {
		c.house[h.Code] = true
	}
	var fresh []store.Warehouse
	for _, h := range c.found.Houses {
		if !c.house[h.Code] && len(c.house) < mostHouses {
			c.house[h.Code] = true
			fresh = append(fresh, store.Warehouse{Code: h.Code, Name: cmp.Or(h.Name, h.Code)})
		}
	}
	if c.writing != nil {
		if err := c.tx.PutWarehouses(fresh); err != nil {
			return err
		}
	}
	for _, part := range []func() error{
		func() error { return eachOf(c, exchange.Items, c.compareItems) },
		func() error { return eachOf(c, exchange.Substitutes, c.compareSubstitutes) },
		func() error { return eachOf(c, exchange.Zones, c.compareZones()) },
		func() error { return eachOf(c, exchange.Stock, c.compareStock) },
		func() error { return eachOf(c, exchange.Customers, c.compareCustomers) },
		func() error { return eachOf(c, exchange.Inbound, c.compareInbound) },
		func() error { return eachOf(c, exchange.Orders, c.compareOrders) },
	} {
		if err := part(); err != nil {
			return err
		}
	}
	for i := range c.files {
		slices.SortFunc(c.files[i].Effects, func(a, b Effect) int { return a.Row - b.Row })
	}
	slices.SortStableFunc(c.found.Faults, func(a, b exchange.Fault) int {
		if n := strings.Compare(a.File, b.File); n != 0 {
			return n
		}
		return a.Row - b.Row
	})
	if c.writing != nil {
		return nil
	}
	return c.recount()
}

// eachOf compares the rows of a kind, some thousands at a time; what is about one thing comes together.
func eachOf[T any](c *comparing, kind exchange.Kind, compare func(*FileReport, []exchange.Row[T]) error) error {
	name, there := c.found.Names[kind]
	if !there {
		return nil
	}
	c.files = append(c.files, FileReport{File: name, Kind: kind, Rows: c.found.Rows[kind], Effects: []Effect{}})
	f := &c.files[len(c.files)-1]
	var rows []exchange.Row[T]
	var about []string
	some := func(n int) error {
		err := compare(f, rows[:n])
		c.done += n
		c.step(c.done)
		rows, about = append(rows[:0], rows[n:]...), append(about[:0], about[n:]...)
		return err
	}
	err := c.tx.Staged(c.key, string(kind), func(staged []store.StagedRow) error {
		for _, x := range staged {
			r := exchange.Row[T]{N: x.N}
			if err := json.Unmarshal([]byte(x.V), &r.V); err != nil {
				return err
			}
			rows, about = append(rows, r), append(about, x.A)
		}
		n := len(about)
		for n > 0 && about[n-1] == about[len(about)-1] {
			n--
		}
		if n == 0 && len(about) > mostOfOne {
			return command.Invalid("%s names %s in more than %s rows. Split the file.", name, about[0], words.Number(mostOfOne))
		}
		if n == 0 {
			return nil
		}
		return some(n)
	})
	if err == nil && len(rows) > 0 {
		err = some(len(rows))
	}
	return err
}

func (c *comparing) report(key string) ImportReport {
	r := ImportReport{Key: key, Files: c.files, Faults: c.found.Faults, Faulty: c.found.Faulty}
	if r.Files == nil {
		r.Files = []FileReport{}
	}
	if r.Breaks = c.breaks; r.Breaks == nil {
		r.Breaks = []StockBreak{}
	}
	if r.Faults == nil {
		r.Faults = []exchange.Fault{}
	}
	for _, f := range c.files {
		r.Does += f.New + f.Changed
	}
	return r
}

func (c *comparing) fault(f *FileReport, row int, column, got, expected string, args ...any) {
	c.found.Fault(exchange.Fault{File: f.File, Row: row, Column: column, Got: got, Expected: fmt.Sprintf(expected, args...)})
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

func distinct[T any](rows []exchange.Row[T], of func(T) string) store.Texts {
	seen := map[string]bool{}
	out := store.Texts{}
	for _, r := range rows {
		if s := of(r.V); s != "" && !seen[s] {
			seen[s] = true
			out = append(out, s)
		}
	}
	return out
}

// stagedRows are the rows of a kind that are about something. Once rows are written, the database says what they said.
func stagedRows[T any](c *comparing, kind exchange.Kind, about store.Texts) (map[string][]exchange.Row[T], error) {
	out := map[string][]exchange.Row[T]{}
	if _, there := c.found.Names[kind]; !there || c.writing != nil {
		return out, nil
	}
	staged, err := c.tx.StagedNamed(c.key, string(kind), about)
	for _, x := range staged {
		r := exchange.Row[T]{N: x.N}
		if err := json.Unmarshal([]byte(x.V), &r.V); err != nil {
			return nil, err
		}
		out[x.A] = append(out[x.A], r)
	}
	return out, err
}

// itemsHere are the items of those numbers that there are.
func (c *comparing) itemsHere(skus store.Texts) (map[string]*store.ItemRecord, error) {
	out := map[string]*store.ItemRecord{}
	here, err := c.tx.ItemsBySKU(skus)
	for _, it := range here {
		out[it.SKU] = &store.ItemRecord{
			SKU: it.SKU, Name: it.Name, Unit: it.Unit, Multiple: it.Multiple, LeadDays: int64(it.LeadDays), Buyable: it.Buyable,
			WeightG: it.WeightG, PriceMinor: it.PriceMinor, CostMinor: it.CostMinor, Currency: it.Currency,
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
		PriceMinor: stated(v.PriceMinor, base.PriceMinor),
		CostMinor:  stated(v.CostMinor, base.CostMinor), Currency: cmp.Or(v.Currency, base.Currency),
	}
}

func (c *comparing) compareItems(f *FileReport, rows []exchange.Row[exchange.ItemRow]) error {
	here, err := c.itemsHere(distinct(rows, func(v exchange.ItemRow) string { return v.SKU }))
	if err != nil {
		return err
	}
	row := map[string]int{}
	var items []store.ItemRecord
	for _, r := range rows {
		v := r.V
		if first := row[v.SKU]; first != 0 {
			c.fault(f, r.N, "sku", v.SKU, "each item once; it stands in row %d already", first)
			continue
		}
		row[v.SKU] = r.N
		old := here[v.SKU]
		rec := itemOf(v, old)
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
		items = append(items, rec)
	}
	if c.writing == nil {
		return nil
	}
	return c.tx.PutItems(items, func(int) {})
}

// mostBreaks is of how many items a count may leave fewer than are allocated.
const mostBreaks = 1000

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
			c.fault(f, r.N, "sku", v.SKU, "an item that exists or is in the items file")
			continue
		}
		if !c.house[v.Warehouse] {
			c.fault(f, r.N, "warehouse", v.Warehouse, "one of at most %d warehouses", mostHouses)
			continue
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
			c.fault(
				f, r.N, "on_hand", fmt.Sprint(v.OnHand),
				"at least %d, which pick lists still take from this bin: recall them first, or finish picking", old.Due+v.Held,
			)
			continue
		}
		if _, known := keys[[2]string{v.Warehouse, v.Bin}]; !known || v.Zone != "" {
			bins = append(bins, store.BinSet{Warehouse: v.Warehouse, Code: v.Bin, Zone: cmp.Or(v.Zone, release.ZoneOf(v.Bin))})
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
		counts = append(counts, count{v.Warehouse, v.SKU, v.Bin, v.OnHand - old.Qty, v.Held - old.Held})
	}
	if c.writing == nil {
		return c.checkFree(f, skus, spare, last)
	}
	if err := c.tx.PutBins(bins); err != nil {
		return err
	}
	return putCounts(c.writing, counts, named)
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
			c.fault(f, last[k], "on_hand", "", "fewer than are allocated of at most %d items; count them in parts", mostBreaks)
		default:
			c.fault(f, last[k], "on_hand", "", "%s at %s to keep at least the %d that are on pick lists and not yet picked; this count is %d short: recall them first, or finish picking",
				x.SKU, x.Warehouse, x.Spoken-x.Allocated, -(after + x.Allocated))
		}
	}
	return nil
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
	old := map[[2]string]string{}
	for _, x := range here {
		old[[2]string{x.SKU, x.Substitute}] = x.Kind
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
			c.fault(f, r.N, "sku", v.SKU, "an item that exists or is in the items file")
			continue
		case items[v.Substitute] == nil:
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
		rec := store.SubstituteRecord{SKU: v.SKU, Substitute: v.Substitute, Kind: cmp.Or(v.Kind, old[k], "make")}
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
		instead = append(instead, rec)
	}
	if c.writing == nil {
		return nil
	}
	return c.tx.PutSubstitutes(instead, func(int) {})
}

// mostZoneRows is how many rows a file of zones may have: a row may change what an earlier one said.
const mostZoneRows = 50_000

// compareZones compares rows of zones, each with what those before it said.
func (c *comparing) compareZones() func(f *FileReport, rows []exchange.Row[exchange.ZoneRow]) error {
	place, days := map[[2]string]string{}, map[[2]string]int{}
	var services []store.Service
	read := false
	return func(f *FileReport, rows []exchange.Row[exchange.ZoneRow]) error {
		if f.Rows > mostZoneRows {
			return command.Invalid("%s has more than %s rows. Split the file.", f.File, words.Number(mostZoneRows))
		}
		if !read {
			read = true
			rules, transit, err := c.tx.Zones()
			if err != nil {
				return err
			}
			if services, err = c.tx.Services(); err != nil {
				return err
			}
			for _, z := range rules {
				place[[2]string{z.Country, z.Prefix}] = z.Zone
			}
			for _, x := range transit {
				days[[2]string{x.Service, x.Zone}] = x.Days
			}
		}
		var zones []store.ZoneRule
		var transit []store.Transit
		for _, r := range rows {
			v := r.V
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
					zones = append(zones, store.ZoneRule{Country: v.Country, Prefix: v.Postcode, Zone: v.Zone})
					place[k] = v.Zone
				}
			}
			if v.Days != nil {
				k := [2]string{v.Service, v.Zone}
				was, here := days[k]
				fresh = fresh || !here
				if !here || was != int(*v.Days) {
					d.num("days", int64(was), *v.Days)
					transit = append(transit, store.Transit{Service: v.Service, Zone: v.Zone, Days: int(*v.Days)})
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
		if c.writing == nil {
			return nil
		}
		return c.tx.PutZones(zones, transit, func(int) {})
	}
}

// customers are those of the codes that there are, or will be, as they will be, with their addresses, the first one first.
func (c *comparing) customers(codes store.Texts) (of map[string]*store.CustomerRecord,
	shipTo map[[2]string]*store.ShipToRecord, firstShip map[string]string, err error,
) {
	of, shipTo, firstShip = map[string]*store.CustomerRecord{}, map[[2]string]*store.ShipToRecord{}, map[string]string{}
	here, err := c.tx.CustomersByCode(codes)
	if err != nil {
		return nil, nil, nil, err
	}
	for _, x := range here {
		of[x.Code] = &x
	}
	ships, err := c.tx.ShipTosOf(codes)
	if err != nil {
		return nil, nil, nil, err
	}
	for _, s := range ships {
		shipTo[[2]string{s.Customer, s.Code}] = &s
		if firstShip[s.Customer] == "" {
			firstShip[s.Customer] = s.Code
		}
	}
	return of, shipTo, firstShip, nil
}

// customersToBe is customers with those of the file.
func (c *comparing) customersToBe(codes store.Texts) (of map[string]*store.CustomerRecord,
	shipTo map[[2]string]*store.ShipToRecord, firstShip map[string]string, err error,
) {
	if of, shipTo, firstShip, err = c.customers(codes); err != nil {
		return nil, nil, nil, err
	}
	staged, err := stagedRows[exchange.CustomerRow](c, exchange.Customers, codes)
	for code, rows := range staged {
		rec := customerOf(rows[0].V, of[code])
		of[code] = &rec
		for _, r := range rows {
			k := [2]string{code, r.V.ShipTo}
			ship := shipToOf(r.V, shipTo[k])
			shipTo[k] = &ship
			if firstShip[code] == "" {
				firstShip[code] = r.V.ShipTo
			}
		}
	}
	return of, shipTo, firstShip, err
}

func customerOf(v exchange.CustomerRow, old *store.CustomerRecord) store.CustomerRecord {
	base := store.CustomerRecord{Tier: 5, ShipRule: "any"}
	if old != nil {
		base = *old
	}
	return store.CustomerRecord{
		Code: v.Customer, Name: v.Name, Tier: cmp.Or(v.Tier, base.Tier), ShipRule: cmp.Or(v.ShipRule, base.ShipRule),
		Warehouse: cmp.Or(v.Warehouse, base.Warehouse),
		Service:   cmp.Or(v.Service, base.Service), Terms: cmp.Or(v.Terms, base.Terms), Email: cmp.Or(v.Email, base.Email),
		Discount:     stated(v.Discount, base.Discount),
		OneWarehouse: stated(v.OneWarehouse, base.OneWarehouse),
	}
}

func shipToOf(v exchange.CustomerRow, old *store.ShipToRecord) store.ShipToRecord {
	place := store.ShipToRecord{Name: v.Name, Country: "GB"}
	if old != nil {
		place = *old
	}
	return store.ShipToRecord{
		Customer: v.Customer, Code: v.ShipTo, Name: cmp.Or(v.ToName, place.Name), Street: cmp.Or(v.Street, place.Street),
		City:     cmp.Or(v.City, place.City),
		Postcode: cmp.Or(v.Postcode, place.Postcode), Country: cmp.Or(v.Country, place.Country),
	}
}

func (c *comparing) compareCustomers(f *FileReport, rows []exchange.Row[exchange.CustomerRow]) error {
	customer, shipTo, _, err := c.customers(distinct(rows, func(v exchange.CustomerRow) string { return v.Customer }))
	if err != nil {
		return err
	}
	firstRow := map[string]exchange.Row[exchange.CustomerRow]{}
	shipRow := map[[2]string]int{}
	var customers []store.CustomerRecord
	var shipTos []store.ShipToRecord
	for _, r := range rows {
		v := r.V
		if v.ShipTo == "" {
			continue
		}
		if v.Warehouse != "" && !c.house[v.Warehouse] {
			c.fault(f, r.N, "warehouse", v.Warehouse, "a warehouse that exists or is in the stock file")
			continue
		}
		old := customer[v.Customer]
		rec := customerOf(v, old)
		k := [2]string{v.Customer, v.ShipTo}
		if first := shipRow[k]; first != 0 {
			c.fault(f, r.N, "ship_to", v.ShipTo, "each ship-to of a customer once; it stands in row %d already", first)
			continue
		}
		shipRow[k] = r.N
		var d differ
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
				customers = append(customers, rec)
			}
			customer[v.Customer] = &rec
		}
		oldShip := shipTo[k]
		ship := shipToOf(v, oldShip)
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
		shipTos = append(shipTos, ship)
		shipTo[k] = &ship
	}
	if c.writing == nil {
		return nil
	}
	if err := c.tx.PutCustomers(customers, func(int) {}); err != nil {
		return err
	}
	return c.tx.PutShipTos(shipTos, func(int) {})
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
	here := map[key]store.InboundRecord{}
	for _, x := range old {
		here[key{x.Ref, x.SKU, x.Warehouse}] = x
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
			ID: x.ID, Ref: v.Ref, SKU: v.SKU, Warehouse: v.Warehouse, Due: v.Due, Qty: v.Qty,
			Kind: cmp.Or(v.Kind, x.Kind, "purchase"), Supplier: cmp.Or(v.Supplier, x.Supplier),
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
			if x.Due != rec.Due {
				rec.Was = x.Due
			}
			f.note(r.N, what, "changed", strings.Join(d, "; "))
		}
		inbound = append(inbound, rec)
	}
	if c.writing == nil {
		return nil
	}
	if err := c.tx.PutInbound(inbound, func(int) {}); err != nil {
		return err
	}
	return c.tx.NoteDues(inbound, c.writing.ID)
}
