package query

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"journeyman/core/capped"
	"journeyman/core/journey"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// OpenPage is a page of lines with open units.
type OpenPage struct {
	Lines []supply.LineView `json:"lines"`
	Next
}

// Open returns a page of lines with open units.
func (d *Desk) Open(ctx context.Context, ask Ask) (OpenPage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.OpenLines, ask)
	if err != nil {
		return OpenPage{}, err
	}
	rows, err := r.LinesInOrder(ids)
	if err != nil {
		return OpenPage{}, err
	}
	views, err := d.supply.LineViews(r, rows)
	return OpenPage{views, next}, err
}

// ListView is a pick list in the list of pick lists.
type ListView struct {
	Number    string `json:"number"`
	Warehouse string `json:"warehouse"`
	At        string `json:"at" format:"date-time"`
	Who       string `json:"who"`
	Rows      int64  `json:"rows"`
	RowsDue   int64  `json:"rows_due" doc:"Rows that are still to be picked"`
	Units     int64  `json:"units"`
	Due       int64  `json:"due" doc:"Units still to be picked"`
	Short     int64  `json:"short"`
	Orders    int64  `json:"orders"`
	FirstShip string `json:"first_ship" format:"date" doc:"The earliest day by which something on it ships"`
}

func listView(h store.ListHead) ListView {
	return ListView{
		h.Number, h.Warehouse, h.At.UTC().Format(time.RFC3339), h.Who, h.Tasks, h.TasksDue, h.Units, h.Due, h.Short, h.Orders, h.FirstShip,
	}
}

// FloorPage is what there is to pick.
type FloorPage struct {
	Open []ListView `json:"open"`
	Done []ListView `json:"done" doc:"The latest that are finished"`
}

// FloorLists returns the pick lists with something to pick, and the latest finished ones.
func (d *Desk) FloorLists(ctx context.Context) (FloorPage, error) {
	r := d.Store.Read(ctx)
	out := FloorPage{Open: []ListView{}, Done: []ListView{}}
	open, err := r.OpenLists()
	if err != nil {
		return out, err
	}
	for _, h := range open {
		out.Open = append(out.Open, listView(h))
	}
	finished, err := r.LatestLists(10)
	for _, h := range finished {
		out.Done = append(out.Done, listView(h))
	}
	return out, err
}

// TaskView is a row of a pick list.
type TaskView struct {
	ID       int64  `json:"id"`
	Row      int    `json:"row"`
	Bin      string `json:"bin" doc:"Empty if no bin is set"`
	Zone     string `json:"zone"`
	SKU      string `json:"sku"`
	Item     string `json:"item"`
	Unit     string `json:"unit"`
	Order    string `json:"order"`
	Line     int    `json:"line"`
	Customer string `json:"customer"`
	Tier     int    `json:"tier"`
	ShipBy   string `json:"ship_by" format:"date"`
	Qty      int64  `json:"qty"`
	Picked   int64  `json:"picked"`
	Short    int64  `json:"short"`
	Recalled int64  `json:"recalled"`
	Due      int64  `json:"due" doc:"Units still to be picked"`
	Held     bool   `json:"held" doc:"Its order was put on hold after it was released"`
}

// PickListView is the page of a pick list.
type PickListView struct {
	ListView
	Tasks []TaskView `json:"tasks"`
}

// PickList returns a pick list in walking order.
func (d *Desk) PickList(ctx context.Context, number string) (PickListView, error) {
	r := d.Store.Read(ctx)
	h, found, err := r.ListByNumber(number)
	if err != nil {
		return PickListView{}, err
	}
	if !found {
		return PickListView{}, command.NotFound("There is no pick list %s.", number)
	}
	rows, err := r.TasksOfList(h.ID)
	out := PickListView{ListView: listView(h), Tasks: make([]TaskView, len(rows))}
	for i, t := range rows {
		out.Tasks[i] = TaskView{
			t.ID, t.Seq, t.Bin, t.Zone, t.SKU, t.ItemName, t.Unit, t.OrderNumber, t.LineNo, t.CustomerName, t.Tier, t.ShipBy,
			t.Qty, t.Picked, t.Short, t.Recalled, t.Due, t.Held,
		}
	}
	return out, err
}

// PackingLine is units of a line that wait to be packed.
type PackingLine struct {
	ID      int64  `json:"id"`
	Line    int    `json:"line"`
	SKU     string `json:"sku"`
	Item    string `json:"item"`
	Unit    string `json:"unit"`
	Picked  int64  `json:"picked"`
	WeightG int64  `json:"weight_g" doc:"Weight of one unit"`
}

// PackingJob is what waits to be packed of an order in a warehouse.
type PackingJob struct {
	Order       string        `json:"order"`
	Customer    string        `json:"customer"`
	ShipTo      string        `json:"ship_to"`
	Tier        int           `json:"tier"`
	Service     string        `json:"service"`
	ShipRule    string        `json:"ship_rule"`
	Warehouse   string        `json:"warehouse"`
	ShipBy      string        `json:"ship_by" format:"date"`
	Units       int64         `json:"units"`
	WeightG     int64         `json:"weight_g" doc:"Weight of the goods, by their items"`
	ValueMinor  int64         `json:"value_minor"`
	Currency    string        `json:"currency"`
	StillComing int64         `json:"still_coming" doc:"Units of the order that are still being picked here"`
	Late        bool          `json:"late"`
	Holds       []string      `json:"holds"`
	Joins       string        `json:"joins" doc:"The shipment that is being packed already, if there is one"`
	Lines       []PackingLine `json:"lines"`
}

// Packable returns what waits to be packed, the earliest to be shipped first.
func (d *Desk) Packable(ctx context.Context) ([]PackingJob, error) {
	return d.packable(d.Store.Read(ctx))
}

func (d *Desk) packable(r *store.Reader) ([]PackingJob, error) {
	rows, err := r.PickedRows()
	if err != nil {
		return nil, err
	}
	out := []PackingJob{}
	at := map[[2]string]int{}
	today := d.Today().String()
	for _, x := range rows {
		k := [2]string{x.OrderNumber, x.Warehouse}
		i, ok := at[k]
		if !ok {
			i = len(out)
			at[k] = i
			out = append(out, PackingJob{
				Order: x.OrderNumber, Customer: x.CustomerName, ShipTo: x.ShipToName + ", " + x.City, Tier: x.Tier, Service: x.Service,
				ShipRule:  x.ShipRule,
				Warehouse: x.Warehouse, ShipBy: x.ShipBy, StillComing: x.StillComing, Joins: x.OpenShipment,
				Late: x.ShipBy < today, Holds: strings.Fields(x.Holds), Currency: x.Currency,
			})
		}
		out[i].Lines = append(out[i].Lines, PackingLine{x.LineID, x.LineNo, x.SKU, x.ItemName, x.Unit, x.Picked, x.WeightG})
		out[i].Units += x.Picked
		out[i].WeightG = capped.Plus(out[i].WeightG, capped.Times(x.Picked, x.WeightG))
		out[i].ValueMinor = capped.Plus(out[i].ValueMinor, capped.Times(x.Picked, x.PriceMinor))
	}
	return out, nil
}

// ShipmentView is a shipment in a list.
type ShipmentView struct {
	Number     string         `json:"number"`
	Warehouse  string         `json:"warehouse"`
	Customer   string         `json:"customer"`
	ShipTo     supply.Address `json:"ship_to"`
	Service    string         `json:"service"`
	Carrier    string         `json:"carrier"`
	Tracking   string         `json:"tracking"`
	Orders     []string       `json:"orders"`
	Packages   int64          `json:"packages"`
	WeightG    int64          `json:"weight_g"`
	Units      int64          `json:"units"`
	Tier       int            `json:"tier"`
	ShipBy     string         `json:"ship_by" format:"date"`
	Late       bool           `json:"late"`
	State      string         `json:"state" enum:"packed,asking,under way,delivered" doc:"asking: the carrier has not answered yet"`
	Dispatched string         `json:"dispatched,omitempty" format:"date-time"`
	Expected   string         `json:"expected,omitempty" format:"date"`
	Delivered  string         `json:"delivered,omitempty" format:"date-time"`
	Waits      words.Message  `json:"waits,omitzero" doc:"Why it may not leave yet"`
	Asked      string         `json:"asked,omitempty" format:"date-time" doc:"Since when the carrier is being asked"`
	AskedTimes int            `json:"asked_times,omitempty" doc:"How often it was asked in vain"`
	AskedNote  string         `json:"asked_note,omitempty" doc:"Why it was in vain"`
	Refused    string         `json:"refused,omitempty" doc:"Why the carrier did not take it, a sentence"`
	Exception  string         `json:"exception,omitempty" doc:"What was in its way last, as the carrier says"`
	Holds      []string       `json:"holds" doc:"Holds that stand on its orders"`
}

// DockPage is what stands at the dock, what is under way, and what arrived last.
type DockPage struct {
	Waiting   []ShipmentView `json:"waiting"`
	UnderWay  []ShipmentView `json:"under_way" doc:"Those that should have arrived first"`
	Delivered []ShipmentView `json:"delivered" doc:"The latest"`
	Total     int64          `json:"under_way_total" doc:"How many are under way"`
}

// mostUnderWay is how many shipments under way are listed.
const mostUnderWay = 100

// Shipments returns the shipments that wait, are under way, or arrived last.
func (d *Desk) Shipments(ctx context.Context) (DockPage, error) {
	r := d.Store.Read(ctx)
	var out DockPage
	for _, part := range []struct {
		to   *[]ShipmentView
		read func() ([]store.ShipmentHead, error)
	}{
		{&out.Waiting, r.ShipmentsWaiting},
		{&out.UnderWay, func() (some []store.ShipmentHead, err error) {
			some, out.Total, err = r.ShipmentsUnderWay(mostUnderWay)
			return some, err
		}},
		{&out.Delivered, func() ([]store.ShipmentHead, error) { return r.ShipmentsDelivered(15) }},
	} {
		heads, err := part.read()
		if err != nil {
			return out, err
		}
		*part.to = make([]ShipmentView, len(heads))
		for i, h := range heads {
			(*part.to)[i] = d.shipmentView(h)
		}
	}
	return out, nil
}

func (d *Desk) shipmentView(h store.ShipmentHead) ShipmentView {
	today := d.Today().String()
	v := ShipmentView{
		Number: h.Number, Warehouse: h.Warehouse, Customer: h.CustomerName,
		ShipTo:  supply.Address{Name: h.ShipToName, Street: h.Street, City: h.City, Postcode: h.Postcode, Country: h.Country},
		Service: h.Service, Carrier: h.Carrier, Tracking: h.Tracking, Orders: strings.Fields(h.Orders), Packages: h.Packages,
		WeightG: h.WeightG,
		Units:   h.Units, Tier: h.Tier, ShipBy: h.ShipBy, Expected: h.Expected,
		Holds: strings.Fields(h.Holds),
	}
	v.State = string(shipping.StateOf(h.AskedAt != nil, h.DispatchedAt != nil, h.DeliveredAt != nil))
	v.AskedTimes, v.AskedNote, v.Refused, v.Exception = h.AskedTimes, h.AskedNote, h.Refused, h.Exception
	switch {
	case h.DeliveredAt != nil:
		v.Delivered = h.DeliveredAt.UTC().Format(time.RFC3339)
	case h.DispatchedAt != nil:
		v.Late = h.Expected < today
	default:
		v.Late = h.ShipBy < today
		if waitsForMore(h) {
			v.Waits = words.Say("its ship rule makes it wait for the rest")
		}
	}
	if h.AskedAt != nil {
		v.Asked = h.AskedAt.UTC().Format(time.RFC3339)
	}
	if h.DispatchedAt != nil {
		v.Dispatched = h.DispatchedAt.UTC().Format(time.RFC3339)
	}
	return v
}

// waitsForMore says whether a ship rule keeps a shipment back.
func waitsForMore(h store.ShipmentHead) bool {
	var behind []struct {
		Rule        journey.ShipRule
		Line, Order journey.Qty
	}
	if err := json.Unmarshal([]byte(h.LeftBehind), &behind); err != nil {
		return true // the database wrote it; if it cannot be read, nobody is told that it may leave
	}
	for _, b := range behind {
		if shipping.Behind(b.Rule, b.Line, b.Order) > 0 {
			return true
		}
	}
	return false
}

// PackageView is a package with its contents.
type PackageView struct {
	Number   string        `json:"number"`
	Kind     string        `json:"kind"`
	WeightG  int64         `json:"weight_g"`
	Contents []ContentView `json:"contents"`
}

// ContentView is units of a line in a package.
type ContentView struct {
	Order string `json:"order"`
	Line  int    `json:"line"`
	SKU   string `json:"sku"`
	Item  string `json:"item"`
	Unit  string `json:"unit"`
	Qty   int64  `json:"qty"`
}

// ShipmentPage is the page of a shipment.
type ShipmentPage struct {
	ShipmentView
	Contents []PackageView       `json:"contents"`
	Events   []ShipmentEventView `json:"events" doc:"What the carrier said of it, oldest first"`
}

// ShipmentEventView is what a carrier says of a shipment, at the carrier's own time.
type ShipmentEventView struct {
	At   string `json:"at" format:"date-time"`
	Kind string `json:"kind" enum:"exception,delivered"`
	Note string `json:"note,omitempty"`
}

// Shipment returns a shipment with its packages.
func (d *Desk) Shipment(ctx context.Context, number string) (ShipmentPage, error) {
	r := d.Store.Read(ctx)
	h, found, err := r.ShipmentHeadByNumber(number)
	if err != nil {
		return ShipmentPage{}, err
	}
	if !found {
		return ShipmentPage{}, command.NotFound("There is no shipment %s, or nothing is packed into it.", number)
	}
	rows, err := r.PackedRows(h.ID)
	if err != nil {
		return ShipmentPage{}, err
	}
	events, err := r.ShipmentEvents(h.ID)
	out := ShipmentPage{ShipmentView: d.shipmentView(h), Contents: []PackageView{}, Events: []ShipmentEventView{}}
	for _, e := range events {
		out.Events = append(out.Events, ShipmentEventView{e.At.UTC().Format(time.RFC3339), e.Kind, e.Note})
	}
	for _, x := range rows {
		n := len(out.Contents)
		if n == 0 || out.Contents[n-1].Number != x.Package {
			out.Contents = append(out.Contents, PackageView{Number: x.Package, Kind: x.Kind, WeightG: x.WeightG})
			n++
		}
		out.Contents[n-1].Contents = append(
			out.Contents[n-1].Contents, ContentView{x.OrderNumber, x.LineNo, x.SKU, x.ItemName, x.Unit, x.Qty},
		)
	}
	return out, err
}
