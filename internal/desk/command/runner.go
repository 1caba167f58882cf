// Package command carries out what people decide: one command is one transaction. It knows who may do what, takes each key once,
// holds lines and stock still, refuses what is not as it was seen, writes the moves into the journal, and answers with an outcome.
package command

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"log/slog"
	"time"

	"journeyman/core/days"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
	"journeyman/internal/words"
)

// Runner carries out commands, each in one transaction, for all rooms of the desk. It knows the clock by which they are dated.
type Runner struct {
	Store *store.Store
	Now   func() time.Time
	Zone  *time.Location // in which days begin and times are written
	Log   *slog.Logger

	announce func(Change)
}

// RunnerOptions say how a runner works. The zero value works: the system's clock, Europe/London.
type RunnerOptions struct {
	Now  func() time.Time // the clock by which commands are dated
	Zone *time.Location   // in which days begin and times are written
	Tell func(Change)     // called after each commit
	Log  *slog.Logger
}

// NewRunner returns a runner on the store.
func NewRunner(s *store.Store, o RunnerOptions) *Runner {
	d := &Runner{Store: s, Now: o.Now, Zone: o.Zone, Log: o.Log, announce: o.Tell}
	if d.Now == nil {
		d.Now = time.Now
	}
	if d.Zone == nil {
		d.Zone = time.UTC
		if z, err := time.LoadLocation("Europe/London"); err == nil {
			d.Zone = z
		}
	}
	if d.announce == nil {
		d.announce = func(Change) {}
	}
	if d.Log == nil {
		d.Log = slog.Default()
	}
	return d
}

// Announce tells those who watch what has changed.
func (d *Runner) Announce(c Change) { d.announce(c) }

// Today is the current day where the desk stands.
func (d *Runner) Today() days.Day { return days.Of(d.Now().In(d.Zone)) }

// Clock tells the time of t as a person reads it: 15:42, or with the day if it is not today.
func (d *Runner) Clock(t time.Time) words.Message { return words.Clock(t.In(d.Zone), d.Today()) }

// Actor is the person who asks.
type Actor struct {
	ID   int64  `json:"-"`
	Name string `json:"name"`
	Role Role   `json:"role" enum:"coordinator,sales,floor,manager"`

	Login   string `json:"-"`
	Session int64  `json:"-"` // in which they ask; 0 for none
}

// Call is what every command is given besides what it asks.
type Call struct {
	Key    string // a UUID; the same key is carried out once, however often it arrives
	Actor  Actor
	Reason string
}

// Change is what a commit touched, for those who watch.
type Change struct {
	Command int64         `json:"command,omitempty"`
	Who     string        `json:"who,omitempty"`
	Orders  []string      `json:"orders,omitempty"`
	Skus    []string      `json:"skus,omitempty"`
	All     bool          `json:"all,omitempty"`     // more orders and items than can be listed
	Touches []Touched     `json:"touches,omitempty"` // what kinds of things it changed; any if empty
	News    words.Message `json:"news,omitzero"`     // what came of what they asked for before, for their own screen

	// Streams that end, of a session, or of all of a person's sessions but one: for the servers, not for browsers.
	EndSession, EndUser, But int64 `json:"-"`
}

// Outcome is the answer to a command.
type Outcome struct {
	Command   int64         `json:"command" doc:"Key of the command in the journal"`
	Verb      string        `json:"verb"`
	Sentence  string        `json:"sentence" doc:"What was done, for a person, in English"`
	Said      words.Message `json:"said" doc:"The same as code and what stands in it"`
	Lines     int           `json:"lines" doc:"Order lines that were touched"`
	Units     int64         `json:"units" doc:"Units that moved"`
	Documents []Document    `json:"documents,omitempty" doc:"What was made or changed"`
	Undoable  bool          `json:"undoable" doc:"Whether it can be undone while nothing else has happened"`
}

// Document is something with a number that a person can open.
type Document struct {
	Kind   string `json:"kind" enum:"order,quote,pick list,shipment,inbound,item,request to buy"`
	Number string `json:"number"`
}

// Run carries out one command. fn fills the work and its outcome; it may be run
// again, so it touches nothing but its transaction.
//
// Every command may be sent again with its key, after whatever error: it is done once, and who sends it again is told what came of
// it. A refusal is a *Refusal; then nothing was done. All rows that a command may touch are locked before it looks at them, by item,
// then warehouse, then line, then document, so that commands wait for each other and never for good.
func (d *Runner) Run(ctx context.Context, call Call, verb Verb, asked any, fn func(*UnitOfWork) error) (Outcome, error) {
	if err := verb.Allowed(call.Actor); err != nil {
		return Outcome{}, err
	}
	body, err := json.Marshal(asked)
	if err != nil {
		return Outcome{}, err
	}
	sum := sha256.Sum256(append(body, call.Reason...))
	var out Outcome
	var change Change
	within := d.Store.InTx
	if verb.Long() {
		within = d.Store.InLongTx
	}
	err = within(ctx, func(tx *store.Tx) error {
		w := newUnitOfWork(ctx, d, tx, call)
		cmd := store.Command{Key: call.Key, Verb: string(verb), ActorID: call.Actor.ID, At: w.At, Reason: call.Reason, Asked: sum[:]}
		if u, ok := asked.(Undoing); ok {
			undone := u.Undoes()
			cmd.Undoes = &undone
		}
		tx.Claim(cmd, func(id int64) { w.ID, w.Outcome.Command = id, id })
		w.Outcome = Outcome{Verb: string(verb), Undoable: verb.Undoable()}
		if err := fn(w); err != nil {
			return err
		}
		if err := w.commit(); err != nil {
			return err
		}
		out, change = w.Outcome, w.change()
		return nil
	})
	var again *store.Repeat
	switch {
	case errors.Is(err, store.ErrUnknown):
		return d.findOut(ctx, call, err)
	case errors.As(err, &again):
		return answered(again)
	case postgres.Check(err) == "command_undoes_key":
		return Outcome{}, Conflict("This was undone already.")
	case err != nil && ctx.Err() != nil: // whoever asked does not wait any more
		return Outcome{}, err
	case err != nil:
		return Outcome{}, d.Explain(err)
	}
	if change.Command != 0 {
		d.Announce(change)
	}
	return out, nil
}

// findOut says what became of a command whose end the database did not answer.
func (d *Runner) findOut(ctx context.Context, call Call, lost error) (out Outcome, err error) {
	ask, cancel := context.WithTimeout(context.WithoutCancel(ctx), findOutWithin)
	defer cancel()
	cmd, found, err := d.Store.CommandByKey(ask, call.Key, call.Actor.ID)
	d.Log.WarnContext(ctx, "the end of a command was not answered", "key", call.Key, "done", found, "error", lost, "asking", err)
	switch {
	case err != nil:
		return out, &Refusal{
			Kind: KindUnknown, Cause: lost,
			Message: words.Say("The connection to the database broke while this was saved, and it is not known yet whether it was done. " +
				"Ask again with the same key: it is done once at most."),
		}
	case !found:
		return out, &Refusal{
			Kind: KindUnavailable, Cause: lost,
			Message: words.Say("The connection to the database broke before this was saved. Nothing was changed; try again."),
		}
	}
	d.Announce(Change{Command: cmd.ID, Who: call.Actor.Name, All: true})
	return readOutcome(cmd.Outcome)
}

// findOutWithin is how long it may take to find out.
const findOutWithin = 4 * time.Second

// answered is what the first command with the key was answered.
func answered(r *store.Repeat) (out Outcome, err error) {
	if r.Other {
		return out, &Refusal{
			Kind: KindInvalid, Message: words.Say("This request carries a key that was used for another one. Send it with a new key."), Cause: r,
		}
	}
	return readOutcome(r.Before.Outcome)
}

// readOutcome reads what was answered before, which may be older than messages are.
func readOutcome(text string) (out Outcome, err error) {
	err = json.Unmarshal([]byte(text), &out)
	if out.Said.IsZero() {
		out.Said = words.Plain(out.Sentence)
	}
	return out, err
}

// Explain turns what the database refused into a sentence. The core refuses first;
// this is what is left when two people were quicker than one lock, or a rule was missed.
func (d *Runner) Explain(err error) error {
	var r *Refusal
	switch {
	case errors.As(err, &r), errors.Is(err, context.Canceled):
		return err
	case postgres.TooGreat(err):
		return &Refusal{Kind: KindInvalid, Message: words.Say("The numbers are too great to be counted. Enter smaller ones."), Cause: err}
	case postgres.TookTooLong(err):
		d.Log.Warn("a command took too long", "error", err)
		return &Refusal{
			Kind:    KindUnavailable,
			Message: words.Say("Others are at work on this, and it took too long to wait for them. Nothing was changed; try again in a moment."),
			Cause:   err,
		}
	case postgres.Unavailable(err):
		d.Log.Error("the database does not answer", "error", err)
		return &Refusal{
			Kind: KindUnavailable, Message: words.Say("The database does not answer. Nothing was changed; try again in a moment."), Cause: err,
		}
	}
	if name := postgres.Check(err); name != "" {
		d.Log.Warn("the database refused a command", "constraint", name, "error", err)
		return &Refusal{
			Kind:    KindConflict,
			Message: words.Say("Something has changed in the meantime and this no longer fits. Look at it as it is now and decide again."),
			Cause:   err,
		}
	}
	return err
}

// Undoing is a command that takes another back.
type Undoing interface{ Undoes() int64 }
