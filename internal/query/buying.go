package query

import (
	"context"
	"strings"
	"time"

	"journeyman/core/capped"
	"journeyman/internal/desk/command"
)

// BuyView is a request to buy.
type BuyView struct {
	Number    string `json:"number"`
	SKU       string `json:"sku"`
	Item      string `json:"item"`
	Unit      string `json:"unit"`
	Warehouse string `json:"warehouse"`
	Qty       int64  `json:"qty"`
	Wanted    string `json:"wanted" format:"date"`
	Note      string `json:"note"`
	CostMinor int64  `json:"cost_minor,omitempty" not:"floor" doc:"Of all of it, at the item's cost"`
	Currency  string `json:"currency"`
	Who       string `json:"who"`
	At        string `json:"at" format:"date-time"`
	State     string `json:"state" enum:"asked,confirmed,withdrawn"`
	Ref       string `json:"ref,omitempty" doc:"Of the inbound that it became"`
	Due       string `json:"due,omitempty" format:"date"`
	SettledBy string `json:"settled_by,omitempty"`
	Why       string `json:"why,omitempty" doc:"Why it was withdrawn"`
}

// BuyRequests lists the requests to buy: those that wait first.
func (d *Desk) BuyRequests(ctx context.Context, query, sku string) ([]BuyView, error) {
	r := d.Store.Read(ctx)
	item := int64(0)
	if sku != "" {
		it, found, err := r.ItemBySKU(sku)
		if err != nil {
			return nil, err
		}
		if !found {
			return nil, command.NotFound("There is no item %s.", sku)
		}
		item = it.ID
	}
	rows, err := r.BuyRequests(strings.Fields(query), item, 500)
	out := make([]BuyView, len(rows))
	for i, b := range rows {
		out[i] = BuyView{
			Number: b.Number, SKU: b.SKU, Item: b.Name, Unit: b.Unit, Warehouse: b.Warehouse, Qty: b.Qty, Wanted: b.Wanted,
			Note: b.Note, CostMinor: capped.Times(b.Qty, b.CostMinor),
			Currency: b.Currency, Who: b.Who, At: b.At.UTC().Format(time.RFC3339), State: "asked", Ref: b.Ref, Due: b.Due,
			SettledBy: b.SettledBy, Why: b.Why,
		}
		switch {
		case b.Settled && b.Ref != "":
			out[i].State = "confirmed"
		case b.Settled:
			out[i].State = "withdrawn"
		}
	}
	return out, err
}

// ItemHit is an item that was found.
type ItemHit struct {
	SKU        string `json:"sku"`
	Name       string `json:"name"`
	Unit       string `json:"unit"`
	Multiple   int64  `json:"multiple"`
	PriceMinor int64  `json:"price_minor"`
	Free       int64  `json:"free" doc:"At the warehouse that was named"`
	Elsewhere  int64  `json:"elsewhere" doc:"Free in other warehouses"`
}

// FindItems finds items by parts of their number and name.
func (d *Desk) FindItems(ctx context.Context, query, warehouse string) ([]ItemHit, error) {
	words := strings.Fields(query)
	if len(words) == 0 {
		return []ItemHit{}, nil
	}
	rows, err := d.Store.Read(ctx).FindItems(words, warehouse, 12)
	out := make([]ItemHit, len(rows))
	for i, x := range rows {
		out[i] = ItemHit(x)
	}
	return out, err
}
