package days

import (
	"errors"
	"math/bits"
	"time"
)

// Calendar says which days are worked: some days of the week, less single days on
// which the house is closed. The zero Calendar works every day. A Calendar is not
// changed once made and may be used by many at once.
type Calendar struct {
	off  uint8 // days of the week that are never worked, bit = time.Weekday
	base Day   // the day of the first bit of shut
	shut []uint64
}

// ErrNoWorkday is the error of a calendar without any day of the week.
var ErrNoWorkday = errors.New("a calendar needs at least one working day of the week")

// Weekdays are the days from Monday to Friday.
var Weekdays = []time.Weekday{time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday}

// NewCalendar returns the calendar that works on those days of the week, except on
// the closed days. Days may be given twice. The only error is ErrNoWorkday.
func NewCalendar(workdays []time.Weekday, closed []Day) (Calendar, error) {
	c := Calendar{off: 0x7f}
	for _, w := range workdays {
		c.off &^= 1 << w
	}
	if c.off == 0x7f {
		return Calendar{}, ErrNoWorkday
	}
	if len(closed) == 0 {
		return c, nil
	}
	first, last := closed[0], closed[0]
	for _, d := range closed {
		first, last = min(first, d), max(last, d)
	}
	c.base = first
	c.shut = make([]uint64, (int(last)-int(first))/64+1)
	for _, d := range closed {
		i := int(d) - int(first)
		c.shut[i/64] |= 1 << (i % 64)
	}
	return c, nil
}

// Works says whether d is a working day.
func (c Calendar) Works(d Day) bool {
	if c.off>>uint(d.weekday())&1 != 0 {
		return false
	}
	i := int(d) - int(c.base)
	return i < 0 || i/64 >= len(c.shut) || c.shut[i/64]>>(i%64)&1 == 0
}

// Next returns the first working day on or after d.
func (c Calendar) Next(d Day) Day {
	for !c.Works(d) {
		d++
	}
	return d
}

// Prev returns the last working day on or before d.
func (c Calendar) Prev(d Day) Day {
	for !c.Works(d) {
		d--
	}
	return d
}

// Add returns the n-th working day after d, or before it if n is negative; d itself,
// worked or not, for 0. For a working day d it is NumPy's busday_offset(d, n).
// Cost: linear in n.
func (c Calendar) Add(d Day, n int) Day {
	for ; n > 0; n-- {
		d = c.Next(d + 1)
	}
	for ; n < 0; n++ {
		d = c.Prev(d - 1)
	}
	return d
}

// Count returns how many working days there are from a up to, but not including, b;
// negative if b lies before a. It is NumPy's busday_count. Cost: linear in the number
// of closed days between them, not in the span.
func (c Calendar) Count(a, b Day) int {
	if b < a {
		return -c.Count(b, a)
	}
	worked := 7 - bits.OnesCount8(c.off)
	weeks := (int(b) - int(a)) / 7
	n := weeks * worked
	for d := a + Day(weeks*7); d < b; d++ {
		if c.off>>uint(d.weekday())&1 == 0 {
			n++
		}
	}
	for i, word := range c.shut {
		for ; word != 0; word &= word - 1 {
			d := c.base + Day(i*64+bits.TrailingZeros64(word))
			if d >= a && d < b && c.off>>uint(d.weekday())&1 == 0 {
				n--
			}
		}
	}
	return n
}

// weekday is the day of the week, 0 for Sunday, by arithmetic alone.
func (d Day) weekday() int {
	w := (int(d) + int(time.Thursday)) % 7 // 1970-01-01 was a Thursday
	if w < 0 {
		w += 7
	}
	return w
}
