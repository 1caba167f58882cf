package days

import (
	"testing"
	"time"
)

func TestDaysReadBackAndCountOn(t *testing.T) {
	for d := Date(1899, 12, 1); d < Date(2101, 3, 1); d++ {
		back, err := Parse(d.String())
		if err != nil || back != d {
			t.Fatalf("%d is %s and reads back as %d (%v)", d, d, back, err)
		}
		if (d + 1).Weekday() != (d.Weekday()+1)%7 {
			t.Fatalf("%s is a %s, the next day a %s", d, d.Weekday(), (d + 1).Weekday())
		}
	}
}

func TestKnownDays(t *testing.T) {
	// ISO 8601: 2000-01-01 was a Saturday. 2027-03-01 is day 20878 (from memory: Unix time 1803859200).
	if Date(2000, 1, 1).Weekday() != time.Saturday {
		t.Error("2000-01-01 is not a Saturday")
	}
	if Date(2027, 3, 1).Time().Unix() != 1803859200 {
		t.Error(Date(2027, 3, 1).Time().Unix())
	}
	late := time.Date(2027, 3, 1, 23, 30, 0, 0, time.FixedZone("east", 3*3600))
	if Of(late).String() != "2027-03-01" {
		t.Error("a day is taken in the time's own location")
	}
}

func TestBadDaysAreRefused(t *testing.T) {
	for _, s := range []string{"", "2027-2-3", "2027-02-29", "01/03/2027", "2027-03-01T00:00", " 2027-03-01"} {
		if d, err := Parse(s); err == nil {
			t.Errorf("%q was read as %s", s, d)
		}
	}
}
