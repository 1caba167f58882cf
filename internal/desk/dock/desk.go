// Package dock sends shipments off and records that they arrived.
package dock

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk sends shipments off.
type Desk struct {
	*command.Runner
	supply  *supply.Desk
	carrier Carrier
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk, c Carrier) *Desk { return &Desk{r, s, c} }
