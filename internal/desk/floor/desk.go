// Package floor is the work of the floor: releasing pick lists, printing them, recalling, picking, packing and receiving.
package floor

import (
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk hands work to the floor and records what is done there.
type Desk struct {
	*command.Runner
	supply     *supply.Desk
	allocation *allocation.Desk
	printer    Printer
	scale      Scale
}

// New returns the desk. Without a printer, documents are kept to be looked at; without a scale, weights are typed.
func New(r *command.Runner, s *supply.Desk, a *allocation.Desk, p Printer, scale Scale) *Desk {
	return &Desk{r, s, a, p, scale}
}
