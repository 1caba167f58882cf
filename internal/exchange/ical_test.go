package exchange

import (
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"journeyman/core/days"
)

func events(of ...string) string {
	s := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Kilnmoor//Holidays//EN\r\n"
	for i, e := range of {
		s += "BEGIN:VEVENT\r\nUID:" + string(rune('a'+i)) + "\r\nDTSTAMP:20260101T000000Z\r\n" + strings.ReplaceAll(e, "\n", "\r\n") +
			"\r\nEND:VEVENT\r\n"
	}
	return s + "END:VCALENDAR\r\n"
}

func closedIn(t *testing.T, file, from, to string) (got []string, timed int) {
	t.Helper()
	a, err := days.Parse(from)
	if err != nil {
		t.Fatal(err)
	}
	b, err := days.Parse(to)
	if err != nil {
		t.Fatal(err)
	}
	closed, timed, err := ReadClosedDays([]byte(file), a, b)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range closed {
		got = append(got, c.Day.String())
	}
	return got, timed
}

// The rules and their days are the examples of RFC 5545, section 3.8.5.3, as whole days.
func TestRecurringDaysAreTheExamplesOfTheStandard(t *testing.T) {
	for _, c := range []struct{ name, event, from, to, want string }{
		{
			"daily for 10 occurrences", "DTSTART;VALUE=DATE:19970902\nRRULE:FREQ=DAILY;COUNT=10", "1997-01-01", "1998-12-31",
			"1997-09-02 1997-09-03 1997-09-04 1997-09-05 1997-09-06 1997-09-07 1997-09-08 1997-09-09 1997-09-10 1997-09-11",
		},
		{
			"every 10 days, 5 occurrences", "DTSTART;VALUE=DATE:19970902\nRRULE:FREQ=DAILY;INTERVAL=10;COUNT=5", "1997-01-01", "1998-12-31",
			"1997-09-02 1997-09-12 1997-09-22 1997-10-02 1997-10-12",
		},
		{
			"weekly on Tuesday and Thursday for five weeks", "DTSTART;VALUE=DATE:19970902\nRRULE:FREQ=WEEKLY;COUNT=10;WKST=SU;BYDAY=TU,TH",
			"1997-01-01", "1998-12-31",
			"1997-09-02 1997-09-04 1997-09-09 1997-09-11 1997-09-16 1997-09-18 1997-09-23 1997-09-25 1997-09-30 1997-10-02",
		},
		{
			"monthly on the first Friday for 10 occurrences", "DTSTART;VALUE=DATE:19970905\nRRULE:FREQ=MONTHLY;COUNT=10;BYDAY=1FR",
			"1997-01-01", "1999-12-31",
			"1997-09-05 1997-10-03 1997-11-07 1997-12-05 1998-01-02 1998-02-06 1998-03-06 1998-04-03 1998-05-01 1998-06-05",
		},
		{
			"monthly on the third-to-the-last day of the month", "DTSTART;VALUE=DATE:19970928\nRRULE:FREQ=MONTHLY;BYMONTHDAY=-3",
			"1997-09-01", "1998-02-28",
			"1997-09-28 1997-10-29 1997-11-28 1997-12-29 1998-01-29 1998-02-26",
		},
		{
			"every Friday the 13th, but not on the first day itself",
			"DTSTART;VALUE=DATE:19970902\nEXDATE;VALUE=DATE:19970902\nRRULE:FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13", "1997-01-01",
			"2000-12-31",
			"1998-02-13 1998-03-13 1998-11-13 1999-08-13 2000-10-13",
		},
		{
			"U.S. Presidential Election day", "DTSTART;VALUE=DATE:19961105\nRRULE:FREQ=YEARLY;INTERVAL=4;BYMONTH=11;BYDAY=TU;BYMONTHDAY=2,3,4,5,6,7,8", "1996-01-01", "2004-12-31",
			"1996-11-05 2000-11-07 2004-11-02",
		},
		{
			"Monday of week number 20", "DTSTART;VALUE=DATE:19970512\nRRULE:FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", "1997-01-01", "1999-12-31",
			"1997-05-12 1998-05-11 1999-05-17",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, _ := closedIn(t, events(c.event), c.from, c.to)
			if s := strings.Join(got, " "); s != c.want {
				t.Errorf("%s\nwant %s", s, c.want)
			}
		})
	}
}

func TestSpansListsAndTimesOfClosedDays(t *testing.T) {
	file := events(
		"SUMMARY:Stock-taking\\, both halls\nDTSTART;VALUE=DATE:20270105\nDTEND;VALUE=DATE:20270108",
		"SUMMARY:Works outing\nDTSTART;VALUE=DATE:20270611\nDURATION:P2D",
		"SUMMARY:Also closed\nDTSTART;VALUE=DATE:20270107\nRDATE;VALUE=DATE:20270401,20270402",
		"SUMMARY:Fire drill\nDTSTART:20270301T100000Z\nDTEND:20270301T103000Z",
	)
	got, timed := closedIn(t, file, "2027-01-06", "2027-12-31")
	if s := strings.Join(got, " "); s != "2027-01-06 2027-01-07 2027-04-01 2027-04-02 2027-06-11 2027-06-12" {
		t.Error(s)
	}
	if timed != 1 {
		t.Errorf("%d events with a time of day, want the fire drill alone", timed)
	}
	closed, _, err := ReadClosedDays([]byte(file), days.Date(2027, 1, 7), days.Date(2027, 1, 7))
	if err != nil || len(closed) != 1 || closed[0].Name != "Stock-taking, both halls" {
		t.Errorf("%v %v", closed, err)
	}
}

func TestWhatIsNoCalendarOfDaysIsRefused(t *testing.T) {
	for _, c := range []struct{ name, file, says string }{
		{"nothing", "", "BEGIN:VCALENDAR"},
		{"another file", "sku,name\nG1,Glaze\n", "not an iCalendar file"},
		{"an event without a start", events("SUMMARY:Some day"), "no DTSTART"},
		{"a day that is none", events("DTSTART;VALUE=DATE:20270230"), "not a day"},
		{"a rule that is none", events("DTSTART;VALUE=DATE:20270301\nRRULE:FREQ=NEVER"), "RRULE"},
		{"a rule of seconds", events("DTSTART;VALUE=DATE:20270301\nRRULE:FREQ=SECONDLY"), "recurs at times of the day"},
		{"an exception that is no day", events("DTSTART;VALUE=DATE:20270301\nRRULE:FREQ=DAILY\nEXDATE:20270301T100000Z"), "not a day"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, _, err := ReadClosedDays([]byte(c.file), 20_000, 21_000)
			if err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%v, want %q", err, c.says)
			}
		})
	}
	daily := events("DTSTART;VALUE=DATE:19000101\nRRULE:FREQ=DAILY")
	if _, _, err := ReadClosedDays([]byte(daily), 0, 20_000); err == nil {
		t.Error("a calendar that closes every day for 55 years was taken")
	}
}

func FuzzReadClosedDays(f *testing.F) {
	f.Add(events("DTSTART;VALUE=DATE:20270105\nDTEND;VALUE=DATE:20270108\nRRULE:FREQ=YEARLY;BYDAY=1MO;COUNT=3\nEXDATE;VALUE=DATE:20270105"))
	f.Fuzz(func(t *testing.T, file string) {
		closed, _, err := ReadClosedDays([]byte(file), 20_000, 20_400)
		if err != nil {
			return
		}
		for i, c := range closed {
			if c.Day < 20_000 || c.Day > 20_400 || i > 0 && closed[i-1].Day >= c.Day {
				t.Fatalf("%v", closed)
			}
		}
	})
}

// Each of these took gigabytes or minutes when it was read without a limit.
func TestACalendarThatAsksForTooMuchIsRefusedAtOnce(t *testing.T) {
	day := "DTSTART;VALUE=DATE:20270101\n"
	seconds := make([]string, 60)
	for i := range seconds {
		seconds[i] = strconv.Itoa(i)
	}
	many := strings.Join(seconds, ",")
	from, to := days.Of(time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)), days.Of(time.Date(2029, 11, 1, 0, 0, 0, 0, time.UTC))
	for name, c := range map[string]struct{ file, want string }{
		"every second of the day": {events(day + "RRULE:FREQ=DAILY;BYMINUTE=" + many + ";BYSECOND=" + many), "times of the day"},
		"hours":                   {events(day + "RRULE:FREQ=YEARLY;BYHOUR=1,2"), "times of the day"},
		"events that do not end": {
			"BEGIN:VCALENDAR\r\n" + strings.Repeat("BEGIN:VEVENT\r\n", 20_000), "line 3: an event begins in another",
		},
		"parts that do not end": {"BEGIN:VCALENDAR\r\n" + strings.Repeat("begin:x\r\n", 20_000), "nested more than 3 deep"},
		"too many events":       {events(strings.Split(strings.Repeat(day+"|", 2_001), "|")...), "more than 2000 parts"},
		"too large":             {events(day + "SUMMARY:" + strings.Repeat("x", 1_000_000)), "larger than"},
		"too many days in one event": {
			events(day + "RDATE;VALUE=DATE:" + strings.Repeat("20270102,", 10_000) + "20270102"), "lists more than",
		},
		"before the calendar we keep": {events("DTSTART;VALUE=DATE:00010101\nRRULE:FREQ=DAILY"), "between 1900 and 2199"},
		"rules that never match": {
			events(slices.Repeat([]string{day + "RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30"}, 1_000)...), "too long",
		},
	} {
		if name == "rules that never match" && testing.Short() {
			continue
		}
		closed, _, err := ReadClosedDays([]byte(c.file), from, to)
		if err == nil || !strings.Contains(err.Error(), c.want) || len(err.Error()) > 300 {
			t.Errorf("%s: %d days, %.300v", name, len(closed), err)
		}
	}
	if closed, _, err := ReadClosedDays([]byte(events(day+"RRULE:FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30")), from,
		to); err != nil || len(closed) > 0 {
		t.Errorf("one rule that never matches: %v %v", closed, err)
	}
}
