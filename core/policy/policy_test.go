package policy

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
)

func TestKeysAreReadFromText(t *testing.T) {
	got, err := Parse("tier, urgency,ship_by,entered,value,order")
	if err != nil || !slices.Equal(got, Keys) {
		t.Errorf("%v %v", got, err)
	}
	for text, says := range map[string]string{
		"": "not a key", "tier,": "not a key", "tier,colour": `"colour" is not a key`, "tier,tier": "twice",
	} {
		if _, err := Parse(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

// shuffled is a book of so many lines whose keys come from few or from many values.
func shuffled(r *rand.Rand, lines int, wide bool) *book.Book {
	b := book.NewBuilder(20_000, days.Calendar{})
	item, err := b.Item("A", 1, 0, true)
	if err != nil {
		panic(err)
	}
	cell := b.Cell(item, b.Warehouse("W"))
	spread := func(few, many int64) int64 {
		if wide {
			return r.Int64N(many)
		}
		return r.Int64N(few)
	}
	for n := 0; n < lines; {
		o, err := b.Order(book.Order{
			Number: fmt.Sprintf("%07d", r.IntN(10_000_000)*10+n%10), Tier: uint8(1 + r.IntN(5)), Urgency: uint8(1 + r.IntN(5)),
			Entered: spread(3, 1<<50) - 1<<40,
		})
		if err != nil {
			continue // the number is taken
		}
		for l := range 1 + r.IntN(4) {
			if err := b.Line(book.NewLine{
				Order: o, No: int32(l + 1), Cell: cell, Ordered: 1 + spread(3, 900_000), Open: 1, Price: spread(2, 900_000),
				ShipBy: days.Day(20_000 + spread(4, 3000) - 1000),
			}); err != nil {
				panic(err)
			}
			n++
		}
	}
	out, err := b.Book()
	if err != nil {
		panic(err)
	}
	return out
}

// compared orders two lines by one key after another.
func compared(b *book.Book, keys []Key, x, y int32) int {
	for _, k := range keys {
		lx, ly := &b.Lines[x], &b.Lines[y]
		ox, oy := &b.Orders[lx.Order], &b.Orders[ly.Order]
		c := 0
		switch k {
		case Tier:
			c = cmp.Compare(ox.Tier, oy.Tier)
		case Urgency:
			c = cmp.Compare(ox.Urgency, oy.Urgency)
		case ShipBy:
			c = cmp.Compare(lx.ShipBy, ly.ShipBy)
		case Entered:
			c = cmp.Compare(ox.Entered, oy.Entered)
		case Value:
			c = cmp.Compare(ly.Ordered*ly.Price, lx.Ordered*lx.Price)
		case Order:
			c = strings.Compare(ox.Number, oy.Number)
		}
		if c != 0 {
			return c
		}
	}
	return cmp.Compare(x, y)
}

func TestSortingIsWhatComparingKeyByKeySays(t *testing.T) {
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 11))
		b := shuffled(r, 1+r.IntN(300), seed%2 == 0)
		keys := slices.Clone(Keys)
		r.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		keys = keys[:r.IntN(len(keys)+1)]
		var lines []int32
		for i := range b.Lines {
			if r.IntN(5) > 0 {
				lines = append(lines, int32(i))
			}
		}
		want := slices.Clone(lines)
		slices.SortStableFunc(want, func(x, y int32) int { return compared(b, keys, x, y) })
		if got := Sort(b, lines, keys); !slices.Equal(got, want) {
			t.Fatalf("seed %d, keys %v: the order is wrong", seed, keys)
		}
	}
}

func TestSortingNothingAndOne(t *testing.T) {
	b := shuffled(rand.New(rand.NewPCG(1, 1)), 5, true)
	if got := Sort(b, nil, Keys); len(got) != 0 {
		t.Errorf("nothing sorted is %v", got)
	}
	if got := Sort(b, []int32{3}, Keys); !slices.Equal(got, []int32{3}) {
		t.Errorf("one line sorted is %v", got)
	}
	all := []int32{0, 1, 2, 3, 4}
	if got := Sort(b, all, nil); !slices.Equal(got, all) {
		t.Errorf("without keys the lines stand as %v", got)
	}
}

func ExampleSort() {
	b := book.NewBuilder(20_000, days.Calendar{})
	item, _ := b.Item("A", 1, 0, true)
	cell := b.Cell(item, b.Warehouse("W"))
	for i, tier := range []uint8{3, 1, 2, 1} {
		o, _ := b.Order(book.Order{Number: fmt.Sprintf("S%d", i+1), Tier: tier, Urgency: 3})
		_ = b.Line(book.NewLine{Order: o, No: 1, Cell: cell, Ordered: 1, Open: 1, ShipBy: 20_000})
	}
	bk, _ := b.Book()
	for _, l := range Sort(bk, []int32{0, 1, 2, 3}, []Key{Tier}) {
		fmt.Print(bk.Orders[bk.Lines[l].Order].Number, " ")
	}
	// Output: S2 S4 S3 S1
}

func TestGroupsAreTheLinesThatAreEqualInAllKeys(t *testing.T) {
	together := 0
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 13))
		b := shuffled(r, 1+r.IntN(300), seed%3 == 0)
		keys := slices.Clone(Keys)
		r.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		keys = keys[:r.IntN(len(keys)+1)]
		var lines, got []int32
		for i := range b.Lines {
			lines = append(lines, int32(i))
		}
		for group := range Groups(b, lines, keys) {
			if n := len(got); n > 0 && Between(b, keys, got[n-1], group[0]) == "" {
				t.Fatalf("seed %d, keys %v: %d and %d are equal and in two groups", seed, keys, got[n-1], group[0])
			}
			for _, l := range group[1:] {
				together++
				if k := Between(b, keys, group[0], l); k != "" {
					t.Fatalf("seed %d: %d and %d are in one group and differ in %s", seed, group[0], l, k)
				}
			}
			got = append(got, group...)
		}
		if !slices.Equal(got, Sort(b, lines, keys)) {
			t.Fatalf("seed %d, keys %v: the groups do not make up the order", seed, keys)
		}
	}
	if together < 1000 {
		t.Errorf("only %d lines shared a group", together)
	}
}

// More lines than are sorted where they are, with keys of more than one word.
func TestManyLinesWithManyKeys(t *testing.T) {
	b := shuffled(rand.New(rand.NewPCG(3, 3)), 60_000, true)
	var lines []int32
	for i := range b.Lines {
		lines = append(lines, int32(i))
	}
	for _, keys := range [][]Key{Default, {Value, Entered, Order}, {Tier}} {
		want := slices.Clone(lines)
		slices.SortStableFunc(want, func(x, y int32) int { return compared(b, keys, x, y) })
		if got := Sort(b, lines, keys); !slices.Equal(got, want) {
			t.Errorf("%v: the order is wrong", keys)
		}
	}
}
