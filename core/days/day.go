// Package days counts calendar days as whole numbers, so that arithmetic on
// dates is arithmetic on integers and needs no time zone.
package days

import (
	"fmt"
	"time"
)

// Day is a calendar day: the number of days since 1970-01-01 in the proleptic
// Gregorian calendar (ISO 8601). The zero Day is 1970-01-01.
type Day int32

// Of returns the day on which t falls in t's own location.
func Of(t time.Time) Day {
	y, m, d := t.Date()
	return Date(y, m, d)
}

// Date returns the day of that year, month and day of the month, normalised as
// time.Date does it.
func Date(year int, month time.Month, day int) Day {
	return Day(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// Parse reads YYYY-MM-DD and nothing else (ISO 8601, extended calendar date).
func Parse(s string) (Day, error) {
	t, err := time.Parse(time.DateOnly, s)
	if err != nil {
		return 0, fmt.Errorf("%q is not a day: YYYY-MM-DD, such as 2027-03-01", s)
	}
	return Of(t), nil
}

// Time is midnight UTC at the start of d.
func (d Day) Time() time.Time { return time.Unix(int64(d)*86400, 0).UTC() }

// String is YYYY-MM-DD.
func (d Day) String() string { return d.Time().Format(time.DateOnly) }

// Weekday is the day of the week of d.
func (d Day) Weekday() time.Weekday { return time.Weekday(d.weekday()) }
