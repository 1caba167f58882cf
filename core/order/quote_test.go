package order

import (
	"testing"

	"journeyman/core/days"
)

func TestWhatCanBeDoneWithAQuote(t *testing.T) {
	t.Parallel()
	today := days.Date(2027, 3, 1)
	plain := Quote{Qty: 10, Value: 900, Limit: 1000, Expires: today}
	with := func(change func(*Quote)) Quote {
		q := plain
		change(&q)
		return q
	}
	for name, c := range map[string]struct {
		q                                 Quote
		state                             QuoteState
		accept, approve, change, withdraw QuoteReason
	}{
		"it stands to the end of its last day": {plain, QuoteStands, QuoteMay, QuoteNeedsNoApproval, QuoteMay, QuoteMay},
		"the day after it has expired": {
			with(func(q *Quote) { q.Expires-- }), QuoteExpired, QuoteHasExpired, QuoteNeedsNoApproval, QuoteMay, QuoteMay,
		},
		"at the limit it needs no approval": {
			with(func(q *Quote) { q.Value = 1000 }), QuoteStands, QuoteMay, QuoteNeedsNoApproval, QuoteMay, QuoteMay,
		},
		"beyond the limit it does": {
			with(func(q *Quote) { q.Value = 1001 }), QuoteToApprove, QuoteNeedsApproval, QuoteMay, QuoteMay, QuoteMay,
		},
		"once it is approved it stands": {
			with(func(q *Quote) { q.Value, q.Approved = 1001, true }), QuoteStands, QuoteMay, QuoteNeedsNoApproval, QuoteMay, QuoteMay,
		},
		"what waits for approval can expire": {
			with(func(q *Quote) { q.Value, q.Expires = 1001, today-1 }), QuoteExpired, QuoteHasExpired, QuoteNeedsNoApproval, QuoteMay, QuoteMay,
		},
		"part of it is accepted": {
			with(func(q *Quote) { q.Accepted = 4 }), QuoteStands, QuoteMay, QuoteNeedsNoApproval, QuotePartAccepted, QuoteMay,
		},
		"all of it is": {
			with(func(q *Quote) { q.Accepted = 10 }), QuoteAccepted, QuoteEnded, QuoteEnded, QuoteEnded, QuoteEnded,
		},
		"it is withdrawn, whatever was accepted": {
			with(func(q *Quote) { q.Accepted, q.Withdrawn = 10, true }), QuoteWithdrawn, QuoteEnded, QuoteEnded, QuoteEnded, QuoteEnded,
		},
	} {
		if got := c.q.State(today); got != c.state {
			t.Errorf("%s: it is %q, want %q", name, got, c.state)
		}
		for step, want := range map[QuoteStep]QuoteReason{
			AcceptQuote: c.accept, ApproveQuote: c.approve, ChangeQuote: c.change, WithdrawQuote: c.withdraw,
		} {
			if got := c.q.May(step, today); got != want {
				t.Errorf("%s: to %s it: %q, want %q", name, step, got, want)
			}
		}
	}
}
