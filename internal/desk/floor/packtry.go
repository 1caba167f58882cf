package floor

import (
	"cmp"
	"context"

	"journeyman/core/capped"
	"journeyman/core/shipping"
)

// PackTry is how picked units of an order could be put into packages.
type PackTry struct {
	Order     string  `json:"order" maxLength:"60"`
	Warehouse string  `json:"warehouse" maxLength:"12"`
	Packages  []TryOf `json:"packages" maxItems:"200" doc:"What would be in each"`
}

// TryOf is a package that could be.
type TryOf struct {
	Of       string    `json:"of,omitempty" maxLength:"12" doc:"Code of the kind of carton or pallet"`
	WeightG  int64     `json:"weight_g,omitempty" minimum:"0" maximum:"1000000000" doc:"Weighed, in grams; 0: as it weighs by its items"`
	Contents []Content `json:"contents" maxItems:"500"`
}

// PackEffect is what that comes to.
type PackEffect struct {
	Packages []PackageTried `json:"packages"`
	Left     []LineUnits    `json:"left" doc:"Of each line what would be in no package"`
	Units    int64          `json:"units" doc:"The sum of those"`
}

// PackageTried is one of the packages.
type PackageTried struct {
	WeightG int64       `json:"weight_g" doc:"What it weighs by its items, with the package"`
	Off     bool        `json:"off,omitempty" doc:"It was weighed, and that is so far from it that the goods are better counted again"`
	Heavy   bool        `json:"heavy,omitempty" doc:"It is heavier than its kind may be"`
	Most    []LineUnits `json:"most" doc:"Of each line what could be in it at most"`
	Units   int64       `json:"units"`
}

// RehearsePack says what putting picked units into packages would come to. It changes nothing.
func (d *Desk) RehearsePack(ctx context.Context, ask PackTry) (PackEffect, error) {
	rows, err := d.Store.Read(ctx).PickedOf(ask.Order, ask.Warehouse)
	if err != nil {
		return PackEffect{}, err
	}
	if len(rows) == 0 {
		return PackEffect{}, nothingPicked(ask.Order, ask.Warehouse)
	}
	kinds, err := d.Store.Read(ctx).PackageKinds()
	if err != nil {
		return PackEffect{}, err
	}
	in := map[int64]int64{}
	for _, p := range ask.Packages {
		for _, c := range p.Contents {
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
		for _, c := range p.Contents {
			own[c.Line] = capped.Plus(own[c.Line], c.Qty)
		}
		to := &out.Packages[i]
		to.Most = []LineUnits{}
		most := int64(heaviest)
		for _, k := range kinds {
			if k.Code == p.Of {
				to.WeightG, most = k.TareG, k.MostG
			}
		}
		for _, x := range rows {
			to.Most = append(to.Most, LineUnits{Line: x.LineID, Qty: max(0, x.Picked-(in[x.LineID]-own[x.LineID]))})
			to.WeightG = capped.Plus(to.WeightG, capped.Times(own[x.LineID], x.WeightG))
			to.Units = capped.Plus(to.Units, own[x.LineID])
		}
		to.Off = p.WeightG > 0 && shipping.Doubtful(p.WeightG, to.WeightG)
		to.Heavy = cmp.Or(p.WeightG, to.WeightG) > most
	}
	return out, nil
}
