package query

import (
	"context"

	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// QuotesPage is a page of quotes.
type QuotesPage struct {
	Quotes []supply.QuoteRow `json:"quotes"`
	Next
}

// Quotes returns a page of quotes.
func (d *Desk) Quotes(ctx context.Context, ask Ask) (QuotesPage, error) {
	r := d.Store.Read(ctx)
	heads, next, err := d.quotes(r, ask)
	if err != nil {
		return QuotesPage{}, err
	}
	limit, err := r.QuoteLimit()
	out := QuotesPage{Quotes: make([]supply.QuoteRow, len(heads)), Next: next}
	for i, q := range heads {
		out.Quotes[i] = supply.QuoteRowOf(q, limit, d.Today())
	}
	return out, err
}

func (d *Desk) quotes(r *store.Reader, ask Ask) ([]store.QuoteHead, Next, error) {
	return pageOf(d, r, store.Quotes, ask, r.QuotesByKey)
}
