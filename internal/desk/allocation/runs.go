package allocation

import (
	"context"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/words"
)

// RunsView is what policies were run.
type RunsView struct {
	Runs []PastRun `json:"runs" doc:"The newest first, at most 8"`
}

// PastRun is a policy that was run.
type PastRun struct {
	Command int64         `json:"command"`
	Policy  string        `json:"policy"`
	Who     string        `json:"who"`
	At      string        `json:"at" format:"date-time"`
	Said    words.Message `json:"said" doc:"What it did"`
	Back    words.Message `json:"back,omitzero" doc:"Who took it back, and when"`
	Why     words.Message `json:"why,omitzero" doc:"Why you may not take it back; what has been released since is told when it is tried"`
}

// Runs says what policies were run lately, by whom, and what became of it.
func (d *Desk) Runs(ctx context.Context, actor command.Actor) (RunsView, error) {
	rows, err := d.Store.Read(ctx).LastRuns(8)
	out := RunsView{Runs: make([]PastRun, len(rows))}
	for i, x := range rows {
		out.Runs[i] = PastRun{
			Command: x.CommandID, Policy: x.Policy, Who: x.Who, At: x.At.UTC().Format(time.RFC3339), Said: words.Read(x.Said, x.Sentence),
		}
		if x.UndoneAt != nil {
			out.Runs[i].Back = words.Say("undone by %s %s", x.UndoneBy, d.Clock(*x.UndoneAt))
		}
		if err := command.MayTakeBack(actor, x.ActorID, command.VerbRun); err != nil {
			out.Runs[i].Why = command.Why(err)
		}
	}
	return out, err
}
