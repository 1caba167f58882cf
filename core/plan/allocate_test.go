package plan

import (
	"fmt"
	"strings"
	"testing"

	"journeyman/core/book"
	"journeyman/core/policy"
)

// said is what each line takes: "S2/1: 26 HL; S3/1: 60 HL + 25 DQ".
func said(b *book.Book, a *Allocation) string {
	var lines []string
	for i := range b.Lines {
		var parts []string
		for _, t := range a.TakenBy(int32(i)) {
			parts = append(parts, fmt.Sprintf("%d %s", t.Qty, b.Warehouses[b.Cells[t.Cell].Warehouse]))
		}
		if len(parts) > 0 {
			lines = append(lines, fmt.Sprintf("%s/%d: %s", b.Orders[b.Lines[i].Order].Number, b.Lines[i].No, strings.Join(parts, " + ")))
		}
	}
	return strings.Join(lines, "; ")
}

// The worked answers to examples/book-1.json.
func TestAllocatingTheWorkedBook(t *testing.T) {
	b := worked(t)
	keys := []policy.Key{policy.Tier, policy.Entered}
	a := Allocate(b, AllocateOptions{Keys: keys, Window: NoWindow})
	if got := said(b, a); got != "S1/1: 50 HL; S2/1: 26 HL; S3/1: 60 HL + 25 DQ; S3/2: 1 HL" {
		t.Errorf("by tier and entered: %s", got)
	}
	if len(a.Broken) != 0 {
		t.Errorf("protected, it breaks %+v", a.Broken)
	}
	a = Allocate(b, AllocateOptions{Keys: keys, Window: NoWindow, Unprotected: true})
	if got := said(b, a); got != "S2/1: 76 HL; S3/1: 60 HL + 25 DQ; S3/2: 1 HL" {
		t.Errorf("unprotected: %s", got)
	}
	if len(a.Broken) != 1 || b.Orders[b.Lines[a.Broken[0].Line].Order].Number != "S1" || a.Broken[0].Qty != 50 {
		t.Errorf("it breaks %+v, and the promise of S1 is broken", a.Broken)
	}
}

func allocateText(t *testing.T, options AllocateOptions, text string) string {
	t.Helper()
	b := reading(t, text)
	return said(b, Allocate(b, options))
}

const oneItem = `"items":[{"sku":"A","multiple":%d,"buyable":false}],"stock":[{"sku":"A","warehouse":"W","on_hand":%d}],"orders":[%s]`

func orders(wants ...int) string {
	var of []string
	for i, w := range wants {
		of = append(of, fmt.Sprintf(`{"order":"%d","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":%d}]}`, i+1, w))
	}
	return strings.Join(of, ",")
}

// Equal awards and max-min fairness are sharing "equal". Sources: R. Aumann & M. Maschler 1985,
// the contested garment and three claims (here in thirds, so that units are whole); S. Keshav,
// max-min fair share, in tenths: capacity 10, demands 2, 2.6, 4, 5 give 2, 2.6, 2.7, 2.7. Both
// from memory, their arithmetic recomputed.
func TestSharingEquallyIsThePublishedAwards(t *testing.T) {
	tier := []policy.Key{policy.Tier}
	for _, c := range []struct {
		name     string
		estate   int
		wants    []int
		want     string
		sharing  Sharing
		multiple int
	}{
		{"Aumann and Maschler, estate 200, equal awards", 600, []int{300, 600, 900}, "1/1: 200 W; 2/1: 200 W; 3/1: 200 W", Equal, 1},
		{"Aumann and Maschler, estate 300, equal awards", 300, []int{100, 200, 300}, "1/1: 100 W; 2/1: 100 W; 3/1: 100 W", Equal, 1},
		{"Aumann and Maschler, estate 300, proportional", 300, []int{100, 200, 300}, "1/1: 50 W; 2/1: 100 W; 3/1: 150 W", Fair, 1},
		{"Aumann and Maschler, estate 200, proportional", 600, []int{300, 600, 900}, "1/1: 100 W; 2/1: 200 W; 3/1: 300 W", Fair, 1},
		{"Keshav, max-min", 100, []int{20, 26, 40, 50}, "1/1: 20 W; 2/1: 26 W; 3/1: 27 W; 4/1: 27 W", Equal, 1},
		{"in packs of ten", 100, []int{40, 80, 80}, "1/1: 20 W; 2/1: 40 W; 3/1: 40 W", Fair, 10},
		{"a last pack may be smaller", 100, []int{15, 200}, "1/1: 10 W; 2/1: 90 W", Fair, 10},
		{"what no longer fits is passed over", 25, []int{30, 5}, "1/1: 20 W; 2/1: 5 W", Fair, 10},
		{"enough for all", 500, []int{100, 200}, "1/1: 100 W; 2/1: 200 W", Fair, 1},
		{"in turn", 250, []int{100, 200, 300}, "1/1: 100 W; 2/1: 150 W", InTurn, 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := allocateText(
				t, AllocateOptions{Keys: tier, Share: c.sharing, Window: NoWindow},
				fmt.Sprintf(oneItem, c.multiple, c.estate, orders(c.wants...)),
			)
			if got != c.want {
				t.Errorf("%s, want %s", got, c.want)
			}
		})
	}
}

func TestWhatIsReservedGoesToThoseForWhomItIsKept(t *testing.T) {
	b := reading(t, `"items":[{"sku":"A"}],"stock":[{"sku":"A","warehouse":"W","on_hand":10}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":3}]},
		{"order":"2","tier":2,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":9}]},
		{"order":"3","tier":3,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":9}]}]`)
	third := Reserve{Cell: 0, Units: 4, For: func(l int32) bool { return b.Orders[b.Lines[l].Order].Tier == 3 }}
	for _, share := range []Sharing{InTurn, Fair, Equal} {
		options := AllocateOptions{Keys: []policy.Key{policy.Tier}, Window: NoWindow, Share: share, Reserves: []Reserve{third}}
		if share != InTurn {
			options.Keys = []policy.Key{policy.ShipBy} // all of them share
		}
		a := Allocate(b, options)
		got := map[int32]int64{}
		for _, x := range a.Taken {
			got[x.Line] += x.Qty
		}
		exact := map[Sharing][3]int64{InTurn: {3, 3, 4}, Equal: {3, 3, 4}}
		if want, known := exact[share]; known && [3]int64{got[0], got[1], got[2]} != want || got[0]+got[1]+got[2] != 10 || got[2] < 4 {
			t.Errorf("%s: %v, want %v, and 4 at least for the third", share, got, exact[share])
		}
		if share == InTurn {
			if y := a.Reasons(b, 1); len(y) != 3 || y[1].Code != ShortStock || y[2].Code != Reserved || y[2].Qty != 4 {
				t.Errorf("the second is told %+v", y)
			}
		}
	}
	// Its own part is used up first: of what is left nothing is kept from the others.
	b = reading(t, `"items":[{"sku":"A"}],"stock":[{"sku":"A","warehouse":"W","on_hand":10}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5}]},
		{"order":"2","tier":2,"ship_rule":"lines","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":7}]},
		{"order":"3","tier":3,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5}]}]`)
	first := Reserve{Cell: 0, Units: 4, For: func(l int32) bool { return b.Orders[b.Lines[l].Order].Tier == 1 }}
	a := Allocate(b, AllocateOptions{Keys: []policy.Key{policy.Tier}, Window: NoWindow, Reserves: []Reserve{first}})
	if got := said(b, a); got != "1/1: 5 W; 3/1: 5 W" {
		t.Errorf("got %s", got)
	}
}
