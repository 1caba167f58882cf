// Package plan turns a book into a plan: who gets which stock, and what is promised to
// whom for when. It is pure: the same book gives the same plan, to the byte.
package plan

import (
	"journeyman/core/book"
	"journeyman/core/days"
)

// Plan is what is to become of a book. Line i of the book has Lines[i].
type Plan struct {
	Lines    []Outcome
	Promises []book.Promise // of all lines; see PromisesOf

	near int64 // nobody reads it; it keeps what was fetched ahead from being left out
}

// Outcome is what becomes of one line.
type Outcome struct {
	Short    int64 // open units that were promised to nobody
	Kept     bool  // its promises are those it had before
	from, to int32
}

// PromisesOf returns the promises of a line under the plan, the earliest first.
func (p *Plan) PromisesOf(line int32) []book.Promise {
	o := &p.Lines[line]
	return p.Promises[o.from:o.to]
}

// Promised is how many units of a line are promised by the end of day d.
func Promised(promises []book.Promise, d days.Day) int64 {
	var n int64
	for _, p := range promises {
		if p.Day <= d {
			n += p.Qty
		}
	}
	return n
}

// NoWorse says whether on every day from today on at least as many units are promised by that day as
// before.
func NoWorse(now, before []book.Promise, today days.Day) bool {
	for _, p := range before {
		if d := max(p.Day, today); Promised(now, d) < Promised(before, d) {
			return false
		}
	}
	return true
}
