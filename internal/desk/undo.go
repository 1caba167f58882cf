package desk

import (
	"cmp"
	"context"
	"slices"

	"journeyman/core/journey"
)

// undoing is a command that takes another back.
type undoing interface{ undoes() int64 }

// UndoAsk names the command to take back.
type UndoAsk struct {
	Command int64 `json:"command"`
}

func (u UndoAsk) undoes() int64 { return u.Command }

// Undo takes a command back by the inverse of each of its moves, as long as nothing
// else has happened to its lines. A person undoes what they did themselves; a
// manager what anybody did.
func (d *Desk) Undo(ctx context.Context, call Call, ask UndoAsk) (Outcome, error) {
	cmd, found, err := d.store.Read(ctx).CommandByID(ask.Command)
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
		units, err := w.restorePromises(Verb(cmd.Verb), promised)
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

// mayTakeBack says whether the actor may take back what that user did: whoever may not do it any more may not undo it.
func mayTakeBack(actor Actor, user int64, verb Verb) error {
	if err := VerbUndo.Allowed(actor); err != nil {
		return err
	}
	if user != actor.ID && actor.Role != Manager {
		return Forbidden("Somebody else did that; only they or a manager can take it back.")
	}
	return verb.Allowed(actor)
}
