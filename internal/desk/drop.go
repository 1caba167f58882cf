package desk

import (
	"context"
	"strings"

	"journeyman/core/journey"
)

// Drop ends open units of lines, with a reason. For orders, everything that is open.
func (d *Desk) Drop(ctx context.Context, call Call, ask Selection) (Outcome, error) {
	return d.run(ctx, call, VerbDrop, ask, func(w *work) error {
		if strings.TrimSpace(call.Reason) == "" {
			return Invalid("Say why the remainder is dropped.")
		}
		return moveBetween(w, ask, journey.Drop, journey.Open, "Dropped", "Nothing is open on what was chosen. Give back what is allocated first if it is to be dropped.")
	})
}

// Reopen takes a drop back.
func (d *Desk) Reopen(ctx context.Context, call Call, ask Selection) (Outcome, error) {
	return d.run(ctx, call, VerbReopen, ask, func(w *work) error {
		return moveBetween(w, ask, journey.Reopen, journey.Dropped, "Reopened", "Nothing was dropped on what was chosen.")
	})
}

// moveBetween moves units of the chosen lines from a station outside the house.
func moveBetween(w *work, ask Selection, k journey.Kind, from journey.Station, verb, nothing string) error {
	lines, err := w.choose(ask)
	if err != nil {
		return err
	}
	for _, c := range lines {
		q := c.asked
		if q == 0 {
			q = c.line.now.At[from]
		}
		if q > c.line.now.At[from] {
			return Conflict("%s line %d has %d %s; %d were asked for.", c.line.OrderNumber, c.line.LineNo, c.line.now.At[from], from, q)
		}
		if q > 0 {
			if err := w.move(c.line, 0, journey.Make(k, q), entry{}); err != nil {
				return err
			}
		}
	}
	if w.out.Units == 0 {
		return Conflict("%s", nothing)
	}
	w.describe(verb)
	return nil
}
