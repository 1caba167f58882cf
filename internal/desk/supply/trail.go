package supply

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/words"
	"journeyman/internal/store"
)

// TrailEntry is one thing that happened to an order.
type TrailEntry struct {
	At           string `json:"at" format:"date-time"`
	Who          string `json:"who"`
	Text         string `json:"text"`
	Kind         string `json:"kind" doc:"The move, or hold and lift"`
	Document     string `json:"document,omitempty"`
	DocumentKind string `json:"document_kind,omitempty"`
	Command      int64  `json:"command"`
	Undone       bool   `json:"undone"`
	Undo         bool   `json:"undo,omitempty" doc:"Whoever asks can take the command back"`
}

// ChangeText says what a change of a value did.
func ChangeText(x store.ChangeEvent) string {
	was, now := x.Was, x.Now
	if x.Field == "wanted" || x.Field == "ship by" {
		was, now = words.DayOf(was), words.DayOf(now)
	}
	text := fmt.Sprintf("changed %s from %s to %s", x.Field, cmp.Or(was, "nothing"), cmp.Or(now, "nothing"))
	if x.LineNo != 0 {
		text += fmt.Sprintf(" on %s, line %d", x.SKU, x.LineNo)
	}
	if x.Reason != "" {
		text += ": " + x.Reason
	}
	return text
}

// PromiseText says what a change of promises did.
func PromiseText(x store.PromiseEvent) (string, error) {
	was, err := command.ParseParts(x.Was)
	if err != nil {
		return "", err
	}
	now, err := command.ParseParts(x.Now)
	if err != nil {
		return "", err
	}
	list := func(gs []plan.StandingPromise) string {
		var said []string
		for _, g := range gs {
			said = append(said, fmt.Sprintf("%d for %s", g.Qty, words.Day(g.Day)))
		}
		return strings.Join(said, ", ")
	}
	of := fmt.Sprintf("of %s, line %d", x.SKU, x.LineNo)
	text := ""
	switch {
	case x.Cause == command.CauseAllocated:
		text = fmt.Sprintf("kept %s %s by allocating", words.Count(plan.StandingUnits(was)-plan.StandingUnits(now), "promised unit"), of)
	case x.Cause == command.CauseFewer && len(now) == 0:
		text = fmt.Sprintf("ended the promise of %s %s: nothing of it is open", list(was), of)
	case x.Cause == command.CauseFewer:
		text = fmt.Sprintf("cut the promise %s to %s: no more is open", of, list(now))
	case x.Cause == command.CauseRoom && len(was) > 0:
		text = fmt.Sprintf("put the promise %s back to %s; it was %s", of, list(now), list(was))
	case len(now) == 0:
		text = fmt.Sprintf("took back the promise of %s %s", list(was), of)
	case len(was) == 0:
		text = fmt.Sprintf("promised %s %s", list(now), of)
	default:
		text = fmt.Sprintf("promised %s %s; it was %s", list(now), of, list(was))
	}
	if x.Reason != "" {
		text += ": " + x.Reason
	}
	return text, nil
}

// EventText says what a command did to a line or an order.
func EventText(x store.Event) string {
	var s string
	switch x.Kind {
	case "hold":
		return fmt.Sprintf("put the order on %s hold: %s", x.Cause, x.Reason)
	case "lift":
		s = fmt.Sprintf("lifted the %s hold", x.Cause)
	case string(journey.Short):
		s = fmt.Sprintf("found %d %s of %s, line %d", x.Qty, x.Cause, x.SKU, x.LineNo)
	case string(journey.Deliver):
		s = fmt.Sprintf("delivered %d of %s, line %d", x.Qty, x.SKU, x.LineNo)
	default:
		s = fmt.Sprintf("%s %d of %s, line %d", words.Past(x.Kind), x.Qty, x.SKU, x.LineNo)
	}
	if x.Verb == string(command.VerbUndo) {
		s = "took back: " + s
	}
	if x.Reason != "" && !slices.Contains([]string{string(command.VerbImport)}, x.Verb) {
		s += " (" + x.Reason + ")"
	}
	return s
}
