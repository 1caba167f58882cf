// Package release says what may go to the floor and why not, and in which
// order a picker walks to it (CORE section 7). It is pure.
package release

import (
	"journeyman/core/days"
	"journeyman/core/journey"
)

// Reason is the first thing that keeps a line from being released.
type Reason string

// The reasons, in the order in which they are looked for.
const (
	Offered   Reason = ""
	Nothing   Reason = "nothing_allocated"
	OnHold    Reason = "on_hold"
	NotDue    Reason = "not_due"
	Early     Reason = "not_before" // its order must not leave before a later day
	RuleLine  Reason = "rule_line"  // the line goes only whole and is not whole
	RuleOrder Reason = "rule_order" // the order goes in one and is not whole
	Waiting   Reason = "put_back"   // some of its allocated units are still to be put back
	NoBin     Reason = "no_bin"
)

// Reasons lists every reason in the order in which they are looked for.
var Reasons = []Reason{Nothing, OnHold, NotDue, Early, RuleLine, RuleOrder, Waiting, NoBin}

// Candidate is a line as it stands when somebody asks whether it may go.
type Candidate struct {
	Allocated journey.Qty // of this line
	Open      journey.Qty // of this line
	OrderOpen journey.Qty // of all lines of its order
	Holds     int         // on its order
	ShipBy    days.Day
	Early     bool // its order must not leave before a day that is later than the one that is asked about
	Rule      journey.ShipRule
	Waiting   bool // some of its allocated units were taken back from picking or packing and are still to be put back
	HasBin    bool // its item has a bin wherever the line has allocated units
}

// Check returns Offered, or the first reason why the line may not be released
// with everything due up to and including `until`.
func Check(c Candidate, until days.Day) Reason {
	switch {
	case c.Allocated <= 0:
		return Nothing
	case c.Holds > 0:
		return OnHold
	case c.ShipBy > until:
		return NotDue
	case c.Early:
		return Early
	case c.Rule == journey.ShipLines && c.Open > 0:
		return RuleLine
	case c.Rule == journey.ShipWhole && c.OrderOpen > 0:
		return RuleOrder
	case c.Waiting:
		return Waiting
	case !c.HasBin:
		return NoBin
	}
	return Offered
}
