package price

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"testing"
)

func ExampleNet() {
	fmt.Println(Net(1999, 1250)) // 19.99 less 12.5 % is 17.49125
	// Output: 1749
}

func TestNetPrices(t *testing.T) {
	for _, c := range []struct {
		list     int64
		discount int
		want     int64
	}{
		{1000, 0, 1000},
		{1000, Whole, 0},
		{0, 500, 0},
		{1, 5000, 1},     // a half is rounded up
		{1, 5001, 0},     // and less than a half is not
		{333, 1000, 300}, // 299.7
		{995, 1500, 846}, // 845.75
		{90_000_000_000, 1, 89_991_000_000},
	} {
		if got := Net(c.list, c.discount); got != c.want {
			t.Errorf("%d less %d basis points is %d, want %d", c.list, c.discount, got, c.want)
		}
	}
}

// Against exact rational arithmetic (math/big): never more than half a minor unit away.
func TestNetIsTheNearestWholeAmount(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	half := big.NewRat(1, 2)
	for range 20_000 {
		list, discount := r.Int64N(100_000_000), r.IntN(Whole+1)
		exact := new(big.Rat).Mul(big.NewRat(list, 1), big.NewRat(int64(Whole-discount), Whole))
		off := new(big.Rat).Sub(big.NewRat(Net(list, discount), 1), exact)
		if off.Abs(off).Cmp(half) > 0 {
			t.Fatalf("%d less %d: %d is %s away from %s", list, discount, Net(list, discount), off, exact)
		}
	}
}

func TestMargins(t *testing.T) {
	for _, c := range []struct {
		value, cost, want int64
		ok                bool
	}{
		{1000, 600, 4000, true},
		{1000, 0, Whole, true}, // a cost of nothing: the caller shows it as a fault of the data
		{1000, 1000, 0, true},
		{1000, 1500, -5000, true},
		{0, 500, 0, false},
		{3, 1, 6666, true},
	} {
		if got, ok := Margin(c.value, c.cost); got != c.want || ok != c.ok {
			t.Errorf("sold for %d at a cost of %d: %d %t, want %d %t", c.value, c.cost, got, ok, c.want, c.ok)
		}
	}
}

func TestWhatUnitsAreSoldFor(t *testing.T) {
	s, ok := Sell(3, 1999, 1250, 1200)
	if want := (Sale{List: 1999, Discount: 1250, Price: 1749, Cost: 1200, Value: 5247, Costs: 3600}); !ok || s != want ||
		s.Fault() != Sound {
		t.Errorf("%+v %v, want %+v", s, ok, want)
	}
	if s, ok := Sell(3, -5, 20_000, 0); !ok || s.List != 0 || s.Discount != Whole || s.Fault() != NoPrice {
		t.Errorf("%+v %v", s, ok)
	}
	if s, _ := Sell(3, 100, 0, 0); s.Fault() != NoCost {
		t.Errorf("%+v has the fault %q", s, s.Fault())
	}
	if _, ok := Sell(11, 0, 0, MostUnit); ok {
		t.Error("that costs more than an order may be worth")
	}
}
