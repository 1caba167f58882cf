package desk

import (
	"cmp"
	"fmt"
	"journeyman/core/days"
	"slices"
	"strconv"
	"strings"
)

// some is a number of things: "1 order", "3 orders".
func some(n int64, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return grouped(n) + " " + what + "s"
}

// grouped is a number as it is read: 12,345.
func grouped(n int64) string {
	s := strconv.FormatInt(n, 10)
	for i := len(s) - 3; i > 0 && s[i-1] != '-'; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// ended is a text with a full stop.
func ended(s string) string {
	if s == "" || strings.HasSuffix(s, ".") {
		return s
	}
	return s + "."
}

// moneyWords is an amount as a person reads it: 1,234.50 GBP.
func moneyWords(minor int64, currency string) string {
	s := strconv.FormatInt(minor/100, 10)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return fmt.Sprintf("%s.%02d %s", s, minor%100, currency)
}

// dayWords is a day as a person says it.
func dayWords(d days.Day) string { return d.Time().Format("Mon 2 Jan") }

// dayText is the day of an ISO date, as a person says it.
func dayText(iso string) string {
	d, err := days.Parse(iso)
	if err != nil {
		return iso
	}
	return dayWords(d)
}

// sortedKeys are the keys of a map in order, for what must not hang on the order of a map.
func sortedKeys[K cmp.Ordered, V any](m map[K]V) []K {
	out := make([]K, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
