// Package policy says in which order the lines of a book are served.
package policy

import (
	"cmp"
	"fmt"
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
	return cmp.Compare(value(lx, &b.Orders[lx.Order], k), value(ly, &b.Orders[ly.Order], k))
}
