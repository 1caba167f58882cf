// Package price is the arithmetic of what a line is sold for. Amounts are whole minor units of
// one currency; rates are basis points, hundredths of a per cent.
package price

import (
	"math"
	"math/bits"
)

// Whole is a rate of 100 %, in basis points.
const Whole = 10_000

// The greatest price of a unit, and the greatest worth of an order, that are taken in. Sums of a hundred thousand such orders stay whole
// numbers of 64 bits.
const (
	MostUnit  = 1_000_000_000_000
	MostOrder = 10_000_000_000_000
)

// Value returns units × price; ok is false where that is more than an order may be worth. Neither is negative.
func Value(units, price int64) (value int64, ok bool) {
	high, low := bits.Mul64(uint64(units), uint64(price))
	if high > 0 || low > MostOrder {
		return 0, false
	}
	return int64(low), true
}

// Net returns the list price of a unit less a discount, rounded to the nearest minor unit, a
// half away from zero (commercial rounding; common practice, no source). The discount lies
// between 0 and Whole, the list price between 0 and 2^63 / Whole.
func Net(list int64, discount int) int64 {
	return (list*int64(Whole-discount) + Whole/2) / Whole
}

// Margin returns the share of the value that is not cost, in basis points, rounded towards
// zero. It is negative where the cost is greater. ok is false where nothing is sold for
// anything, or for so little that it cannot be told: then there is no margin.
func Margin(value, cost int64) (rate int64, ok bool) {
	if value <= 0 {
		return 0, false
	}
	lost := value < cost
	high, low := bits.Mul64(uint64(max(value-cost, cost-value)), Whole)
	if high >= uint64(value) {
		return 0, false // more than can be told
	}
	share, _ := bits.Div64(high, low, uint64(value))
	if share > math.MaxInt64 {
		return 0, false
	}
	if lost {
		return -int64(share), true
	}
	return int64(share), true
}

// Fault is why the margin of what is sold is not to be trusted.
type Fault string

// The faults.
const (
	Sound   Fault = ""
	NoPrice Fault = "No price"
	NoCost  Fault = "No cost"
)

// Sale is what units of a line are sold for.
type Sale struct {
	List     int64 // price of a unit before the discount
	Discount int   // basis points
	Price    int64 // of a unit
	Cost     int64 // of a unit
	Value    int64 // of all units
	Costs    int64 // of all units
}

// Sell returns what units are sold for; ok is false where that, or their cost, is more than an order may be worth. A list price below
// nothing is taken as nothing, and the discount is kept between 0 and Whole.
func Sell(units, list int64, discount int, cost int64) (s Sale, ok bool) {
	s = Sale{List: max(0, list), Discount: min(max(0, discount), Whole), Cost: cost}
	s.Price = Net(s.List, s.Discount)
	var fits, bearable bool
	s.Value, fits = Value(units, s.Price)
	s.Costs, bearable = Value(units, cost)
	return s, fits && bearable
}

// Fault is why the margin of the sale is not to be trusted, or Sound.
func (s Sale) Fault() Fault {
	switch {
	case s.Price == 0:
		return NoPrice
	case s.Cost == 0:
		return NoCost
	}
	return Sound
}
