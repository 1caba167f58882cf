// Package rooms opens every room on a store: what the server, the demo, the bench and tests work with.
package rooms

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
	"journeyman/internal/query"
	"journeyman/internal/store"
)

// Rooms are all rooms that carry out commands and answer questions, on one store and by one clock.
type Rooms struct {
	*command.Runner
	Supply     *supply.Desk
	Admin      *admin.Desk
	Importing  *importing.Desk
	Dock       *dock.Desk
	Floor      *floor.Desk
	Sales      *sales.Desk
	Allocation *allocation.Desk
	Promising  *promising.Desk
	Undo       *undo.Desk
	Query      *query.Desk
}

// Options of the rooms. The zero value works: the system's clock, Europe/London, no carrier, no printer, no scale.
type Options struct {
	Carrier dock.Carrier
	Printer floor.Printer
	Scale   floor.Scale
	Now     func() time.Time     // the clock by which commands are dated
	Zone    *time.Location       // in which days begin and times are written
	Tell    func(command.Change) // called after each commit
	Log     *slog.Logger

	WeakHash bool // passwords are hashed quickly: tests only
}

// Open opens the rooms on the store.
func Open(s *store.Store, o Options) *Rooms {
	run := command.NewRunner(s, command.RunnerOptions{Now: o.Now, Zone: o.Zone, Tell: o.Tell, Log: o.Log})
	d := &Rooms{Runner: run, Supply: supply.New(run)}
	d.Undo = undo.New(run, d.Supply)
	d.Promising = promising.New(run, d.Supply)
	d.Allocation = allocation.New(run, d.Supply)
	d.Sales = sales.New(run, d.Supply, d.Promising)
	d.Floor = floor.New(run, d.Supply, d.Allocation, o.Printer, o.Scale)
	d.Dock = dock.New(run, d.Supply, o.Carrier)
	d.Importing = importing.New(run, d.Supply, d.Promising, d.Allocation)
	d.Admin = admin.New(run, d.Supply, o.WeakHash)
	d.Query = query.New(run, d.Supply)
	return d
}
