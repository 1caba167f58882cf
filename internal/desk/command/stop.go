package command

import (
	"context"
	"errors"

	"journeyman/internal/store"
)

// StopAsk says nothing: which command is meant is said by the key.
type StopAsk struct{}

// Stop takes the key of a command that is no longer wanted, once that has ended, so that it cannot be done
// afterwards either. If it was done before it could be stopped, the answer is its own; else the
// answer's verb is VerbStop and nothing was changed. The command itself is interrupted by who sent
// it: by cutting the request off.
func (d *Runner) Stop(ctx context.Context, call Call, ask StopAsk) (Outcome, error) {
	out, err := d.Run(ctx, call, VerbStop, ask, func(w *UnitOfWork) error {
		w.Say("Stopped. Nothing was changed.")
		return nil
	})
	var again *store.Repeat
	if errors.As(err, &again) && again.Before.ActorID == call.Actor.ID {
		again.Other = false // it came too late for that one
		return answered(again)
	}
	return out, err
}
