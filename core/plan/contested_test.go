package plan

import (
	"math/rand/v2"
	"testing"

	"journeyman/core/policy"
)

func TestWhatIsContestedComesByTrouble(t *testing.T) {
	t.Parallel()
	b := reading(t, `"items":[{"sku":"A"},{"sku":"B"},{"sku":"C"}],
		"stock":[{"sku":"A","warehouse":"W","on_hand":10},{"sku":"B","warehouse":"W","on_hand":1},{"sku":"C","warehouse":"W","on_hand":9}],"orders":[
		{"order":"1","tier":1,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":8,"price":100},{"line":2,"sku":"B","warehouse":"W","ordered":3,"price":50,"ship_by":"2027-02-20"}]},
		{"order":"2","tier":4,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":5,"price":100},{"line":2,"sku":"C","warehouse":"W","ordered":9,"price":900}]},
		{"order":"3","tier":2,"holds":["credit"],"lines":[{"line":1,"sku":"C","warehouse":"W","ordered":7,"price":900}]},
		{"order":"4","tier":5,"lines":[{"line":1,"sku":"A","warehouse":"W","ordered":40,"ship_by":"2027-06-01"}]}]`)
	got := Contested(b, []policy.Key{policy.Tier}, 30)
	// B lacks two of tier 1, late: 2 × 50 × 5 × 2. A lacks three of tier 4: 3 × 100 × 2. C is enough without the order on hold.
	if len(got) != 2 || b.Items[b.Cells[got[0].Cell].Item].SKU != "B" || got[0].Trouble != 1000 || got[0].Missing != 2 ||
		got[0].Value != 100 {
		t.Fatalf("%+v", got)
	}
	if a := got[1]; a.Wanted != 13 || a.Free != 10 || a.Missing != 3 || a.Lines != 2 || a.Lacking != 1 || a.Value != 300 ||
		a.Trouble != 600 {
		t.Errorf("A: %+v", a)
	}
	if got := Contested(b, nil, NoWindow); len(got) != 2 || got[1].Missing != 43 && got[0].Missing != 43 {
		t.Errorf("without a window: %+v", got)
	}
}

func TestContestedIsWhatARunLacks(t *testing.T) {
	t.Parallel()
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 51))
		b, _ := randomBook(r)
		wanted, missing := map[int32]int64{}, map[int32]int64{}
		for i := range b.Lines {
			if b.Eligible(int32(i)) {
				wanted[b.Lines[i].Cell] += b.Lines[i].Open
			}
		}
		for c, q := range wanted {
			if q > b.Cells[c].Free() {
				missing[c] = q - b.Cells[c].Free()
			}
		}
		got := Contested(b, nil, NoWindow)
		if len(got) != len(missing) {
			t.Fatalf("seed %d: %d cells, want %d", seed, len(got), len(missing))
		}
		for i, c := range got {
			if c.Missing != missing[c.Cell] || c.Lacking == 0 || c.Trouble < c.Value {
				t.Fatalf("seed %d: %+v, missing %d", seed, c, missing[c.Cell])
			}
			if i > 0 && c.Trouble > got[i-1].Trouble {
				t.Fatalf("seed %d: %d comes after %d", seed, c.Trouble, got[i-1].Trouble)
			}
		}
	}
}
