package floor

import (
	"cmp"
	"context"

	"golang.org/x/sync/errgroup"

	"journeyman/core/capped"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// ReleaseEffect is what releasing some lines comes to.
type ReleaseEffect struct {
	Lines   int64 `json:"lines"`
	Orders  int64 `json:"orders"`
	Units   int64 `json:"units"`
	WeightG int64 `json:"weight_g"`
	Lists   int64 `json:"lists" doc:"Pick lists"`
}

// RehearseRelease says what a release would come to. It changes nothing.
func (d *Desk) RehearseRelease(ctx context.Context, ask command.Selection) (ReleaseEffect, error) {
	r := d.Store.Read(ctx)
	ids, asked := make(store.IDs, len(ask.Lines)), make(map[int64]int64, len(ask.Lines))
	for i, l := range ask.Lines {
		ids[i], asked[l.Line] = l.Line, l.Qty
	}
	var lines []store.LineRow
	var places []store.PlaceRow
	var out ReleaseEffect
	var parts errgroup.Group
	parts.Go(func() (err error) {
		lines, err = r.LinesByID(ids)
		return err
	})
	parts.Go(func() (err error) {
		places, err = r.Places(ids)
		return err
	})
	if err := parts.Wait(); err != nil {
		return out, err
	}
	orders, houses := map[int64]bool{}, map[string]bool{}
	goes := map[int64]bool{}
	for _, l := range lines {
		q := min(cmp.Or(asked[l.ID], l.Allocated), l.Allocated)
		if q == 0 {
			continue
		}
		out.Lines++
		out.Units, out.WeightG = capped.Plus(out.Units, q), capped.Plus(out.WeightG, capped.Times(q, l.WeightG))
		orders[l.OrderID], goes[l.ID] = true, true
	}
	for _, p := range places {
		if goes[p.LineID] && p.Allocated > 0 {
			houses[p.Warehouse] = true
		}
	}
	out.Orders, out.Lists = int64(len(orders)), int64(len(houses))
	return out, nil
}

// PackTry is how picked units of an order could be put into packages.
type PackTry struct {
	Order     string      `json:"order" maxLength:"60"`
	Warehouse string      `json:"warehouse" maxLength:"12"`
	Packages  [][]Content `json:"packages" maxItems:"200" doc:"What would be in each"`
}

// PackEffect is what that comes to.
type PackEffect struct {
	Packages []PackageTried `json:"packages"`
	Left     []LineUnits    `json:"left" doc:"Of each line what would be in no package"`
	Units    int64          `json:"units" doc:"The sum of those"`
}

// PackageTried is one of the packages.
type PackageTried struct {
	GoodsG int64       `json:"goods_g" doc:"Weight of the goods, by their items"`
	Most   []LineUnits `json:"most" doc:"Of each line what could be in it at most"`
	Units  int64       `json:"units"`
}

// RehearsePack says what putting picked units into packages would come to. It changes nothing.
func (d *Desk) RehearsePack(ctx context.Context, ask PackTry) (PackEffect, error) {
	rows, err := d.Store.Read(ctx).PickedOf(ask.Order, ask.Warehouse)
	if err != nil {
		return PackEffect{}, err
	}
	if len(rows) == 0 {
		return PackEffect{}, command.NotFound("Nothing of %s is picked at %s and waits to be packed.", ask.Order, ask.Warehouse)
	}
	in := map[int64]int64{}
	for _, p := range ask.Packages {
		for _, c := range p {
			in[c.Line] = capped.Plus(in[c.Line], c.Qty)
		}
	}
	out := PackEffect{Packages: make([]PackageTried, len(ask.Packages)), Left: []LineUnits{}}
	for _, x := range rows {
		left := max(0, x.Picked-in[x.LineID])
		out.Left = append(out.Left, LineUnits{Line: x.LineID, Qty: left})
		out.Units = capped.Plus(out.Units, left)
	}
	for i, p := range ask.Packages {
		own := map[int64]int64{}
		for _, c := range p {
			own[c.Line] = capped.Plus(own[c.Line], c.Qty)
		}
		to := &out.Packages[i]
		to.Most = []LineUnits{}
		for _, x := range rows {
			to.Most = append(to.Most, LineUnits{Line: x.LineID, Qty: max(0, x.Picked-(in[x.LineID]-own[x.LineID]))})
			to.GoodsG = capped.Plus(to.GoodsG, capped.Times(own[x.LineID], x.WeightG))
			to.Units = capped.Plus(to.Units, own[x.LineID])
		}
	}
	return out, nil
}
