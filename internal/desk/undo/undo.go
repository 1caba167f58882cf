package undo

import (
	"cmp"
	"context"
	"slices"

	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// UndoAsk names the command to take back.
type UndoAsk struct {
	Command int64 `json:"command"`
}

func (u UndoAsk) Undoes() int64 { return u.Command }

// TakeBack takes a command back by the inverse of each of its moves, as long as nothing
// else has happened to its lines. A person undoes what they did themselves; a
// manager what anybody did.
//
// It locks the lines that the command moved, with their stock, and its documents. It refuses a command whose lines have moved since,
// one that cannot be undone or was, and whoever may not.
func (d *Desk) TakeBack(ctx context.Context, call command.Call, ask UndoAsk) (command.Outcome, error) {
	cmd, found, err := d.Store.Read(ctx).CommandByID(ask.Command)
	if err != nil {
		return command.Outcome{}, err
	}
	if !found {
		return command.Outcome{}, command.NotFound("There is nothing to take back under number %d.", ask.Command)
	}
	if !command.Verb(cmd.Verb).Undoable() {
		return command.Outcome{}, command.Invalid("To %s cannot be undone: goods have moved. Correct it by a new step.", cmd.Verb)
	}
	if err := command.MayTakeBack(call.Actor, cmd.ActorID, command.Verb(cmd.Verb)); err != nil {
		return command.Outcome{}, err
	}
	p := d.NewProgress(ctx, call.Key)
	defer p.End()
	return d.Run(ctx, call, command.VerbUndo, ask, func(w *command.UnitOfWork) error {
		done, err := w.Tx.EntriesOf(ask.Command)
		if err != nil {
			return err
		}
		promised, err := w.Tx.PromisesByCommand(ask.Command)
		if err != nil {
			return err
		}
		ids := make([]int64, 0, len(done)+len(promised))
		last := make(map[int64]int64, len(done)) // entry of each line
		for _, e := range done {
			ids = append(ids, e.Line)
			last[e.Line] = max(last[e.Line], e.ID)
		}
		for _, p := range promised {
			ids = append(ids, p.LineID)
			last[p.LineID] = max(last[p.LineID], p.ID)
		}
		if len(ids) > command.ManyRows {
			p.Begin("Taking back", len(ids))
		}
		if err := w.LockMany(ids); err != nil {
			return err
		}
		if _, undone, err := w.Tx.UndoneBy(ask.Command); err != nil || undone {
			return cmp.Or(err, command.Conflict("This was undone already."))
		}
		for id, seen := range last {
			if err := w.CheckVersion(w.Lines[id], seen); err != nil {
				return err
			}
		}
		slices.Reverse(done)
		for _, e := range done {
			back, ok := e.Move.Inverse()
			if !ok {
				return command.Invalid("A %s cannot be undone.", e.Move.Kind)
			}
			if back.Kind == journey.Release {
				return command.Invalid("To recall cannot be undone: release the units again, on a new pick list.")
			}
			if err := w.Move(w.Lines[e.Line], e.Warehouse, back, command.Refs{Bin: e.Bin, Task: e.Task, Package: e.Package}); err != nil {
				return err
			}
		}
		units, err := d.restorePromises(w, command.Verb(cmd.Verb), promised)
		if err != nil {
			return err
		}
		if len(done) == 0 { // else promises come back with moves of the same units
			w.Outcome.Units = units
		}
		w.Describe("Undone:")
		return nil
	})
}

// restorePromises takes back what a command did to promises, as far as nothing was done to them since.
func (d *Desk) restorePromises(w *command.UnitOfWork, verb command.Verb, changes []store.PromiseChange) (units int64, err error) {
	var s *supply.Supply
	if (verb == command.VerbPromise || verb == command.VerbMakeRoom) && len(changes) > 0 {
		if s, err = d.supply.LockSupply(w); err != nil {
			return 0, err
		}
		for _, c := range changes { // what was promised makes way before anything is put where it was
			if l := w.Lines[c.LineID]; l != nil && c.Newest {
				is, err := command.ParseParts(c.Now)
				if err != nil {
					return 0, err
				}
				for _, g := range is {
					s.Lift(l.ItemID, g)
				}
			}
		}
	}
	for _, c := range changes {
		l := w.Lines[c.LineID]
		if l == nil || !c.Newest {
			continue
		}
		was, err := command.ParseParts(c.Now)
		if err != nil {
			return 0, err
		}
		now, err := command.ParseParts(c.Was)
		if err != nil {
			return 0, err
		}
		now = plan.CutTo(now, int64(l.Now.At[journey.Open]))
		if s != nil { // what was free for it may be promised to others by now
			for _, g := range now {
				if s.Outlook(l.ItemID, g.Warehouse).ATP(g.Day) < g.Qty {
					return 0, command.Conflict(
						"This cannot be undone: what was promised on %s line %d for %s has been promised to others since.",
						l.OrderNumber, l.LineNo, words.Day(g.Day),
					)
				}
				s.Outlook(l.ItemID, g.Warehouse).Take(g.Day, g.Qty)
			}
		}
		w.SetPromises(l, was, now, command.CauseUndone)
		units += max(plan.StandingUnits(was), plan.StandingUnits(now)) // what is taken back may be that they were promised
	}
	return units, nil
}
