// Package sales takes orders: drafts, orders and their changes, quotes, holds, what is dropped, and the order for which room was made.
package sales

import (
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/supply"
)

// Desk takes orders.
type Desk struct {
	*command.Runner
	supply    *supply.Desk
	promising *promising.Desk
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk, p *promising.Desk) *Desk { return &Desk{r, s, p} }
