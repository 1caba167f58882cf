package desk

import (
	"cmp"
	"context"
	"slices"

	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/store"
)

// UndoAsk names the command to take back.
type UndoAsk struct {
	Command int64 `json:"command"`
}

func (u UndoAsk) undoes() int64 { return u.Command }

// Undo takes a command back by the inverse of each of its moves, as long as nothing
// else has happened to its lines. A person undoes what they did themselves; a
// manager what anybody did.
func (d *Desk) Undo(ctx context.Context, call Call, ask UndoAsk) (Outcome, error) {
	cmd, found, err := d.Store.Read(ctx).CommandByID(ask.Command)
	if err != nil {
		return Outcome{}, err
	}
	if !found {
		return Outcome{}, NotFound("There is nothing to take back under number %d.", ask.Command)
	}
	if !Verb(cmd.Verb).undoable() {
		return Outcome{}, Invalid("To %s cannot be taken back: goods have moved. Correct it by a new step.", cmd.Verb)
	}
	if err := mayTakeBack(call.Actor, cmd.ActorID, Verb(cmd.Verb)); err != nil {
		return Outcome{}, err
	}
	p := d.progress(ctx, call.Key)
	defer p.end()
	return d.run(ctx, call, VerbUndo, ask, func(w *work) error {
		done, err := w.tx.LineEntries(ask.Command)
		if err != nil {
			return err
		}
		promised, err := w.tx.PromisesByCommand(ask.Command)
		if err != nil {
			return err
		}
		ids := make([]int64, 0, len(done)+len(promised))
		for _, e := range done {
			ids = append(ids, e.Line)
		}
		for _, p := range promised {
			ids = append(ids, p.LineID)
		}
		if len(ids) > manyRows {
			p.begin("Taking back", len(ids))
		}
		if err := w.lockMany(ids); err != nil {
			return err
		}
		if _, undone, err := w.tx.UndoneBy(ask.Command); err != nil || undone {
			return cmp.Or(err, Conflict("This was taken back already."))
		}
		last, err := w.tx.LastEntryPerLine(ask.Command)
		if err != nil {
			return err
		}
		for id, seen := range last {
			if err := w.fresh(w.lines[id], seen); err != nil {
				return err
			}
		}
		slices.Reverse(done)
		for _, e := range done {
			back, ok := e.Move.Inverse()
			if !ok {
				return Invalid("A %s cannot be taken back.", e.Move.Kind)
			}
			if back.Kind == journey.Release {
				return Invalid("To recall cannot be taken back: release the units again, on a new pick list.")
			}
			if err := w.move(w.lines[e.Line], e.Warehouse, back, entry{bin: e.Bin, task: e.Task, pack: e.Package}); err != nil {
				return err
			}
		}
		units, err := d.restorePromises(w, Verb(cmd.Verb), promised)
		if err != nil {
			return err
		}
		if len(done) == 0 { // else promises come back with moves of the same units
			w.out.Units = units
		}
		w.describe("Taken back:")
		return nil
	})
}

// restorePromises takes back what a command did to promises, as far as nothing was done to them since.
func (d *Desk) restorePromises(w *work, verb Verb, changes []store.PromiseChange) (units int64, err error) {
	var s *supply
	if (verb == VerbPromise || verb == VerbMakeRoom) && len(changes) > 0 {
		if s, err = d.lockSupply(w); err != nil {
			return 0, err
		}
		for _, c := range changes { // what was promised makes way before anything is put where it was
			if l := w.lines[c.LineID]; l != nil && c.Newest {
				is, err := parsedParts(c.Now)
				if err != nil {
					return 0, err
				}
				for _, g := range is {
					s.lift(l.ItemID, g)
				}
			}
		}
	}
	for _, c := range changes {
		l := w.lines[c.LineID]
		if l == nil || !c.Newest {
			continue
		}
		was, err := parsedParts(c.Now)
		if err != nil {
			return 0, err
		}
		now, err := parsedParts(c.Was)
		if err != nil {
			return 0, err
		}
		now = plan.CutTo(now, int64(l.now.At[journey.Open]))
		if s != nil { // what was free for it may be promised to others by now
			for _, g := range now {
				if s.outlook(l.ItemID, g.Warehouse).ATP(g.Day) < g.Qty {
					return 0, Conflict("This cannot be taken back: what was promised on %s line %d for %s has been promised to others since.", l.OrderNumber, l.LineNo, dayWords(g.Day))
				}
				s.outlook(l.ItemID, g.Warehouse).Take(g.Day, g.Qty)
			}
		}
		w.settle(l, was, now, causeUndone)
		units += max(plan.GivenUnits(was), plan.GivenUnits(now)) // what is taken back may be that they were promised
	}
	return units, nil
}
