package supply

import (
	"time"

	"journeyman/core/days"
	"journeyman/core/order"
	"journeyman/core/price"
	"journeyman/internal/store"
)

// QuoteOf is a quote as the core knows it; a manager has to approve it if it is worth more than the limit, in minor units.
func QuoteOf(q store.QuoteHead, limit int64) order.Quote {
	expires, err := days.Parse(q.Expires)
	if err != nil {
		expires = never // the column is a date
	}
	return order.Quote{
		Qty: q.Qty, Accepted: q.Accepted, Value: q.ValueMinor, Limit: limit, Expires: expires, Approved: q.Approved, Withdrawn: q.Withdrawn,
	}
}

// QuoteRow is a quote in a list.
type QuoteRow struct {
	Number        string `json:"number"`
	Customer      string `json:"customer"`
	CustomerCode  string `json:"customer_code"`
	Tier          int    `json:"tier"`
	Wanted        string `json:"wanted" format:"date"`
	Expires       string `json:"expires" format:"date"`
	State         string `json:"state" enum:"open,to approve,expired,accepted,withdrawn"`
	Part          bool   `json:"part" doc:"Whether part of it was accepted and part not"`
	Lines         int    `json:"lines"`
	ValueMinor    int64  `json:"value_minor"`
	AcceptedMinor int64  `json:"accepted_minor"`
	MarginBP      *int64 `json:"margin_bp,omitempty" not:"floor"`
	DataFault     string `json:"data_fault,omitempty"`
	Currency      string `json:"currency"`
	MadeBy        string `json:"made_by"`
	MadeAt        string `json:"made_at" format:"date-time"`
	ApprovedBy    string `json:"approved_by,omitempty"`
	Version       int64  `json:"version"`
}

// QuoteRowOf is a quote as lists show it on a day.
func QuoteRowOf(q store.QuoteHead, limit int64, today days.Day) QuoteRow {
	v := QuoteRow{
		Number: q.Number, Customer: q.CustomerName, CustomerCode: q.CustomerCode, Tier: q.Tier, Wanted: q.Wanted, Expires: q.Expires,
		Lines:      q.Lines,
		ValueMinor: q.ValueMinor, AcceptedMinor: q.AcceptedMinor, Currency: q.Currency, MadeBy: q.MadeBy,
		MadeAt:     q.MadeAt.UTC().Format(time.RFC3339),
		ApprovedBy: q.ApprovedBy, Version: q.Version, Part: q.Accepted > 0 && q.Accepted < q.Qty,
	}
	if margin, ok := price.Margin(q.ValueMinor, q.CostMinor); ok {
		v.MarginBP = &margin
	}
	if q.Zero {
		v.DataFault = "A line has no price or no cost, so the margin is not to be trusted."
	}
	v.State = string(QuoteOf(q, limit).State(today))
	return v
}
