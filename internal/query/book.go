package query

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"journeyman/core/journey"
	"journeyman/core/order"
	"journeyman/core/outlook"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ItemRow is an item in a list.
type ItemRow struct {
	SKU      string `json:"sku"`
	Name     string `json:"name"`
	Unit     string `json:"unit"`
	OnHand   int64  `json:"on_hand"`
	Free     int64  `json:"free"`
	Open     int64  `json:"open" doc:"Units that orders want and that are not allocated"`
	Wanting  int64  `json:"wanting" doc:"By how much the open units exceed what is free"`
	Incoming int64  `json:"incoming"`
	NextDue  string `json:"next_due,omitempty" format:"date"`
	Overdue  bool   `json:"overdue" doc:"The next arrival is overdue"`

	PriceMinor int64  `json:"price_minor"`
	Currency   string `json:"currency"`
	LeadDays   int    `json:"lead_days"`
}

// ItemsPage is a page of items.
type ItemsPage struct {
	Items []ItemRow `json:"items"`
	Next
}

// Items returns a page of items.
func (d *Desk) Items(ctx context.Context, ask Ask) (ItemsPage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Items, ask)
	if err != nil {
		return ItemsPage{}, err
	}
	rows, err := r.ItemHeads(ids)
	out := ItemsPage{Items: make([]ItemRow, len(rows)), Next: next}
	today := d.Today().String()
	for i, x := range rows {
		out.Items[i] = ItemRow{
			x.SKU, x.Name, x.Unit, x.OnHand, x.Free, x.Open, max(0, x.Open-x.Free), x.Incoming, x.NextDue,
			x.NextDue != "" && x.NextDue < today, x.PriceMinor, x.Currency, x.LeadDays,
		}
	}
	return out, err
}

// CellView is the stock of an item in a warehouse.
type CellView struct {
	Warehouse string    `json:"warehouse"`
	Name      string    `json:"name"`
	OnHand    int64     `json:"on_hand"`
	Held      int64     `json:"held"`
	Allocated int64     `json:"allocated"`
	Released  int64     `json:"released"`
	Picked    int64     `json:"picked"`
	Packed    int64     `json:"packed"`
	Floor     int64     `json:"floor" doc:"Released, picked and packed"`
	Free      int64     `json:"free"`
	Wanted    int64     `json:"wanted" doc:"Open units of its lines"`
	Short     int64     `json:"short" doc:"By how much those exceed what is free"`
	Over      string    `json:"over,omitempty" format:"date" doc:"From here on more is promised than there will be"`
	Overdue   int64     `json:"overdue" doc:"Units that should have come"`
	Bins      []BinView `json:"bins"`
}

// BinView is what lies in a bin.
type BinView struct {
	Bin     string `json:"bin" doc:"Empty if no bin is set"`
	Zone    string `json:"zone"`
	Qty     int64  `json:"qty"`
	Held    int64  `json:"held"`
	PutBack bool   `json:"put_back,omitempty" doc:"What lies there was recalled and waits to be put back"`
}

// ItemPage is the page of an item.
type ItemPage struct {
	SKU        string            `json:"sku"`
	Name       string            `json:"name"`
	Unit       string            `json:"unit"`
	Multiple   int64             `json:"multiple"`
	LeadDays   int               `json:"lead_days"`
	Buyable    bool              `json:"buyable"`
	WeightG    int64             `json:"weight_g"`
	ByLots     bool              `json:"by_lots,omitempty" doc:"It is noted of which lot its units are"`
	Lots       []LotIn           `json:"lots" doc:"Of which lots some are in the house"`
	PriceMinor int64             `json:"price_minor"`
	CostMinor  int64             `json:"cost_minor,omitempty" not:"floor"`
	Currency   string            `json:"currency"`
	At         supply.Counts     `json:"at" doc:"Units of its unfinished lines, by station"`
	Cells      []CellView        `json:"cells" doc:"Where something is wrong first, the worst first; else where there is most"`
	Inbound    []InboundView     `json:"inbound"`
	Lines      []supply.LineView `json:"lines" doc:"Unfinished lines, by day"`
	Trail      []StockMove       `json:"trail" doc:"What changed its stock, newest first"`
	Instead    []supply.Instead  `json:"instead" doc:"Substitutes that are free, those at its first warehouse first"`
	Buying     []BuyView         `json:"buying" doc:"Requests to buy it that wait"`
}

// StockMove is something that changed an item's stock.
type StockMove struct {
	At   string        `json:"at" format:"date-time"`
	Who  string        `json:"who"`
	Text words.Message `json:"text"`
}

// Item returns the page of an item.
func (d *Desk) Item(ctx context.Context, sku string) (ItemPage, error) {
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(sku)
	if err != nil {
		return ItemPage{}, err
	}
	if !found {
		return ItemPage{}, command.NotFound("There is no item %s.", sku)
	}
	out := ItemPage{
		SKU: it.SKU, Name: it.Name, Unit: it.Unit, Multiple: it.Multiple, LeadDays: it.LeadDays, Buyable: it.Buyable, WeightG: it.WeightG,
		ByLots: it.Lots, PriceMinor: it.PriceMinor, CostMinor: it.CostMinor, Currency: it.Currency, Cells: []CellView{}, Trail: []StockMove{},
	}
	lots, err := r.LotsOfItem(it.ID)
	if err != nil {
		return out, err
	}
	out.Lots = lotsIn(lots)
	lines, err := r.LinesOfItem(it.ID)
	if err != nil {
		return out, err
	}
	if out.Lines, err = d.supply.LineViews(r, lines); err != nil {
		return out, err
	}
	for _, l := range lines {
		out.At = supply.AddCounts(out.At, l.StationCounts)
	}
	if out.Cells, err = d.cells(r, it.ID); err != nil {
		return out, err
	}
	in, err := r.ReceiptsOfItem(it.ID)
	if err != nil {
		return out, err
	}
	out.Inbound = d.inboundViews(in)
	trail, err := r.StockTrail(it.ID, 40)
	for _, e := range trail {
		out.Trail = append(out.Trail, StockMove{e.At.UTC().Format(time.RFC3339), e.Who, stockText(e)})
	}
	if err != nil {
		return out, err
	}
	instead, err := r.Substitutes(store.IDs{it.ID})
	if err != nil {
		return out, err
	}
	first := ""
	if len(out.Cells) > 0 {
		first = out.Cells[0].Warehouse
	}
	out.Instead = supply.SubstitutesOf(instead, it.ID, first, 6)
	buying, err := d.BuyRequests(ctx, "", sku)
	out.Buying = slices.DeleteFunc(buying, func(b BuyView) bool { return b.State != "asked" })
	return out, err
}

// cells is the stock of an item in every warehouse that has it, wants it or expects it: where something is wrong first (core/outlook),
// else where there is most.
func (d *Desk) cells(r *store.Reader, item int64) ([]CellView, error) {
	rows, err := r.CellsOf(item)
	if err != nil {
		return nil, err
	}
	bins, err := r.BinsOfItem(item)
	if err != nil {
		return nil, err
	}
	wanted, err := r.WantedOf(item)
	if err != nil {
		return nil, err
	}
	s, err := d.supply.ReadSupply(r, store.IDs{item})
	if err != nil {
		return nil, err
	}
	out, known := []CellView{}, map[string]bool{}
	for _, c := range rows {
		known[c.Warehouse] = true
		out = append(out, CellView{
			Warehouse: c.Warehouse, Name: c.WarehouseName, OnHand: c.OnHand, Held: c.Held, Allocated: c.Allocated, Released: c.Released,
			Picked: c.Picked, Packed: c.Packed, Floor: c.Released + c.Picked + c.Packed, Free: c.Free,
		})
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	for _, h := range houses {
		if _, expects := s.Receipts[command.CellKey{Item: item, Warehouse: h.ID}]; !known[h.Code] && (wanted[h.ID] > 0 || expects) {
			out = append(out, CellView{Warehouse: h.Code, Name: h.Name})
		}
	}
	trouble := map[string]outlook.Trouble{}
	for i := range out {
		c, house := &out[i], s.WarehouseID[out[i].Warehouse]
		c.Bins = []BinView{}
		for _, b := range bins {
			if b.Warehouse == c.Warehouse {
				c.Bins = append(c.Bins, BinView{b.Bin, b.Zone, b.Qty, b.Held, b.PutBack})
			}
		}
		c.Wanted = wanted[house]
		c.Short = max(0, c.Wanted-c.Free)
		for _, x := range s.Coming {
			if x.WarehouseID == house && x.Due < d.Today().String() {
				c.Overdue += x.Qty
			}
		}
		t := outlook.Trouble{Over: outlook.Never, Short: c.Short, Overdue: c.Overdue}
		if day, over := s.Outlook(item, house).Over(); over {
			t.Over, c.Over = day, day.String()
		}
		trouble[c.Warehouse] = t
	}
	slices.SortStableFunc(out, func(x, y CellView) int {
		return cmp.Or(trouble[x.Warehouse].Compare(trouble[y.Warehouse]), cmp.Compare(y.OnHand, x.OnHand))
	})
	return out, nil
}

func stockText(e store.StockEntry) words.Message {
	s := words.Say("%s %d at %s", words.Past(e.Kind), e.Qty, e.Warehouse)
	switch journey.Kind(e.Kind) {
	case journey.Short:
		s = words.Say("found %d %s at %s", e.Qty, e.Cause, e.Warehouse)
	case journey.Set:
		s = words.Say("set %d aside as unusable at %s", e.Qty, e.Warehouse)
	case journey.Unset:
		s = words.Say("made %d usable again at %s", e.Qty, e.Warehouse)
	}
	if e.Bin != "" {
		s = words.Say("%s, bin %s", s, e.Bin)
	}
	if e.Ref != "" {
		s = words.Say("%s, from %s", s, e.Ref)
	}
	if e.OrderNo != "" {
		s = words.Say("%s, for %s", s, e.OrderNo)
	}
	return s
}

// InboundView is an expected receipt.
type InboundView struct {
	ID        int64         `json:"id"`
	Ref       string        `json:"ref"`
	SKU       string        `json:"sku"`
	Item      string        `json:"item"`
	Unit      string        `json:"unit"`
	Warehouse string        `json:"warehouse"`
	Kind      string        `json:"kind"`
	Supplier  string        `json:"supplier"`
	Due       string        `json:"due" format:"date"`
	Overdue   bool          `json:"overdue"`
	Qty       int64         `json:"qty"`
	Received  int64         `json:"received"`
	Left      int64         `json:"left"`
	Waiting   int64         `json:"waiting" doc:"Open units of the item at the warehouse"`
	Bin       string        `json:"bin" doc:"Where the item usually lies"`
	Barcode   string        `json:"barcode" doc:"What a scanner reads of the item besides its number"`
	ByLots    bool          `json:"by_lots,omitempty" doc:"It is noted of which lot its units are"`
	Note      words.Message `json:"note,omitzero" doc:"That more came than was expected, or fewer, and why"`
}

// InboundPage is a page of expected receipts.
type InboundPage struct {
	Inbound []InboundView `json:"inbound"`
	Next
}

// Inbound returns a page of expected receipts.
func (d *Desk) Inbound(ctx context.Context, ask Ask) (InboundPage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Receipts, ask)
	if err != nil {
		return InboundPage{}, err
	}
	rows, err := r.ReceiptRows(ids)
	return InboundPage{d.inboundViews(rows), next}, err
}

func (d *Desk) inboundViews(rows []store.InboundList) []InboundView {
	out := make([]InboundView, len(rows))
	today := d.Today().String()
	for i, x := range rows {
		out[i] = InboundView{
			x.ID, x.Ref, x.SKU, x.ItemName, x.Unit, x.Warehouse, x.Kind, x.Supplier, x.Due, x.Due < today && x.Received < x.Qty,
			x.Qty, x.Received, x.Qty - x.Received, x.Waiting, x.Bin, x.Barcode, x.Lots,
			words.Message{},
		}
		if x.WasUntil != nil {
			out[i].Note = words.Say("%d were expected until %s, %s: %s", x.Was, x.WasBy, d.Clock(*x.WasUntil), words.WithFullStop(x.WasWhy))
		}
	}
	return out
}

// CustomerRow is a customer in a list.
type CustomerRow struct {
	Code       string        `json:"code"`
	Name       string        `json:"name"`
	Tier       int           `json:"tier"`
	ShipRule   string        `json:"ship_rule"`
	Warehouse  string        `json:"warehouse"`
	Service    string        `json:"service"`
	Terms      string        `json:"terms"`
	Email      string        `json:"email"`
	Orders     int64         `json:"orders"`
	OpenOrders int64         `json:"open_orders"`
	ValueMinor int64         `json:"value_minor" doc:"Of its orders in that currency"`
	Currency   string        `json:"currency"`
	At         supply.Counts `json:"at"`
	Hold       string        `json:"hold" doc:"Kind of the hold that stands on the customer; empty for none"`
}

func customerRow(c store.CustomerHead) CustomerRow {
	return CustomerRow{
		c.Code, c.Name, c.Tier, c.ShipRule, c.Warehouse, c.Service, c.Terms, c.Email, c.Orders, c.OpenOrders,
		c.ValueMinor, store.FirmCurrency, c.StationCounts, c.Hold,
	}
}

// CustomersPage is a page of customers.
type CustomersPage struct {
	Customers []CustomerRow `json:"customers"`
	Next
}

// Customers returns a page of customers.
func (d *Desk) Customers(ctx context.Context, ask Ask) (CustomersPage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Customers, ask)
	if err != nil {
		return CustomersPage{}, err
	}
	rows, err := r.CustomerHeads(ids)
	out := CustomersPage{Customers: make([]CustomerRow, len(rows)), Next: next}
	for i, c := range rows {
		out.Customers[i] = customerRow(c)
	}
	return out, err
}

// CustomerPage is the page of a customer.
type CustomerPage struct {
	CustomerRow
	ShipTos []supply.ShipToView `json:"ship_tos"`
	Held    *HoldView           `json:"held,omitempty" doc:"The hold on the customer: all its orders are on hold with it"`
}

// Customer returns the page of a customer.
func (d *Desk) Customer(ctx context.Context, code string) (CustomerPage, error) {
	r := d.Store.Read(ctx)
	c, found, err := r.CustomerByCode(code)
	if err != nil {
		return CustomerPage{}, err
	}
	if !found {
		return CustomerPage{}, command.NotFound("There is no customer %s.", code)
	}
	customer, _, err := r.CustomerWithShipTos(code)
	if err != nil {
		return CustomerPage{}, err
	}
	out := CustomerPage{CustomerRow: customerRow(c), ShipTos: supply.ShipToViews(customer.ShipTos)}
	h, held, err := r.HoldOnCustomer(customer.ID)
	if held {
		out.Held = &HoldView{h.Kind, h.Note, h.Who, h.At.UTC().Format(time.RFC3339), order.ManagerLifts(h.Kind)}
	}
	return out, err
}

// StripStation is one station of the whole book.
type StripStation struct {
	Station string        `json:"station"`
	Units   int64         `json:"units"`
	Lines   int64         `json:"lines"`
	Waiting int64         `json:"waiting" doc:"What is to be done there"`
	For     words.Message `json:"for" doc:"What it waits for"`
}

// StripView is the journey bar of the whole book.
type StripView struct {
	Stations []StripStation `json:"stations"`
	Today    string         `json:"today" format:"date"`
	Held     int64          `json:"held_lines" doc:"Allocated lines whose order is on hold"`
}

// waitsFor says what the mark on a station counts.
var waitsFor = map[string]words.Message{
	"open":      words.Say("lines with open units and free stock"),
	"promised":  words.Say("lines promised for today or before"),
	"allocated": words.Say("lines that could be released"),
	"released":  words.Say("pick lists to be picked"),
	"picked":    words.Say("orders to be packed"),
	"packed":    words.Say("shipments to be dispatched"),
	"shipped":   words.Say("shipments that should have arrived"),
}

// Strip returns units and lines at each station, and what waits for a person there.
func (d *Desk) Strip(ctx context.Context) (StripView, error) {
	r := d.Store.Read(ctx)
	at, waiting, err := r.Strip((d.Today() - 30).String(), d.Today().String())
	if err != nil {
		return StripView{}, err
	}
	houses, err := r.Warehouses()
	if err != nil {
		return StripView{}, err
	}
	until, err := d.supply.LookAhead(r, houses)
	if err != nil {
		return StripView{}, err
	}
	due, err := r.ReleaseGroups(store.ReleaseQuery{Until: until.String()}, until.String(), store.MostCounted)
	if err != nil {
		return StripView{}, err
	}
	held, err := r.ReleaseGroups(store.ReleaseQuery{Held: true}, until.String(), store.MostCounted)
	if err != nil {
		return StripView{}, err
	}
	out := StripView{Today: d.Today().String()}
	for _, g := range due {
		if release.Check(supply.GroupCandidate(g, until), until) == release.Offered {
			waiting["allocated"] += g.Lines
		}
	}
	for _, g := range held {
		if release.Check(supply.GroupCandidate(g, until), until) == release.OnHold {
			out.Held += g.Lines
		}
	}
	names := []string{journey.Open.String(), "promised"} // what is open and promised is drawn by itself
	for s := journey.Allocated; s <= journey.Delivered; s++ {
		names = append(names, s.String())
	}
	for _, name := range names {
		out.Stations = append(out.Stations, StripStation{name, at[name].Units, at[name].Lines, waiting[name], waitsFor[name]})
	}
	return out, nil
}

// Hit is something that was found.
type Hit struct {
	Kind   string `json:"kind"`
	Number string `json:"number"`
	Text   string `json:"text"`
	Of     string `json:"of,omitempty" doc:"Of a lot: its item"`
}

// Search finds things by part of their number or name.
func (d *Desk) Search(ctx context.Context, words string) ([]Hit, error) {
	words = strings.TrimSpace(words)
	if words == "" {
		return []Hit{}, nil
	}
	hits, err := d.Store.Read(ctx).Search(words, 30)
	out := make([]Hit, len(hits))
	for i, h := range hits {
		out[i] = Hit(h)
	}
	return out, err
}

// ProgressOf says how far the command of that key is.
func (d *Desk) ProgressOf(ctx context.Context, key string) (store.Progress, bool, error) {
	return d.Store.Read(ctx).ProgressOf(key)
}
