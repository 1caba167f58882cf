// Package policy says in which order the lines of a book are served.
package policy

import (
	"fmt"
	"math/bits"
	"strings"

	"journeyman/core/book"
)

// Key is what lines are compared by.
type Key string

// The keys. The lower comes first, but for Value, where the greater does.
const (
	Tier    Key = "tier"    // the customer's standing, 1 before 5
	Urgency Key = "urgency" // the order's own rank, 1 before 5
	ShipBy  Key = "ship_by" // the line's day
	Entered Key = "entered" // when the order came in
	Value   Key = "value"   // ordered × price of the line, the greatest first
	Order   Key = "order"   // the order number
)

// Keys lists all keys.
var Keys = []Key{Tier, Urgency, ShipBy, Entered, Value, Order}

// Default is the order of a book that has no policy.
var Default = []Key{Tier, ShipBy, Entered}

// Parse reads names that are separated by commas. The error lists the names there are.
func Parse(s string) ([]Key, error) {
	var out []Key
	for name := range strings.SplitSeq(s, ",") {
		k := Key(strings.TrimSpace(name))
		known := false
		for _, x := range Keys {
			known = known || x == k
		}
		if !known {
			return nil, fmt.Errorf("%q is not a key to sort by: tier, urgency, ship_by, entered, value or order", name)
		}
		for _, x := range out {
			if x == k {
				return nil, fmt.Errorf("the key %q stands there twice", k)
			}
		}
		out = append(out, k)
	}
	return out, nil
}

// Sort puts the lines, given by rising index, into the order of the keys. Lines that
// are equal in all of them stay by order number and line number. Cost: linear in the
// lines, times the number of 11-bit digits in which their keys differ; all keys together
// are sorted as one number of as few bits as the book needs.
func Sort(b *book.Book, lines []int32, keys []Key) []int32 {
	if len(lines) < 2 {
		return lines
	}
	// Keys are joined into words of at most 64 bits, the last keys in the first word.
	words := []func(line int32) uint64{}
	widths := []int{}
	for i := len(keys) - 1; i >= 0; i-- {
		of, width := column(b, lines, keys[i])
		if width == 0 {
			continue // they are all equal
		}
		if n := len(words); n > 0 && widths[n-1]+width <= 64 {
			low, shift := words[n-1], widths[n-1]
			words[n-1] = func(line int32) uint64 { return of(line)<<shift | low(line) }
			widths[n-1] += width
		} else {
			words, widths = append(words, of), append(widths, width)
		}
	}
	out := make([]int32, len(lines))
	copy(out, lines)
	if len(words) == 0 {
		return out
	}
	a, c := make([]entry, len(lines)), make([]entry, len(lines))
	for w, of := range words {
		for i, l := range out {
			a[i] = entry{of(l), l}
		}
		a, c = radix(a, c, widths[w])
		for i := range a {
			out[i] = a[i].line
		}
	}
	return out
}

type entry struct {
	key  uint64
	line int32
}

const digit = 11

// radix sorts a by its keys of so many bits, stably, with c as room; it returns both, the
// sorted one first.
func radix(a, c []entry, width int) (sorted, room []entry) {
	for shift := 0; shift < width; shift += digit {
		var count [1 << digit]int32
		for i := range a {
			count[a[i].key>>shift&(1<<digit-1)]++
		}
		if count[a[0].key>>shift&(1<<digit-1)] == int32(len(a)) {
			continue
		}
		at := int32(0)
		for i, n := range count {
			count[i] = at
			at += n
		}
		for i := range a {
			p := &count[a[i].key>>shift&(1<<digit-1)]
			c[*p] = a[i]
			*p++
		}
		a, c = c, a
	}
	return a, c
}

// column returns the key of each line as a number that is not negative, and how many
// bits the greatest has.
func column(b *book.Book, lines []int32, k Key) (of func(line int32) uint64, width int) {
	var raw func(line int32) int64
	switch k {
	case Tier:
		raw = func(l int32) int64 { return int64(b.Orders[b.Lines[l].Order].Tier) }
	case Urgency:
		raw = func(l int32) int64 { return int64(b.Orders[b.Lines[l].Order].Urgency) }
	case ShipBy:
		raw = func(l int32) int64 { return int64(b.Lines[l].ShipBy) }
	case Entered:
		rank := enteredRank(b)
		raw = func(l int32) int64 { return int64(rank[b.Lines[l].Order]) }
	case Value:
		raw = func(l int32) int64 { return -b.Lines[l].Ordered * b.Lines[l].Price }
	case Order:
		raw = func(l int32) int64 { return int64(b.Lines[l].Order) }
	}
	least, most := raw(lines[0]), raw(lines[0])
	for _, l := range lines {
		v := raw(l)
		least, most = min(least, v), max(most, v)
	}
	return func(l int32) uint64 { return uint64(raw(l) - least) }, bits.Len64(uint64(most - least))
}

// enteredRank numbers the orders by when they came in; equal ones share a number.
func enteredRank(b *book.Book) []int32 {
	n := len(b.Orders)
	a, c := make([]entry, n), make([]entry, n)
	least, most := b.Orders[0].Entered, b.Orders[0].Entered
	for i := range b.Orders {
		least, most = min(least, b.Orders[i].Entered), max(most, b.Orders[i].Entered)
	}
	for i := range b.Orders {
		a[i] = entry{uint64(b.Orders[i].Entered - least), int32(i)}
	}
	a, _ = radix(a, c, bits.Len64(uint64(most-least)))
	rank := make([]int32, n)
	r := int32(0)
	for i := range a {
		if i > 0 && a[i].key != a[i-1].key {
			r++
		}
		rank[a[i].line] = r
	}
	return rank
}
