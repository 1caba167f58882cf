package plan

import (
	"container/heap"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"journeyman/core/book"
	"journeyman/core/policy"
)

// packByPack is sharing as CORE section 4 says it: the next pack always goes to the line with the lowest share, and one whose
// next pack no longer fits is passed over.
func packByPack(h *sharers) []sharer {
	h.took = make([]int64, len(h.reserves))
	h.settleDone()
	heap.Init(h)
	for len(h.waiting) > 0 && h.left > 0 {
		h.next()
	}
	return append(h.done, h.waiting...)
}

func TestSharingAtOnceIsSharingPackByPack(t *testing.T) {
	passed, reserved := 0, 0
	for seed := range uint64(20_000) {
		r := rand.New(rand.NewPCG(seed, 31))
		h := &sharers{equal: r.IntN(2) == 0, pack: int64(1 + r.IntN(7)), left: int64(r.IntN(400))}
		for range r.IntN(3) {
			h.reserves = append(h.reserves, &reserve{Reserve: Reserve{Units: int64(r.IntN(120))}, taken: int64(r.IntN(30))})
		}
		for l := range int32(1 + r.IntN(9)) {
			x := sharer{line: l, wanted: int64(1 + r.IntN(90))}
			x.has = int64(r.IntN(int(x.wanted)))
			for k := range h.reserves {
				if r.IntN(2) == 0 {
					x.of = append(x.of, k)
				}
			}
			h.waiting = append(h.waiting, x)
		}
		slow := *h
		slow.waiting = slices.Clone(h.waiting)
		byLine := func(x, y sharer) int { return int(x.line - y.line) }
		got, want := h.share(), packByPack(&slow)
		slices.SortFunc(got, byLine)
		slices.SortFunc(want, byLine)
		if !reflect.DeepEqual(got, want) || h.left != slow.left {
			t.Fatalf("seed %d: %+v and %d left, pack by pack %+v and %d", seed, got, h.left, want, slow.left)
		}
		if h.left > 0 && slices.ContainsFunc(got, func(x sharer) bool { return x.has < x.wanted }) {
			passed++
		}
		if len(h.reserves) > 0 {
			reserved++
		}
	}
	if passed < 1000 || reserved < 1000 {
		t.Errorf("passed over %d times, reserved %d times: the test shows little", passed, reserved)
	}
}

// A thousand million units are shared as ten are: in the same proportions, with no sum that wraps.
func TestSharingDoesNotGrowWithTheUnits(t *testing.T) {
	for _, share := range []Sharing{Fair, Equal} {
		options := AllocateOptions{Keys: []policy.Key{policy.Tier}, Window: NoWindow, Share: share}
		want := map[Sharing]string{
			Fair:  "1/1: 200000000 W; 2/1: 300000000 W; 3/1: 500000000 W",
			Equal: "1/1: 333333334 W; 2/1: 333333333 W; 3/1: 333333333 W",
		}[share]
		if got := allocateText(
			t, options, fmt.Sprintf(oneItem, 1, 1_000_000_000, orders(400_000_000, 600_000_000, 1_000_000_000)),
		); got != want {
			t.Errorf("%s: %s, want %s", share, got, want)
		}
	}
	h := &sharers{pack: 1, left: 4_000_000_000_000_000_000}
	for l, want := range []int64{4_000_000_000_000_000_000, 2_000_000_000_000_000_000, 2_000_000_000_000_000_000} {
		h.waiting = append(h.waiting, sharer{line: int32(l), wanted: want})
	}
	got := h.share()
	slices.SortFunc(got, func(x, y sharer) int { return int(x.line - y.line) })
	if got[0].has != 2_000_000_000_000_000_000 || got[1].has != got[2].has || h.left != 0 {
		t.Errorf("%+v, and %d are left", got, h.left)
	}
}

// A promise whose day has passed is one for today: it does not keep its line from being promised what is there.
func TestAPastPromiseIsOneForToday(t *testing.T) {
	b := reading(t, `"items":[{"sku":"A","buyable":false}],"stock":[{"sku":"A","warehouse":"W","on_hand":77}],"orders":[
		{"order":"1","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":77,"ship_by":"2027-02-26","promises":[{"qty":58,"day":"2027-02-28"}]}]}]`)
	p := Promise(b, PromiseOptions{Keep: true})
	if got := p.PromisesOf(0); p.Lines[0].Short != 0 || len(got) != 1 || got[0].Qty != 77 || got[0].Day != b.Today {
		t.Errorf("%+v, %d short", got, p.Lines[0].Short)
	}
}

// A line may have two entries on one day; that the last listed one breaks is said of that one alone.
func TestABrokenPromiseIsSaidEntryByEntry(t *testing.T) {
	b := reading(t, `"items":[{"sku":"A","buyable":false}],"stock":[{"sku":"A","warehouse":"W","on_hand":10}],"orders":[
		{"order":"1","tier":2,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":10,"ship_by":"2027-03-08",
			"promises":[{"qty":4,"day":"2027-03-08"},{"qty":6,"day":"2027-03-08"}]}]},
		{"order":"2","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5}]}]`)
	a := Allocate(b, AllocateOptions{Unprotected: true, Window: 3})
	if len(a.Broken) != 1 || a.Broken[0].Qty != 6 || a.Broken[0].Line != 0 {
		t.Errorf("it breaks %+v; 5 of 10 are left, and so the entry of 4 can be kept and that of 6 not", a.Broken)
	}
}

// The reasons of a line on hold account for its open units, once.
func TestTheReasonsOfAHeldLineAddUpToWhatIsOpen(t *testing.T) {
	b := reading(t, `"items":[{"sku":"A"}],"stock":[{"sku":"A","warehouse":"W","on_hand":10}],"orders":[
		{"order":"1","holds":["credit"],"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":9,"promises":[{"qty":5,"day":"2027-03-02"}]}]}]`)
	p := Promise(b, PromiseOptions{})
	if got := fmt.Sprint(p.Reasons(b, 0)); got != fmt.Sprint([]Reason{{Code: Covered, Qty: 5}, {Code: OnHold, Qty: 4}}) {
		t.Errorf("it is told %s", got)
	}
}

// crowded is a book in which so many lines take from one item, the last of them but a part, and as many lack it.
func crowded(n int) *book.Book {
	d := book.NewBuilder(0, book.Book{}.Calendar)
	it, _ := d.Item("A", 1, 0, false)
	c := d.Cell(it, d.Warehouse("W"))
	_ = d.Stock(c, int64(n), 0)
	for i := range 2 * n {
		o, _ := d.Order(book.Order{Number: fmt.Sprintf("%06d", i), Tier: 1, Urgency: 3, Rule: book.Rule(i % 3)})
		_ = d.Line(book.NewLine{Order: o, No: 1, Cell: c, Ordered: 1, Open: 1})
	}
	b, err := d.Book()
	if err != nil {
		panic(err)
	}
	return b
}

// Who came first is named without going through all of them for each that lacks something.
func TestTellingWhoCameFirstIsLinear(t *testing.T) {
	memory := func(n int) int64 {
		b := crowded(n)
		a := Allocate(b, AllocateOptions{Window: NoWindow})
		return testing.Benchmark(func(t *testing.B) {
			for range t.N {
				for l := range b.Lines {
					for _, y := range a.Why(b, int32(l), 8) {
						if y.Code != Covered && (len(y.After) != 8 || y.More != n-8) {
							t.Fatalf("line %d: %d named, %d more; %d came first", l, len(y.After), y.More, n)
						}
					}
				}
			}
		}).NsPerOp()
	}
	if few, many := memory(1000), memory(16_000); many > 100*few { // 16 times, and 256 times if each looked at all of them
		t.Errorf("sixteen times the lines take %d times as long", many/few)
	}
}

// Those who came first are the same whether some or all are named.
func TestSomeOfThoseWhoCameFirstAreTheFirstOfAll(t *testing.T) {
	several := 0
	for seed := range uint64(600) {
		r := rand.New(rand.NewPCG(seed, 32))
		b, _ := randomBook(r)
		a := Allocate(b, AllocateOptions{Window: NoWindow, Share: []Sharing{InTurn, Fair}[r.IntN(2)]})
		for l := range b.Lines {
			all, some := a.Why(b, int32(l), All), a.Why(b, int32(l), 2)
			for i, y := range all {
				n := min(2, len(y.After))
				if !slices.Equal(some[i].After, y.After[:n]) || some[i].More != len(y.After)-n {
					t.Fatalf("seed %d, line %d: %+v, all are %+v", seed, l, some[i], y)
				}
				for k, x := range y.After {
					if x == int32(l) || slices.Contains(y.After[:k], x) {
						t.Fatalf("seed %d, line %d: %v", seed, l, y.After)
					}
				}
				if len(y.After) > 2 {
					several++
				}
			}
		}
	}
	if several < 100 {
		t.Errorf("only %d had several before them", several)
	}
}
