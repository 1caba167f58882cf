package exchange

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"journeyman/core/days"
)

// DayOrder is in which order a file writes day, month and year.
type DayOrder string

// The orders. A day that begins with a year of four digits is read as such in each of them.
const (
	YearFirst  DayOrder = "ymd"
	DayFirst   DayOrder = "dmy"
	MonthFirst DayOrder = "mdy"
)

// DecimalMark is what a file puts before the digits of a fraction; the other of the two parts thousands.
type DecimalMark string

// The marks.
const (
	Point DecimalMark = "point"
	Comma DecimalMark = "comma"
)

// Formats are how a file writes days and numbers.
type Formats struct {
	Days    DayOrder    `json:"days" enum:"ymd,dmy,mdy"`
	Decimal DecimalMark `json:"decimal" enum:"point,comma"`
}

// The columns that hold days, and those that hold numbers; the others hold text, or yes or no.
var (
	dayColumns    = []string{"due", "wanted", "ship_by", "entered"}
	numberColumns = []string{
		"multiple", "lead_days", "on_hand", "held", "tier", "urgency", "line", "qty", "days", "weight_kg", "length_cm",
		"width_cm", "height_cm", "price", "cost", "discount",
	}
)

// dayParts are the parts of a day that does not begin with a year of four digits.
var dayParts = regexp.MustCompile(`^(\d{1,2})([./ -])(\d{1,2}|[A-Za-z]{3,9})\.?[./ -](\d{4}|\d{2})$`)

// recogniseDays says how the days are written, and whether that is certain; any is false if none of the texts shows it.
func recogniseDays(texts []string) (order DayOrder, sure, any bool) {
	var dayFirst, monthFirst, either bool
	for _, s := range texts {
		s, _ = cutTime(s)
		m := dayParts.FindStringSubmatch(s)
		if m == nil {
			continue
		}
		a, _ := strconv.Atoi(m[1])
		b, err := strconv.Atoi(m[3])
		switch {
		case err != nil: // the month has a name
		case m[2] == "." || a > 12: // with points the day comes first everywhere
			dayFirst = true
		case b > 12:
			monthFirst = true
		default:
			either = true
		}
	}
	switch {
	case dayFirst:
		return DayFirst, !monthFirst, true
	case monthFirst:
		return MonthFirst, true, true
	case either:
		return DayFirst, false, true
	}
	return YearFirst, true, false
}

// cutTime parts a day from the time of the day that follows it.
func cutTime(s string) (day, clock string) {
	if i := strings.IndexAny(s, "T "); i >= 6 && strings.ContainsRune(s[i:], ':') {
		return s[:i], strings.TrimSpace(s[i+1:])
	}
	return s, ""
}

// plainDay writes a day of a file, with the time if there is one, as YYYY-MM-DD; ok is false if it is none.
func plainDay(s string, order DayOrder) (plain string, ok bool) {
	day, clock := cutTime(s)
	if len(day) == 10 && day[4] == '-' {
		return s, true
	}
	m := dayParts.FindStringSubmatch(day)
	if m == nil {
		return "", false
	}
	y, _ := strconv.Atoi(m[4])
	if len(m[4]) == 2 {
		y += 2000
	}
	d, _ := strconv.Atoi(m[1])
	month, err := strconv.Atoi(m[3])
	switch {
	case err != nil:
		if month = monthNamed(m[3]); month == 0 {
			return "", false
		}
	case m[2] == ".":
	case order == MonthFirst:
		d, month = month, d
	case order != DayFirst:
		return "", false
	}
	if month < 1 || month > 12 || d < 1 || d > 31 {
		return "", false
	}
	on := days.Date(y, time.Month(month), d)
	if on.Time().Day() != d {
		return "", false // there is no such day in the month
	}
	if clock != "" {
		return on.String() + " " + clock, true
	}
	return on.String(), true
}

func monthNamed(s string) int {
	for m := time.January; m <= time.December; m++ {
		if len(s) >= 3 && strings.HasPrefix(strings.ToLower(m.String()), strings.ToLower(s)) {
			return int(m)
		}
	}
	return 0
}

// daySerial writes the day that a workbook keeps as a number, counted from the end of 1899, as text, with its time.
func daySerial(s string) (plain string, ok bool) {
	f, err := strconv.ParseFloat(s, 64)
	if err != nil || f < 30_000 || f > 110_000 {
		return "", false
	}
	whole, part := math.Modf(f)
	at := days.Date(1899, time.December, 30) + days.Day(whole)
	if minutes := int(math.Round(part * 24 * 60)); minutes > 0 {
		return fmt.Sprintf("%s %02d:%02d", at, minutes/60%24, minutes%60), true
	}
	return at.String(), true
}

var (
	numeric = regexp.MustCompile(`^-?\d[\d., \x{00a0}\x{202f}']*$`)
	mark    = regexp.MustCompile(`[.,]`)
)

// recogniseDecimal says which mark comes before a fraction in the numbers of a column; any is false if none of the texts shows it, as 1.234
// does not, which may be a thousand and more.
func recogniseDecimal(texts []string) (found DecimalMark, any bool) {
	for _, s := range texts {
		if !numeric.MatchString(s) {
			continue
		}
		marks := mark.FindAllStringIndex(s, -1)
		if len(marks) == 0 {
			continue
		}
		last := s[marks[len(marks)-1][0]]
		first := s[marks[0][0]]
		after := len(s) - marks[len(marks)-1][1]
		switch {
		case first != last:
			return markOf(last), true // the other parts thousands
		case len(marks) > 1:
			return otherMark(last), true // it parts thousands
		case after != 3 || strings.HasPrefix(s, "0"):
			return markOf(last), true
		}
	}
	return "", false
}

func markOf(c byte) DecimalMark {
	if c == ',' {
		return Comma
	}
	return Point
}

func otherMark(c byte) DecimalMark {
	if c == ',' {
		return Point
	}
	return Comma
}

var spaces = strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "")

// plainNumber writes a number of a file without marks between thousands and with a point before the fraction. What is no number, or has its
// marks in wrong places, is returned as it is.
func plainNumber(s string, decimal DecimalMark) string {
	if !numeric.MatchString(s) {
		return s
	}
	group, point := ",", "."
	if decimal == Comma {
		group, point = ".", ","
	}
	head, tail, fraction := strings.Cut(spaces.Replace(s), point)
	parts := strings.Split(head, group)
	if strings.Contains(tail, group) || len(parts) > 1 && (len(strings.TrimPrefix(parts[0], "-")) > 3 || parts[0] == "" ||
		slices.ContainsFunc(parts[1:], func(p string) bool { return len(p) != 3 })) {
		return s
	}
	if head = strings.Join(parts, ""); fraction {
		return head + "." + tail
	}
	return head
}

// exponent is a large number as a workbook may keep it.
var exponent = regexp.MustCompile(`^\d(\.\d+)?[eE]\+?\d{1,2}$`)

// plainFloat writes a number as a workbook keeps it with at most six digits after the point: 12.1 may be kept as 12.100000000000001.
func plainFloat(s string) string {
	if len(s) < 12 && !strings.ContainsAny(s, "eE") {
		return s
	}
	f, err := strconv.ParseFloat(s, 64)
	if err != nil || math.Abs(f) > 1e15 {
		return s
	}
	out := strconv.FormatFloat(f, 'f', 6, 64)
	return strings.TrimSuffix(strings.TrimRight(out, "0"), ".")
}
