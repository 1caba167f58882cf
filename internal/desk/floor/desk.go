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
}

// New returns the desk. Without a printer, documents are kept to be looked at.
func New(r *command.Runner, s *supply.Desk, p Printer) *Desk { return &Desk{r, s, p} }
