package importing

import (
	"cmp"
	"fmt"
	"strings"

	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

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
			c.unknown(f, r.N, "warehouse", v.Warehouse, "a warehouse", "stock")
			continue
		}
		old := customer[v.Customer]
		rec := customerOf(v, old)
		k := [2]string{v.Customer, v.ShipTo}
		if !first(c, f, shipRow, k, r.N, "ship_to", v.ShipTo, "each ship-to of a customer") {
			continue
		}
		var d []string
		if one, again := firstRow[v.Customer]; again {
			if d := differences(customerFields, *old, rec); len(d) > 0 {
				c.wrong(f, r.N, "customer", v.Customer, "the same as in row %d; it differs in %s", one.N, strings.Join(d, "; "))
				continue
			}
		} else {
			firstRow[v.Customer] = r
			if old != nil {
				d = differences(customerFields, *old, rec)
			}
			if old == nil || len(d) > 0 {
				customers = append(customers, rec)
			}
			customer[v.Customer] = &rec
		}
		oldShip := shipTo[k]
		ship := shipToOf(v, oldShip)
		if oldShip != nil {
			d = append(d, differences(shipToFields, *oldShip, ship)...)
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

var customerFields = []field[store.CustomerRecord]{
	text("name", func(x store.CustomerRecord) string { return x.Name }),
	number("tier", func(x store.CustomerRecord) int64 { return x.Tier }),
	text("ship_rule", func(x store.CustomerRecord) string { return x.ShipRule }),
	text("warehouse", func(x store.CustomerRecord) string { return x.Warehouse }),
	text("service", func(x store.CustomerRecord) string { return x.Service }),
	text("terms", func(x store.CustomerRecord) string { return x.Terms }),
	text("email", func(x store.CustomerRecord) string { return x.Email }),
	hundredths("discount", func(x store.CustomerRecord) int64 { return x.Discount }),
	yes("one_warehouse", func(x store.CustomerRecord) bool { return x.OneWarehouse }),
}

var shipToFields = []field[store.ShipToRecord]{
	text("ship_to_name", func(x store.ShipToRecord) string { return x.Name }),
	text("street", func(x store.ShipToRecord) string { return x.Street }),
	text("city", func(x store.ShipToRecord) string { return x.City }),
	text("postcode", func(x store.ShipToRecord) string { return x.Postcode }),
	text("country", func(x store.ShipToRecord) string { return x.Country }),
}
