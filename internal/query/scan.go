package query

import (
	"context"
	"strings"

	"journeyman/core/shipping"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ScanView is what a code stands for, and why nothing may be done with it, if that is so.
type ScanView struct {
	Code      string        `json:"code" doc:"As it is written"`
	Kind      string        `json:"kind" enum:"sheet,packing list,label,package,shipment,order,pick list"`
	Refused   words.Message `json:"refused,omitzero" doc:"Who stopped it, when, why, and where the goods go; absent if nothing is in the way"`
	Orders    []string      `json:"orders" doc:"Of which it is"`
	Warehouse string        `json:"warehouse,omitempty"`
	List      string        `json:"list,omitempty" doc:"Of a sheet or pick list"`
	Shipment  string        `json:"shipment,omitempty" doc:"Of a package or shipment"`
}

// Scan says what a code stands for that was scanned where goods are packed or leave: that of a sheet or a packing list, or the number of a
// package, shipment, order or pick list. Capitals do not count.
func (d *Desk) Scan(ctx context.Context, code string) (ScanView, error) {
	r := d.Store.Read(ctx)
	code = strings.ToUpper(strings.TrimSpace(code))
	if sscc, is := shipping.ReadSSCC(code); is {
		code = sscc
	}
	for _, look := range []func(*store.Reader, string) (ScanView, bool, error){
		d.scanPaper, d.scanPackage, d.scanShipment, scanOrder, scanList,
	} {
		if v, found, err := look(r, code); err != nil || found {
			return v, err
		}
	}
	return ScanView{}, command.NotFound("Nothing here has the code %s: no sheet, package, shipment, order or pick list.", code)
}

func (d *Desk) scanPaper(r *store.Reader, code string) (ScanView, bool, error) {
	p, found, err := r.PaperByCode(code)
	if err != nil || !found {
		return ScanView{}, false, err
	}
	v := ScanView{Code: p.Code, Kind: "packing list", Orders: []string{p.Order}, Warehouse: p.Warehouse, List: p.List, Shipment: p.Shipment}
	if p.Kind == store.LabelPaper {
		v.Kind, v.Orders = "label", []string{}
		if p.VoidAt == nil {
			of, found, err := d.scanPackage(r, p.Package)
			v.Refused = of.Refused
			return v, found, err
		}
	}
	if p.List != "" {
		v.Kind = "sheet"
		if v.Orders, err = r.OrdersOnList(p.List); err != nil {
			return v, true, err
		}
	}
	if p.VoidAt == nil {
		return v, true, nil
	}
	switch {
	case p.VoidWhy == store.PrintedAgain:
		v.Refused = words.Say("%s is void: %s printed it again %s.", p.Code, p.VoidWho, d.Clock(*p.VoidAt))
	case p.VoidWhy == store.Unpacked:
		v.Refused = words.Say("%s is void: %s unpacked %s %s.", p.Code, p.VoidWho, p.Package, d.Clock(*p.VoidAt))
	case p.VoidWhy == store.SentOtherwise:
		v.Refused = words.Say("%s is void: %s changed where it goes, or how, %s.", p.Code, p.VoidWho, d.Clock(*p.VoidAt))
	case p.Kind == store.LabelPaper:
		v.Refused = words.Say("%s is void: %s recalled something in %s %s.", p.Code, p.VoidWho, p.Package, d.Clock(*p.VoidAt))
	default:
		v.Refused = words.Say("%s is void: %s recalled something on it %s.", p.Code, p.VoidWho, d.Clock(*p.VoidAt))
	}
	if p.VoidWhy == store.Recalled && p.VoidReason != "" {
		v.Refused = v.Refused.And(words.Say("Why: %s", words.WithFullStop(p.VoidReason)))
	}
	if p.Standing != "" {
		v.Refused = v.Refused.And(words.Say("Go by %s.", p.Standing))
	}
	if p.Kind == store.PackingListPaper {
		return v, true, nil
	}
	back, err := r.PutBacksOfPaper(p.List, p.Package)
	if len(back) > 0 {
		v.Refused = v.Refused.And(putThere(back))
	}
	return v, true, err
}

// putThere says where recalled goods are to be brought.
func putThere(back []store.PutBackRow) words.Message {
	var units int64
	for _, b := range back {
		units += b.Qty - b.Done
	}
	if len(back) == 1 {
		return words.Say("Bring the %d of %s to %s at %s.", units, back[0].SKU, back[0].Place, back[0].Warehouse)
	}
	return words.Say("Bring %s that were recalled to %s at %s.", words.Count(units, "unit"), back[0].Place, back[0].Warehouse)
}

func (d *Desk) scanPackage(r *store.Reader, code string) (ScanView, bool, error) {
	s, found, err := r.ShipmentOfPackage(code)
	if err != nil || !found {
		return ScanView{}, false, err
	}
	v := ScanView{Code: code, Kind: "package", Shipment: s.Number, Orders: []string{}}
	if v.Refused, err = d.notToLeave(r, s, code); err != nil {
		return v, true, err
	}
	contents, err := r.Contents(store.IDs{s.ID})
	if err != nil || !v.Refused.IsZero() {
		return v, true, err
	}
	for _, c := range contents {
		if c.Package == code {
			return v, true, nil
		}
	}
	v.Refused = words.Say("%s is empty: everything was taken out of it. It must not leave.", code)
	return v, true, nil
}

func (d *Desk) scanShipment(r *store.Reader, code string) (ScanView, bool, error) {
	s, found, err := r.ShipmentByNumber(code)
	if err != nil || !found {
		return ScanView{}, false, err
	}
	v := ScanView{Code: s.Number, Kind: "shipment", Shipment: s.Number, Orders: []string{}}
	v.Refused, err = d.notToLeave(r, s, "")
	return v, true, err
}

// notToLeave says why a shipment, or a package of it, must not leave, if that is so.
func (d *Desk) notToLeave(r *store.Reader, s store.Shipment, pack string) (words.Message, error) {
	if s.DispatchedAt != nil {
		return words.Say("Shipment %s left %s already.", s.Number, d.Clock(*s.DispatchedAt)), nil
	}
	back, err := r.PutBacksOfPackages(store.IDs{s.ID})
	if err != nil {
		return words.Message{}, err
	}
	for _, b := range back {
		if pack == "" || b.Package == pack {
			of := []store.PutBackRow{b}
			return words.Say("%s recalled %d of %s for %s out of %s. Why: %s", b.Who, b.Qty-b.Done, b.SKU, b.Order, b.Package,
				words.WithFullStop(b.Reason)).And(putThere(of)), nil
		}
	}
	stopped, err := r.StoppedLots(store.IDs{s.ID})
	if err != nil {
		return words.Message{}, err
	}
	if len(stopped) > 0 {
		return words.Say("Shipment %s holds %d of lot %s, which must not be sent.", s.Number, stopped[0].Qty, stopped[0].Lot), nil
	}
	hold, err := r.HoldOnShipment(s.ID)
	if err != nil || hold == "" {
		return words.Message{}, err
	}
	return words.Say("An order in shipment %s is on hold: %s It must not leave.", s.Number, words.WithFullStop(hold)), nil
}

func scanOrder(r *store.Reader, code string) (ScanView, bool, error) {
	h, found, err := r.OrderByNumber(code)
	if err != nil || !found {
		return ScanView{}, false, err
	}
	return ScanView{Code: h.Number, Kind: "order", Orders: []string{h.Number}}, true, nil
}

func scanList(r *store.Reader, code string) (ScanView, bool, error) {
	h, found, err := r.ListByNumber(code)
	if err != nil || !found {
		return ScanView{}, false, err
	}
	orders, err := r.OrdersOnList(h.Number)
	return ScanView{Code: h.Number, Kind: "pick list", List: h.Number, Warehouse: h.Warehouse, Orders: orders}, true, err
}
