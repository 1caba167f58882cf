package allocation

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// ContestRow is an item at a warehouse of which more is wanted than is free.
type ContestRow struct {
	SKU        string          `json:"sku"`
	Item       string          `json:"item"`
	Unit       string          `json:"unit"`
	Warehouse  string          `json:"warehouse"`
	Wanted     int64           `json:"wanted" doc:"Open units that are due"`
	Free       int64           `json:"free"`
	Missing    int64           `json:"missing"`
	Lines      int             `json:"lines" doc:"Lines that want some"`
	Lacking    int             `json:"lacking" doc:"Of these, that go short by the default policy"`
	ValueMinor int64           `json:"value_minor" doc:"What the missing units are worth"`
	Currency   string          `json:"currency"`
	Relief     *supply.Arrival `json:"relief,omitempty" doc:"The next arrival that counts"`
	Enough     bool            `json:"enough" doc:"That arrival covers all that is missing"`
	Overdue    bool            `json:"overdue" doc:"An arrival is overdue"`
}

// ContestedPage is what is contested, the greatest trouble first.
type ContestedPage struct {
	Items      []ContestRow `json:"items" doc:"The greatest trouble of them"`
	Total      int          `json:"total" doc:"How many there are"`
	ValueMinor int64        `json:"value_minor" doc:"Worth of all that is missing of what is sold in that currency"`
	Currency   string       `json:"currency"`
	Policy     string       `json:"policy" doc:"The policy that says who goes short"`
}

// mostContested is how many items are listed at once.
const mostContested = 100

// Contested returns the items of which more is wanted than is free, the greatest trouble first.
func (d *Desk) Contested(ctx context.Context, words string) (ContestedPage, error) {
	out := ContestedPage{Items: []ContestRow{}, Currency: store.FirmCurrency}
	r := d.Store.Read(ctx)
	row, _, err := r.PolicyByName("")
	if err != nil {
		return out, err
	}
	v, err := policyView(row)
	if err != nil {
		return out, err
	}
	out.Policy = v.Name
	all, err := d.shortages.lookAt(ctx, d, v.Rules)
	if err != nil {
		return out, err
	}
	houses, err := r.Warehouses()
	if err != nil {
		return out, err
	}
	code := map[int64]string{}
	for _, h := range houses {
		code[h.ID] = h.Code
	}
	for _, w := range strings.Fields(strings.ToLower(words)) {
		named, err := r.ItemsNamed(w)
		if err != nil {
			return out, err
		}
		all = slices.DeleteFunc(all, func(c contest) bool {
			return !slices.Contains(named, c.ItemID) && !strings.Contains(strings.ToLower(code[c.WarehouseID]), w)
		})
	}
	out.Total = len(all)
	for _, c := range all {
		if c.Currency == out.Currency {
			out.ValueMinor += c.Value
		}
	}
	out.Items, err = contestRows(r, d.Today().String(), all[:min(len(all), mostContested)], code)
	return out, err
}

// KeepShortages works out who goes short now and then until ctx is done, so that whoever looks finds little left to be worked out, even
// after an import or at the beginning of a day.
func (d *Desk) KeepShortages(ctx context.Context, every time.Duration) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	for {
		if _, err := d.Contested(ctx, ""); err != nil && ctx.Err() == nil {
			d.Log.Warn("who goes short could not be worked out ahead", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// contest is an item at a warehouse of which more is wanted than is free.
type contest struct {
	store.ShortCell
	plan.Contest
}

// shortages is who goes short of what, as it was last worked out. It is worked out again only of items that have changed since, which
// the database says with each of their cells: not what somebody remembered to announce. The zero value knows nothing yet.
type shortages struct {
	mu    sync.Mutex
	by    string // the policy and the day by which it was worked out
	items map[int64]*shortItem
}

// shortItem is an item of which more is open than is free, with the contests that come of it.
type shortItem struct {
	cells    []store.ShortCell
	contests []contest
}

// lookAt returns the contests as they are now, the greatest trouble first.
func (s *shortages) lookAt(ctx context.Context, d *Desk, rules PolicyRules) ([]contest, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	cells, err := d.Store.Read(ctx).ShortCells() // before the lines are read, so that no change is taken for one that is known
	if err != nil {
		return nil, err
	}
	if by := fmt.Sprint(rules.Keys, rules.window(), d.Today()); by != s.by {
		s.by, s.items = by, map[int64]*shortItem{}
	}
	short := map[int64]*shortItem{}
	var changed store.IDs
	for len(cells) > 0 {
		item := cells[0].ItemID
		n := slices.IndexFunc(cells, func(c store.ShortCell) bool { return c.ItemID != item })
		if n < 0 {
			n = len(cells)
		}
		if known := s.items[item]; known != nil && slices.Equal(known.cells, cells[:n]) {
			short[item] = known
		} else {
			short[item] = &shortItem{cells: cells[:n:n]}
			changed = append(changed, item)
		}
		cells = cells[n:]
	}
	if err := workOut(ctx, d, rules, short, changed); err != nil {
		return nil, err
	}
	s.items = short
	var out []contest
	for _, x := range short {
		out = append(out, x.contests...)
	}
	slices.SortFunc(out, func(x, y contest) int {
		return cmp.Or(
			cmp.Compare(y.Trouble, x.Trouble), cmp.Compare(x.ItemID, y.ItemID), cmp.Compare(x.WarehouseID, y.WarehouseID),
		)
	})
	return out, nil
}

// workOut finds the contests of the items that have changed.
func workOut(ctx context.Context, d *Desk, rules PolicyRules, short map[int64]*shortItem, changed store.IDs) error {
	if len(changed) == 0 {
		return nil
	}
	keys, err := rules.keys()
	if err != nil {
		return err
	}
	rows, err := d.Store.ReadBookOf(ctx, changed)
	if err != nil {
		return err
	}
	b, err := d.supply.MakeBook(d.Store.Read(ctx), rows, supply.BookOptions{})
	if err != nil {
		return err
	}
	for _, c := range plan.Contested(b.Book, keys, rules.window()) {
		k := b.CellKey(c.Cell)
		x := short[k.Item]
		for _, cell := range x.cells {
			if cell.WarehouseID == k.Warehouse {
				x.contests = append(x.contests, contest{cell, c})
			}
		}
	}
	return nil
}

// contestRows are contested cells as a page shows them, with what comes next of each.
func contestRows(r *store.Reader, today string, shown []contest, code map[int64]string) ([]ContestRow, error) {
	items := store.IDs{}
	for _, c := range shown {
		items = append(items, c.ItemID)
	}
	names, err := r.ItemsByID(items)
	if err != nil {
		return nil, err
	}
	named := map[int64]store.Item{}
	for _, it := range names {
		named[it.ID] = it
	}
	supplies, err := r.SupplyOf(items)
	if err != nil {
		return nil, err
	}
	coming := map[command.CellKey][]store.Supply{}
	for _, x := range supplies {
		k := command.CellKey{Item: x.ItemID, Warehouse: x.WarehouseID}
		coming[k] = append(coming[k], x)
	}
	out := []ContestRow{}
	for _, c := range shown {
		it := named[c.ItemID]
		x := ContestRow{
			SKU: it.SKU, Item: it.Name, Unit: it.Unit, Warehouse: code[c.WarehouseID], Wanted: c.Wanted,
			Free:    c.Contest.Free,
			Missing: c.Missing, Lines: c.Contest.Lines, Lacking: c.Lacking, ValueMinor: c.Value, Currency: it.Currency,
		}
		for _, s := range coming[command.CellKey{Item: c.ItemID, Warehouse: c.WarehouseID}] {
			if s.Due < today {
				x.Overdue = true
			} else if x.Relief == nil {
				x.Relief, x.Enough = &supply.Arrival{Ref: s.Ref, Due: s.Due, Qty: s.Qty}, s.Qty >= c.Missing
			}
		}
		out = append(out, x)
	}
	return out, nil
}
