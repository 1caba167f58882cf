package query

import (
	"context"
	"time"

	"journeyman/internal/store"
)

// JournalRow is a move of units, or a stock entry.
type JournalRow struct {
	ID           int64  `json:"id"`
	At           string `json:"at" format:"date-time"`
	Who          string `json:"who"`
	Command      string `json:"command" doc:"What they did that made it"`
	Move         string `json:"move"`
	Cause        string `json:"cause,omitempty"`
	Qty          int64  `json:"qty"`
	From         string `json:"from" doc:"outside both, if it moves stock alone"`
	To           string `json:"to"`
	SKU          string `json:"sku"`
	Item         string `json:"item"`
	Order        string `json:"order,omitempty"`
	Line         int    `json:"line,omitempty"`
	Customer     string `json:"customer,omitempty"`
	Warehouse    string `json:"warehouse,omitempty"`
	Bin          string `json:"bin,omitempty"`
	Document     string `json:"document,omitempty" doc:"The pick list, shipment or receipt that it belongs to"`
	DocumentKind string `json:"document_kind,omitempty"`
	Reason       string `json:"reason,omitempty"`
	Undone       bool   `json:"undone" doc:"Its command was taken back"`
}

// JournalPage is a page of the journal.
type JournalPage struct {
	Moves []JournalRow `json:"moves"`
	Next
}

// Journal returns a page of all moves and stock entries.
func (d *Desk) Journal(ctx context.Context, ask Ask) (JournalPage, error) {
	r := d.Store.Read(ctx)
	rows, next, err := pageOf(d, r, store.Journal, ask, r.JournalRows)
	out := JournalPage{Moves: make([]JournalRow, len(rows)), Next: next}
	for i, x := range rows {
		out.Moves[i] = JournalRow{
			ID: x.ID, At: x.At.UTC().Format(time.RFC3339), Who: x.Who, Command: x.Verb, Move: x.Kind, Cause: x.Cause,
			Qty: x.Qty, From: x.From, To: x.To, SKU: x.SKU, Item: x.ItemName, Order: x.OrderNumber, Line: x.LineNo, Customer: x.CustomerName,
			Warehouse: x.Warehouse, Bin: x.Bin,
			Document: x.Document, DocumentKind: x.DocumentKind, Reason: x.Reason, Undone: x.Undone,
		}
	}
	return out, err
}
