package command

import (
	"errors"

	"journeyman/internal/words"
)

// Kind says what sort of refusal it is, so that the door can choose its number.
type Kind int

// The kinds of refusal.
const (
	KindInvalid   Kind = iota // what was asked makes no sense
	KindForbidden             // this person may not
	KindNotFound
	KindConflict // it no longer fits what is there
	KindTooMany  // it was tried too often
	KindUnknown  // it may have been done or not
	KindUnavailable
)

// Refusal is an answer of no, in a sentence that says what to do.
type Refusal struct {
	Kind    Kind
	Message words.Message
	Cause   error
}

func (r *Refusal) Error() string { return r.Message.String() }
func (r *Refusal) Unwrap() error { return r.Cause }

// Invalid refuses what makes no sense.
func Invalid(pattern string, args ...any) error {
	return &Refusal{Kind: KindInvalid, Message: words.Say(pattern, args...)}
}

// Refuse refuses what makes no sense, for a reason that is known already.
func Refuse(m words.Message) error { return &Refusal{Kind: KindInvalid, Message: m} }

// Conflict refuses what no longer fits.
func Conflict(pattern string, args ...any) error {
	return &Refusal{Kind: KindConflict, Message: words.Say(pattern, args...)}
}

// NotFound refuses what is not there.
func NotFound(pattern string, args ...any) error {
	return &Refusal{Kind: KindNotFound, Message: words.Say(pattern, args...)}
}

// Forbidden refuses what this person may not do.
func Forbidden(pattern string, args ...any) error {
	return &Refusal{Kind: KindForbidden, Message: words.Say(pattern, args...)}
}

// AsRefusal says whether err is an answer of no rather than a failure.
func AsRefusal(err error) (*Refusal, bool) {
	var r *Refusal
	ok := errors.As(err, &r)
	return r, ok
}

// Why is what a refusal says, or the error as it stands.
func Why(err error) words.Message {
	var r *Refusal
	if errors.As(err, &r) {
		return r.Message
	}
	return words.Plain(err.Error())
}
