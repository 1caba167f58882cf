package supply

import (
	"slices"

	"journeyman/core/outlook"
	"journeyman/internal/store"
)

// ServiceView is a way of sending.
type ServiceView struct {
	Code        string `json:"code"`
	Name        string `json:"name"`
	TransitDays int    `json:"transit_days"`
}

// Instead is a substitute that is free now.
type Instead struct {
	SKU       string `json:"sku"`
	Name      string `json:"name"`
	Kind      string `json:"kind" enum:"size,colour,make" doc:"In what it differs"`
	Warehouse string `json:"warehouse"`
	Free      int64  `json:"free"`
}

// SubstitutesOf lists what is free of the substitutes of an item: those at the warehouse first.
func SubstitutesOf(rows []store.SubstituteRow, item int64, house string, most int) []Instead {
	out := []Instead{}
	for _, here := range []bool{true, false} {
		for _, x := range rows {
			known := slices.ContainsFunc(out, func(o Instead) bool { return o.SKU == x.SKU })
			if x.ItemID == item && (x.Warehouse == house) == here && !known && len(out) < most {
				out = append(out, Instead{x.SKU, x.Name, x.Kind, x.Warehouse, x.Free})
			}
		}
	}
	return out
}

// Limit is a number of units, or no limit.
type Limit struct {
	Units     int64 `json:"units"`
	Unlimited bool  `json:"unlimited"`
}

// LimitOf is a number of units as the core gives it, which may be unlimited.
func LimitOf(units int64) Limit {
	if units == outlook.Unlimited {
		return Limit{Unlimited: true}
	}
	return Limit{Units: units}
}

// ShipToView is an address of a customer.
type ShipToView struct {
	Code string `json:"code"`
	Address
}
