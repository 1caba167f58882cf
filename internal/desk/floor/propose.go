package floor

import (
	"context"
	"slices"

	"journeyman/core/capped"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ProposeAsk asks into what the picked units of an order could be packed.
type ProposeAsk struct {
	Order     string `json:"order" maxLength:"60"`
	Warehouse string `json:"warehouse" maxLength:"12"`
	Ware      string `json:"ware,omitempty" enum:",cartons,pallets" doc:"Into cartons, or onto pallets; if empty, as suits how much it is"`
}

// PackProposal is what could be packed into what.
type PackProposal struct {
	Packages []ProposedPackage    `json:"packages"`
	Left     []LineUnits          `json:"left" doc:"What would be in no package, of more than go at once"`
	Unsized  int64                `json:"unsized" doc:"Units whose size nobody has said: they count by weight alone"`
	Fewest   bool                 `json:"fewest" doc:"No way of packing takes fewer"`
	Kinds    []supply.PackageKind `json:"kinds" doc:"What there is to pack into"`
	Into     []Joinable           `json:"into" doc:"Shipments of the customer that are being packed here"`
}

// ProposedPackage is a package that could be made.
type ProposedPackage struct {
	Of       string    `json:"of" doc:"Code of the kind of package; empty for a thing that goes by itself"`
	Contents []Content `json:"contents"`
}

// Joinable is a shipment into which something could be packed.
type Joinable struct {
	Shipment string        `json:"shipment"`
	Orders   string        `json:"orders" doc:"Whose units are in it"`
	Why      words.Message `json:"why,omitzero" doc:"Why the order cannot be packed into it"`
}

// mostPackages is how many packages are packed at once.
const mostPackages = 200

// Propose says into what the picked units of an order could be packed (core/shipping). It changes nothing.
func (d *Desk) Propose(ctx context.Context, ask ProposeAsk) (PackProposal, error) {
	r := d.Store.Read(ctx)
	out := PackProposal{Packages: []ProposedPackage{}, Left: []LineUnits{}, Into: []Joinable{}}
	rows, err := r.PickedGoodsOf(ask.Order, ask.Warehouse)
	if err != nil {
		return out, err
	}
	if len(rows) == 0 {
		return out, nothingPicked(ask.Order, ask.Warehouse)
	}
	kinds, err := r.PackageKinds()
	if err != nil {
		return out, err
	}
	out.Kinds = supply.PackageKinds(kinds)
	inner := make([]shipping.PackageKind, len(kinds))
	for i, k := range kinds {
		inner[i] = k.Shipping()
	}
	goods := make([]shipping.Goods, len(rows))
	for i, x := range rows {
		goods[i] = shipping.Goods{Units: x.Units, Size: shipping.Size{x.LengthMM, x.WidthMM, x.HeightMM}, WeightG: x.WeightG}
		if x.LengthMM == 0 || x.WidthMM == 0 || x.HeightMM == 0 {
			out.Unsized = capped.Plus(out.Unsized, x.Units)
		}
	}
	packages, left := shipping.Propose(goods, inner, shipping.Ware(ask.Ware), mostPackages)
	for _, x := range left {
		out.Left = append(out.Left, LineUnits{Line: rows[x.Goods].LineID, Qty: x.Units})
	}
	single := true // all are of one kind: then the bound speaks of it
	for _, p := range packages {
		v := ProposedPackage{Contents: make([]Content, len(p.Parts))}
		for i, x := range p.Parts {
			v.Contents[i] = Content{Line: rows[x.Goods].LineID, Qty: x.Units}
		}
		slices.SortFunc(v.Contents, func(a, b Content) int { return place(rows, a.Line) - place(rows, b.Line) })
		if p.Kind != shipping.ByItself {
			v.Of = kinds[p.Kind].Code
		}
		single = single && p.Kind != shipping.ByItself
		out.Packages = append(out.Packages, v)
	}
	out.Fewest = single && len(left) == 0 && int64(len(packages)) == shipping.FewestPackages(goods, wareOf(inner, packages))
	out.Into, err = joinable(r, ask)
	return out, err
}

// wareOf are the kinds among which was chosen: cartons, pallets, or both.
func wareOf(kinds []shipping.PackageKind, packages []shipping.Proposed) []shipping.PackageKind {
	var used [2]bool
	for _, p := range packages {
		if p.Kind != shipping.ByItself {
			used[b2i(kinds[p.Kind].Pallet)] = true
		}
	}
	return slices.DeleteFunc(slices.Clone(kinds), func(k shipping.PackageKind) bool { return !used[b2i(k.Pallet)] })
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

func place(rows []store.PickedGoods, line int64) int {
	return slices.IndexFunc(rows, func(x store.PickedGoods) bool { return x.LineID == line })
}

func nothingPicked(order, warehouse string) error {
	return command.NotFound("Nothing of %s is picked at %s and waits to be packed.", order, warehouse)
}

// joinable are the shipments of the order's customer that are being packed, each with why the order cannot be packed into it.
func joinable(r *store.Reader, ask ProposeAsk) ([]Joinable, error) {
	out := []Joinable{}
	order, found, err := r.ConsignedOrder(ask.Order, ask.Warehouse)
	if err != nil || !found {
		return out, err
	}
	open, err := r.OpenConsigned(ask.Order, ask.Warehouse)
	for _, s := range open {
		j := Joinable{Shipment: s.Shipment, Orders: s.Orders}
		if by, has, wants := shipping.Differ(s.Consigned, order.Consigned); by != shipping.Alike {
			j.Why = differs(by, has, wants)
		}
		out = append(out, j)
	}
	return out, err
}

// differs says in what a shipment differs from what is to go into it.
func differs(by shipping.Property, has, wants string) words.Message {
	switch by {
	case shipping.ByCustomer:
		return words.Say("it is for %s, not for %s", has, wants)
	case shipping.ByAddress:
		return words.Say("it goes to %s, not to %s", has, wants)
	case shipping.ByService:
		return words.Say("it goes by %s, not by %s", has, wants)
	case shipping.ByTerms:
		return words.Say("its freight terms are %s, not %s", has, wants)
	case shipping.ByWarehouse:
		return words.Say("it leaves %s, not %s", has, wants)
	case shipping.Alike:
	}
	return words.Message{}
}

// Scale weighs packages.
type Scale interface {
	// Weigh returns what stands on the scale, in grams. should is what it weighs by its items: a real scale has no use for it.
	Weigh(ctx context.Context, should int64) (int64, error)
}

// WeighAsk says what stands on the scale.
type WeighAsk struct {
	Order     string    `json:"order" maxLength:"60"`
	Warehouse string    `json:"warehouse" maxLength:"12"`
	Of        string    `json:"of,omitempty" maxLength:"12" doc:"Code of the kind of package"`
	Contents  []Content `json:"contents" maxItems:"500"`
}

// WeighView is what the scale says.
type WeighView struct {
	WeightG int64 `json:"weight_g"`
	ShouldG int64 `json:"should_g" doc:"What it weighs by its items, with the package"`
	Off     bool  `json:"off" doc:"So far apart that the goods are better counted again"`
}

// Weigh asks the scale what a package weighs. It changes nothing. It refuses where there is no scale.
func (d *Desk) Weigh(ctx context.Context, ask WeighAsk) (WeighView, error) {
	if d.scale == nil {
		return WeighView{}, command.Conflict("There is no scale here. Weigh it and type the kilograms.")
	}
	r := d.Store.Read(ctx)
	rows, err := r.PickedGoodsOf(ask.Order, ask.Warehouse)
	if err != nil {
		return WeighView{}, err
	}
	kinds, err := r.PackageKinds()
	if err != nil {
		return WeighView{}, err
	}
	out := WeighView{}
	for _, k := range kinds {
		if k.Code == ask.Of {
			out.ShouldG = k.TareG
		}
	}
	for _, c := range ask.Contents {
		if i := place(rows, c.Line); i >= 0 {
			out.ShouldG = capped.Plus(out.ShouldG, capped.Times(c.Qty, rows[i].WeightG))
		}
	}
	if out.WeightG, err = d.scale.Weigh(ctx, out.ShouldG); err != nil {
		return out, command.Conflict("The scale does not answer. Weigh the package elsewhere and type the kilograms.")
	}
	out.Off = shipping.Doubtful(out.WeightG, out.ShouldG)
	return out, nil
}
