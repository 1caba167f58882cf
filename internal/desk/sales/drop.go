package sales

import (
	"context"
	"strings"

	"journeyman/core/journey"
	"journeyman/internal/desk/command"
)

// Drop ends open units of lines, with a reason. For orders, everything that is open.
//
// It locks the lines with the stock of their items. It refuses no reason, more than is open, and lines and orders that are not as they
// were seen.
func (d *Desk) Drop(ctx context.Context, call command.Call, ask command.Selection) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbDrop, ask, func(w *command.UnitOfWork) error {
		if strings.TrimSpace(call.Reason) == "" {
			return command.Invalid("Say why the remainder is dropped.")
		}
		return moveBetween(
			w, ask, journey.Drop, journey.Open, "Dropped",
			"Nothing is open on what was chosen. Give back what is allocated first if it is to be dropped.",
		)
	})
}

// Reopen takes a drop back.
//
// It locks the lines with the stock of their items. It refuses more than was dropped, and lines and orders that are not as they were
// seen.
func (d *Desk) Reopen(ctx context.Context, call command.Call, ask command.Selection) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbReopen, ask, func(w *command.UnitOfWork) error {
		return moveBetween(w, ask, journey.Reopen, journey.Dropped, "Reopened", "Nothing was dropped on what was chosen.")
	})
}

// moveBetween moves units of the chosen lines from a station outside the house.
func moveBetween(w *command.UnitOfWork, ask command.Selection, k journey.Kind, from journey.Station, verb, nothing string) error {
	lines, err := w.Choose(ask)
	if err != nil {
		return err
	}
	for _, c := range lines {
		q := c.Asked
		if q == 0 {
			q = c.Line.Now.At[from]
		}
		if q > c.Line.Now.At[from] {
			return command.Conflict(
				"%s line %d has %d %s; %d were asked for.", c.Line.OrderNumber, c.Line.LineNo, c.Line.Now.At[from], from, q,
			)
		}
		if q > 0 {
			if err := w.Move(c.Line, 0, journey.Make(k, q), command.Refs{}); err != nil {
				return err
			}
		}
	}
	if w.Outcome.Units == 0 {
		return command.Conflict("%s", nothing)
	}
	w.Describe(verb)
	return nil
}
