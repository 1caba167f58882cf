package release

import (
	"math"

	"journeyman/core/capped"
)

// Pace is how quickly a floor works.
type Pace struct {
	WalkCM     int64 // centimetres walked in a minute
	LineMillis int64 // to find a bin, read and confirm, for each row of a pick list, in milliseconds
	UnitMillis int64 // to take one unit, in milliseconds
}

// Seconds returns how long it takes to walk so far, in centimetres, and to pick so many rows and units on the way, rounded up.
func (p Pace) Seconds(walkCM, rows, units int64) int64 {
	millis := capped.Plus(capped.Times(rows, p.LineMillis), capped.Times(units, p.UnitMillis))
	if p.WalkCM > 0 {
		millis = capped.Plus(millis, capped.Times(walkCM, 60_000)/p.WalkCM)
	}
	return millis/1000 + min(1, millis%1000)
}

// Pallet is what a pallet can carry.
type Pallet struct{ MostG, MostCM3 int64 }

// Hundredths returns how much of pallets goods fill, in hundredths of a pallet rounded up: by weight or by volume, whichever
// is more. A most of 0 is no limit. Common practice, no source.
func (p Pallet) Hundredths(weightG, volumeCM3 int64) int64 {
	return max(share(weightG, p.MostG), share(volumeCM3, p.MostCM3))
}

func share(of, most int64) int64 {
	if most <= 0 || of <= 0 {
		return 0
	}
	n := capped.Times(of, 100)
	if n == math.MaxInt64 {
		return n
	}
	return (n-1)/most + 1
}
