package floor

import (
	"context"
	"fmt"
	"strings"
	"time"

	"journeyman/core/capped"
	"journeyman/internal/desk/supply"
	"journeyman/internal/papers"
	"journeyman/internal/store"
)

// sheets are the papers of a document as they are drawn: what stands on them is as it is now.
func (d *Desk) sheets(ctx context.Context, run int64) ([]papers.Sheet, error) {
	r := d.Store.Read(ctx)
	rows, err := r.PapersOfRun(run)
	if err != nil {
		return nil, err
	}
	houses, err := r.Warehouses()
	if err != nil {
		return nil, err
	}
	names := map[int64]store.Warehouse{}
	for _, h := range houses {
		names[h.ID] = h
	}
	var orders store.IDs
	for _, p := range rows {
		if p.OrderID != nil {
			orders = append(orders, *p.OrderID)
		}
	}
	packing, err := readPacking(r, orders)
	if err != nil {
		return nil, err
	}
	out := make([]papers.Sheet, len(rows))
	for i, p := range rows {
		zone, err := d.supply.ZoneOf(names[p.WarehouseID])
		if err != nil {
			return nil, err
		}
		at := p.At.In(zone).Format(printedAt)
		if p.OrderID != nil {
			out[i] = packing.sheet(p, names[p.WarehouseID])
			out[i].Note = fmt.Sprintf("Void once a later one is printed or something on it is recalled. Printed for %s, %s.", p.Who, at)
			continue
		}
		if out[i], err = pickListSheet(r, p, names[p.WarehouseID], zone); err != nil {
			return nil, err
		}
		out[i].Note = fmt.Sprintf(
			"Void once a later revision is printed or something on it is recalled: scan the code before you begin. Printed for %s, %s.", p.Who, at,
		)
	}
	return out, nil
}

// printedAt is how times stand on paper.
const printedAt = "Mon 2 Jan 2006, 15:04"

func pickListSheet(r *store.Reader, p store.PaperRow, house store.Warehouse, zone *time.Location) (papers.Sheet, error) {
	h, found, err := r.ListByNumber(p.List)
	if err != nil || !found {
		return papers.Sheet{}, err
	}
	tasks, err := r.TasksOfList(h.ID)
	if err != nil {
		return papers.Sheet{}, err
	}
	s := papers.Sheet{Title: "Pick list " + p.List, Code: p.Code, Columns: []papers.Column{
		{Title: "Bin", Width: 3, Bold: true},
		{Title: "Units", Width: 2, Right: true, Bold: true},
		{Title: "", Width: 2},
		{Title: "Item", Width: 8},
		{Title: "Tote", Width: 2, Bold: true},
		{Title: "Order, line", Width: 4},
		{Title: "Picked", Width: 3},
	}}
	tote := supply.Totes(tasks)
	var rows, units, weight int64
	for _, t := range tasks {
		if t.Due == 0 {
			continue
		}
		rows, units = rows+1, capped.Plus(units, t.Due)
		weight = capped.Plus(weight, capped.Times(t.Due, t.WeightG))
		bin := t.Bin
		if bin == "" {
			bin = "no bin"
		}
		s.Rows = append(s.Rows, []string{
			bin, fmt.Sprint(t.Due), t.Unit, t.SKU + "  " + t.ItemName, tote[t.OrderNumber],
			fmt.Sprintf("%s, %d", t.OrderNumber, t.LineNo), "__________",
		})
	}
	where := fmt.Sprintf("%s (%s)", house.Name, house.Code)
	if h.Zone != "" {
		where += ", zone " + h.Zone
	}
	s.Facts = []papers.Fact{
		{Name: "Warehouse", Value: where},
		{Name: "To pick", Value: fmt.Sprintf("%d rows, %d units, %s", rows, units, kilos(weight))},
		{Name: "Released", Value: fmt.Sprintf("%s, %s", h.Who, h.At.In(zone).Format(printedAt))},
		{Name: "To walk", Value: fmt.Sprintf("about %s, %s", metres(h.WalkCM), duration(h.WorkS))},
		{Name: "First ships", Value: day(h.FirstShip)},
		{Name: "Orders", Value: fmt.Sprint(h.Orders)},
	}
	return s, nil
}

// packingLists is what packing lists say of orders.
type packingLists struct {
	heads map[int64]store.PackingListHead
	rows  map[store.OrderAt][]store.PackingListRow // by order and warehouse
}

func readPacking(r *store.Reader, orders store.IDs) (packingLists, error) {
	out := packingLists{map[int64]store.PackingListHead{}, map[store.OrderAt][]store.PackingListRow{}}
	if len(orders) == 0 {
		return out, nil
	}
	heads, err := r.PackingListHeads(orders)
	if err != nil {
		return out, err
	}
	for _, h := range heads {
		out.heads[h.OrderID] = h
	}
	rows, err := r.PackingListRows(orders)
	for _, x := range rows {
		k := store.OrderAt{OrderID: x.OrderID, WarehouseID: x.WarehouseID}
		out.rows[k] = append(out.rows[k], x)
	}
	return out, err
}

func (l packingLists) sheet(p store.PaperRow, house store.Warehouse) papers.Sheet {
	h := l.heads[*p.OrderID]
	s := papers.Sheet{Title: "Packing list " + p.Order, Code: p.Code, Columns: []papers.Column{
		{Title: "Line", Width: 2, Right: true},
		{Title: "Item", Width: 10},
		{Title: "Here", Width: 3, Right: true, Bold: true},
		{Title: "", Width: 3},
		{Title: "Ordered", Width: 3, Right: true},
		{Title: "To follow", Width: 3, Right: true},
	}}
	for _, x := range l.rows[store.OrderAt{OrderID: *p.OrderID, WarehouseID: p.WarehouseID}] {
		s.Rows = append(s.Rows, []string{
			fmt.Sprint(x.LineNo), x.SKU + "  " + x.ItemName, fmt.Sprint(x.Here), x.Unit, fmt.Sprint(x.Ordered),
			fmt.Sprint(max(0, x.Ordered-x.Sent-x.Here)),
		})
	}
	s.Facts = []papers.Fact{
		{Name: "Customer", Value: h.Customer},
		{Name: "Customer's order no", Value: h.CustomerRef},
		{Name: "Ship to", Value: h.ShipToName},
		{Name: "From", Value: fmt.Sprintf("%s (%s)", house.Name, house.Code)},
		{Name: "", Value: h.Street},
		{Name: "Service", Value: h.Service},
		{Name: "", Value: joined(h.City, h.Postcode, h.Country)},
	}
	return s
}

func joined(parts ...string) string {
	var out []string
	for _, p := range parts {
		if p != "" {
			out = append(out, p)
		}
	}
	return strings.Join(out, ", ")
}

func kilos(g int64) string { return fmt.Sprintf("%d.%d kg", g/1000, g%1000/100) }

func metres(cm int64) string { return fmt.Sprintf("%d m", (cm+50)/100) }

func duration(seconds int64) string {
	minutes := (seconds + 59) / 60
	if minutes < 60 {
		return fmt.Sprintf("%d min", minutes)
	}
	return fmt.Sprintf("%d h %d min", minutes/60, minutes%60)
}

// day is a day as it stands on paper.
func day(iso string) string {
	t, err := time.Parse(time.DateOnly, iso)
	if err != nil {
		return iso
	}
	return t.Format("Mon 2 Jan 2006")
}
