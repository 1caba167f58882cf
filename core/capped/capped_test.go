package capped

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"
)

func TestSumsAndProductsAreThoseOfBigNumbersUpToTheGreatest(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(9, 1))
	edges := []int64{0, 1, 2, 3_037_000_499, 3_037_000_500, 1 << 32, 1 << 62, math.MaxInt64 - 1, math.MaxInt64}
	pick := func() int64 {
		if r.IntN(3) == 0 {
			return edges[r.IntN(len(edges))]
		}
		return r.Int64() >> r.IntN(63)
	}
	greatest := big.NewInt(math.MaxInt64)
	for range 100_000 {
		a, b := pick(), pick()
		for name, got := range map[string]int64{"+": Plus(a, b), "×": Times(a, b)} {
			want := new(big.Int).Add(big.NewInt(a), big.NewInt(b))
			if name == "×" {
				want.Mul(big.NewInt(a), big.NewInt(b))
			}
			if want.Cmp(greatest) > 0 {
				want = greatest
			}
			if got != want.Int64() {
				t.Fatalf("%d %s %d = %d, want %s", a, name, b, got, want)
			}
		}
	}
}
