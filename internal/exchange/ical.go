package exchange

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/teambition/rrule-go"

	"journeyman/core/days"
)

// ClosedDay is a day on which a warehouse does not work, and why.
type ClosedDay struct {
	Day  days.Day
	Name string
}

// What a calendar may hold. A rule that never matches is followed by the library up to the year
// 9999, a quarter of a second each, so the time for all rules together is bounded too.
const (
	mostClosed     = 5_000
	mostEvents     = 2_000
	mostCalendar   = 1_000_000 // bytes
	mostNested     = 3         // calendar, event, alarm
	mostExpanding  = 2 * time.Second
	firstYear      = 1900
	lastYear       = 2199
	mostListedDays = 10_000
)

// shaped refuses what would cost the parser more than a calendar is worth: too many parts, parts
// without an end, parts in parts in parts.
func shaped(file []byte) error {
	if len(file) > mostCalendar {
		return fmt.Errorf("the file is larger than %d bytes", mostCalendar)
	}
	open, parts, number := 0, 0, 0
	for line := range bytes.Lines(file) {
		number++
		line = bytes.ToUpper(bytes.TrimSpace(line[:min(len(line), 16)]))
		switch {
		case bytes.HasPrefix(line, []byte("BEGIN:")):
			open, parts = open+1, parts+1
			if bytes.Equal(line, []byte("BEGIN:VEVENT")) && open > 2 {
				return fmt.Errorf("line %d: an event begins in another that has not ended", number)
			}
		case bytes.HasPrefix(line, []byte("END:")):
			open--
		}
		if open > mostNested {
			return fmt.Errorf("line %d: parts are nested more than %d deep; has one no END?", number, mostNested)
		}
		if parts > mostEvents {
			return fmt.Errorf("the file has more than %d parts", mostEvents)
		}
	}
	return nil
}

// ReadClosedDays reads the days from `from` to `to` that are covered by whole-day events of an
// iCalendar file (RFC 5545): single days, spans, and days that recur (RRULE, RDATE, EXDATE).
// Events with a time of day close nothing; timed says how many there are. Days come in order,
// each once; where two events cover one, the first in the file names it.
func ReadClosedDays(file []byte, from, to days.Day) (closed []ClosedDay, timed int, err error) {
	if len(bytes.TrimSpace(file)) == 0 {
		return nil, 0, errors.New("the file is empty; an iCalendar file (.ics) begins with BEGIN:VCALENDAR")
	}
	if err := shaped(file); err != nil {
		return nil, 0, err
	}
	cal, err := ics.ParseCalendar(bytes.NewReader(file))
	if err != nil {
		return nil, 0, fmt.Errorf("this is not an iCalendar file (.ics): %w", err)
	}
	seen, began := map[days.Day]bool{}, time.Now()
	for i, ev := range cal.Events() {
		if time.Since(began) > mostExpanding {
			return nil, 0, errors.New("its recurring events take too long to work out; give the days themselves")
		}
		name := ""
		if p := ev.GetProperty(ics.ComponentPropertySummary); p != nil {
			name = strings.TrimSpace(p.Value)
		}
		starts, length, whole, err := wholeDays(ev, from, to)
		switch {
		case err != nil:
			return nil, 0, fmt.Errorf("event %d (%.60s): %w", i+1, cmp.Or(name, "without a name"), err)
		case !whole:
			timed++
			continue
		}
		for _, first := range starts {
			for d := max(first, from); d < first+length && d <= to; d++ {
				if !seen[d] {
					seen[d] = true
					closed = append(closed, ClosedDay{d, name})
				}
			}
			if len(closed) > mostClosed {
				return nil, 0, fmt.Errorf("the file closes more than %d days between %s and %s", mostClosed, from, to)
			}
		}
	}
	slices.SortFunc(closed, func(a, b ClosedDay) int { return int(a.Day) - int(b.Day) })
	return closed, timed, nil
}

// wholeDays returns the first days of an event's recurrences that touch the span, and how many
// days each is long; whole is false for an event with a time of day.
func wholeDays(ev *ics.VEvent, from, to days.Day) (starts []days.Day, length days.Day, whole bool, err error) {
	start := ev.GetProperty(ics.ComponentPropertyDtStart)
	if start == nil {
		return nil, 0, false, errors.New("it has no DTSTART")
	}
	if len(start.Value) != len("20060102") {
		return nil, 0, false, nil
	}
	first, err := compactDay(start.Value)
	if err != nil {
		return nil, 0, true, err
	}
	length = 1
	if end := ev.GetProperty(ics.ComponentPropertyDtEnd); end != nil {
		after, err := compactDay(end.Value)
		if err != nil {
			return nil, 0, true, err
		}
		length = max(1, min(after-first, 366*7))
	} else if dur := ev.GetProperty(ics.ComponentPropertyDuration); dur != nil {
		if length, err = wholeDuration(dur.Value); err != nil {
			return nil, 0, true, err
		}
	}
	rule := ev.GetProperty(ics.ComponentPropertyRrule)
	set, listed := rrule.Set{}, 0
	if rule != nil {
		opt, err := rrule.StrToROption(rule.Value)
		if err != nil {
			return nil, 0, true, fmt.Errorf("its RRULE cannot be read: %w", err)
		}
		if opt.Freq > rrule.DAILY || len(opt.Byhour)+len(opt.Byminute)+len(opt.Bysecond) > 0 {
			return nil, 0, true, errors.New("its RRULE recurs at times of the day; a closed day has none")
		}
		if len(opt.Byeaster) > 0 {
			return nil, 0, true, errors.New("its RRULE has BYEASTER, which the standard does not have; give the days themselves")
		}
		opt.Dtstart = first.Time()
		r, err := rrule.NewRRule(*opt)
		if err != nil {
			return nil, 0, true, fmt.Errorf("its RRULE cannot be read: %w", err)
		}
		set.RRule(r)
	} else {
		set.RDate(first.Time())
	}
	for _, list := range []struct {
		name ics.ComponentProperty
		add  func(time.Time)
	}{{ics.ComponentPropertyRdate, set.RDate}, {ics.ComponentPropertyExdate, set.ExDate}} {
		for _, p := range ev.GetProperties(list.name) {
			for s := range strings.SplitSeq(p.Value, ",") {
				if listed++; listed > mostListedDays {
					return nil, 0, true, fmt.Errorf("it lists more than %d days", mostListedDays)
				}
				d, err := compactDay(s)
				if err != nil {
					return nil, 0, true, err
				}
				list.add(d.Time())
			}
		}
	}
	for _, t := range set.Between((from - length + 1).Time(), to.Time(), true) {
		starts = append(starts, days.Of(t))
	}
	return starts, length, true, nil
}

func compactDay(s string) (days.Day, error) {
	t, err := time.Parse("20060102", s)
	if err != nil {
		return 0, fmt.Errorf("%.40q is not a day: YYYYMMDD, such as 20270326", s)
	}
	if t.Year() < firstYear || t.Year() > lastYear {
		return 0, fmt.Errorf("%s is not between %d and %d", s, firstYear, lastYear)
	}
	return days.Of(t), nil
}

// wholeDuration reads a duration in whole days or weeks, such as P2D or P1W.
func wholeDuration(s string) (days.Day, error) {
	var n days.Day
	var unit rune
	if _, err := fmt.Sscanf(strings.TrimPrefix(s, "+"), "P%d%c", &n, &unit); err == nil && n > 0 && n <= 366 {
		switch unit {
		case 'D':
			return n, nil
		case 'W':
			return 7 * n, nil
		}
	}
	return 0, fmt.Errorf("%.40q is not a duration in whole days or weeks, such as P2D", s)
}
