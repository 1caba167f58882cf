// Package floor is the work of the floor: releasing pick lists, printing them, recalling, picking, packing and receiving.
package floor

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk hands work to the floor and records what is done there.
type Desk struct {
	*command.Runner
	supply  *supply.Desk
	printer Printer
	scale   Scale
}

// New returns the desk. Without a printer, documents are kept to be looked at; without a scale, weights are typed.
func New(r *command.Runner, s *supply.Desk, p Printer, scale Scale) *Desk {
	return &Desk{r, s, p, scale}
}
