package query

import (
	"context"
	"slices"
	"strings"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// OrdersPage is a page of orders.
type OrdersPage struct {
	Orders []supply.OrderRow `json:"orders"`
	Next
}

// Orders returns a page of the orders that were asked for.
func (d *Desk) Orders(ctx context.Context, ask Ask) (OrdersPage, error) {
	r := d.Store.Read(ctx)
	ids, next, err := d.keys(r, store.Orders, ask)
	if err != nil {
		return OrdersPage{}, err
	}
	heads, err := r.OrderHeads(ids)
	if err != nil {
		return OrdersPage{}, err
	}
	lines, err := r.WantsOfOrders(ids)
	if err != nil {
		return OrdersPage{}, err
	}
	byOrder := map[int64][]store.LineRow{}
	for _, l := range lines {
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	out := OrdersPage{Orders: make([]supply.OrderRow, len(heads)), Next: next}
	for i, h := range heads {
		out.Orders[i] = d.supply.MakeOrderRow(h, byOrder[h.ID])
	}
	return out, nil
}

// HoldView is a standing hold.
type HoldView struct {
	Kind string `json:"kind"`
	Note string `json:"note"`
	Who  string `json:"who"`
	At   string `json:"at" format:"date-time"`
}

// OrderView is the page of one order.
type OrderView struct {
	supply.OrderRow
	ShipTo    supply.Address    `json:"ship_to"`
	Service   string            `json:"service"`
	Terms     string            `json:"terms"`
	Note      string            `json:"note"`
	HoldNotes []HoldView        `json:"hold_notes"`
	Lines     []supply.LineView `json:"lines"`
	Documents []DocumentView    `json:"documents"`
	Messages  []MessageView     `json:"messages" doc:"Ready to be sent to the customer, the newest first"`
	Can       []supply.Can      `json:"can"`
}

// DocumentView is a document that an order led to.
type DocumentView struct {
	Kind   string `json:"kind"`
	Number string `json:"number"`
	State  string `json:"state"`
}

// MessageView is a message that is ready to be sent.
type MessageView struct {
	To      string `json:"to" doc:"Address; empty if the customer has none"`
	Subject string `json:"subject"`
	Body    string `json:"body"`
	Who     string `json:"who" doc:"Whose command it came of"`
	At      string `json:"at" format:"date-time"`
}

// Order returns the page of an order.
func (d *Desk) Order(ctx context.Context, number string) (OrderView, error) {
	r := d.Store.Read(ctx)
	h, found, err := r.OrderByNumber(number)
	if err != nil {
		return OrderView{}, err
	}
	if !found {
		return OrderView{}, command.NotFound("There is no order %s.", number)
	}
	lines, err := r.LinesOfOrders(store.IDs{h.ID})
	if err != nil {
		return OrderView{}, err
	}
	views, err := d.supply.LineViews(r, lines)
	if err != nil {
		return OrderView{}, err
	}
	holds, err := r.HoldsOfOrder(h.ID)
	if err != nil {
		return OrderView{}, err
	}
	docs, err := r.DocumentsOfOrder(h.ID)
	if err != nil {
		return OrderView{}, err
	}
	out := OrderView{
		OrderRow: d.supply.MakeOrderRow(h, lines), ShipTo: supply.Address{
			Name: h.ShipToName, Street: h.Street, City: h.City, Postcode: h.Postcode, Country: h.Country,
		},
		Service: h.Service, Terms: h.Terms, Note: h.Note, HoldNotes: []HoldView{}, Lines: views, Documents: []DocumentView{},
		Messages: []MessageView{},
	}
	for _, x := range holds {
		out.HoldNotes = append(out.HoldNotes, HoldView{x.Kind, x.Note, x.Who, x.At.UTC().Format(time.RFC3339)})
	}
	for _, x := range docs {
		out.Documents = append(out.Documents, DocumentView{x.Kind, x.Number, x.State})
	}
	messages, err := r.MessagesOf(h.ID)
	if err != nil {
		return out, err
	}
	for _, m := range messages {
		out.Messages = append(out.Messages, MessageView{m.Address, m.Subject, m.Body, m.Who, m.At.UTC().Format(time.RFC3339)})
	}
	out.Can = supply.CanOrder(lines)
	return out, nil
}

// Trail returns everything that happened to an order, oldest first.
func (d *Desk) Trail(ctx context.Context, number string) ([]supply.TrailEntry, error) {
	r := d.Store.Read(ctx)
	h, found, err := r.OrderByNumber(number)
	if err != nil {
		return nil, err
	}
	if !found {
		return nil, command.NotFound("There is no order %s.", number)
	}
	happened, err := r.TrailOfOrder(h.ID)
	if err != nil {
		return nil, err
	}
	promised, err := r.PromiseTrail(h.ID)
	if err != nil {
		return nil, err
	}
	out := make([]supply.TrailEntry, 0, len(happened)+len(promised))
	for _, x := range happened {
		out = append(out, supply.TrailEntry{
			At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: supply.EventText(x), Kind: x.Kind, Document: x.Document,
			Command: x.Command, Undone: x.Undone,
		})
	}
	for _, x := range promised {
		text, err := supply.PromiseText(x)
		if err != nil {
			return nil, err
		}
		out = append(
			out,
			supply.TrailEntry{
				At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: text, Kind: "promise", Command: x.Command, Undone: x.Undone,
			},
		)
	}
	changed, err := r.ChangeTrail(h.ID)
	if err != nil {
		return nil, err
	}
	for _, x := range changed {
		out = append(
			out,
			supply.TrailEntry{
				At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Text: supply.ChangeText(x), Kind: "change", Command: x.Command,
			},
		)
	}
	slices.SortStableFunc(out, func(a, b supply.TrailEntry) int { return strings.Compare(a.At, b.At) })
	return out, nil
}
