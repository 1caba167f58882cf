package plan

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"journeyman/core/policy"
)

func TestAPolicyKeepsPartsOfWhatIsFree(t *testing.T) {
	t.Parallel()
	b := reading(t, `"items":[{"sku":"A"},{"sku":"B"}],"stock":[{"sku":"A","warehouse":"W","on_hand":25,"held":5},{"sku":"A","warehouse":"X","on_hand":3},{"sku":"B","warehouse":"W","on_hand":10}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":3}]},
		{"order":"2","tier":2,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":9}]},
		{"order":"3","tier":3,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":9}]}]`)
	third := func(l int32) bool { return l == 2 }
	for _, c := range []struct {
		part Part
		want string // sku, warehouse: units, and for which of the lines
	}{
		{Part{SKU: "A", Percent: 30, Tier: 1}, "A W: 6 [0] "}, // of 20; of 3 it is less than one
		{Part{SKU: "A", Percent: 40, Tier: 2}, "A W: 8 [0 1] A X: 1 [0 1] "},
		{Part{Percent: 100, For: third}, "A W: 20 [2] A X: 3 [2] B W: 10 [2] "},
		{Part{SKU: "B", Percent: 25, Tier: 1, For: third}, "B W: 2 [0 2] "},
		{Part{SKU: "C", Percent: 50, Tier: 1}, ""},
		{Part{SKU: "A", Percent: 2, Tier: 1}, ""},
	} {
		got := ""
		for _, r := range Reserves(b, []Part{c.part}) {
			var lines []int32
			for l := range int32(3) {
				if r.For(l) {
					lines = append(lines, l)
				}
			}
			cell := b.Cells[r.Cell]
			got += fmt.Sprintf("%s %s: %d %v ", b.Items[cell.Item].SKU, b.Warehouses[cell.Warehouse], r.Units, lines)
		}
		if got != c.want {
			t.Errorf("%+v keeps %q, want %q", c.part, got, c.want)
		}
	}
}

// Whatever the policy, the others never take what is kept, but for what those for whom it is kept took of it themselves.
func TestWhatIsKeptIsNotTakenByOthers(t *testing.T) {
	t.Parallel()
	held := 0
	for seed := range uint64(1500) {
		r := rand.New(rand.NewPCG(seed, 91))
		b, _ := randomBook(r)
		parts := []Part{{Percent: int64(1 + r.IntN(100)), Tier: uint8(1 + r.IntN(4))}}
		options := AllocateOptions{
			Keys: []policy.Key{policy.Urgency, policy.Entered}, Window: NoWindow, Unprotected: r.IntN(2) == 0, Reserves: Reserves(b, parts),
			Share: []Sharing{InTurn, Fair, Equal}[r.IntN(3)], Goal: []Goal{InOrder, MostOrders, MostValue}[r.IntN(3)],
		}
		a := Allocate(b, options)
		others, own := map[int32]int64{}, map[int32]int64{}
		for _, x := range a.Taken {
			if b.Orders[b.Lines[x.Line].Order].Tier <= parts[0].Tier {
				own[x.Cell] += x.Qty
			} else {
				others[x.Cell] += x.Qty
			}
		}
		for _, k := range options.Reserves {
			free := b.Cells[k.Cell].Free()
			if most := free - max(0, k.Units-own[k.Cell]); others[k.Cell] > most {
				t.Fatalf(
					"seed %d: of %d free %d are kept, those for whom took %d, others %d (%s, %s)", seed, free, k.Units, own[k.Cell],
					others[k.Cell], options.Share, options.Goal,
				)
			}
			if others[k.Cell] > 0 && others[k.Cell]+max(0, k.Units-own[k.Cell]) == free {
				held++
			}
		}
	}
	if held < 100 {
		t.Errorf("it was kept from others only %d times", held)
	}
}
