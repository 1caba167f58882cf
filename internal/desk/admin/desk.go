// Package admin keeps people, their roles and passwords, and the settings of the house.
package admin

import (
	"sync"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
)

// Desk keeps people and settings.
type Desk struct {
	*command.Runner
	supply   *supply.Desk
	weakHash bool
	nobody   func() string // the hash that is compared with when there is no such login
}

// New returns the desk. Passwords are hashed quickly if weakHash says so: tests only.
func New(r *command.Runner, s *supply.Desk, weakHash bool) *Desk {
	d := &Desk{Runner: r, supply: s, weakHash: weakHash}
	d.nobody = sync.OnceValue(d.makeNobody)
	return d
}
