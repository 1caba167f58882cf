// Package policy says in which order the lines of a book are served.
package policy

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"
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
	n := len(lines)
	if n < 2 {
		return lines
	}
	a, room, column := make([]entry, n), make([]entry, n), make([]int64, n)
	for i, l := range lines {
		a[i].line = l
	}
	// The last keys are sorted by first; keys are joined into a word as long as there is room in it.
	// As long as no word is full the lines stand as they were given and are read in their order.
	width := 0
	for k := len(keys) - 1; k >= 0; k-- {
		for i := range a {
			column[i] = int64(a[i].line)
		}
		least, most := fill(b, column, keys[k])
		w := bits.Len64(uint64(most - least))
		if width+w > 64 {
			a, room = radix(a, room, width)
			for i := range a {
				a[i].key, column[i] = 0, int64(a[i].line)
			}
			least, _ = fill(b, column, keys[k])
			width = 0
		}
		for i := range a {
			a[i].key |= uint64(column[i]-least) << width
		}
		width += w
	}
	a, _ = radix(a, room, width)
	out := make([]int32, n)
	for i := range a {
		out[i] = a[i].line
	}
	return out
}

// Compare says which of two lines comes first by the keys: below 0 the first one, 0 if they are equal
// in all of them.
func Compare(b *book.Book, keys []Key, x, y int32) int {
	for _, k := range keys {
		if c := compare(b, k, x, y); c != 0 {
			return c
		}
	}
	return 0
}

// Between returns the first key by which one line comes before the other, or "" if they are
// equal in all of them.
func Between(b *book.Book, keys []Key, x, y int32) Key {
	for _, k := range keys {
		if compare(b, k, x, y) != 0 {
			return k
		}
	}
	return ""
}

func compare(b *book.Book, k Key, x, y int32) int {
	lx, ly := &b.Lines[x], &b.Lines[y]
	ox, oy := &b.Orders[lx.Order], &b.Orders[ly.Order]
	switch k {
	case Tier:
		return cmp.Compare(ox.Tier, oy.Tier)
	case Urgency:
		return cmp.Compare(ox.Urgency, oy.Urgency)
	case ShipBy:
		return cmp.Compare(lx.ShipBy, ly.ShipBy)
	case Entered:
		return cmp.Compare(ox.Entered, oy.Entered)
	case Value:
		return cmp.Compare(ly.Ordered*ly.Price, lx.Ordered*lx.Price)
	case Order:
		return cmp.Compare(lx.Order, ly.Order)
	}
	return 0
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

// fill puts the key of each line in place of the line, and returns the least and the most.
func fill(b *book.Book, column []int64, k Key) (least, most int64) {
	switch k {
	case Tier:
		for i, l := range column {
			column[i] = int64(b.Orders[b.Lines[l].Order].Tier)
		}
	case Urgency:
		for i, l := range column {
			column[i] = int64(b.Orders[b.Lines[l].Order].Urgency)
		}
	case ShipBy:
		for i, l := range column {
			column[i] = int64(b.Lines[l].ShipBy)
		}
	case Entered:
		rank := enteredRank(b)
		for i, l := range column {
			column[i] = int64(rank[b.Lines[l].Order])
		}
	case Value:
		for i, l := range column {
			column[i] = -b.Lines[l].Ordered * b.Lines[l].Price
		}
	case Order:
		for i, l := range column {
			column[i] = int64(b.Lines[l].Order)
		}
	}
	return slices.Min(column), slices.Max(column)
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
