package demo

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strconv"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/internal/exchange"
)

// table writes a CSV file.
func table(name string, header []string, rows [][]string) exchange.File {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	_ = w.Write(header) // a bytes.Buffer does not fail
	_ = w.WriteAll(rows)
	return exchange.File{Name: name, Data: b.Bytes()}
}

func money(minor int64) string    { return fmt.Sprintf("%d.%02d", minor/100, minor%100) }
func centimetres(mm int64) string { return fmt.Sprintf("%d.%d", mm/10, mm%10) }
func num(n int64) string          { return strconv.FormatInt(n, 10) }

// discounts are what customers of each tier get.
var discounts = map[int]string{1: "7.5", 2: "5", 3: "2.5", 4: "0", 5: "0"}

var houses = map[string]string{"HL": "Harrow Lane", "DQ": "Dunmore Quay", "EG": "Eastgate"}

func itemsFile(items []item) exchange.File {
	var rows [][]string
	for _, it := range items {
		rows = append(rows, []string{
			it.sku, it.name, it.unit, num(it.multiple), num(int64(it.lead)), yesNo(it.buyable), yesNo(it.lots),
			fmt.Sprintf("%d.%03d", it.weightG/1000, it.weightG%1000), centimetres(it.size[0]), centimetres(it.size[1]), centimetres(it.size[2]),
			money(it.price), money(it.cost),
		})
	}
	return table("items.csv", []string{
		"sku", "name", "unit", "multiple", "lead_days", "buyable", "lots", "weight_kg", "length_cm", "width_cm", "height_cm", "price", "cost",
	}, rows)
}

func yesNo(b bool) string {
	if b {
		return "yes"
	}
	return "no"
}

func (s *scenario) stockFile() exchange.File {
	var rows [][]string
	for i := range s.items {
		it := &s.items[i]
		for _, house := range []string{"HL", "DQ", "EG"} {
			k := [2]string{it.sku, house}
			qty, ok := s.start[k]
			if !ok {
				continue
			}
			bin, zone := it.bin, it.zone
			if house != it.house {
				bin, zone = "Y-"+strconv.Itoa(60+i%20), "Y"
			}
			if qty > 150 && bin != "" { // more than a bin holds: the rest in a second one
				rows = append(rows, []string{house, houses[house], it.sku, bin + "9", zone, num(qty - 120), "0"})
				qty = 120
			}
			rows = append(rows, []string{house, houses[house], it.sku, bin, zone, num(qty), num(s.held[k])})
		}
	}
	return table("stock.csv", []string{"warehouse", "warehouse_name", "sku", "bin", "zone", "on_hand", "held"}, rows)
}

// substitutesFile says what may be sent in place of what: another size of the same glaze or clay,
// a glaze of nearly the same colour, and a bigger kiln.
func substitutesFile(items []item) exchange.File {
	var rows [][]string
	names := func(it item) (head string) {
		head, _, _ = strings.Cut(it.name, ",")
		return head
	}
	for i := range items {
		for j := range items {
			if a, b := items[i], items[j]; i != j && a.sku[:2] == b.sku[:2] && (a.sku[:2] == "GL" || a.sku[:2] == "CB") &&
				names(a) == names(b) {
				rows = append(rows, []string{a.sku, b.sku, "size"})
			}
		}
	}
	for _, pair := range [][2]string{{"GL-2040", "GL-2355"}, {"GL-2215", "GL-2390"}, {"GL-2180", "GL-2075"}, {"GL-2110", "GL-2705"}} {
		for _, size := range []string{"-1", "-5"} {
			rows = append(rows, []string{pair[0] + size, pair[1] + size, "colour"}, []string{pair[1] + size, pair[0] + size, "colour"})
		}
	}
	rows = append(rows, []string{"KL-070", "KL-100", "size"}, []string{"WH-15", "WH-20", "make"}, []string{"WH-20", "WH-15", "make"})
	return table("substitutes.csv", []string{"sku", "substitute", "kind"}, rows)
}

// zonesFile says that two stretches of coast are further away.
func zonesFile() exchange.File {
	return table("zones.csv", []string{"zone", "country", "postcode", "service", "days"}, [][]string{
		{"far coast", "GB", "TH", "parcel", "3"},
		{"far coast", "GB", "CO", "pallet", "4"},
		{"far coast", "GB", "WI", "overnight", "2"},
	})
}

func customersFile(custs []customer) exchange.File {
	var rows [][]string
	for _, c := range custs {
		for _, a := range c.ships {
			rows = append(
				rows,
				[]string{
					c.code, c.name, strconv.Itoa(c.tier), c.rule, c.house, c.service, c.terms, discounts[c.tier], a.code, a.name, a.street,
					a.city, a.postcode,
				},
			)
		}
	}
	return table(
		"customers.csv",
		[]string{
			"customer", "name", "tier", "ship_rule", "warehouse", "service", "terms", "discount", "ship_to", "ship_to_name", "street",
			"city", "postcode",
		},
		rows,
	)
}

func (s *scenario) inboundFile() exchange.File {
	var rows [][]string
	for _, n := range s.inbound {
		rows = append(rows, []string{n.ref, n.item.sku, n.house, n.due.String(), num(n.qty), n.kind, n.supplier})
	}
	return table("inbound.csv", []string{"ref", "sku", "warehouse", "due", "qty", "kind", "supplier"}, rows)
}

var orderHeader = []string{
	"order", "customer", "ship_to", "channel", "customer_ref", "tier", "urgency", "ship_rule", "service", "entered", "wanted",
	"not_before", "note",
	"hold", "hold_note",
	"line", "sku", "warehouse", "qty", "ship_by", "price", "cost",
}

func ordersFile(name string, orders []*order) exchange.File {
	var rows [][]string
	for _, o := range orders {
		hold, note := o.hold, o.holdNote
		if hold != "credit" { // others are placed later, by a person
			hold, note = "", ""
		}
		for i, l := range o.lines {
			price, cost := l.item.price, l.item.cost
			if l.price >= 0 {
				price = l.price
			}
			if l.cost >= 0 {
				cost = l.cost
			}
			entered := o.entered.Time().Add(8*time.Hour + time.Duration(len(rows)%50)*time.Minute)
			rows = append(rows, []string{
				o.number, o.cust.code, o.ship, o.channel, o.ref, strconv.Itoa(o.cust.tier), strconv.Itoa(o.urgency), o.rule, o.service,
				enteredOnce(rows, o.number, entered), o.wanted.String(), dayOrNone(o.goes), o.note, hold, note,
				strconv.Itoa(i + 1), l.item.sku, l.house, num(l.qty), l.shipBy.String(), money(price), money(cost),
			})
		}
	}
	return table(name, orderHeader, rows)
}

// dayOrNone is the day, or an empty text for none.
func dayOrNone(d days.Day) string {
	if d == 0 {
		return ""
	}
	return d.String()
}

// enteredOnce gives all lines of an order the time of its first.
func enteredOnce(rows [][]string, number string, t time.Time) string {
	if n := len(rows); n > 0 && rows[n-1][0] == number {
		return rows[n-1][9]
	}
	return t.UTC().Format(time.RFC3339)
}
