// Package words is what is said to people: messages, and the numbers, days and amounts in them.
package words

import (
	"strings"

	"journeyman/core/journey"
)

// WithFullStop is a text with a full stop.
func WithFullStop(s string) string {
	if s == "" || strings.HasSuffix(s, ".") {
		return s
	}
	return s + "."
}

// Past is the kind of a move as what somebody did: released, gave back.
func Past(kind string) Message {
	switch journey.Kind(kind) {
	case journey.Enter:
		return Say("entered")
	case journey.Reduce:
		return Say("reduced it by")
	case journey.Allocate:
		return Say("allocated")
	case journey.GiveBack:
		return Say("gave back")
	case journey.Release:
		return Say("released")
	case journey.Recall, journey.PutBack:
		return Say("recalled")
	case journey.Pick:
		return Say("picked")
	case journey.Short:
		return Say("found missing")
	case journey.Pack:
		return Say("packed")
	case journey.Unpack:
		return Say("unpacked")
	case journey.Dispatch:
		return Say("dispatched")
	case journey.Void:
		return Say("voided")
	case journey.Deliver:
		return Say("saw delivered")
	case journey.Lose:
		return Say("reported lost")
	case journey.Drop:
		return Say("dropped")
	case journey.Reopen:
		return Say("reopened")
	case "promise":
		return Say("promised")
	case journey.Receive:
		return Say("received")
	case journey.Gain:
		return Say("counted more:")
	case journey.Loss:
		return Say("counted fewer:")
	}
	return Plain(kind)
}
