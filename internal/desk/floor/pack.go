package floor

import (
	"context"
	"slices"

	"journeyman/core/capped"
	"journeyman/core/journey"
	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Packing puts picked units of one order into packages, in one warehouse.
type Packing struct {
	Order     string        `json:"order"`
	Warehouse string        `json:"warehouse"`
	Shipment  string        `json:"shipment,omitempty" maxLength:"40" doc:"Into which it is packed; its own if empty"`
	Packages  []PackageToBe `json:"packages" minItems:"1" maxItems:"200"`
	Labels    bool          `json:"labels,omitempty" doc:"Labels of the packages are printed"`
}

// PackageToBe is a carton or pallet with its weight and contents.
type PackageToBe struct {
	Kind     string    `json:"kind" enum:"carton,pallet"`
	Of       string    `json:"of,omitempty" maxLength:"12" doc:"Code of the kind of carton or pallet, which then says what it weighs empty"`
	WeightG  int64     `json:"weight_g,omitempty" minimum:"0" maximum:"1000000000" doc:"Weighed, in grams; 0: as it weighs by its items"`
	Contents []Content `json:"contents" minItems:"1"`
}

// Content is so many units of a line.
type Content struct {
	Line int64 `json:"line"`
	Qty  int64 `json:"qty" minimum:"1" maximum:"1000000000"`

	Lots []command.LotQty `json:"lots,omitempty" maxItems:"50" doc:"Of which lots they are; needed if it could be several things"`
}

// Pack puts picked units into packages. They join the shipment that was named, or the order's own that is
// still being packed in that warehouse and goes as the order does, or begin a new one.
//
// A package that was not weighed weighs what its goods and it weigh.
//
// It locks the lines of the order with their stock, then the shipment. It refuses more than is picked there, empty packages, packages
// whose weight nobody knows or that are heavier than their kind may be, lots that were not picked or must not be sent, and a shipment that
// goes elsewhere, or in another way.
func (d *Desk) Pack(ctx context.Context, call command.Call, ask Packing) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPack, ask, func(w *command.UnitOfWork) error {
		lines, err := w.ChooseOrders([]command.OrderSeen{{Number: ask.Order}})
		if err != nil {
			return err
		}
		house, err := w.WarehouseID(ask.Warehouse)
		if err != nil {
			return err
		}
		if len(ask.Packages) == 0 {
			return command.Invalid("Add a package and say what is in it.")
		}
		first := lines[0].Line
		kinds, err := w.Tx.PackageKinds()
		if err != nil {
			return err
		}
		var ship store.Shipment
		if ask.Shipment != "" {
			ship, err = joinShipment(w, ask)
		} else {
			ship, err = openShipment(w, first, house)
		}
		if err != nil {
			return err
		}
		var packed store.IDs
		for i, p := range ask.Packages {
			if len(p.Contents) == 0 {
				return command.Invalid("Package %d is empty. Take it away, or say what is in it.", i+1)
			}
			kind, err := p.kind(kinds)
			if err != nil {
				return err
			}
			weight := p.weight(w, kind)
			switch {
			case weight <= kind.TareG && p.WeightG == 0:
				return command.Invalid("Nobody has said what the goods in package %d weigh. Weigh it and type the kilograms.", i+1)
			case kind.Code != "" && weight > kind.MostG:
				return command.Conflict("Package %d weighs %s; %s %s may weigh %s. Split it, or take another.", i+1, kilos(weight),
					kind.Code, kind.Name, kilos(kind.MostG))
			}
			number, err := w.Tx.NextNumber(store.NumberedPackages)
			if err != nil {
				return err
			}
			pack := store.Package{ShipmentID: ship.ID, Number: number, Kind: p.Kind, MadeOf: kind.Name, WeightG: weight}
			if err := w.Tx.Create(&pack); err != nil {
				return err
			}
			packed = append(packed, pack.ID)
			for _, c := range p.Contents {
				l := w.Lines[c.Line]
				if l == nil {
					return command.Invalid("Package %d holds a line that is not of order %s.", i+1, ask.Order)
				}
				here := journey.Qty(0)
				if p := l.At[house]; p != nil {
					here = p[journey.Picked]
				}
				if journey.Qty(c.Qty) > here {
					return command.Conflict("%s line %d has %d picked at %s and not yet packed; %d cannot be packed. Somebody may "+
						"have packed them already.",
						l.OrderNumber, l.LineNo, here, ask.Warehouse, c.Qty)
				}
				if c.Qty <= 0 {
					return command.Invalid("The quantity must be at least 1.")
				}
				if err := w.Move(l, house, journey.Make(journey.Pack, journey.Qty(c.Qty)), command.Refs{Package: pack.ID, Lots: c.Lots}); err != nil {
					return err
				}
			}
		}
		w.AddDocument("shipment", ship.Number)
		w.Say(
			"Packed %s of %s into %s of shipment %s.", words.Count(w.Outcome.Units, "unit"), ask.Order,
			words.Count(int64(len(ask.Packages)), "package"), ship.Number,
		)
		if ask.Labels {
			return printLabels(w, house, packed)
		}
		return nil
	})
}

// kind is the kind of carton or pallet that was said; without a code if none was.
func (p PackageToBe) kind(kinds []store.PackageKind) (store.PackageKind, error) {
	if p.Of == "" {
		return store.PackageKind{}, nil
	}
	i := slices.IndexFunc(kinds, func(k store.PackageKind) bool { return k.Code == p.Of })
	if i < 0 {
		return store.PackageKind{}, command.NotFound("There is no kind of package %s any more. Choose another.", p.Of)
	}
	if k := kinds[i]; k.Pallet != (p.Kind == "pallet") {
		return k, command.Invalid("%s is no %s. Choose another kind of package.", k.Name, p.Kind)
	}
	return kinds[i], nil
}

// weight is what the scale said or, if nobody weighed it, what its goods weigh by their items, and it empty.
func (p PackageToBe) weight(w *command.UnitOfWork, kind store.PackageKind) int64 {
	if p.WeightG != 0 {
		return p.WeightG
	}
	sum := kind.TareG
	for _, c := range p.Contents {
		if l := w.Lines[c.Line]; l != nil {
			sum = capped.Plus(sum, capped.Times(c.Qty, l.WeightG))
		}
	}
	return min(sum, heaviest)
}

// heaviest is the most that a package can weigh, in grams.
const heaviest = 1_000_000_000

// joinShipment holds the shipment still that was named, and refuses it if it has left, or does not go as the order does.
func joinShipment(w *command.UnitOfWork, ask Packing) (store.Shipment, error) {
	s, found, err := w.Tx.ShipmentByNumber(ask.Shipment)
	if err == nil && !found {
		err = command.NotFound("There is no shipment %s.", ask.Shipment)
	}
	if err != nil {
		return s, err
	}
	if err := w.Tx.LockShipments(store.IDs{s.ID}); err != nil {
		return s, err
	}
	if s, _, err = w.Tx.ShipmentByNumber(ask.Shipment); err != nil {
		return s, err
	}
	switch {
	case s.DispatchedAt != nil:
		return s, command.Conflict("Shipment %s has left %s; nothing can be packed into it.", s.Number, w.Clock(*s.DispatchedAt))
	case s.AskedAt != nil:
		return s, command.Conflict("The carrier is being asked to take shipment %s; nothing can be packed into it.", s.Number)
	}
	goes, _, err := w.Tx.ConsignedShipment(s.Number)
	if err != nil {
		return s, err
	}
	order, _, err := w.Tx.ConsignedOrder(ask.Order, ask.Warehouse)
	if by, has, wants := shipping.Differ(goes.Consigned, order.Consigned); err == nil && by != shipping.Alike {
		err = command.Conflict("%s cannot be packed into shipment %s: %s. Pack it into one of its own.", ask.Order, s.Number,
			differs(by, has, wants))
	}
	return s, err
}

func openShipment(w *command.UnitOfWork, l *command.Line, house int64) (store.Shipment, error) {
	s, found, err := w.Tx.OpenShipmentOf(l.OrderID, house)
	if err != nil || found {
		return s, err
	}
	number, err := w.Tx.NextNumber(store.NumberedShipments)
	if err != nil {
		return s, err
	}
	s = store.Shipment{
		Number: number, CustomerID: l.CustomerID, ShipToID: l.ShipToID, WarehouseID: house,
		Service: l.Service, Terms: l.Terms, PackedBy: w.ID,
	}
	return s, w.Tx.Create(&s)
}

// Unpack takes everything out of a package that has not left; the units are picked again.
//
// It locks the lines in the shipment with their stock, then the shipment. It refuses a package that has left, about which the carrier
// is being asked, or that is empty.
func (d *Desk) Unpack(ctx context.Context, call command.Call, number string) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbUnpack, number, func(w *command.UnitOfWork) error {
		s, found, err := w.Tx.ShipmentOfPackage(number)
		if err != nil {
			return err
		}
		if !found {
			return command.NotFound("There is no package %s.", number)
		}
		contents, err := LockContents(w, s.ID)
		if err != nil {
			return err
		}
		if s, _, err = w.Tx.ShipmentOfPackage(number); err != nil {
			return err
		}
		if s.DispatchedAt != nil {
			return command.Conflict("Shipment %s has left %s; its packages cannot be unpacked.", s.Number, w.Clock(*s.DispatchedAt))
		}
		if s.AskedAt != nil {
			return command.Conflict(
				"The carrier is being asked to take shipment %s; its packages cannot be unpacked until it has answered.", s.Number,
			)
		}
		for _, c := range contents {
			if c.Package != number {
				continue
			}
			err := w.Move(
				w.Lines[c.LineID], s.WarehouseID, journey.Make(journey.Unpack, journey.Qty(c.Qty)), command.Refs{Package: c.PackageID},
			)
			if err != nil {
				return err
			}
		}
		if w.Outcome.Units == 0 {
			return command.Conflict("Package %s is empty already.", number)
		}
		w.AddDocument("shipment", s.Number)
		w.Say("Unpacked %s of %s, picked and waiting to be packed again.", words.Count(w.Outcome.Units, "unit"), number)
		return nil
	})
}

// LockContents holds the lines in the shipments still, then the shipments, and returns the contents as they then are.
func LockContents(w *command.UnitOfWork, ids ...int64) ([]store.ContentRow, error) {
	before, err := w.Tx.Contents(ids)
	if err != nil {
		return nil, err
	}
	lines := make([]int64, len(before))
	for i, c := range before {
		lines[i] = c.LineID
	}
	if err := w.Lock(lines); err != nil {
		return nil, err
	}
	if err := w.Tx.LockShipments(ids); err != nil {
		return nil, err
	}
	after, err := w.Tx.Contents(ids)
	if err != nil {
		return nil, err
	}
	for _, c := range after {
		if w.Lines[c.LineID] == nil {
			return nil, command.Conflict("Somebody is packing this shipment just now. Look at it again in a moment.")
		}
	}
	return after, nil
}
