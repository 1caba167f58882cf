package order

import "journeyman/core/days"

// Quote is what decides what can still be done with a quote.
type Quote struct {
	Qty, Accepted int64    // units of all its lines
	Value, Limit  int64    // in minor units: worth more than the limit, a manager has to approve it
	Expires       days.Day // the last day on which it can be accepted
	Approved      bool
	Withdrawn     bool
}

// QuoteState is how far a quote is.
type QuoteState string

// The states of a quote.
const (
	QuoteStands    QuoteState = "open"
	QuoteToApprove QuoteState = "to approve"
	QuoteExpired   QuoteState = "expired"
	QuoteAccepted  QuoteState = "accepted" // all of it
	QuoteWithdrawn QuoteState = "withdrawn"
)

// State returns how far the quote is on a day.
func (q Quote) State(today days.Day) QuoteState {
	switch {
	case q.Withdrawn:
		return QuoteWithdrawn
	case q.Accepted == q.Qty && q.Qty > 0:
		return QuoteAccepted
	case q.Expires < today:
		return QuoteExpired
	case q.Value > q.Limit && !q.Approved:
		return QuoteToApprove
	}
	return QuoteStands
}

// QuoteStep is what is done with a quote.
type QuoteStep string

// The steps of a quote.
const (
	AcceptQuote   QuoteStep = "accept"
	ApproveQuote  QuoteStep = "approve"
	ChangeQuote   QuoteStep = "change"
	WithdrawQuote QuoteStep = "withdraw"
)

// QuoteReason is why a step cannot be taken.
type QuoteReason string

// The reasons; none if the step can be taken.
const (
	QuoteMay             QuoteReason = ""
	QuoteEnded           QuoteReason = "ended" // accepted in full, or withdrawn
	QuoteHasExpired      QuoteReason = "expired"
	QuoteNeedsApproval   QuoteReason = "needs approval"
	QuoteNeedsNoApproval QuoteReason = "needs no approval"
	QuotePartAccepted    QuoteReason = "part accepted"
)

// May says whether a step can be taken with the quote on a day, and if not, why. An expired quote can be changed, to give it another day,
// and withdrawn; one of which part is accepted cannot be changed any more.
func (q Quote) May(step QuoteStep, today days.Day) QuoteReason {
	state := q.State(today)
	switch {
	case state == QuoteAccepted || state == QuoteWithdrawn:
		return QuoteEnded
	case step == AcceptQuote && state == QuoteToApprove:
		return QuoteNeedsApproval
	case step == AcceptQuote && state == QuoteExpired:
		return QuoteHasExpired
	case step == ApproveQuote && state != QuoteToApprove:
		return QuoteNeedsNoApproval
	case step == ChangeQuote && q.Accepted > 0:
		return QuotePartAccepted
	}
	return QuoteMay
}
