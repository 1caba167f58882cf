// Package capped adds and multiplies whole numbers, none of which is negative, without wrapping: what would be more than
// 64 bits hold is the greatest number that they do.
package capped

import (
	"math"
	"math/bits"
)

// Times returns a × b, or the greatest number.
func Times(a, b int64) int64 {
	high, low := bits.Mul64(uint64(a), uint64(b))
	if high > 0 || low > math.MaxInt64 {
		return math.MaxInt64
	}
	return int64(low)
}

// Plus returns a + b, or the greatest number.
func Plus(a, b int64) int64 {
	if a > math.MaxInt64-b {
		return math.MaxInt64
	}
	return a + b
}
