// Package importing takes files in: it compares them with what there is, reports what applying them would do, and does it.
package importing

import (
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/supply"
)

// Desk takes files in.
type Desk struct {
	*command.Runner
	supply     *supply.Desk
	promising  *promising.Desk
	allocation *allocation.Desk
}

// New returns the desk.
func New(r *command.Runner, s *supply.Desk, p *promising.Desk, a *allocation.Desk) *Desk {
	return &Desk{r, s, p, a}
}
