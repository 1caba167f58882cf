package supply

import (
	"slices"

	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// TrailEntry is one thing that happened to an order.
type TrailEntry struct {
	At           string        `json:"at" format:"date-time"`
	Who          string        `json:"who"`
	Text         words.Message `json:"text"`
	Kind         string        `json:"kind" doc:"The move, or hold and lift"`
	Document     string        `json:"document,omitempty"`
	DocumentKind string        `json:"document_kind,omitempty"`
	Command      int64         `json:"command"`
	Undone       bool          `json:"undone"`
	Undo         bool          `json:"undo,omitempty" doc:"Whoever asks can take the command back"`
}

// ChangeText says what a change of a value did.
func ChangeText(x store.ChangeEvent) words.Message {
	value := func(v string) words.Message {
		switch {
		case v == "":
			return words.Say("nothing")
		case x.Field == "wanted" || x.Field == "ship by":
			return words.Say("%s", words.DayOf(v))
		}
		return words.Plain(v)
	}
	text := words.Say("changed %s from %s to %s", x.Field, value(x.Was), value(x.Now))
	if x.LineNo != 0 {
		text = words.Say("%s on %s, line %d", text, x.SKU, x.LineNo)
	}
	return because(text, x.Reason)
}

// because adds the reason that a person gave.
func because(text words.Message, reason string) words.Message {
	if reason == "" {
		return text
	}
	return words.Say("%s: %s", text, reason)
}

// PromiseText says what a change of promises did.
func PromiseText(x store.PromiseEvent) (text words.Message, err error) {
	was, err := command.ParseParts(x.Was)
	if err != nil {
		return text, err
	}
	now, err := command.ParseParts(x.Now)
	if err != nil {
		return text, err
	}
	list := func(gs []plan.StandingPromise) words.Word {
		var said []words.Message
		for _, g := range gs {
			said = append(said, words.Say("%d for %s", g.Qty, words.Day(g.Day)))
		}
		return words.List(said, ", ")
	}
	of := words.Say("of %s, line %d", x.SKU, x.LineNo)
	switch {
	case x.Cause == command.CauseAllocated:
		text = words.Say("kept %s %s by allocating", words.Count(plan.StandingUnits(was)-plan.StandingUnits(now), "promised unit"), of)
	case x.Cause == command.CauseFewer && len(now) == 0:
		text = words.Say("ended the promise of %s %s: nothing of it is open", list(was), of)
	case x.Cause == command.CauseFewer:
		text = words.Say("cut the promise %s to %s: no more is open", of, list(now))
	case x.Cause == command.CauseRoom && len(was) > 0:
		text = words.Say("put the promise %s back to %s; it was %s", of, list(now), list(was))
	case len(now) == 0:
		text = words.Say("took back the promise of %s %s", list(was), of)
	case len(was) == 0:
		text = words.Say("promised %s %s", list(now), of)
	default:
		text = words.Say("promised %s %s; it was %s", list(now), of, list(was))
	}
	return because(text, x.Reason), nil
}

// EventText says what a command did to a line or an order.
func EventText(x store.Event) words.Message {
	var s words.Message
	switch x.Kind {
	case "hold":
		return words.Say("put the order on %s hold: %s", x.Cause, x.Reason)
	case "lift":
		s = words.Say("lifted the %s hold", x.Cause)
	case string(journey.Short):
		s = words.Say("found %d %s of %s, line %d", x.Qty, x.Cause, x.SKU, x.LineNo)
	case string(journey.Deliver):
		s = words.Say("delivered %d of %s, line %d", x.Qty, x.SKU, x.LineNo)
	default:
		s = words.Say("%s %d of %s, line %d", words.Past(x.Kind), x.Qty, x.SKU, x.LineNo)
	}
	if x.Verb == string(command.VerbUndo) {
		s = words.Say("took back: %s", s)
	}
	if x.Reason != "" && !slices.Contains([]string{string(command.VerbImport)}, x.Verb) {
		s = words.Say("%s (%s)", s, x.Reason)
	}
	return s
}
