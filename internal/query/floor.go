package query

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"journeyman/core/capped"
	"journeyman/core/journey"
	"journeyman/core/release"
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
	Late      bool   `json:"late" doc:"That day has passed, and something is left to pick"`
	Tier      int    `json:"tier" doc:"The first of those whose orders are on it"`
	Zone      string `json:"zone,omitempty" doc:"If it was split by zone"`
	Walk      int64  `json:"walk_cm" doc:"How far one walks for all of it, in centimetres; 0 if that is not known"`
	WalkByOne int64  `json:"walk_by_order_cm" doc:"How far if each order were picked by itself"`
	Seconds   int64  `json:"seconds" doc:"How long all of it should take"`
	Picker    string `json:"picker,omitempty" doc:"Who picks it"`
	Login     string `json:"login,omitempty" doc:"Of whoever picks it"`
	Taken     string `json:"taken,omitempty" format:"date-time" doc:"Since when"`
	Break     string `json:"break,omitempty" format:"date-time" doc:"Since when they are on a break, if they are"`
	CutOff    string `json:"cut_off,omitempty" format:"date-time" doc:"When the first carrier comes today for something left to pick"`
}

func (d *Desk) listView(h store.ListHead) ListView {
	v := ListView{
		Number: h.Number, Warehouse: h.Warehouse, At: h.At.UTC().Format(time.RFC3339), Who: h.Who, Rows: h.Tasks, RowsDue: h.TasksDue,
		Units: h.Units, Due: h.Due, Short: h.Short, Orders: h.Orders, FirstShip: h.FirstShip,
		Late: h.Due > 0 && h.FirstShip < d.Today().String(), Tier: h.Tier, Zone: h.Zone, Walk: h.WalkCM, WalkByOne: h.ByOrderCM,
		Seconds: h.WorkS, Picker: h.Picker, Login: h.Login,
	}
	if h.TakenAt != nil {
		v.Taken = h.TakenAt.UTC().Format(time.RFC3339)
	}
	v.Break = momentOf(h.Break)
	if h.CutOff > 0 {
		zone, err := d.supply.ZoneOf(store.Warehouse{Code: h.Warehouse, Timezone: h.Timezone})
		if err != nil {
			return v // a zone that is not known has no time of day
		}
		now := d.Now().In(zone)
		at := time.Date(now.Year(), now.Month(), now.Day(), h.CutOff/60, h.CutOff%60, 0, 0, zone)
		v.CutOff = at.UTC().Format(time.RFC3339)
	}
	return v
}

// ListsPage is a page of pick lists.
type ListsPage struct {
	Lists []ListView `json:"lists"`
	Next
}

// PickLists returns a page of pick lists.
func (d *Desk) PickLists(ctx context.Context, ask Ask) (ListsPage, error) {
	heads, next, err := d.pickLists(d.Store.Read(ctx), ask)
	out := ListsPage{Lists: make([]ListView, len(heads)), Next: next}
	for i, h := range heads {
		out.Lists[i] = d.listView(h)
	}
	return out, err
}

func (d *Desk) pickLists(r *store.Reader, ask Ask) ([]store.ListHead, Next, error) {
	return pageOf(d, r, store.PickLists, ask, r.PickListsByKey)
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
	Barcode  string `json:"barcode,omitempty" doc:"What a scanner reads of the item besides its number"`
	Tote     string `json:"tote" doc:"Into which tote it goes, A for the first order"`

	ByLots bool    `json:"by_lots,omitempty" doc:"It is noted of which lot its units are"`
	Lot    string  `json:"lot,omitempty" doc:"Of which they can only be, since its bin holds no other"`
	Lots   []LotIn `json:"lots" doc:"Of which lots units in its bin are, the lot that was noted first first"`

	Others []OtherBin `json:"others" doc:"Other bins from which it could be picked, those with most first"`
}

// OtherBin is a bin that holds units of an item for which nobody is on the way.
type OtherBin struct {
	Bin string `json:"bin"`
	Qty int64  `json:"qty"`
}

// PickListView is the page of a pick list.
type PickListView struct {
	ListView
	Tasks  []TaskView  `json:"tasks"`
	Papers []PaperView `json:"papers" doc:"What was printed of it, the latest first"`
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
	if err != nil {
		return PickListView{}, err
	}
	others, err := otherBins(r, rows)
	if err != nil {
		return PickListView{}, err
	}
	inBin, err := lotsOfRows(r, rows)
	if err != nil {
		return PickListView{}, err
	}
	tote := supply.Totes(rows)
	printed, err := r.PapersOfList(h.ID)
	out := PickListView{ListView: d.listView(h), Tasks: make([]TaskView, len(rows)), Papers: paperViews(printed)}
	for i, t := range rows {
		out.Tasks[i] = TaskView{
			t.ID, t.Seq, t.Bin, t.Zone, t.SKU, t.ItemName, t.Unit, t.OrderNumber, t.LineNo, t.CustomerName, t.Tier, t.ShipBy,
			t.Qty, t.Picked, t.Short, t.Recalled, t.Due, t.Held, t.Barcode, tote[t.OrderNumber],
			t.Lots, "", inBin[[2]int64{t.ItemID, t.BinID}], others(h.WarehouseID, t),
		}
		if out.Tasks[i].Lots == nil {
			out.Tasks[i].Lots = []LotIn{}
		}
		if l := out.Tasks[i].Lots; t.Lots && len(l) == 1 && l[0].Qty == t.InBin && !l[0].Stop {
			out.Tasks[i].Lot = l[0].Lot
		}
	}
	return out, err
}

// LotIn is so many units of a lot that lie together.
type LotIn struct {
	Lot  string `json:"lot"`
	Qty  int64  `json:"qty"`
	Stop bool   `json:"stop,omitempty" doc:"It must not be sent"`
}

func lotsIn(rows []store.LotIn) []LotIn {
	out := make([]LotIn, len(rows))
	for i, x := range rows {
		out[i] = LotIn{x.Lot, x.Qty, x.Stop}
	}
	return out
}

// lotsOfRows reads of which lots units are in the bins of what is left of rows, by item and bin.
func lotsOfRows(r *store.Reader, rows []store.TaskView) (map[[2]int64][]LotIn, error) {
	var items, bins store.IDs
	for _, t := range rows {
		if t.Lots && t.Due > 0 {
			items, bins = append(items, t.ItemID), append(bins, t.BinID)
		}
	}
	out := map[[2]int64][]LotIn{}
	if len(items) == 0 {
		return out, nil
	}
	found, err := r.LotsInBins(items, bins)
	for k, x := range found {
		out[k] = lotsIn(x)
	}
	return out, err
}

// otherBins reads from which other bins what is left of rows could be picked.
func otherBins(r *store.Reader, rows []store.TaskView) (of func(warehouse int64, t store.TaskView) []OtherBin, err error) {
	items := store.IDs{}
	for _, t := range rows {
		if t.Due > 0 {
			items = append(items, t.ItemID)
		}
	}
	slices.Sort(items)
	rooms, err := r.BinsOf(slices.Compact(items))
	return func(warehouse int64, t store.TaskView) []OtherBin {
		out := []OtherBin{}
		for _, x := range rooms {
			if free := x.Qty - x.Held - x.Due; t.Due > 0 && x.ItemID == t.ItemID && x.WarehouseID == warehouse && x.Bin != t.Bin && x.Bin != "" &&
				free > 0 {
				out = append(out, OtherBin{x.Bin, free})
			}
		}
		slices.Reverse(out)
		return out
	}, err
}

// PutBackView is units that were taken back and are to be put into a bin again.
type PutBackView struct {
	ID        int64  `json:"id"`
	SKU       string `json:"sku"`
	Item      string `json:"item"`
	Unit      string `json:"unit"`
	Barcode   string `json:"barcode,omitempty"`
	Warehouse string `json:"warehouse"`
	Place     string `json:"place" doc:"Where they lie until then"`
	Bin       string `json:"bin" doc:"Where they should go; empty if no bin is set for the item"`
	Zone      string `json:"zone"`
	Qty       int64  `json:"qty" doc:"Units that are still to be put back"`
	Ends      string `json:"ends" enum:"allocated,open,dropped" doc:"What has become of them"`
	Order     string `json:"order"`
	Line      int    `json:"line"`
	Customer  string `json:"customer"`
	List      string `json:"list,omitempty" doc:"The pick list by which they were picked"`
	Package   string `json:"package,omitempty" doc:"The package out of which they are to be taken"`
	ByLots    bool   `json:"by_lots,omitempty" doc:"It is noted of which lot its units are"`
	Lot       string `json:"lot,omitempty" doc:"Of which they are, since they were taken back for that"`
	At        string `json:"at" format:"date-time"`
	Who       string `json:"who" doc:"Who recalled them"`
	Why       string `json:"why"`
}

// mostPutBacks is how many tasks to put something back are listed.
const mostPutBacks = 500

// PutBacks returns the units that are to be put back, in walking order in each warehouse.
func (d *Desk) PutBacks(ctx context.Context) ([]PutBackView, error) {
	rows, err := d.Store.Read(ctx).PutBacksWaiting(mostPutBacks)
	slices.SortStableFunc(rows, func(a, b store.PutBackRow) int { return strings.Compare(a.Warehouse, b.Warehouse) })
	for i := 0; i < len(rows); {
		j := i
		for j < len(rows) && rows[j].Warehouse == rows[i].Warehouse {
			j++
		}
		release.Walk(rows[i:j], func(x store.PutBackRow) release.Stop { return release.Stop{Zone: x.Zone, Bin: x.Bin} })
		i = j
	}
	out := make([]PutBackView, len(rows))
	for i, x := range rows {
		out[i] = PutBackView{
			x.ID, x.SKU, x.ItemName, x.Unit, x.Barcode, x.Warehouse, x.Place, x.Bin, x.Zone, x.Qty - x.Done, x.Ends, x.Order, x.LineNo,
			x.Customer, x.List, x.Package, x.Lots, x.Lot, x.At, x.Who, x.Reason,
		}
	}
	return out, err
}

// CountView is a bin that is to be counted. What it should hold is not said, so that it is counted.
type CountView struct {
	ID        int64  `json:"id"`
	SKU       string `json:"sku"`
	Item      string `json:"item"`
	Unit      string `json:"unit"`
	Barcode   string `json:"barcode,omitempty"`
	Warehouse string `json:"warehouse"`
	Bin       string `json:"bin"`
	Zone      string `json:"zone"`
	ByLots    bool   `json:"by_lots,omitempty" doc:"It is noted of which lot its units are"`
	Why       string `json:"why" enum:"missing,elsewhere" doc:"Why fewer were found there"`
	At        string `json:"at" format:"date-time" doc:"Since when"`
	Who       string `json:"who" doc:"Who found fewer"`
}

// mostCounts is how many bins that are to be counted are listed.
const mostCounts = 200

// Counts returns the bins that are to be counted, those that were asked for first first.
func (d *Desk) Counts(ctx context.Context) ([]CountView, error) {
	rows, err := d.Store.Read(ctx).CountsWaiting(mostCounts)
	out := make([]CountView, len(rows))
	for i, c := range rows {
		out[i] = CountView{
			c.ID, c.SKU, c.ItemName, c.Unit, c.Barcode, c.Warehouse, c.Bin, c.Zone, c.Lots, c.Why, c.At.UTC().Format(time.RFC3339), c.Who,
		}
	}
	return out, err
}

// momentOf is a time as it is sent, or an empty text for none.
func momentOf(at *time.Time) string {
	if at == nil {
		return ""
	}
	return at.UTC().Format(time.RFC3339)
}

// Picker is somebody who picks.
type Picker struct {
	Login string `json:"login"`
	Name  string `json:"name"`
	Lists int64  `json:"lists" doc:"Pick lists that they have, with something left to pick"`
	Break string `json:"break,omitempty" format:"date-time" doc:"Since when they are on a break, if they are"`
}

// Pickers returns who picks, those of the floor first.
func (d *Desk) Pickers(ctx context.Context) ([]Picker, error) {
	rows, err := d.Store.Read(ctx).Pickers()
	out := []Picker{}
	for _, p := range rows {
		if command.Role(p.Role).May(command.VerbPick) {
			out = append(out, Picker{p.Login, p.Name, p.Lists, momentOf(p.Break)})
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
	Barcode string `json:"barcode" doc:"What a scanner reads besides its number"`

	Lots []LotIn `json:"lots" doc:"Of which lots they are, as far as that is noted"`
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

// PackingPage is a page of what waits to be packed.
type PackingPage struct {
	Jobs []PackingJob `json:"jobs"`
	Next
}

// Packing returns a page of what waits to be packed.
func (d *Desk) Packing(ctx context.Context, ask Ask) (PackingPage, error) {
	return d.packing(d.Store.Read(ctx), ask)
}

func (d *Desk) packing(r *store.Reader, ask Ask) (PackingPage, error) {
	ids, next, err := d.keys(r, store.Packing, ask)
	if err != nil {
		return PackingPage{}, err
	}
	rows, err := r.PickedByKey(ids)
	if err != nil {
		return PackingPage{}, err
	}
	lines := make(store.IDs, len(rows))
	for i, x := range rows {
		lines[i] = x.LineID
	}
	lots, err := r.LotsPicked(lines)
	if err != nil {
		return PackingPage{}, err
	}
	out := PackingPage{Jobs: []PackingJob{}, Next: next}
	today := d.Today().String()
	for _, x := range rows {
		n := len(out.Jobs)
		if n == 0 || out.Jobs[n-1].Order != x.OrderNumber || out.Jobs[n-1].Warehouse != x.Warehouse {
			out.Jobs = append(out.Jobs, PackingJob{
				Order: x.OrderNumber, Customer: x.CustomerName, ShipTo: x.ShipToName + ", " + x.City, Tier: x.Tier, Service: x.Service,
				ShipRule:  x.ShipRule,
				Warehouse: x.Warehouse, ShipBy: x.ShipBy, StillComing: x.StillComing, Joins: x.OpenShipment,
				Holds: strings.Fields(x.Holds), Currency: x.Currency,
			})
			n++
		}
		j := &out.Jobs[n-1]
		j.ShipBy = min(j.ShipBy, x.ShipBy)
		j.Late = j.ShipBy < today
		j.Lines = append(j.Lines, PackingLine{
			x.LineID, x.LineNo, x.SKU, x.ItemName, x.Unit, x.Picked, x.WeightG, x.Barcode, lotsIn(lots[[2]int64{x.LineID, x.WarehouseID}]),
		})
		j.Units += x.Picked
		j.WeightG = capped.Plus(j.WeightG, capped.Times(x.Picked, x.WeightG))
		j.ValueMinor = capped.Plus(j.ValueMinor, capped.Times(x.Picked, x.PriceMinor))
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
	ValueMinor int64          `json:"value_minor"`
	Currency   string         `json:"currency" doc:"Empty if there are several"`
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

// ShipmentsPage is a page of shipments.
type ShipmentsPage struct {
	Shipments []ShipmentView `json:"shipments"`
	Next
}

// Shipments returns a page of shipments.
func (d *Desk) Shipments(ctx context.Context, ask Ask) (ShipmentsPage, error) {
	heads, next, err := d.shipments(d.Store.Read(ctx), ask)
	out := ShipmentsPage{Shipments: make([]ShipmentView, len(heads)), Next: next}
	for i, h := range heads {
		out.Shipments[i] = d.shipmentView(h)
	}
	return out, err
}

func (d *Desk) shipments(r *store.Reader, ask Ask) ([]store.ShipmentHead, Next, error) {
	return pageOf(d, r, store.Shipments, ask, r.ShipmentsByKey)
}

// InState is the scope of a list in which the state of its rows is this.
func InState(state string) Ask { return Ask{Scope: map[string]string{"state": state}} }

func (d *Desk) shipmentView(h store.ShipmentHead) ShipmentView {
	today := d.Today().String()
	v := ShipmentView{
		Number: h.Number, Warehouse: h.Warehouse, Customer: h.CustomerName,
		ShipTo:  supply.Address{Name: h.ShipToName, Street: h.Street, City: h.City, Postcode: h.Postcode, Country: h.Country},
		Service: h.Service, Carrier: h.Carrier, Tracking: h.Tracking, Orders: strings.Fields(h.Orders), Packages: h.Packages,
		WeightG: h.WeightG,
		Units:   h.Units, ValueMinor: h.ValueMinor, Currency: h.Currency, Tier: h.Tier, ShipBy: h.ShipBy, Expected: h.Expected,
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
		v.Waits = d.waits(h)
	}
	if h.AskedAt != nil {
		v.Asked = h.AskedAt.UTC().Format(time.RFC3339)
	}
	if h.DispatchedAt != nil {
		v.Dispatched = h.DispatchedAt.UTC().Format(time.RFC3339)
	}
	return v
}

// waits says why a shipment may not leave yet, if it may not for another reason than a hold.
func (d *Desk) waits(h store.ShipmentHead) words.Message {
	switch {
	case h.Recalled:
		return words.Say("units that were recalled may still lie in it")
	case h.NotBefore > d.Today().String():
		return words.Say("must not leave before %s", words.DayOf(h.NotBefore))
	case waitsForMore(h):
		return words.Say("its ship rule makes it wait for the rest")
	}
	return words.Message{}
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
	Label    string        `json:"label,omitempty" doc:"The SSCC on its label, if one stands"`
	Bare     bool          `json:"bare" doc:"Its label is void, and no other stands: it may not leave"`
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
	if err != nil {
		return ShipmentPage{}, err
	}
	labels, err := r.LabelStates(h.ID)
	out := ShipmentPage{ShipmentView: d.shipmentView(h), Contents: []PackageView{}, Events: []ShipmentEventView{}}
	for _, e := range events {
		out.Events = append(out.Events, ShipmentEventView{e.At.UTC().Format(time.RFC3339), e.Kind, e.Note})
	}
	for _, x := range rows {
		n := len(out.Contents)
		if n == 0 || out.Contents[n-1].Number != x.Package {
			label, printed := labels[x.Package]
			out.Contents = append(out.Contents, PackageView{
				Number: x.Package, Kind: x.Kind, WeightG: x.WeightG, Label: label, Bare: printed && label == "",
			})
			n++
		}
		out.Contents[n-1].Contents = append(
			out.Contents[n-1].Contents, ContentView{x.OrderNumber, x.LineNo, x.SKU, x.ItemName, x.Unit, x.Qty},
		)
	}
	return out, err
}
