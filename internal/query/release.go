package query

import (
	"context"
	"slices"

	"journeyman/core/capped"
	"journeyman/core/journey"
	"journeyman/core/release"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ReleaseLine is an allocated line as the list of what could go to the floor shows it.
type ReleaseLine struct {
	supply.LineView
	Ready      int    `json:"ready" doc:"Open lines of its order that could go in full now"`
	OpenLines  int    `json:"open_lines"`
	OrderOpen  int64  `json:"order_open" doc:"Units of its order that are open, with its own"`
	WeightG    int64  `json:"weight_g" doc:"Weight of what is allocated"`
	ValueMinor int64  `json:"value_minor" doc:"What is allocated is worth"`
	Currency   string `json:"currency"`
	Service    string `json:"service"`
	NotBefore  string `json:"not_before,omitempty" format:"date" doc:"The day on which its order may leave first"`
	StillDue   int64  `json:"still_due" doc:"Units of the line that have not left"`
	Completes  bool   `json:"completes" doc:"Nothing of its order is open: releasing all of it completes the order"`

	Supply   words.Message `json:"supply" doc:"What there is for what it still lacks, in a few words"`
	Supplied string        `json:"supplied" enum:",wanted,all_free,some_free,arriving,contested,nowhere" doc:"The same for a program"`
}

// ReleasePage is a page of allocated lines.
type ReleasePage struct {
	Lines []ReleaseLine `json:"lines"`
	Next
}

// Release returns a page of allocated lines: those that could go to the floor, or that could not for a reason.
func (d *Desk) Release(ctx context.Context, ask Ask) (ReleasePage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Release, ask)
	if err != nil {
		return ReleasePage{}, err
	}
	rows, err := r.LinesInOrder(ids)
	if err != nil {
		return ReleasePage{}, err
	}
	views, err := d.supply.LineViews(r, rows)
	if err != nil {
		return ReleasePage{}, err
	}
	orders := make(store.IDs, len(rows))
	for i, l := range rows {
		orders[i] = l.OrderID
	}
	slices.Sort(orders)
	wants, err := r.WantsOfOrders(slices.Compact(orders))
	byOrder := map[int64][]store.LineRow{}
	for _, l := range wants {
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	if err != nil {
		return ReleasePage{}, err
	}
	others, err := r.Wanting(rows)
	out := ReleasePage{Lines: make([]ReleaseLine, len(rows)), Next: next}
	for i, l := range rows {
		of := byOrder[l.OrderID]
		line := ReleaseLine{
			LineView: views[i], WeightG: capped.Times(l.Allocated, l.WeightG), ValueMinor: capped.Times(l.Allocated, l.PriceMinor),
			Currency: l.Currency, Service: l.Service, NotBefore: l.NotBefore,
		}
		line.Ready, line.OpenLines = supply.ReadyShare(of)
		for _, w := range of {
			line.OrderOpen = capped.Plus(line.OrderOpen, w.Open)
		}
		line.StillDue, line.Completes = l.Open+l.Allocated+l.Released+l.Picked+l.Packed, line.OrderOpen == 0
		line.Supplied, line.Supply = supplyOf(views[i], others[store.ItemAt{ItemID: l.ItemID, WarehouseID: l.WarehouseID}])
		out.Lines[i] = line
	}
	return out, err
}

// supplyOf is what there is for what a line lacks, where so many lines lack some of its item there, itself among them if it does.
func supplyOf(l supply.LineView, wanting int64) (string, words.Message) {
	lack := release.Lack{Open: journey.Qty(l.At.Open), Free: journey.Qty(l.Free), Others: int(wanting)}
	if l.At.Open > 0 {
		lack.Others--
	}
	if l.Next != nil && !l.Next.Overdue {
		lack.Coming = journey.Qty(l.Next.Qty)
	}
	kind := lack.Supply()
	switch kind {
	case release.Covered:
		return string(kind), words.Say("all allocated")
	case release.Wanted:
		return string(kind), words.Say("allocated; %s short", othersOf(lack.Others))
	case release.AllFree:
		return string(kind), words.Say("all free")
	case release.SomeFree:
		return string(kind), words.Say("%d of %d free", l.Free, l.At.Open)
	case release.Arriving:
		return string(kind), words.Say("%d more on %s", min(l.Next.Qty, l.At.Open), words.DayOf(l.Next.Due))
	case release.Contested:
		if lack.Others == 1 {
			return string(kind), words.Say("short, another line wants it")
		}
		return string(kind), words.Say("short, %s want it", othersOf(lack.Others))
	case release.Nowhere:
	}
	return string(kind), words.Say("no supply due")
}

// othersOf is so many other lines, in words.
func othersOf(n int) words.Message {
	if n >= store.MostWanting {
		return words.Say("%d others or more", store.MostWanting)
	}
	return words.Say("%s", words.Count(n, "other"))
}
