package floor

import (
	"context"

	"journeyman/core/capped"
	"journeyman/internal/desk/command"
)

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
