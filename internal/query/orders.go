package query

import (
	"context"
	"slices"
	"strings"
	"time"

	"journeyman/core/order"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
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

	Manager bool `json:"manager" doc:"Only a manager lifts it"`
}

// OrderView is the page of one order.
type OrderView struct {
	supply.OrderRow
	ShipTo    supply.Address    `json:"ship_to"`
	Service   string            `json:"service"`
	Terms     string            `json:"terms"`
	NotBefore string            `json:"not_before,omitempty" format:"date" doc:"The day on which it may leave first"`
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
		Service: h.Service, Terms: h.Terms, NotBefore: h.NotBefore, Note: h.Note, HoldNotes: []HoldView{}, Lines: views,
		Documents: []DocumentView{}, Messages: []MessageView{},
	}
	for _, x := range holds {
		out.HoldNotes = append(out.HoldNotes, HoldView{x.Kind, x.Note, x.Who, x.At.UTC().Format(time.RFC3339), order.ManagerLifts(x.Rank)})
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
	until, err := d.supply.DueUntil(r, "", "")
	out.Can = supply.CanOrder(lines, until)
	return out, err
}

// Trail returns everything that happened to an order, oldest first.
func (d *Desk) Trail(ctx context.Context, number string, who command.Actor) ([]supply.TrailEntry, error) {
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
			DocumentKind: x.DocumentKind,
			Command:      x.Command, Undone: x.Undone,
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
	verbs := map[int64]store.Event{}
	for _, x := range happened {
		verbs[x.Command] = x
	}
	mine := store.IDs{}
	for id, x := range verbs {
		if !x.Undone && mayTakeBack(who, x.ActorID, x.Verb) {
			mine = append(mine, id)
		}
	}
	stands, err := r.Standing(mine)
	for i := range out {
		out[i].Undo = stands[out[i].Command]
	}
	return out, err
}

// mayTakeBack says whether somebody may take back what a person did, as long as it stands.
func mayTakeBack(who command.Actor, person int64, verb string) bool {
	v := command.Verb(verb)
	return v.Undoable() && command.MayTakeBack(who, person, v) == nil
}

// Action is something that a person did.
type Action struct {
	Command int64         `json:"command"`
	At      string        `json:"at" format:"date-time"`
	Text    words.Message `json:"text"`
	Undone  bool          `json:"undone"`
	Undo    bool          `json:"undo" doc:"It can be taken back: nothing else has happened to its lines"`
}

// mostActions is how many of a person's actions are listed.
const mostActions = 40

// Actions returns what somebody did last, the newest first.
func (d *Desk) Actions(ctx context.Context, who command.Actor) ([]Action, error) {
	r := d.Store.Read(ctx)
	rows, err := r.ActionsOf(who.ID, mostActions)
	if err != nil {
		return nil, err
	}
	mine := store.IDs{}
	for _, a := range rows {
		if !a.Undone && mayTakeBack(who, who.ID, a.Verb) {
			mine = append(mine, a.ID)
		}
	}
	stands, err := r.Standing(mine)
	out := make([]Action, len(rows))
	for i, a := range rows {
		out[i] = Action{a.ID, a.At.UTC().Format(time.RFC3339), words.Read(a.Said, a.Sentence), a.Undone, stands[a.ID]}
	}
	return out, err
}
