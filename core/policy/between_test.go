package policy

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
)

// manyTies is a book whose lines are often equal in some keys.
func manyTies(t *testing.T, r *rand.Rand) *book.Book {
	t.Helper()
	d := book.NewBuilder(days.Date(2027, 3, 1), days.Calendar{})
	it, err := d.Item("A", 1, 0, true)
	if err != nil {
		t.Fatal(err)
	}
	c := d.Cell(it, d.Warehouse("W"))
	for i := range 12 {
		o, err := d.Order(
			book.Order{Number: fmt.Sprint(i), Tier: uint8(1 + r.IntN(2)), Urgency: uint8(1 + r.IntN(2)), Entered: int64(r.IntN(2))},
		)
		if err != nil {
			t.Fatal(err)
		}
		for n := range 1 + r.IntN(2) {
			q := int64(1 + r.IntN(2))
			if err := d.Line(book.NewLine{
				Order: o, No: int32(n + 1), Cell: c, Ordered: q, Open: q, Price: int64(r.IntN(2)), ShipBy: days.Day(20_000 + r.IntN(2)),
			}); err != nil {
				t.Fatal(err)
			}
		}
	}
	b, err := d.Book()
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// rank is what a line is worth under a key; the lower comes first.
func rank(b *book.Book, k Key, l int32) int64 {
	line := &b.Lines[l]
	o := &b.Orders[line.Order]
	switch k {
	case Tier:
		return int64(o.Tier)
	case Urgency:
		return int64(o.Urgency)
	case ShipBy:
		return int64(line.ShipBy)
	case Entered:
		return o.Entered
	case Value:
		return -line.Ordered * line.Price
	}
	return int64(line.Order)
}

func TestTheKeyBetweenTwoLinesIsTheOneThatSortedThem(t *testing.T) {
	seen := map[Key]int{}
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 5))
		b := manyTies(t, r)
		keys := append([]Key{}, Keys...)
		r.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		keys = keys[:1+r.IntN(len(keys))]
		lines := make([]int32, len(b.Lines))
		for i := range lines {
			lines[i] = int32(i)
		}
		sorted := Sort(b, lines, keys)
		for i := 1; i < len(sorted); i++ {
			x, y := sorted[i-1], sorted[i]
			k := Between(b, keys, x, y)
			seen[k]++
			if back := Between(b, keys, y, x); back != k {
				t.Fatalf("seed %d: %q one way and %q the other", seed, k, back)
			}
			for _, each := range keys {
				rx, ry := rank(b, each, x), rank(b, each, y)
				if each == k {
					if rx >= ry {
						t.Fatalf("seed %d, %v: %d stands before %d by %s, %d and %d", seed, keys, x, y, k, rx, ry)
					}
					break
				}
				if rx != ry {
					t.Fatalf("seed %d, %v: %d and %d differ in %s before %s", seed, keys, x, y, each, k)
				}
			}
			if k == "" && x > y {
				t.Fatalf("seed %d: equal lines %d and %d are out of their order", seed, x, y)
			}
		}
	}
	for _, k := range append([]Key{""}, Keys...) {
		if seen[k] < 20 {
			t.Errorf("the key %q decided only %d times", k, seen[k])
		}
	}
}
