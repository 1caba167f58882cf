package supply

import (
	"strings"
	"time"

	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/price"
	"journeyman/internal/store"
)

// OrderRow is an order in a list.
type OrderRow struct {
	Number       string   `json:"number"`
	Customer     string   `json:"customer"`
	CustomerCode string   `json:"customer_code"`
	Channel      string   `json:"channel"`
	CustomerRef  string   `json:"customer_ref"`
	Tier         int      `json:"tier"`
	Urgency      int      `json:"urgency"`
	ShipRule     string   `json:"ship_rule"`
	Entered      string   `json:"entered" format:"date-time"`
	Wanted       string   `json:"wanted" format:"date"`
	Late         bool     `json:"late" doc:"Wanted before today and not finished"`
	ValueMinor   int64    `json:"value_minor"`
	MarginBP     *int64   `json:"margin_bp,omitempty" not:"floor" doc:"Margin in hundredths of a per cent; absent without a price"`
	DataFault    string   `json:"data_fault,omitempty" doc:"What is wrong with its data, if anything"`
	Currency     string   `json:"currency"`
	At           Counts   `json:"at"`
	Ready        int      `json:"ready" doc:"Open lines that could go in full now, all together"`
	OpenLines    int      `json:"open_lines"`
	LineCount    int      `json:"line_count"`
	Holds        []string `json:"holds"`
	Finished     bool     `json:"finished"`
	Version      int64    `json:"version"`
}

// AddressOf is an address as pages show it.
func AddressOf(s store.ShipTo) Address {
	return Address{Name: s.Name, Street: s.Street, City: s.City, Postcode: s.Postcode, Country: s.Country}
}

// ShipToViews are addresses with their codes.
func ShipToViews(addresses []store.ShipTo) []ShipToView {
	out := make([]ShipToView, len(addresses))
	for i, s := range addresses {
		out[i] = ShipToView{Code: s.Code, Address: AddressOf(s)}
	}
	return out
}

// MakeOrderRow is the order as lists show it; of its lines it takes what they want and what is free for them.
func (d *Desk) MakeOrderRow(h store.OrderHead, lines []store.LineRow) OrderRow {
	row := OrderRow{
		Number: h.Number, Customer: h.CustomerName, CustomerCode: h.CustomerCode, Channel: h.Channel, CustomerRef: h.CustomerRef,
		Tier:    h.Tier,
		Urgency: h.Urgency, ShipRule: h.ShipRule, Entered: h.EnteredAt.UTC().Format(time.RFC3339), Wanted: h.Wanted,
		ValueMinor: h.ValueMinor, Currency: h.Currency,
		At: h.StationCounts, LineCount: h.Lines, Holds: strings.Fields(h.Holds), Finished: h.Line().Finished(), Version: h.Version,
	}
	row.Late = !row.Finished && h.Wanted < d.Today().String()
	if margin, ok := price.Margin(h.ValueMinor, h.CostMinor); ok {
		row.MarginBP = &margin
	}
	if h.Zero {
		row.DataFault = "A line has no price or no cost, so the margin is not to be trusted."
	}
	row.Ready, row.OpenLines = ReadyShare(lines)
	return row
}

// ReadyShare says how many of the open lines of an order could go in full now, all together (core/plan).
func ReadyShare(lines []store.LineRow) (ready, open int) {
	type key struct{ item, house int64 }
	free := map[key]journey.Qty{}
	wants := make([]plan.Want[key], 0, len(lines))
	for _, l := range lines {
		k := key{l.ItemID, l.WarehouseID}
		free[k] = journey.Qty(l.Free)
		wants = append(wants, plan.Want[key]{Cell: k, Open: journey.Qty(l.Open), Held: l.Allocated > 0})
	}
	return plan.ReadyShare(wants, free)
}

// Address is where an order goes.
type Address struct {
	Name     string `json:"name"`
	Street   string `json:"street"`
	City     string `json:"city"`
	Postcode string `json:"postcode"`
	Country  string `json:"country"`
}
