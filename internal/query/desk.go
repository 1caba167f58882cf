// Package query reads what pages show. It changes nothing, and what it answers is not carried out: that belongs to the rooms of the desk.
package query

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk answers from live records, by the runner's clock.
type Desk struct {
	*command.Runner
	supply *supply.Desk
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk) *Desk { return &Desk{r, s} }
