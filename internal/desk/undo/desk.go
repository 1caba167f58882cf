// Package undo takes a command back by the inverse of each of its moves, as long as nothing else has happened to its lines.
package undo

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk takes commands back.
type Desk struct {
	*command.Runner
	supply *supply.Desk
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk) *Desk { return &Desk{r, s} }
