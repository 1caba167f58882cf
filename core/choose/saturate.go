package choose

import (
	"math"
	"math/bits"
)

// Prices that are tried may be far too high. Sums with them stay at the greatest number instead of wrapping: a bound that
// is too weak is none the less a bound.

// times is a × b, neither of which is negative, or the greatest number if that is more.
func times(a, b int64) int64 {
	high, low := bits.Mul64(uint64(a), uint64(b))
	if high > 0 || low > math.MaxInt64 {
		return math.MaxInt64
	}
	return int64(low)
}

// plus is a + b, neither of which is negative, or the greatest number if that is more.
func plus(a, b int64) int64 {
	if a > math.MaxInt64-b {
		return math.MaxInt64
	}
	return a + b
}

// above is what of a is above b, neither of which is negative.
func above(a, b int64) int64 { return max(0, a-b) }
