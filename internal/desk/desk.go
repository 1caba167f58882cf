package desk

import (
	"log/slog"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/importing"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/desk/undo"
	"journeyman/internal/store"
)

// Desk carries out commands and answers questions.
type Desk struct {
	*command.Runner
	supply     *supply.Desk
	Admin      *admin.Desk
	Importing  *importing.Desk
	Dock       *dock.Desk
	Floor      *floor.Desk
	Sales      *sales.Desk
	Allocation *allocation.Desk
	Promising  *promising.Desk
	Undo       *undo.Desk
}

// Options of a desk. The zero value works: the system's clock, Europe/London, no carrier.
type Options struct {
	Carrier dock.Carrier
	Now     func() time.Time     // the clock by which commands are dated
	Zone    *time.Location       // in which days begin and times are told
	Tell    func(command.Change) // called after each commit
	Log     *slog.Logger

	WeakHash bool // passwords are hashed quickly: tests only
}

// New returns a desk on the store.
func New(s *store.Store, o Options) *Desk {
	run := command.NewRunner(s, command.RunnerOptions{Now: o.Now, Zone: o.Zone, Tell: o.Tell, Log: o.Log})
	d := &Desk{Runner: run, supply: supply.New(run)}
	d.Undo = undo.New(run, d.supply)
	d.Promising = promising.New(run, d.supply)
	d.Allocation = allocation.New(run, d.supply)
	d.Sales = sales.New(run, d.supply, d.Promising)
	d.Floor = floor.New(run)
	d.Dock = dock.New(run, d.supply, o.Carrier)
	d.Importing = importing.New(run, d.supply, d.Promising, d.Allocation)
	d.Admin = admin.New(run, d.supply, o.WeakHash)
	return d
}
