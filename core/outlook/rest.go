package outlook

import "journeyman/core/days"

// Support is what keeps a commitment.
type Support int

// The kinds of support.
const (
	Nothing Support = iota // as things stand it cannot be kept
	Stock                  // what is free today bears it
	Receipt                // it needs what comes, up to a receipt
	Buying                 // from its day on more can be bought
)

// Rest says what keeps a commitment of day d when so many units are committed up to and
// including that day, itself among them: free stock, if that bears them all; buying, from
// the lead day on; else the receipts up to that day, the last of which that is needed is
// given by its index. Nothing if they do not suffice; then missing is by how many units.
// The receipts are those that count, by day. Cost: linear in the receipts.
func Rest(d, lead days.Day, free, committed int64, receipts []Event) (on Support, last int, missing int64) {
	if committed <= free {
		return Stock, 0, 0
	}
	if d >= lead {
		return Buying, 0, 0
	}
	there := free
	for i, r := range receipts {
		if r.Day > d {
			break
		}
		if there += r.Qty; there >= committed {
			return Receipt, i, 0
		}
	}
	return Nothing, 0, committed - there
}
