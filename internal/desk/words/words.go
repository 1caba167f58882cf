// Package words writes numbers, days, money and what happened as people read them.
package words

import (
	"fmt"
	"strconv"
	"strings"

	"journeyman/core/days"
	"journeyman/core/journey"
)

// Count is a number of things: "1 order", "3 orders".
func Count(n int64, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return Number(n) + " " + what + "s"
}

// Number is a number as it is read: 12,345.
func Number(n int64) string {
	s := strconv.FormatInt(n, 10)
	for i := len(s) - 3; i > 0 && s[i-1] != '-'; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// WithFullStop is a text with a full stop.
func WithFullStop(s string) string {
	if s == "" || strings.HasSuffix(s, ".") {
		return s
	}
	return s + "."
}

// Money is an amount as a person reads it: 1,234.50 GBP.
func Money(minor int64, currency string) string {
	s := strconv.FormatInt(minor/100, 10)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return fmt.Sprintf("%s.%02d %s", s, minor%100, currency)
}

// Day is a day as a person says it.
func Day(d days.Day) string { return d.Time().Format("Mon 2 Jan") }

// DayOf is the day of an ISO date, as a person says it.
func DayOf(iso string) string {
	d, err := days.Parse(iso)
	if err != nil {
		return iso
	}
	return Day(d)
}

var pastTense = map[journey.Kind]string{
	journey.Enter: "entered", journey.Reduce: "reduced it by", journey.Allocate: "allocated", journey.GiveBack: "gave back",
	journey.Release: "released", journey.Recall: "recalled", journey.Pick: "picked", journey.Short: "found missing",
	journey.Pack: "packed", journey.Unpack: "unpacked", journey.PutBack: "put back", journey.Dispatch: "dispatched",
	journey.Void: "voided", journey.Deliver: "saw delivered", journey.Lose: "reported lost", journey.Drop: "dropped",
	journey.Reopen: "reopened",
	"promise":      "promised", journey.Receive: "received", journey.Gain: "counted more:", journey.Loss: "counted fewer:",
}

// Past is the kind of a move as what somebody did: released, gave back.
func Past(kind string) string {
	if s, ok := pastTense[journey.Kind(kind)]; ok {
		return s
	}
	return kind
}
