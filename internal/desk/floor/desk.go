// Package floor is the work of the floor: releasing pick lists, recalling, picking, packing and receiving.
package floor

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk hands work to the floor and records what is done there.
type Desk struct {
	*command.Runner
	supply *supply.Desk
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk) *Desk { return &Desk{r, s} }
