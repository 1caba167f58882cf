package plan

import (
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"journeyman/core/book"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

func reading(t *testing.T, text string) *book.Book {
	t.Helper()
	b, err := book.Read(strings.NewReader(`{"format":"journeyman-book/1","today":"2027-03-01",` + text + `}`))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func TestReasonsSayWhyALineHasWhatItHas(t *testing.T) {
	b := reading(t, `"items":[{"sku":"A","buyable":false}],"stock":[{"sku":"A","warehouse":"W","on_hand":10}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":12}]},
		{"order":"2","tier":2,"ship_rule":"lines","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":3}]},
		{"order":"3","tier":3,"ship_rule":"whole","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":4},{"line":2,"sku":"A","warehouse":"W","ordered":1,"at":{"delivered":1}}]},
		{"order":"4","tier":1,"holds":["credit"],"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5}]}]`)
	p := Promise(b, PromiseOptions{})
	for i, want := range []string{
		`[{"code":"covered","qty":10},{"code":"short_stock","qty":2}]`,
		`[{"code":"rule_line","qty":3}]`,
		`[{"code":"rule_order","qty":4}]`,
		`[]`,
		`[{"code":"on_hold","qty":5}]`,
	} {
		got, err := json.Marshal(p.Reasons(b, int32(i)))
		if err != nil || string(got) != want {
			t.Errorf("line %d: %s, want %s (%v)", i, got, want, err)
		}
	}
	if tot := p.Totals(b); !reflect.DeepEqual(tot, Totals{Lines: 4, Open: 24, Promised: 10, Short: 14}) {
		t.Errorf("totals %+v", tot)
	}
	var out bytes.Buffer
	if err := p.Write(&out, b); err != nil {
		t.Fatal(err)
	}
	if strings.Contains(out.String(), `"line":2`) {
		t.Error("a line with nothing open is in the plan")
	}
}

func TestUnitsWithoutALimitAreWrittenAsAWord(t *testing.T) {
	for u, want := range map[Units]string{0: "0", 26: "26", Units(outlook.Unlimited): `"unlimited"`} {
		if got, err := json.Marshal(u); err != nil || string(got) != want {
			t.Errorf("%d is written %s", u, got)
		}
	}
}

func TestAnAnswerIsWhatAPromiseRunWouldGive(t *testing.T) {
	// Whatever ATP answers as the earliest day for a quantity is the day that a line asking for
	// just that, in one piece and last of all, is promised.
	asked := 0
	for seed := range uint64(600) {
		r := rand.New(rand.NewPCG(seed, 12))
		b, _ := randomBook(r)
		cell := int32(r.IntN(len(b.Cells)))
		qty := int64(1 + r.IntN(80))
		by := b.Today + 10
		a := Answer(b, cell, Ask{Qty: qty, By: &by})
		o := b.Outlooks(nil)[cell]
		if got := o.ATP(b.Today + 10); Units(got) != *a.By {
			t.Fatalf("seed %d: by %d, the outlook says %d", seed, *a.By, got)
		}
		d, ok := o.Earliest(qty, b.Today)
		switch {
		case ok != (a.Earliest.Day != nil):
			t.Fatalf("seed %d: earliest %v, the outlook says %s %v", seed, a.Earliest.Day, d, ok)
		case ok && d.String() != *a.Earliest.Day:
			t.Fatalf("seed %d: earliest %s, the outlook says %s", seed, *a.Earliest.Day, d)
		case ok:
			asked++
		}
		if len(a.Days) == 0 || a.Days[0].Day != b.Today.String() {
			t.Fatalf("seed %d: the picture begins with %v", seed, a.Days)
		}
	}
	if asked < 200 {
		t.Errorf("only %d answers", asked)
	}
}

func TestTheSameBookGivesTheSamePlanWhateverItsOrder(t *testing.T) {
	orders := []string{
		`{"order":"1","tier":2,"entered":"2027-02-20","lines":[{"line":1,"sku":"A","warehouse":"W","also":["V"],"ordered":12},{"line":2,"sku":"B","warehouse":"W","ordered":3}]}`,
		`{"order":"2","tier":2,"entered":"2027-02-20","ship_rule":"lines","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":7}]}`,
		`{"order":"3","tier":1,"entered":"2027-02-25","ship_rule":"whole","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":4},{"line":2,"sku":"B","warehouse":"V","ordered":1}]}`,
	}
	write := func(of []string) string {
		b := reading(t, `"items":[{"sku":"B","lead_days":4},{"sku":"A","buyable":false}],
			"stock":[{"sku":"A","warehouse":"W","on_hand":10},{"sku":"A","warehouse":"V","on_hand":6},{"sku":"B","warehouse":"W","on_hand":1}],
			"inbound":[{"sku":"A","warehouse":"W","due":"2027-03-09","qty":5}],"orders":[`+strings.Join(of, ",")+`]`)
		var out bytes.Buffer
		if err := Promise(b, PromiseOptions{}).Write(&out, b); err != nil {
			t.Fatal(err)
		}
		for _, options := range []AllocateOptions{
			{Window: NoWindow},
			{Window: NoWindow, Share: Fair, Keys: []policy.Key{policy.Tier}},
			{Window: NoWindow, Goal: MostOrders},
			{Window: NoWindow, Goal: MostValue},
		} {
			if err := Allocate(b, options).Write(&out, b, nil); err != nil {
				t.Fatal(err)
			}
		}
		return out.String()
	}
	want := write(orders)
	for range 20 {
		rand.Shuffle(len(orders), func(i, j int) { orders[i], orders[j] = orders[j], orders[i] })
		if got := write(orders); got != want {
			t.Fatalf("shuffled it is\n%s\nand was\n%s", got, want)
		}
	}
}
