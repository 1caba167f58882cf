package command

import (
	"errors"
	"fmt"
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
	Kind     Kind
	Sentence string
	Cause    error
}

func (r *Refusal) Error() string { return r.Sentence }
func (r *Refusal) Unwrap() error { return r.Cause }

// Invalid refuses what makes no sense.
func Invalid(format string, args ...any) error {
	return &Refusal{Kind: KindInvalid, Sentence: fmt.Sprintf(format, args...)}
}

// Conflict refuses what no longer fits.
func Conflict(format string, args ...any) error {
	return &Refusal{Kind: KindConflict, Sentence: fmt.Sprintf(format, args...)}
}

// NotFound refuses what is not there.
func NotFound(format string, args ...any) error {
	return &Refusal{Kind: KindNotFound, Sentence: fmt.Sprintf(format, args...)}
}

// Forbidden refuses what this person may not do.
func Forbidden(format string, args ...any) error {
	return &Refusal{Kind: KindForbidden, Sentence: fmt.Sprintf(format, args...)}
}

// AsRefusal says whether err is an answer of no rather than a failure.
func AsRefusal(err error) (*Refusal, bool) {
	var r *Refusal
	ok := errors.As(err, &r)
	return r, ok
}
