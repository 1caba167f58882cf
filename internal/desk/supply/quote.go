package supply

import (
	"journeyman/core/days"
	"journeyman/core/order"
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
