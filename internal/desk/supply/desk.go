// Package supply reads what there is and what can be done with it: the book of the items concerned and their outlooks, and orders and
// lines with what is possible on each. It changes nothing.
package supply

import "journeyman/internal/desk/command"

// Desk reads from live records, by the runner's clock.
type Desk struct{ *command.Runner }

// New returns the desk.
func New(r *command.Runner) *Desk { return &Desk{r} }
