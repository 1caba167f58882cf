// Package allocation sets stock aside for lines: by hand, by the runs of a policy, and unit by unit where an item is short; and says why
// a line has what it has.
package allocation

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk allocates.
type Desk struct {
	*command.Runner
	supply    *supply.Desk
	shortages shortages
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk) *Desk { return &Desk{Runner: r, supply: s} }
