// Package promising says what can be promised, and promises it: on lines and orders, when an arrival moves, by making room among the
// promises that stand, and by buying more.
package promising

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk promises.
type Desk struct {
	*command.Runner
	supply *supply.Desk
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk) *Desk { return &Desk{r, s} }
